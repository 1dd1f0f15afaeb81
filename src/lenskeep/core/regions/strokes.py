"""Brush strokes as alpha at whatever size is rendered: their own borders are as sharp in a large file as on the screen.

A stroke that stops at edges was weighed by colours on the proxy. How much of it these left is a plane like any mask,
brought to the size rendered by the picture's own edges (guided filter); the stroke itself is drawn anew.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.engine.planes import guided_coefficients, mask_guide
from lenskeep.core.jit import JIT, njit
from lenskeep.core.regions.base import Found
from lenskeep.core.regions.dabs import dabs_along, laid, lay
from lenskeep.core.types import Alpha, Float, OKLab, Window

SOFT_STEPS = 6
"""A soft border is drawn with at least so many steps across; finer ones would only cost time."""
EDGE_RADIUS, EDGE_EPS = 0.002, 4e-4
LEFT_BLUR, LEFT_FLOOR = 0.004, 0.02
"""Where a stroke did not reach, how much its colours would have left is taken from near by."""
_NO_COLOUR: OKLab = np.zeros((1, 1, 3), np.float32)
GRID = 1024
"""Dabs lie on so many places a pixel."""
Places = tuple[NDArray[np.int64], Float]
"""Where rows or columns lie on a plane: the whole ones before them, and the share of the way to the next."""
_NONE: Places = (np.zeros(0, np.int64), np.zeros(0, np.float32))
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
    """The strokes of a brush in order. Called with a block of a frame, gives its alpha 0…1."""

    strokes: Sequence[Laid]

    @property
    def heeds_edges(self) -> bool:
        return any(s.left is not None for s in self.strokes)

    def __call__(self, window: Window, rows: int, columns: int, guides: Float) -> Alpha:
        """``guides`` (rows, columns) is what masks follow; it is looked at only where a stroke heeds edges."""
        alpha = np.zeros((rows, columns), np.float32)
        side, width, height = window.long_side, window.width, window.height
        first, start = window.top, window.left
        for one in self.strokes:
            radius = max(one.radius * side, 0.5)
            path = one.path * np.array([width, height], np.float32)
            low, high = path.min(0) - radius - 1, path.max(0) + radius + 2
            y0, y1 = max(int(low[1]), first), min(int(high[1]) + 1, first + rows)
            x0, x1 = max(int(low[0]), start), min(int(high[0]) + 1, start + columns)
            if y1 <= y0 or x1 <= x0:
                continue
            own, rows_of, columns_of = _drawn(one, path, radius, (y0, y1, x0, x1))
            inner = np.s_[y0 - first : y1 - first, x0 - start : x1 - start]
            if one.left is None:
                _mix(alpha[inner], own, rows_of, columns_of, one.opacity, one.erase, *_HEEDLESS)
                continue
            h, w = one.left[0].shape
            py, px = _on_plane(y0, y1, height, h), _on_plane(x0, x1, width, w)
            _mix(alpha[inner], own, rows_of, columns_of, one.opacity, one.erase, *one.left, py, px, guides[inner])
        return alpha


def _drawn(one: Laid, path: Float, radius: float, box: tuple[int, int, int, int]) -> tuple[Alpha, Places, Places]:
    """A stroke's own alpha on a box (y0, y1, x0, x1) of the frame, and where on it the box's rows and columns are. Soft
    ones are drawn smaller, on a grid that is the same for every box, so that strips leave no seams.
    """
    y0, y1, x0, x1 = box
    step = max(1, int(radius * (1 - one.hardness) / SOFT_STEPS))
    margin = 0 if step == 1 else 1
    top, left = y0 // step - margin, x0 // step - margin
    shape = (y1 // step + 2 * margin - top, x1 // step + 2 * margin - left)
    # on a grid that floats hold exactly wherever the box begins, so that it rounds the same in every box
    dabs = np.rint(dabs_along(np.asarray(path / step, np.float32), radius / step).astype(np.float64) * GRID) / GRID
    shifted = np.asarray(dabs - [left, top], np.float32)
    own = lay(shape, shifted, radius / step, one.hardness, one.flow, False, _NO_COLOUR)
    return own, _on_grid(y0, y1, step, top), _on_grid(x0, x1, step, left)


def _on_grid(first: int, last: int, step: int, start: int) -> Places:
    """The middles of pixels ``first … last - 1`` on a grid of every ``step`` pixels that begins at ``start``."""
    twice = 2 * np.arange(first, last) + 1 - step
    return twice // (2 * step) - start, (twice % (2 * step) / (2 * step)).astype(np.float32)


def _on_plane(first: int, last: int, side: int, size: int) -> Places:
    """The middles of pixels of a frame so many wide on a plane of another ``size``."""
    at = np.clip((np.arange(first, last) + 0.5) / side * size - 0.5, 0, size - 1)
    whole = at.astype(np.int64)
    return whole, (at - whole).astype(np.float32)


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
            value = _at(own, rows, columns, i, j)
            if value <= F(0.0):
                continue
            if py[1].shape[0] > 0:
                share = _at(a, py, px, i, j) * guide[i, j] + _at(b, py, px, i, j)
                value *= min(max(share, F(0.0)), F(1.0))
            value *= F(opacity)
            if erase:
                alpha[i, j] *= F(1.0) - value
            else:
                alpha[i, j] += value * (F(1.0) - alpha[i, j])


@njit(**JIT)
def _at(plane: Any, rows: Any, columns: Any, i: Any, j: Any) -> Any:
    """A bilinear sample at the ``i``-th row and ``j``-th column of these places."""
    top, left, down, across = rows[0][i], columns[0][j], rows[1][i], columns[1][j]
    bottom, right = min(top + 1, plane.shape[0] - 1), min(left + 1, plane.shape[1] - 1)
    upper = plane[top, left] + across * (plane[top, right] - plane[top, left])
    lower = plane[bottom, left] + across * (plane[bottom, right] - plane[bottom, left])
    return upper + down * (lower - upper)
