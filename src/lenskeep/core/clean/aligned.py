"""One photograph of a burst laid over another around a mark: how what lies there moved between the two.

Corners around the mark are followed from one to the other (Shi & Tomasi 1994; Lucas & Kanade 1981 on pyramids) and make
one shift, turn and scale (RANSAC); without enough of them phase correlation tells the shift (Kuglin & Hines 1975). The
mark itself, which is what moved otherwise, counts for nothing.
"""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.clean.strokes import Box
from lenskeep.core.types import Alpha, Float

FAR = 400
"""Pixels around the looked-at part that what moved may have come from."""
MOST_CORNERS, LEAST_CORNERS = 400, 12
AGREE = 2.0


def laid_over(source: NDArray[Any], target: NDArray[Any], around: Box, hole: Alpha) -> Float:
    """(2, 3): from places of ``target`` in pixels to those of ``source``, right about ``around``."""
    h, w = target.shape[:2]
    top, low = max(0, around.top - FAR), min(h, around.low + FAR)
    left, right = max(0, around.left - FAR), min(w, around.right + FAR)
    own, other = _grey(target[top:low, left:right]), _grey(source[top:low, left:right])
    still = np.full((h, w), 255, np.uint8)[top:low, left:right].copy()
    part = still[around.top - top : around.low - top, around.left - left : around.right - left]
    part[cv2.dilate((hole > 0).astype(np.uint8), np.ones((9, 9), np.uint8)) > 0] = 0
    if own.shape != other.shape:
        return np.array([[1.0, 0, 0], [0, 1.0, 0]])
    (dx, dy), sure = cv2.phaseCorrelate(
        own.astype(np.float32), other.astype(np.float32), cv2.createHanningWindow(own.shape[::-1], cv2.CV_32F)
    )
    shift = np.array([dx, dy]) if sure > 0.05 else np.zeros(2)
    matrix = np.array([[1.0, 0, shift[0]], [0, 1.0, shift[1]]])
    corners = cv2.goodFeaturesToTrack(own, MOST_CORNERS, 0.01, 6, mask=still)
    if corners is not None and len(corners) >= LEAST_CORNERS:
        start = corners + shift.astype(np.float32)
        found, there, _ = cv2.calcOpticalFlowPyrLK(
            own, other, corners, start, winSize=(21, 21), maxLevel=3, flags=cv2.OPTFLOW_USE_INITIAL_FLOW
        )
        good = there.ravel() == 1
        if good.sum() >= LEAST_CORNERS:
            made, agree = cv2.estimateAffinePartial2D(
                corners[good], found[good], method=cv2.RANSAC, ransacReprojThreshold=AGREE
            )
            if made is not None and agree.sum() >= max(LEAST_CORNERS, 0.4 * good.sum()):
                matrix = made
    # both parts begin at (left, top) of their pictures
    here = np.array([left, top], np.float64)
    matrix[:, 2] += here - matrix[:, :2] @ here
    return np.asarray(matrix, np.float64)


def _grey(part: NDArray[Any]) -> NDArray[np.uint8]:
    eight = part if part.dtype == np.uint8 else (part >> 8).astype(np.uint8)
    return np.asarray(cv2.cvtColor(np.ascontiguousarray(eight), cv2.COLOR_RGB2GRAY))
