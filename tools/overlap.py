"""How well one mask fits another: by area, and by outline."""

import cv2
import numpy as np

SIDE, REACH, LEAST_OUTLINE = 1024, 2, 100
FARTHEST, OPEN = 10.0, 8.0
"""Pixels at a long side of 1024."""


def counted(truth: np.ndarray) -> np.ndarray:
    """Where a mask's truth is known: traced ones leave 128 out, soft ones nothing."""
    traced = set(np.unique(truth)) <= {0, 128, 255}
    return truth != 128 if traced else np.ones_like(truth, bool)


def intersection_over_union(mask: np.ndarray, truth: np.ndarray) -> float:
    """IoU of two uint8 masks cut at one half, pixels of value 128 in the truth not counted where it is traced."""
    mask = cv2.resize(mask, truth.shape[::-1], interpolation=cv2.INTER_LINEAR)
    known = counted(truth)
    a, b = (mask >= 128) & known, (truth >= 129) & known
    return float((a & b).sum() / max((a | b).sum(), 1))


def boundary_score(mask: np.ndarray, truth: np.ndarray) -> float:
    """F-score of the outline's pixels that lie within 2 px of the other outline, at a long side of 1024 (Csurka et al.
    2013); the frame's own edge is no outline, and neither is what lies where the truth is not known. Not a number where
    the tracing left its whole border open.
    """
    size = _size(truth)
    unknown = cv2.dilate((~counted(truth)).astype(np.uint8), np.ones((3, 3), np.uint8))
    near = cv2.resize(unknown, size, interpolation=cv2.INTER_NEAREST) > 0
    lines = [_outline(cv2.resize(m, size, interpolation=cv2.INTER_LINEAR) >= 128) & ~near for m in (mask, truth)]
    if unknown.any() and lines[1].sum() < LEAST_OUTLINE:
        return float("nan")
    if not lines[0].any() or not lines[1].any():
        return float(not lines[0].any() and not lines[1].any())
    away = [cv2.distanceTransform((~line).astype(np.uint8), cv2.DIST_L2, 3) for line in lines]
    precision, recall = (away[1][lines[0]] <= REACH).mean(), (away[0][lines[1]] <= REACH).mean()
    return float(2 * precision * recall / max(precision + recall, 1e-9))


def outline_distance(mask: np.ndarray, truth: np.ndarray) -> float:
    """How far a mask's outline and the true one lie from each other, in pixels at a long side of 1024: the mean over
    both, each pixel's distance counted up to ``FARTHEST`` (what lies farther is a part that is missing or too much, and
    the intersection over union tells that). Where a tracing left its border open, the true outline is the middle of
    what is open; places that are open more widely than ``OPEN`` to either side are left away.
    """
    size = _size(truth)
    known = cv2.resize(counted(truth).astype(np.uint8), size, interpolation=cv2.INTER_NEAREST)
    inside = (cv2.resize(truth, size, interpolation=cv2.INTER_NEAREST) >= 129) & (known > 0)
    outside = ~inside & (known > 0)
    if not inside.any() or not outside.any():
        return float("nan")
    to_in, to_out = (cv2.distanceTransform((~m).astype(np.uint8), cv2.DIST_L2, 5) for m in (inside, outside))
    line = _outline(to_in < to_out)
    open_there = np.minimum(to_in, to_out) > OPEN
    mask_line = _outline(cv2.resize(mask, size, interpolation=cv2.INTER_LINEAR) >= 128)
    line, mask_line = line & ~open_there, mask_line & ~open_there
    if not line.any() or not mask_line.any():
        return float("nan") if not line.any() else FARTHEST
    away = [cv2.distanceTransform((~one).astype(np.uint8), cv2.DIST_L2, 5) for one in (mask_line, line)]
    return float(np.mean([np.minimum(away[1][mask_line], FARTHEST).mean(), np.minimum(away[0][line], FARTHEST).mean()]))


def _size(truth: np.ndarray) -> tuple[int, int]:
    """(width, height) of a mask brought to the long side that outlines are compared at."""
    scale = SIDE / max(truth.shape)
    return round(truth.shape[1] * scale), round(truth.shape[0] * scale)


def _outline(inside: np.ndarray) -> np.ndarray:
    """The outline of what is True, without the frame's own edge."""
    line = cv2.morphologyEx(inside.astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((2, 2), np.uint8)) > 0
    line[[0, -1]] = line[:, [0, -1]] = False
    return np.asarray(line)
