"""Painting a stroke: its path smoothed, and dabs laid along it.

Paths are smoothed by corner cutting (Chaikin 1974) after a moving average. A dab is full out to its hardness and eased
to nothing at its radius. Edge-aware dabs are weighted by how near a pixel's colour is to that in the dab's middle.
"""

import numpy as np

from lenskeep.core.jit import njit
from lenskeep.core.types import Alpha, Float, OKLab

SPACING = 0.14
"""Between dabs, as a share of the radius."""
FULL = np.float32(0.9995)
"""From here on another dab would not show."""
EDGE_REACH = 0.055
"""Distance in OKLab at which an edge-aware dab has fallen to 1/e."""


def smoothed(points: Float, steadiness: float) -> Float:
    """A path (n, 2) in pixels with its tremor taken out; ends stay. ``steadiness`` 0 keeps every point."""
    path = np.asarray(points, np.float32)
    for _ in range(round(4 * steadiness)):
        if len(path) > 2:
            path = path.copy()
            path[1:-1] = 0.5 * path[1:-1] + 0.25 * (path[:-2] + path[2:])
    for _ in range(2 if steadiness > 0 else 0):
        if len(path) > 2:
            a, b = 0.75 * path[:-1] + 0.25 * path[1:], 0.25 * path[:-1] + 0.75 * path[1:]
            cut = np.stack([a, b], 1).reshape(-1, 2)
            path = np.concatenate([path[:1], cut, path[-1:]])
    return np.asarray(path, np.float32)


def paint(
    alpha: Alpha,
    path: Float,
    radius: float,
    hardness: float,
    opacity: float,
    flow: float,
    erase: bool,
    edge_aware: bool,
    lab: OKLab,
) -> None:
    """Paint (or erase) one stroke into ``alpha`` (h, w) in place; ``lab`` is looked at only when ``edge_aware``."""
    own = laid(alpha.shape, path, radius, hardness, flow, edge_aware, lab) * np.float32(opacity)
    if erase:
        alpha *= 1.0 - own
    else:
        alpha += own * (1.0 - alpha)


def laid(
    shape: tuple[int, ...], path: Float, radius: float, hardness: float, flow: float, edge_aware: bool, lab: OKLab
) -> Alpha:
    """One stroke by itself, 0…1, on a picture of this shape (h, w)."""
    return lay(shape, dabs_along(path, radius), radius, hardness, flow, edge_aware, lab)


def dabs_along(path: Float, radius: float) -> Float:
    """The middles (m, 2) of the dabs that a stroke of this radius is made of."""
    return _dabs(np.asarray(path, np.float32), max(SPACING * radius, 0.5))


def lay(
    shape: tuple[int, ...], dabs: Float, radius: float, hardness: float, flow: float, edge_aware: bool, lab: OKLab
) -> Alpha:
    """Dabs one upon another, 0…1, on a picture of this shape (h, w)."""
    stroke = np.zeros(shape, np.float32)
    _lay(stroke, dabs, radius, hardness, flow, edge_aware, lab, EDGE_REACH)
    return np.minimum(stroke, np.float32(1.0))


def _dabs(path: Float, spacing: float) -> Float:
    """Points at even distances along the path, (m, 2)."""
    if len(path) == 1:
        return path
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    count = max(1, int(along[-1] / spacing))
    at = np.linspace(0.0, along[-1], count + 1)
    return np.stack([np.interp(at, along, path[:, k]) for k in (0, 1)], axis=1).astype(np.float32)


@njit(cache=True, nogil=True, fastmath=True)
def _lay(stroke, dabs, radius, hardness, flow, edge_aware, lab, reach):  # type: ignore[no-untyped-def]
    h, w = stroke.shape
    for k in range(dabs.shape[0]):
        cx, cy = dabs[k, 0], dabs[k, 1]
        x0, x1 = max(0, int(cx - radius)), min(w, int(cx + radius) + 2)
        y0, y1 = max(0, int(cy - radius)), min(h, int(cy + radius) + 2)
        if x1 <= x0 or y1 <= y0:
            continue
        l0 = a0 = b0 = np.float32(0.0)
        if edge_aware:
            mx, my = min(max(int(cx), 0), w - 1), min(max(int(cy), 0), h - 1)
            count = 0
            for y in range(max(0, my - 1), min(h, my + 2)):
                for x in range(max(0, mx - 1), min(w, mx + 2)):
                    l0 += lab[y, x, 0]
                    a0 += lab[y, x, 1]
                    b0 += lab[y, x, 2]
                    count += 1
            l0, a0, b0 = l0 / count, a0 / count, b0 / count
        outer, inner = radius * radius, radius * radius * hardness * hardness
        for y in range(y0, y1):
            dy = (y + 0.5 - cy) ** 2
            for x in range(x0, x1):
                d2 = (x + 0.5 - cx) ** 2 + dy
                if d2 >= outer or stroke[y, x] >= FULL:
                    continue
                weight = flow
                if d2 > inner:
                    t = min((1.0 - np.sqrt(d2) / radius) / max(1.0 - hardness, 0.02), 1.0)
                    weight *= t * t * (3.0 - 2.0 * t)
                if edge_aware:
                    e = (lab[y, x, 0] - l0) ** 2 + (lab[y, x, 1] - a0) ** 2 + (lab[y, x, 2] - b0) ** 2
                    weight *= np.exp(-e / (reach * reach))
                stroke[y, x] += weight * (1.0 - stroke[y, x])
