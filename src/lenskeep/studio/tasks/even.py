"""Describing one frame, and holding the frames of a scene against each other: plain functions from task to result."""

from dataclasses import dataclass, field

import numpy as np

from lenskeep.core.base.curve import Curve
from lenskeep.core.engine.planes import smaller
from lenskeep.core.even.camera import Exposed, estimated
from lenskeep.core.even.described import PARTS, SIDE, described
from lenskeep.core.even.judged import Judged, judged
from lenskeep.core.even.packed import packed, unpacked
from lenskeep.files.masks import mask_from_bytes
from lenskeep.files.working import read_working
from lenskeep.work.engines.carried import InFile, OutFolder


@dataclass(frozen=True)
class DescribeTask:
    """The working copy and the masks by name that are looked at; ``name`` is that of the file to be made in ``out``."""

    working: InFile
    masks: dict[str, InFile]
    curve: Curve | None
    out: OutFolder
    name: str


@dataclass(frozen=True)
class DescribeResult:
    made: dict[str, bytes] = field(default_factory=dict, repr=False)


def describe_frame(task: DescribeTask) -> DescribeResult:
    with task.working.on_disk() as path:
        picture = smaller(read_working(path), SIDE)
    masks = {name: mask_from_bytes(file.read(), name) for name, file in task.masks.items() if name in PARTS}
    alphas = {name: np.asarray(mask, np.float32) / np.float32(255.0) for name, mask in masks.items()}
    task.out.put(task.name, packed(described(picture, alphas, task.curve)))
    return DescribeResult(task.out.made)


@dataclass(frozen=True)
class CameraTask:
    """Working copies of frames of one camera, and their exposures in stops."""

    frames: tuple[InFile, ...]
    stops: tuple[float, ...]


@dataclass(frozen=True)
class CameraResult:
    curve: Curve | None


def estimate_curve(task: CameraTask) -> CameraResult:
    frames = []
    for file, stops in zip(task.frames, task.stops, strict=True):
        with file.on_disk() as path:
            frames.append(Exposed(smaller(read_working(path), SIDE), stops))
    return CameraResult(estimated(frames))


@dataclass(frozen=True)
class EvenTask:
    """Described frames in order, and which of them is the key frame."""

    frames: tuple[InFile, ...]
    key: int


@dataclass(frozen=True)
class EvenResult:
    """What each frame needs, in the task's order."""

    needs: tuple[Judged, ...]


def hold_together(task: EvenTask) -> EvenResult:
    """Raises ValueError where a file is none."""
    looked = [unpacked(file.read() or b"") for file in task.frames]
    return EvenResult(tuple(judged(looked, task.key)))
