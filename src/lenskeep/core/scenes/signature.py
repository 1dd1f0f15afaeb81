"""What a frame's surroundings look like, small enough to hold against every other: colours beside the subject."""

import cv2
import numpy as np

from lenskeep.core.colour.oklab import measured_oklab
from lenskeep.core.engine.planes import proxy_size
from lenskeep.core.types import Alpha, Float, LinearRGB

SIDE = 160
BINS = (8, 10, 10)
REACH = 0.2
"""OKLab's a and b are counted from minus this to this."""
BLUR = (0.05, 0.25, 0.4, 0.25, 0.05)
"""Neighbouring bins share, so that a little more light does not make another place."""


def signature(picture: LinearRGB, subject: Alpha) -> Float:
    """Square roots of a histogram in OKLab of what is not the subject, (800,), of length one.

    The distance of two is Hellinger's (``apart``): 0 for the same colours, 1 for none in common.
    """
    size = proxy_size(picture.shape[0], picture.shape[1], SIDE)[::-1]
    small = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.float32)
    around = 1.0 - np.clip(cv2.resize(subject, size, interpolation=cv2.INTER_AREA), 0.0, 1.0)
    if float(around.sum()) < 1.0:  # the subject fills the frame: then it is all there is to go by
        around = np.ones_like(around)
    lab = measured_oklab(small)
    places = [np.clip((lab[..., 0] * BINS[0]).astype(int), 0, BINS[0] - 1)]
    for axis in (1, 2):
        at = (lab[..., axis] + REACH) / (2.0 * REACH) * BINS[axis]
        places.append(np.clip(at.astype(int), 0, BINS[axis] - 1))
    counts = np.zeros(BINS, np.float64)
    np.add.at(counts, tuple(p.ravel() for p in places), around.ravel())
    for axis in range(3):
        counts = np.apply_along_axis(lambda row: np.convolve(row, BLUR, "same"), axis, counts)
    return np.asarray(np.sqrt(counts / counts.sum()).ravel(), np.float32)


def packed(found: Float) -> bytes:
    """A signature in a byte a value."""
    return bytes(np.rint(np.clip(found, 0.0, 1.0) * 255.0).astype(np.uint8).tobytes())


def unpacked(data: bytes) -> Float:
    """The same again, of length one; raises ValueError where it is no signature."""
    values = np.frombuffer(data, np.uint8).astype(np.float32)
    if values.size != BINS[0] * BINS[1] * BINS[2] or not values.any():
        raise ValueError("not a signature")
    return np.asarray(values / np.linalg.norm(values), np.float32)


def apart(a: Float, b: Float) -> float:
    """Hellinger distance of two signatures, 0…1."""
    return float(np.sqrt(max(0.0, 1.0 - float(a @ b))))
