"""Faces: the BlazeFace "full range" network (Bazarevsky et al. 2019; weights Apache-2.0) on the frame and on tiles."""

import cv2
import numpy as np

from lenskeep.core.detect.tensors import numbers_and_scores
from lenskeep.core.facts import Box, Face
from lenskeep.core.types import SRGB8, GraphNetwork

# after its box the network gives six marks: both eyes, the tip of the nose, the mouth, both ears
SIDE, CELLS, NUMBERS = 192, 48, 16
LEAST_SCORE, LEAST_ON_TILES = 0.55, 0.7
OVERLAP = 0.35
TILES = 3
"""Tiles along the long side; faces too small for the whole frame are found on these."""


def find_faces(image: SRGB8, network: GraphNetwork) -> list[Face]:
    """Faces on (h, w, 3), the surest first; of overlapping ones the surest stays."""
    h, w = image.shape[:2]
    found = _on(image, network, 0, 0, max(h, w), LEAST_SCORE)
    side = round(max(h, w) / (TILES / 2 + 0.5))
    for y in _starts(h, side):
        for x in _starts(w, side):
            found += _on(image, network, y, x, side, LEAST_ON_TILES)
    found.sort(key=lambda f: -f.score)
    kept: list[Face] = []
    for face in found:
        if all(shared(face.box, other.box) < OVERLAP for other in kept):
            kept.append(face)
    return kept[:40]


def _starts(length: int, side: int) -> list[int]:
    count = max(1, round((length - side) / (0.5 * side)) + 1) if length > side else 1
    return [round(s) for s in np.linspace(0, max(length - side, 0), count)]


def _on(image: SRGB8, network: GraphNetwork, y0: int, x0: int, side: int, least: float) -> list[Face]:
    """Faces on the square that starts at (y0, x0), grey where it reaches over the picture."""
    h, w = image.shape[:2]
    cut = image[y0 : y0 + side, x0 : x0 + side]
    square = np.full((side, side, 3), 127, np.uint8)
    top, left = (side - cut.shape[0]) // 2, (side - cut.shape[1]) // 2
    square[top : top + cut.shape[0], left : left + cut.shape[1]] = cut
    fed = cv2.resize(square, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float32) / np.float32(127.5) - 1
    boxes, scores = numbers_and_scores(network.run({"square": fed[None]}), NUMBERS)
    out = []
    for k in np.nonzero(scores > least)[0]:
        cx = (k % CELLS + 0.5) / CELLS + boxes[k, 0] / SIDE
        cy = (k // CELLS + 0.5) / CELLS + boxes[k, 1] / SIDE
        bw, bh = boxes[k, 2] / SIDE, boxes[k, 3] / SIDE
        x, y = (cx * side - left + x0) / w, (cy * side - top + y0) / h
        half_w, half_h = 0.5 * bw * side / w, 0.5 * bh * side / h
        box = Box(x0=float(x - half_w), y0=float(y - half_h), x1=float(x + half_w), y1=float(y + half_h))
        marks = [
            (
                float(((k % CELLS + 0.5) / CELLS + mx / SIDE) * side - left + x0) / w,
                float(((k // CELLS + 0.5) / CELLS + my / SIDE) * side - top + y0) / h,
            )
            for mx, my in boxes[k, 4:].reshape(-1, 2)
        ]
        out.append(Face(box=box, score=float(scores[k]), eyes=tuple(marks[:2]), mouth=marks[3]))
    return out


def shared(a: Box, b: Box) -> float:
    """Overlap of two boxes as a share of the smaller one."""
    x = min(a.x1, b.x1) - max(a.x0, b.x0)
    y = min(a.y1, b.y1) - max(a.y0, b.y0)
    if x <= 0 or y <= 0:
        return 0.0
    return x * y / max(min(a.width * a.height, b.width * b.height), 1e-9)
