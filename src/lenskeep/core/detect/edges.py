"""Bringing a rough mask to the picture's own edges: GrabCut for the side of the edge, a guided filter for softness.

GrabCut: Rother, Kolmogorov & Blake 2004. Guided filter: He, Sun & Tang 2013, here with the colour picture as guide.
"""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import SRGB8, Alpha, Float, Mask8

GRAB_SIDE = 352
GRAB_STEPS, GRAB_STEPS_IN = 2, 4
BESIDE = 0.6
"""How far around a box its surroundings are looked at, in longer sides."""
HALVED_FROM = 10
NEAR_CELLS, LIKE = 1.6, 14.0
"""A cell's vote falls to 1/e where the square of its distance in cells is the first, and to 60 % where its colour is
this many 8-bit steps away."""


def grab(image: SRGB8, probability: Alpha, sure_in: float, sure_out: float, core: int = 5) -> Alpha:
    """A two-valued mask (h, w) of 0 or 1 that starts from ``probability`` and follows colour.

    Pixels over ``sure_in`` (eroded by ``core`` pixels) and under ``sure_out`` stay what they are.
    """
    h, w = probability.shape
    scale = min(1.0, GRAB_SIDE / max(h, w))
    size = (max(8, round(w * scale)), max(8, round(h * scale)))
    small = cv2.resize(image, size, interpolation=cv2.INTER_AREA)
    p = cv2.resize(probability, size, interpolation=cv2.INTER_AREA)
    labels = np.where(p > 0.5, cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    kernel = np.ones((core, core), np.uint8)
    labels[cv2.erode((p > sure_in).astype(np.uint8), kernel, borderValue=1) > 0] = cv2.GC_FGD
    labels[p < sure_out] = cv2.GC_BGD
    inside = (labels == cv2.GC_FGD) | (labels == cv2.GC_PR_FGD)
    if inside.sum() < 30 or (~inside).sum() < 30:
        return np.asarray(probability > 0.5, np.float32)
    hard = grabbed(small, labels, GRAB_STEPS)
    return np.asarray(np.clip(cv2.resize(hard, (w, h), interpolation=cv2.INTER_LINEAR), 0, 1), np.float32)


def grabbed(small: np.ndarray, labels: np.ndarray, steps: int) -> Alpha:
    """0 or 1 where GrabCut puts every pixel, from its labels (h, w), which it changes in place."""
    models = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.setRNGSeed(7)
    cv2.grabCut(np.ascontiguousarray(small[:, :, ::-1]), labels, (0, 0, 1, 1), *models, steps, cv2.GC_INIT_WITH_MASK)
    return np.asarray((labels == cv2.GC_FGD) | (labels == cv2.GC_PR_FGD), np.float32)


def grab_in(image: SRGB8, mask: Alpha, box: Float) -> Alpha:
    """What is like ``mask`` by its colours within a box (x0, y0, x1, y1) in pixels, and unlike what is around the box;
    (h, w) of 0 or 1. The mask holds what is surely in.
    """
    h, w = mask.shape
    more = BESIDE * float(max(box[2] - box[0], box[3] - box[1]))
    y0, y1 = max(0, int(box[1] - more)), min(h, int(box[3] + more) + 1)
    x0, x1 = max(0, int(box[0] - more)), min(w, int(box[2] + more) + 1)
    scale = min(1.0, GRAB_SIDE / max(y1 - y0, x1 - x0, 1))
    size = (max(8, round((x1 - x0) * scale)), max(8, round((y1 - y0) * scale)))
    small = cv2.resize(image[y0:y1, x0:x1], size, interpolation=cv2.INTER_AREA)
    p = cv2.resize(mask[y0:y1, x0:x1], size, interpolation=cv2.INTER_AREA)
    labels = np.full(p.shape, cv2.GC_BGD, np.uint8)
    sx, sy = size[0] / (x1 - x0), size[1] / (y1 - y0)
    rows = slice(max(0, int((box[1] - y0) * sy)), int(np.ceil((box[3] - y0) * sy)))
    columns = slice(max(0, int((box[0] - x0) * sx)), int(np.ceil((box[2] - x0) * sx)))
    inner = np.where(p > 0.5, cv2.GC_PR_FGD, cv2.GC_PR_BGD)
    inner[cv2.erode((p > 0.85).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0] = cv2.GC_FGD
    labels[rows, columns] = inner[rows, columns]
    if not (labels == cv2.GC_FGD).any() or not (labels == cv2.GC_BGD).any():
        return np.asarray(mask > 0.5, np.float32)
    hard = grabbed(small, labels, GRAB_STEPS_IN)
    out = np.zeros_like(mask)
    out[y0:y1, x0:x1] = cv2.resize(hard, (x1 - x0, y1 - y0), interpolation=cv2.INTER_LINEAR)
    return out


def _box(x: Float, r: int) -> Float:
    return np.asarray(cv2.blur(x, (2 * r + 1, 2 * r + 1), borderType=cv2.BORDER_REFLECT), np.float32)


def colour_guided(image: SRGB8 | Float, mask: Alpha, radius: int, eps: float) -> Alpha:
    """The guided filter with a colour guide: soft where the picture is soft, sharp at its edges. (h, w) in 0…1.

    ``image`` (h, w, 3) is 8-bit, or float of 0…1 in whichever light the edges should be followed. For a wide radius
    the coefficients are found on a picture of half the size (He & Sun 2015).
    """
    scale = np.float32(255.0 if image.dtype == np.uint8 else 1.0)
    guide = [np.ascontiguousarray(image[..., c], np.float32) / scale for c in range(3)]
    h, w = mask.shape
    if radius >= HALVED_FROM:
        size = (max(1, w // 2), max(1, h // 2))
        small = [_resized(g, size, cv2.INTER_AREA) for g in guide]
        parts = _coefficients(small, _resized(mask, size, cv2.INTER_AREA), max(1, radius // 2), eps)
        *slopes, offset = (_resized(p, (w, h), cv2.INTER_LINEAR) for p in parts)
    else:
        *slopes, offset = _coefficients(guide, mask, radius, eps)
    out = sum((a * g for a, g in zip(slopes, guide, strict=True)), offset)
    return np.asarray(np.clip(out, 0.0, 1.0), np.float32)


def colour_guided_near(image: SRGB8, mask: Alpha, radius: int, eps: float) -> Alpha:
    """The same, computed only where the mask is: two windows beyond it the filter leaves nothing."""
    out = np.zeros_like(mask)
    box = extent(mask > 0, 2 * radius + 2)
    if box is not None:
        out[box] = colour_guided(np.ascontiguousarray(image[box]), np.ascontiguousarray(mask[box]), radius, eps)
    return out


def extent(inside: np.ndarray, more: int) -> tuple[slice, slice] | None:
    """The rows and columns that hold all that is set, and so many pixels around it; None where nothing is."""
    rows, columns = np.flatnonzero(inside.any(1)), np.flatnonzero(inside.any(0))
    if not len(rows):
        return None
    down, across = (slice(max(0, int(at[0]) - more), int(at[-1]) + more + 1) for at in (rows, columns))
    return down, across


def piece_stats(mask: Alpha | NDArray[np.bool_], connectivity: int = 8) -> np.ndarray:
    """Connected pieces of a mask cut at one half as rows of OpenCV's statistics (left, top, width, height, area)."""
    hard = (mask > 0.5).astype(np.uint8)
    left, top, wide, tall = cv2.boundingRect(hard)  # labelling the empty rest of the frame takes the most time
    if not wide:
        return np.zeros((0, 5), np.int32)
    inside = np.ascontiguousarray(hard[top : top + tall, left : left + wide])
    stats = cv2.connectedComponentsWithStats(inside, connectivity=connectivity)[2][1:]
    return stats + np.array([left, top, 0, 0, 0], np.int32)


def _resized(plane: Float, size: tuple[int, int], how: int) -> Float:
    return np.asarray(cv2.resize(plane, size, interpolation=how), np.float32)


def _coefficients(guide: list[Float], mask: Alpha, radius: int, eps: float) -> list[Float]:
    """Three slopes and the offset of the colour guided filter, already averaged over their windows."""
    r, g, b = guide
    products = (r, g, b, mask, r * mask, g * mask, b * mask, r * r, r * g, r * b, g * g, g * b, b * b)
    means = [_box(x, radius) for x in products]
    solved = [np.empty_like(mask) for _ in range(4)]
    _solve(*means, np.float32(eps), *solved)
    return [_box(x, radius) for x in solved]


@njit(**JIT)
def _solve(
    r: Any, g: Any, b: Any, m: Any, rm: Any, gm: Any, bm: Any,
    rr: Any, rg: Any, rb: Any, gg: Any, gb: Any, bb: Any, eps: Any, sr: Any, sg: Any, sb: Any, offset: Any,
) -> None:  # fmt: skip
    """From window means to slopes and offset: the symmetric 3 × 3 system of every pixel, solved by its cofactors."""
    for y in range(r.shape[0]):
        for x in range(r.shape[1]):
            mr, mg, mb, mm = r[y, x], g[y, x], b[y, x], m[y, x]
            xx, yy, zz = rr[y, x] - mr * mr + eps, gg[y, x] - mg * mg + eps, bb[y, x] - mb * mb + eps
            xy, xz, yz = rg[y, x] - mr * mg, rb[y, x] - mr * mb, gb[y, x] - mg * mb
            p, q, s = rm[y, x] - mr * mm, gm[y, x] - mg * mm, bm[y, x] - mb * mm
            cxx, cxy, cxz = yy * zz - yz * yz, xz * yz - xy * zz, xy * yz - xz * yy
            cyy, cyz, czz = xx * zz - xz * xz, xy * xz - xx * yz, xx * yy - xy * xy
            scale = F(1.0) / max(xx * cxx + xy * cxy + xz * cxz, F(1e-20))
            ar = (cxx * p + cxy * q + cxz * s) * scale
            ag = (cxy * p + cyy * q + cyz * s) * scale
            ab = (cxz * p + cyz * q + czz * s) * scale
            sr[y, x], sg[y, x], sb[y, x] = ar, ag, ab
            offset[y, x] = mm - (ar * mr + ag * mg + ab * mb)


def nearest_label(labels: np.ndarray) -> np.ndarray:
    """Integer labels (h, w), 0 for none, with every pixel given the label of the nearest one that has some."""
    seeded = labels > 0
    _, nearest = cv2.distanceTransformWithLabels(
        (~seeded).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    owner = np.zeros(int(nearest.max()) + 1, labels.dtype)
    owner[nearest[seeded]] = labels[seeded]
    return np.asarray(owner[nearest])


def enlarged_labels(labels: np.ndarray, colours: np.ndarray, image: SRGB8) -> Mask8:
    """Small labels (h, w) at the size of ``image``, their borders brought to its edges: joint bilateral upsampling
    (Kopf et al. 2007) of votes.

    ``colours`` (h, w, 3) are those of the small picture, 0…255. Where the cells around a pixel differ, each votes for
    its label by how near it lies and how like the pixel's its colour is; 0 is a label like any other.
    """
    out = np.empty(image.shape[:2], np.uint8)
    small, around = labels.astype(np.uint8), np.ones((5, 5), np.uint8)
    mixed = cv2.erode(small, around) != cv2.dilate(small, around)
    _vote(small, mixed, np.ascontiguousarray(colours, np.float32), np.ascontiguousarray(image), out)
    return out


@njit(**JIT)
def _vote(labels: Any, mixed: Any, colours: Any, image: Any, out: Any) -> None:
    h, w = labels.shape
    height, width = out.shape
    votes, whose = np.empty(25, np.float32), np.empty(25, np.uint8)  # of each label around, in the order they come
    for y in range(height):
        v = (y + F(0.5)) * F(h) / F(height) - F(0.5)
        for x in range(width):
            u = (x + F(0.5)) * F(w) / F(width) - F(0.5)
            cy, cx = min(max(int(v + F(0.5)), 0), h - 1), min(max(int(u + F(0.5)), 0), w - 1)
            out[y, x] = labels[cy, cx]
            if not mixed[cy, cx]:
                continue
            count = 0
            for j in range(max(0, cy - 2), min(h, cy + 3)):
                for i in range(max(0, cx - 2), min(w, cx + 3)):
                    r = F(image[y, x, 0]) - colours[j, i, 0]
                    g = F(image[y, x, 1]) - colours[j, i, 1]
                    b = F(image[y, x, 2]) - colours[j, i, 2]
                    away = ((F(j) - v) * (F(j) - v) + (F(i) - u) * (F(i) - u)) / F(NEAR_CELLS)
                    place = 0
                    while place < count and whose[place] != labels[j, i]:
                        place += 1
                    if place == count:
                        whose[count], votes[count] = labels[j, i], F(0.0)
                        count += 1
                    votes[place] += np.exp(-away - (r * r + g * g + b * b) / F(2.0 * LIKE * LIKE))
            best = F(-1.0)
            for k in range(count):
                if votes[k] > best:
                    best = votes[k]
                    out[y, x] = whose[k]


def without_specks(mask: Alpha, weight: Alpha, least_area: float, least_weight: float) -> Alpha:
    """Drop connected pieces that are small (share of the frame) or whose mean ``weight`` is low."""
    hard: Mask8 = (mask > 0.5).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(hard, connectivity=8)
    sums = np.bincount(labels.ravel(), weight.ravel(), minlength=count)
    keep = np.zeros(count, np.float32)
    for k in range(1, count):
        area = stats[k, cv2.CC_STAT_AREA]
        keep[k] = area >= least_area * mask.size and sums[k] / area >= least_weight
    grown = cv2.dilate(keep[labels], np.ones((9, 9), np.uint8))
    return np.asarray(mask * grown, np.float32)
