"""Brush strokes as alpha at whatever size is rendered: their own borders are as sharp in a large file as on the screen.

A stroke that stops at edges was weighed by colours on the proxy. How much of it these left is a plane like any mask,
brought to the size rendered by the picture's own edges (guided filter); the stroke itself is drawn anew.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numba import njit

from lenskeep.core.engine.kernel.rowmath import JIT, F
from lenskeep.core.engine.planes import guided_coefficients, mask_guide
from lenskeep.core.regions.base import Found
from lenskeep.core.regions.dabs import laid
from lenskeep.core.types import Alpha, Float, OKLab

SOFT_STEPS = 6
"""A soft border is drawn with at least so many steps across; finer ones would only cost time."""
EDGE_RADIUS, EDGE_EPS = 0.002, 4e-4
LEFT_BLUR, LEFT_FLOOR = 0.004, 0.02
"""Where a stroke did not reach, how much its colours would have left is taken from near by."""
_NO_COLOUR: OKLab = np.zeros((1, 1, 3), np.float32)
_NONE = np.zeros(0, np.float32)
_HEEDLESS = (np.zeros((1, 1), np.float32), np.zeros((1, 1), np.float32), _NONE, _NONE, np.zeros((1, 1), np.float32))
"""What a stroke that heeds no edges is mixed in with."""


@dataclass(frozen=True)
class Laid:
    """A stroke as it lies on a frame: ``path`` (n, 2) in shares of width and height, ``radius`` of the long side.

    ``left`` are the coefficients (a, b) over the mask guide of what edges left of it; None where it does not heed them.
    """

    path: Float
    radius: float
    hardness: float
    opacity: float
    flow: float
    erase: bool
    left: tuple[Float, Float] | None = None


def edges_left(found: Found, path: Float, radius: float, hardness: float, flow: float) -> tuple[Float, Float]:
    """Coefficients of how much of a stroke (pixels of the proxy) edges left, 0…1."""
    room = radius + 4 * LEFT_BLUR * found.long_side + 8
    h, w = found.shape
    x0, y0 = np.clip(path.min(0) - room, 0, [w - 1, h - 1]).astype(int)
    x1, y1 = np.clip(path.max(0) + room, [x0 + 1, y0 + 1], [w, h]).astype(int)
    box, near_path = np.s_[y0:y1, x0:x1], np.asarray(path - [x0, y0], np.float32)
    plain = laid((y1 - y0, x1 - x0), near_path, radius, hardness, flow, False, _NO_COLOUR)
    aware = laid((y1 - y0, x1 - x0), near_path, radius, hardness, flow, True, np.ascontiguousarray(found.lab[box]))
    sigma = max(LEFT_BLUR * found.long_side, 1.0)
    near = [np.asarray(cv2.GaussianBlur(p, (0, 0), sigma), np.float32) for p in (plain, aware)]
    outside = near[1] / np.maximum(near[0], np.float32(1e-4))
    share = np.where(plain > LEFT_FLOOR, aware / np.maximum(plain, np.float32(LEFT_FLOOR)), outside)
    share = np.where(near[0] > 1e-4, np.clip(share, 0, 1), 1).astype(np.float32)
    fraction = EDGE_RADIUS * found.long_side / max(share.shape)
    out = (np.zeros((h, w), np.float32), np.ones((h, w), np.float32))
    for plane, part in zip(
        out, guided_coefficients(mask_guide(found.picture[box]), share, fraction, EDGE_EPS), strict=True
    ):
        plane[box] = part
    return out


@dataclass(frozen=True)
class StrokesAtSize:
    """The strokes of a brush in order. Called with rows of a frame, gives their alpha (rows, width) 0…1."""

    strokes: Sequence[Laid]

    @property
    def heeds_edges(self) -> bool:
        return any(s.left is not None for s in self.strokes)

    def __call__(self, first: int, rows: int, width: int, height: int, guides: Float) -> Alpha:
        """``guides`` (rows, width) is what masks follow; it is looked at only where a stroke heeds edges."""
        alpha = np.zeros((rows, width), np.float32)
        side = max(width, height)
        for one in self.strokes:
            radius = max(one.radius * side, 0.5)
            path = one.path * np.array([width, height], np.float32)
            low, high = path.min(0) - radius - 1, path.max(0) + radius + 2
            y0, y1 = max(int(low[1]), first), min(int(high[1]) + 1, first + rows)
            x0, x1 = max(int(low[0]), 0), min(int(high[0]) + 1, width)
            if y1 <= y0 or x1 <= x0:
                continue
            own, rows_of, columns_of = _drawn(one, path, radius, (y0, y1, x0, x1))
            inner = np.s_[y0 - first : y1 - first, x0:x1]
            if one.left is None:
                _mix(alpha[inner], own, rows_of, columns_of, one.opacity, one.erase, *_HEEDLESS)
                continue
            h, w = one.left[0].shape
            py = np.clip(_middles(y0, y1) / height * h - 0.5, 0, h - 1).astype(np.float32)
            px = np.clip(_middles(x0, x1) / width * w - 0.5, 0, w - 1).astype(np.float32)
            _mix(alpha[inner], own, rows_of, columns_of, one.opacity, one.erase, *one.left, py, px, guides[inner])
        return alpha


def _drawn(one: Laid, path: Float, radius: float, box: tuple[int, int, int, int]) -> tuple[Alpha, Float, Float]:
    """A stroke's own alpha on a box (y0, y1, x0, x1) of the frame, and where on it the box's rows and columns are. Soft
    ones are drawn smaller, on a grid that is the same for every box, so that strips leave no seams.
    """
    y0, y1, x0, x1 = box
    step = max(1, int(radius * (1 - one.hardness) / SOFT_STEPS))
    margin = 0 if step == 1 else 1
    top, left = y0 // step - margin, x0 // step - margin
    shape = (y1 // step + 2 * margin - top, x1 // step + 2 * margin - left)
    shifted = np.asarray(path / step - [left, top], np.float32)
    own = laid(shape, shifted, radius / step, one.hardness, one.flow, False, _NO_COLOUR)
    y, x = (_middles(*ends) / step - 0.5 - start for ends, start in (((y0, y1), top), ((x0, x1), left)))
    return own, y.astype(np.float32), x.astype(np.float32)


def _middles(first: int, last: int) -> np.ndarray:
    """The middles of so many pixels in a row."""
    return np.arange(first, last) + 0.5


@njit(**JIT)
def _mix(
    alpha: Any, own: Any, rows: Any, columns: Any, opacity: Any, erase: Any,
    a: Any, b: Any, py: Any, px: Any, guide: Any,
) -> None:  # fmt: skip
    """Add a stroke to ``alpha`` (or take it away) in place. ``own`` and the planes ``a`` and ``b`` are read bilinearly
    at their rows and columns; without any of those the stroke heeds no edges.
    """
    for i in range(alpha.shape[0]):
        for j in range(alpha.shape[1]):
            value = _at(own, rows[i], columns[j])
            if value <= F(0.0):
                continue
            if py.shape[0] > 0:
                share = _at(a, py[i], px[j]) * guide[i, j] + _at(b, py[i], px[j])
                value *= min(max(share, F(0.0)), F(1.0))
            value *= F(opacity)
            if erase:
                alpha[i, j] *= F(1.0) - value
            else:
                alpha[i, j] += value * (F(1.0) - alpha[i, j])


@njit(**JIT)
def _at(plane: Any, y: Any, x: Any) -> Any:
    """A bilinear sample at a place that lies on the plane."""
    top, left = int(y), int(x)
    bottom, right = min(top + 1, plane.shape[0] - 1), min(left + 1, plane.shape[1] - 1)
    down, across = y - F(top), x - F(left)
    upper = plane[top, left] + across * (plane[top, right] - plane[top, left])
    lower = plane[bottom, left] + across * (plane[bottom, right] - plane[bottom, left])
    return upper + down * (lower - upper)
