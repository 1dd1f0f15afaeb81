"""Pieces of a frame that a click can take, as soft masks; and which piece of one frame is most like one of another."""

from collections.abc import Iterator, Sequence

import cv2
import numpy as np

from lenskeep.core.facts import Piece, pixel_at
from lenskeep.core.regions.base import Found
from lenskeep.core.types import Alpha, Mask8

LIKE, LEAST_BORDER = 0.045, 12
"""Pieces spread to those within this distance in OKLab that share so many pixels of border."""
UNLIKE = 0.62
"""Distance over which no piece of another frame counts as the same thing."""


def piece_alpha(found: Found, piece: Piece) -> Alpha:
    """A piece's alpha (h, w). An object of the subject takes over the subject's soft outline."""
    if found.pieces is None:
        return np.zeros(found.shape, np.float32)
    own = (found.pieces == piece.label).astype(np.float32)
    sigma = 0.0015 * found.long_side
    soft = np.asarray(cv2.GaussianBlur(own, (0, 0), max(sigma, 0.4)), np.float32)
    if not piece.is_object:
        return soft
    # beyond its own outline the object's softness belongs to it as far as no other object claims it
    rivals = np.isin(found.pieces, [p.label for p in found.facts.objects if p.label != piece.label])
    if not rivals.any():
        return found.subject
    mine = cv2.distanceTransform((own < 0.5).astype(np.uint8), cv2.DIST_L2, 3)
    theirs = cv2.distanceTransform((~rivals).astype(np.uint8), cv2.DIST_L2, 3)
    share = np.clip(0.5 + (theirs - mine) / max(4.0 * sigma, 1.0), 0.0, 1.0)
    return np.asarray(found.subject * share, np.float32)


def piece_at(found: Found, x: float, y: float) -> Piece | None:
    """The piece under a point, 0…1 of width and height; None where nothing was told apart."""
    if found.pieces is None:
        return None
    label = int(found.pieces[pixel_at(x, y, found.pieces.shape)])
    return next((p for p in found.facts.pieces if p.label == label), None)


def swept(found: Found, points: Sequence[tuple[float, float]], least: float = 0.0) -> Alpha:
    """The alpha (h, w) of every piece under a path, 0…1 of width and height, and of those that touch one of these and
    have its kind and nearly its colour. Objects are taken as they are. But for the piece that it begins in, one is left
    where the path lies in it for less than ``least`` of how thick the piece is.
    """
    out = np.zeros(found.shape, np.float32)
    if found.pieces is None:
        return out
    h, w = found.pieces.shape
    line = np.zeros((h, w), np.uint8)
    path = np.rint(np.clip(points, 0, 1) * (w - 1, h - 1)).astype(np.int32)
    cv2.polylines(line, [path], False, 1)
    by_label = {p.label: p for p in found.facts.pieces}
    begun = found.pieces[path[0, 1], path[0, 0]]
    taken = []
    for label, count in zip(*np.unique(found.pieces[line > 0], return_counts=True), strict=True):
        piece = by_label.get(int(label))
        if piece is None:
            continue
        if label == begun or least == 0 or count >= least * _thickness(found.pieces, label):
            taken.append(piece)
    for piece in list(taken):
        if not piece.is_object:
            taken += [p for p in _beside(found.pieces, piece, by_label) if p not in taken]
    for piece in taken:
        out = np.maximum(out, piece_alpha(found, piece))
    return out


def _thickness(pieces: Mask8, label: int) -> float:
    """The diameter of the largest circle within a piece, in pixels."""
    own = np.pad((pieces == label).astype(np.uint8), 1)
    return 2.0 * float(cv2.distanceTransform(own, cv2.DIST_L2, 3).max())


def _beside(pieces: Mask8, piece: Piece, by_label: dict[int, Piece]) -> Iterator[Piece]:
    """The pieces that touch one and are like it."""
    own = (pieces == piece.label).astype(np.uint8)
    rim = (cv2.dilate(own, np.ones((5, 5), np.uint8)) > 0) & (own == 0)
    for label, count in zip(*np.unique(pieces[rim], return_counts=True), strict=True):
        other = by_label.get(int(label))
        if other is None or other.is_object or other.kind != piece.kind or count < LEAST_BORDER:
            continue
        if float(np.linalg.norm(np.subtract(piece.colour, other.colour))) < LIKE:
            yield other


def most_like(wanted: Piece, pieces: list[Piece]) -> Piece | None:
    """The piece nearest in kind, colour, size and place; None when every one is unlike."""
    best = min(pieces, key=lambda p: unlikeness(wanted, p), default=None)
    return best if best is not None and unlikeness(wanted, best) < UNLIKE else None


def unlikeness(a: Piece, b: Piece) -> float:
    """0 for the same thing, over ``UNLIKE`` for another: colour counts most, then kind, size and place."""
    colour = float(np.linalg.norm(np.subtract(a.colour, b.colour)))
    kind = 0.0 if a.kind == b.kind else 0.3 if a.is_object == b.is_object else 0.8
    size = abs(float(np.log2(max(a.area, 1e-4) / max(b.area, 1e-4)))) / 12.0
    place = float(np.hypot(*np.subtract(a.box.middle, b.box.middle))) / 4.0
    return 2.2 * colour + kind + size + place
