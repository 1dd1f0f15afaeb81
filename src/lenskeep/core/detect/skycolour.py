"""Sky by colour, where the decoder is undecided: gaps between leaves, under crowns, behind bunting.

What is surely sky gives the colour sky has near every place; a pixel of that colour that the decoder did not rule out
is sky too. Then the border: a camera's tone curve compresses highlights, so a defocused edge beside a bright sky looks
further into the ground than the sky's share of it; the share is corrected for that.
"""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Alpha, Float

SURE = 0.9
LEAST_SURE = 0.01
SIDE = 256
WIDEST = 16.0
"""Sigma in pixels that colours are gathered with at most; the picture is made smaller for wider ones."""
WIDE, NEAR = 0.12, 0.03
"""How far around sky colour is gathered, as fractions of the long side: first, and again from what was found."""
SPREAD = 0.034
OPEN, CONNECTED = (0.002, 0.02), (1e-4, 3e-3)
"""From which to which probability colour counts in full: anywhere, and where it is connected with sure sky."""
STRAY, GROUND = 0.002, (0.02, 0.05)
"""So little of what is probably sky may lie lower; how far beneath the rest, as shares of the frame's height, colour
still speaks for sky in full, and from where on not at all."""
SEEN_LOW = (0.1, 0.2)
"""Probabilities from which it may lie lower for all that, and from which in full; if its colour is the sky's alone."""
CELLS, SURELY_NONE, ALONE = 24, 0.02, (0.6, 0.9)
"""Colours are counted in so many steps a channel; how much of a cell must be sky, from where on and for all."""
UNDECIDED_AREA, UNDECIDED = 0.02, 0.5
"""A picture is undecided where so much of it is probably sky and less than this share of that is surely so: gaps
between crowns out of focus."""
SUREST, LEAST_SUREST, TAKEN_AS = 0.75, 0.65, 0.92
"""There the quantile of what is probably sky, from the second value on, is taken for as sure as the third."""
CLOUD, SHUT_IN, CLOUD_STEP = (2e-4, 0.2), 0.5, 0.06
"""A cloud's share of the frame, how much of its rim sky must be, and the step in cube-root light that is no edge."""
HIGHLIGHT_WHITE = 0.1
BRIGHT, BURNT = 0.4, 0.6
"""How much sooner a bright sky fills a mixed pixel, and how much more so where it is burnt out."""
BRIGHT_REACH = 0.0234


def likeness(root: Float, probability: Alpha, reach: float) -> Alpha:
    """How like the sky nearby each pixel is, (h, w) 0…1; ``root`` is the cube root of linear RGB, (h, w, 3)."""
    h, w = probability.shape
    side = min(SIDE, WIDEST / reach)  # wide colours need no detail
    scale = side / max(h, w)
    size = (max(1, round(w * scale)), max(1, round(h * scale)))
    small = np.asarray(cv2.resize(root, size, interpolation=cv2.INTER_AREA), np.float32)
    sure = (cv2.resize(probability, size, interpolation=cv2.INTER_AREA) > SURE).astype(np.float32)
    sigma = reach * side
    mean, weight = around(small, sure, sigma)
    spread = cv2.GaussianBlur(((small - mean) ** 2).sum(-1) * sure, (0, 0), sigma) / (weight + np.float32(1e-6))
    out = np.empty((h, w), np.float32)
    wide = cv2.resize(np.asarray(spread, np.float32), (w, h))
    _like(root, cv2.resize(np.asarray(mean, np.float32), (w, h)), wide, F(SPREAD**2), out)
    return out


def around(values: Float, where: Float, sigma: float) -> tuple[Float, Float]:
    """The mean of ``values`` (h, w, n) around each pixel, of those ``where`` is 1, far from all the mean of all; and
    how much of them there is, (h, w).
    """
    weighed = values * where[..., None]
    everywhere = weighed.sum((0, 1)) / max(float(where.sum()), 1.0)
    near, weight = cv2.GaussianBlur(weighed, (0, 0), sigma), cv2.GaussianBlur(where, (0, 0), sigma)
    mean = (near + everywhere * np.float32(1e-3)) / (weight + np.float32(1e-3))[..., None]
    return np.asarray(mean, np.float32), np.asarray(weight, np.float32)


@njit(**JIT)
def _like(root: Any, mean: Any, spread: Any, least: Any, out: Any) -> None:
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            r, g, b = root[y, x, 0] - mean[y, x, 0], root[y, x, 1] - mean[y, x, 1], root[y, x, 2] - mean[y, x, 2]
            out[y, x] = np.exp(-(r * r + g * g + b * b) / (F(2.0) * (spread[y, x] + least)))


def undecided(probability: Alpha) -> bool:
    """Whether the decoder sees sky everywhere and nowhere for sure."""
    half = probability > 0.5
    return float(half.mean()) >= UNDECIDED_AREA and bool((probability > SURE).sum() < UNDECIDED * half.sum())


def raised(probability: Alpha) -> Alpha:
    """The probability of a picture that is ``undecided``, as if it was not."""
    likely = probability[probability > 0.5]
    surest = min(max(float(np.quantile(likely, SUREST)), LEAST_SUREST), TAKEN_AS)
    return np.asarray(np.clip(probability * np.float32(TAKEN_AS / surest), 0, 1), np.float32)


def completed(linear: Float, probability: Alpha) -> Alpha:
    """The probability of sky raised where colour speaks for it; unchanged where no sky is sure."""
    if float((probability > SURE).mean()) < LEAST_SURE:
        return probability
    root = np.asarray(np.cbrt(linear), np.float32)
    like = likeness(root, probability, WIDE)
    high = above_ground(probability)
    low, full = SEEN_LOW
    beneath = (probability > low) & (high < 1)
    if beneath.any():
        seen = np.clip((probability - low) / (full - low), 0, 1) * skys_own(root, probability, beneath)
        high = np.maximum(high, seen)
    once = _raised(probability, like * high)
    return _raised(probability, np.maximum(like, likeness(root, once, NEAR)) * high)


def above_ground(probability: Alpha) -> Alpha:
    """1 down to a little below the lowest place that is probably sky, 0 from a little farther on, (h, 1): what is of
    the sky's colour beneath is snow, sand, water or a pale floor.
    """
    rows = (probability > 0.5).sum(1)
    h = len(rows)
    lowest = int(np.searchsorted(np.cumsum(rows), (1.0 - STRAY) * rows.sum()))
    down = (np.arange(h, dtype=np.float32) - lowest) / h
    return np.asarray(np.clip((GROUND[1] - down) / (GROUND[1] - GROUND[0]), 0, 1), np.float32)[:, None]


def skys_own(root: Float, probability: Alpha, where: NDArray[np.bool_]) -> Alpha:
    """How far a pixel's colour is the sky's alone, (h, w) 0…1, and 0 but ``where``: not at all where as much of what is
    surely no sky has it, as snow does under a white sky.
    """
    step = max(1, round(max(where.shape) / SIDE))
    cells = _cells(root[::step, ::step])
    thin = probability[::step, ::step]
    sky, none = (_counted(cells[of]) for of in (thin > SURE, thin < SURELY_NONE))
    out = np.zeros_like(probability)
    own = _cells(root[where])
    share = sky[own] / np.maximum(sky[own] + none[own], 1e-6)
    out[where] = np.clip((share - ALONE[0]) / (ALONE[1] - ALONE[0]), 0, 1)
    return out


def _cells(root: Float) -> NDArray[np.intp]:
    """The cell of each colour (…, 3), a number."""
    at = np.clip((root * np.float32(CELLS)).astype(np.intp), 0, CELLS - 1)
    return np.asarray((at[..., 0] * CELLS + at[..., 1]) * CELLS + at[..., 2], np.intp)


def _counted(cells: NDArray[np.intp]) -> Float:
    """How many there are of each cell and its neighbours, (CELLS³,)."""
    out = np.bincount(cells.ravel(), minlength=CELLS**3).astype(np.float32).reshape(CELLS, CELLS, CELLS)
    for axis in range(3):
        padded = np.pad(out, [(1, 1) if axis == k else (0, 0) for k in range(3)])
        out = np.sum([np.take(padded, range(k, k + CELLS), axis) for k in range(3)], 0)
    return np.asarray(out.ravel(), np.float32)


def _raised(probability: Alpha, like: Alpha) -> Alpha:
    gate = np.clip((probability - OPEN[0]) / (OPEN[1] - OPEN[0]), 0, 1)
    candidate = ((like > 0.3) & (probability > CONNECTED[0])) | (probability > 0.7)
    count, labels = cv2.connectedComponents(candidate.astype(np.uint8), connectivity=4)
    sure = np.bincount(labels[(probability > SURE) & (like > 0.1)], minlength=count)
    good = sure > 0.0005 * probability.size
    good[0] = False
    near = np.clip((probability - CONNECTED[0]) / (CONNECTED[1] - CONNECTED[0]), 0, 1) * good[labels]
    return np.asarray(1.0 - (1.0 - probability) * (1.0 - like * np.maximum(gate, near)), np.float32)


def highlights_opened(linear: Float, white: float = HIGHLIGHT_WHITE) -> Float:
    """Linear light with the highlights a tone curve compressed spread again, 0…1 (Reinhard et al. 2002, inverted)."""
    k = np.float32(white)
    return np.asarray(linear * k / (1.0 + k - linear), np.float32)


def true_share(mask: Alpha, linear: Float) -> Alpha:
    """The sky's share of soft borders beside bright sky: a bright sky fills a mixed pixel sooner than its share."""
    h, w = mask.shape
    scale = SIDE / max(h, w)
    size = (max(1, round(w * scale)), max(1, round(h * scale)))
    light = cv2.resize(linear, size, interpolation=cv2.INTER_AREA).mean(-1)
    sure = (cv2.resize(mask, size, interpolation=cv2.INTER_AREA) > SURE).astype(np.float32)
    sigma = BRIGHT_REACH * SIDE
    local = cv2.GaussianBlur(light * sure, (0, 0), sigma) / (cv2.GaussianBlur(sure, (0, 0), sigma) + np.float32(1e-4))
    over = 1.0 + BRIGHT * np.clip((local - 0.5) / 0.3, 0, 1) + BURNT * np.clip((local - 0.88) / 0.1, 0, 1)
    over = cv2.resize(np.asarray(over, np.float32), (w, h))
    return np.asarray(mask / (mask + over * (1.0 - mask) + np.float32(1e-6)), np.float32)


def with_clouds(mask: Alpha, linear: Float) -> Alpha:
    """The mask with what it encloses, or shuts in against the frame's edge, where that passes over into it without an
    edge: clouds that looked like something else. Birds, lamps and balloons have an edge.
    """
    hard = (mask > 0.5).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(1 - hard, connectivity=8)
    root = np.asarray(np.cbrt(linear), np.float32)
    height, out = mask.shape[0], mask
    for k in range(1, count):
        x, y, bw, bh, area = (int(v) for v in stats[k])
        if y + bh >= height or not CLOUD[0] <= area / mask.size <= CLOUD[1]:
            continue
        box = np.s_[max(0, y - 6) : y + bh + 6, max(0, x - 6) : x + bw + 6]
        own = (labels[box] == k).astype(np.uint8)
        around = (cv2.dilate(own, np.ones((9, 9), np.uint8)) > 0) & (hard[box] > 0)
        within = (own > 0) & (cv2.erode(own, np.ones((9, 9), np.uint8), borderValue=1) == 0)
        if around.sum() < SHUT_IN * within.sum() or not within.any():
            continue
        step = float(np.abs(root[box][around].mean(0) - root[box][within].mean(0)).max())
        if step < CLOUD_STEP:
            out = out.copy() if out is mask else out
            out[box] = np.where(own > 0, 1.0, out[box])
    return out
