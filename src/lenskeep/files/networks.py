"""The networks' weights, from the package, run by OpenVINO."""

import io
import sys
from collections.abc import Mapping
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from threading import Lock
from typing import Any

import numpy as np

from lenskeep.core.types import Float
from lenskeep.files.compiled import compiled


class WeightsMissing(RuntimeError):
    """A weight file is not where it should be: the installation is not whole."""


def _openvino() -> Any:
    """OpenVINO, first imported where a network is loaded, and without its usage reports.

    Its import would send one over the network and start a thread, and a process with threads can't be forked safely.
    The first tensor is made here, by one thread: two that make the first one together wait for each other for ever
    (its binding holds a lock while it waits for Python's, seen with OpenVINO 2026.4).
    """
    sys.modules["openvino_telemetry"] = None  # type: ignore[assignment]
    import openvino

    assert openvino.Tensor(np.zeros(1, np.float32)).data.shape == (1,)
    return openvino


class OpenVinoNetwork:
    """A network of ``lenskeep/weights`` run by OpenVINO; one caller at a time. NAME.xml has its numbers in NAME.bin;
    ``shapes`` are what inputs are set to, by name.
    """

    def __init__(self, name: str, threads: int, shapes: Mapping[str, list[int]] | None = None) -> None:
        core = _openvino().Core()
        parts = [_packaged(part) for part in ([name, name[:-3] + "bin"] if name.endswith(".xml") else [name])]
        settings = {
            "PERFORMANCE_HINT": "LATENCY",
            "INFERENCE_NUM_THREADS": threads,
            "INFERENCE_PRECISION_HINT": "f32",
            "ENABLE_CPU_PINNING": False,
        }

        def read() -> Any:
            model = core.read_model(*parts)
            if shapes:
                model.reshape(shapes)
            return model

        whole = b"".join(parts) + repr(shapes).encode()
        self._request = compiled(core, Path(name).stem, read, whole, settings).create_infer_request()
        self._lock = Lock()

    def run(self, fed: Mapping[str, Float]) -> list[Float]:
        """The outputs in order, as float32 copies."""
        with self._lock:
            return [np.asarray(out, np.float32) for out in self._request.infer(dict(fed)).values()]


@lru_cache(maxsize=4)
def saliency_network(threads: int = 2, side: int = 320) -> OpenVinoNetwork:
    """U²-Net "p" for squares of this side, in 8 bits but where that showed; made by tools/networks/saliency8.py."""
    return OpenVinoNetwork("saliency.xml", threads, {"picture": [1, 3, side, side]})


@lru_cache(maxsize=2)
def backbone_network(threads: int = 2) -> OpenVinoNetwork:
    """EfficientNet-Lite2's stages from a quarter of the size on, in 8 bits but for the first blocks; made by
    tools/networks/backbone8.py.
    """
    return OpenVinoNetwork("scene_backbone.xml", threads)


def _packaged(name: str) -> bytes:
    """A file of ``lenskeep/weights``, put together from its parts (NAME.0, NAME.1, …) where it was cut."""
    folder = files("lenskeep") / "weights"
    whole = folder / name
    parts = sorted((p for p in folder.iterdir() if p.name.startswith(f"{name}.")), key=lambda p: p.name)
    if not whole.is_file() and not parts:
        raise WeightsMissing(f"The finders' weights are missing ({name}). Run 'make setup' again.")
    return whole.read_bytes() if whole.is_file() else b"".join(p.read_bytes() for p in parts)


@lru_cache(maxsize=2)
def sky_decoders(threads: int = 2) -> tuple[OpenVinoNetwork, OpenVinoNetwork]:
    """The sky decoders over the backbone's stages, for the smaller picture and the larger; by tools/sky_decoder."""
    return OpenVinoNetwork("sky_whole.onnx", threads), OpenVinoNetwork("sky_closely.onnx", threads)


@lru_cache(maxsize=2)
def class_head_network(threads: int = 2) -> OpenVinoNetwork:
    """EfficientNet-Lite2's class head over its last stage, its animals added up."""
    return OpenVinoNetwork("class_head.onnx", threads)


@lru_cache(maxsize=1)
def covers_head() -> dict[str, Float]:
    """The ground covers' linear maps by name, fitted by tools/covers."""
    with np.load(io.BytesIO(_packaged("covers.npz"))) as arrays:
        return {name: np.asarray(arrays[name], np.float32) for name in arrays.files}


@lru_cache(maxsize=2)
def person_network(threads: int = 2) -> OpenVinoNetwork:
    """MediaPipe's selfie segmentation, 256 × 256 (Apache-2.0); made by tools/networks/squares.py."""
    return OpenVinoNetwork("person.xml", threads)


@lru_cache(maxsize=2)
def face_network(threads: int = 2) -> OpenVinoNetwork:
    """MediaPipe's full-range face detection, 192 × 192 (Apache-2.0); made by tools/networks/squares.py."""
    return OpenVinoNetwork("face.xml", threads)


@lru_cache(maxsize=2)
def palm_network(threads: int = 2) -> OpenVinoNetwork:
    """MediaPipe's palm detection, 192 × 192 (Apache-2.0); made by tools/networks/squares.py."""
    return OpenVinoNetwork("palm.xml", threads)


@lru_cache(maxsize=2)
def boxes_network(threads: int = 2) -> OpenVinoNetwork:
    """NanoDet at 416 (Apache-2.0); made by tools/networks/boxes.py."""
    return OpenVinoNetwork("boxes.xml", threads)


@lru_cache(maxsize=2)
def figure_network(threads: int = 2) -> OpenVinoNetwork:
    """MediaPipe's heavy pose network (Apache-2.0): a figure's logits, 256 × 256, and its presence; made by
    tools/networks/figure.py.
    """
    return OpenVinoNetwork("figure.xml", threads)
