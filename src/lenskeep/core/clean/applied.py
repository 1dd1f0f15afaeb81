"""Marks done on a picture at full size, one after another, each seeing those before it.

Works in the numbers of the file itself (8 or 16 bits), so that what a mark does not touch stays bit for bit as it came;
linear files are looked at through a root, as the eye would. Only a part around each mark is looked at.
"""

from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.clean.aligned import laid_over
from lenskeep.core.clean.joining import joined, membrane
from lenskeep.core.clean.lifting import busyness, lifted
from lenskeep.core.clean.models import Cloned, Healed, Mark, Uncoloured
from lenskeep.core.clean.sources import MOST_RING, Source, ring_of, sources
from lenskeep.core.clean.strokes import Box, around, box_of, grown, pieces, stroke_alpha
from lenskeep.core.types import Alpha, Float

Numbers = NDArray[Any]
"""A picture (h, w, 3) in the numbers of its file: uint8 or uint16."""
Others = Callable[[str], Numbers | None]
"""The pixels of another photograph by its content, None where it is gone."""
_LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
DUST_REACH = 2.0
"""A mark of dust reaches so many of the speck's radii from its middle."""
ROOT = 1.0 / 2.4
THREADS = 2
TRIED, RIM = 5, 3
"""So many sources are laid in to see how they join, by the pixels next to the hole."""


@dataclass(frozen=True)
class Patch:
    """Pixels that take the place of a picture's own."""

    box: Box
    pixels: Numbers


def cleaned(
    pixels: Numbers,
    marks: Sequence[Mark],
    linear: bool = False,
    others: Others = lambda _: None,
    before: Sequence[Patch] = (),
) -> list[Patch]:
    """What the marks change of a picture (h, w, 3): patches that do not overlap. ``before`` are those of the marks that
    were made earlier: each sees those before it and none after it, so they need not be done anew.
    """
    picture = patched(pixels, before)
    h, w = picture.shape[:2]
    boxes = [patch.box for patch in before]
    for mark in marks:
        cut = pieces(mark, h, w)
        if len(cut) > 1 and isinstance(mark, Healed):
            boxes += _do_long(picture, mark, cut, linear)
        elif cut:  # else it lies beside the picture
            boxes += _do(picture, mark, cut[0], linear, others)
    return [Patch(box, picture[box.part].copy()) for box in _apart(boxes)]


def patched(pixels: Numbers, patches: Iterable[Patch]) -> Numbers:
    """A copy of a picture with its patches."""
    out = pixels.copy()
    for patch in patches:
        out[patch.box.part] = patch.pixels
    return out


def _do(
    picture: Numbers,
    mark: Mark,
    points: Sequence[tuple[float, float]],
    linear: bool,
    others: Others,
) -> list[Box]:
    """Do one mark on the picture; returns what it changed."""
    h, w = picture.shape[:2]
    own = box_of(points, mark.size, h, w)
    if own is None:
        return []
    near = grown(own, MOST_RING + 4, h, w)
    hole = stroke_alpha(points, mark, near, h, w)
    if not (hole > 0).any():
        return []
    seen, ring = _seen(picture[near.part], linear), ring_of(hole)
    if isinstance(mark, Cloned):
        made = _clone(picture, seen, mark, points, hole, near, linear, others)
    elif isinstance(mark, Uncoloured):
        grey = (seen @ _LUMA)[..., None]
        made = np.asarray(grey + membrane(seen - grey, hole, ring), np.float32)  # its light with the colour around it
    else:
        wide, busy = around(own, h, w), busyness(seen, ring) if mark.dust else 0.0
        made = _heal(_seen(picture[wide.part], linear), seen, hole, ring, near, wide, mark.other)
        if busy > 0.0:
            (x, y), radius = points[0], mark.size * max(h, w) / (2.0 * DUST_REACH)
            bare = lifted(seen, (x * w - 0.5 - near.left, y * h - 0.5 - near.top), radius)
            made = made + np.float32(busy) * (bare - made)
    if made is None:
        return []
    _lay(picture, near, seen, made, hole * mark.strength, linear)
    return [own]


def _lay(picture: Numbers, near: Box, seen: Float, made: Float, share: Alpha, linear: bool) -> None:
    """Put what was made in the place of what is seen, as far as ``share`` says."""
    alpha = share[..., None]
    out = _numbers(seen + alpha * (made - seen), picture.dtype, linear)
    np.copyto(picture[near.part], out, where=alpha > 0)


@dataclass(frozen=True)
class _Piece:
    """A piece of a long stroke: what it covers, with the ring around it, and where it can be filled from."""

    own: Box
    near: Box
    hole: Alpha
    ring: Alpha


def _do_long(picture: Numbers, mark: Healed, cut: list[Sequence[tuple[float, float]]], linear: bool) -> list[Box]:
    """Heal a long stroke piece by piece. Nothing is taken from under any of the stroke, so the sources of all pieces
    can be looked for at once; each is joined to the light around it and to the pieces before it.
    """
    h, w = picture.shape[:2]
    order = np.zeros((h, w), np.int16)  # the last piece that covers a pixel, counted from 1
    whole: list[_Piece] = []
    for number, points in enumerate(cut, 1):
        own = box_of(points, mark.size, h, w)
        assert own is not None, "pieces lie on the picture"
        near = grown(own, MOST_RING + 4, h, w)
        hole = stroke_alpha(points, mark, near, h, w)
        order[near.part][hole > 0] = number
        whole.append(_Piece(own, near, hole, ring_of(hole)))

    def looked(piece: _Piece) -> list[Source]:
        wide = around(piece.own, h, w)
        under, at = order[wide.part] > 0, _inside(piece.near, wide)
        ring = piece.ring * (order[piece.near.part] == 0)
        return sources(_seen(picture[wide.part], linear), piece.hole, ring, at, mark.other + 1, under)

    with ThreadPoolExecutor(THREADS) as pool:
        found = list(pool.map(looked, whole))
    for number, (piece, places) in enumerate(zip(whole, found, strict=True), 1):
        if not (piece.hole > 0).any():
            continue
        seen = _seen(picture[piece.near.part], linear)
        ring = piece.ring * (order[piece.near.part] <= number)  # what comes later is still there
        wide = around(piece.own, h, w)
        made = _filled(
            _seen(picture[wide.part], linear), seen, piece.hole, ring, _inside(piece.near, wide), places, mark.other
        )
        _lay(picture, piece.near, seen, made, piece.hole * mark.strength, linear)
    return [piece.own for piece in whole]


def filled(pixels: Numbers, holes: Alpha, linear: bool = False) -> tuple[Numbers, int]:
    """A picture (h, w, 3) with everything healed that ``holes`` (h, w) marks over 0.5, each connected part by itself;
    and how many there were.
    """
    out = pixels.copy()
    h, w = out.shape[:2]
    count, labels, stats, _ = cv2.connectedComponentsWithStats((holes > 0.5).astype(np.uint8), connectivity=8)
    for label in range(1, count):
        left, top, wide, tall = (int(v) for v in stats[label, :4])
        own = Box(top, top + tall, left, left + wide)
        near, far = grown(own, MOST_RING + 4, h, w), around(own, h, w)
        hard = (labels[near.part] == label).astype(np.float32)
        hole = np.maximum(hard, cv2.GaussianBlur(hard, (0, 0), 1.0) > 0.25).astype(np.float32)
        seen = _seen(out[near.part], linear)
        made = _heal(_seen(out[far.part], linear), seen, hole, ring_of(hole), near, far, 0)
        np.copyto(out[near.part], _numbers(made, out.dtype, linear), where=hole[..., None] > 0)
    return out, count - 1


def _inside(near: Box, wide: Box) -> tuple[int, int]:
    return near.top - wide.top, near.left - wide.left


def _heal(wide: Float, seen: Float, hole: Alpha, ring: Alpha, near: Box, far: Box, other: int) -> Float:
    """Filled from the best place around, or from another one."""
    at = _inside(near, far)
    found = sources(wide, hole, ring, at, max(other + 1, TRIED))
    return _filled(wide, seen, hole, ring, at, _tried(found, wide, seen, hole, ring, at), other)


def _tried(
    found: list[Source], wide: Float, seen: Float, hole: Alpha, ring: Alpha, at: tuple[int, int]
) -> list[Source]:
    """Sources in the order of how well what is around the hole goes on into each of them, once joined, too."""
    if len(found) < 2:
        return found
    rim = ring * (cv2.dilate(hole, np.ones((2 * RIM + 1, 2 * RIM + 1), np.uint8)) > 0)
    apart = [
        float((((joined(seen, _copied(wide, hole, at, source), hole, ring) - seen) ** 2).sum(2) * rim).sum())
        for source in found
    ]
    least = max(min(apart), 1e-9)
    costs = [source.cost * (away + least) ** 0.5 for source, away in zip(found, apart, strict=True)]
    return [found[place] for place in np.argsort(costs, kind="stable")]


def _copied(wide: Float, hole: Alpha, at: tuple[int, int], source: Source) -> Float:
    h, w = hole.shape
    rows = np.clip(np.arange(h) + at[0] + source.offset[0], 0, wide.shape[0] - 1)
    columns = np.clip(np.arange(w) + at[1] + source.offset[1], 0, wide.shape[1] - 1)
    return wide[np.ix_(rows, columns)]


def _filled(
    wide: Float, seen: Float, hole: Alpha, ring: Alpha, at: tuple[int, int], found: list[Source], other: int
) -> Float:
    """Filled from one of the places found; smoothly where there is none."""
    if not found:
        return membrane(seen, hole, ring)
    copied = _copied(wide, hole, at, found[min(other, len(found) - 1)])
    return joined(seen, copied, hole, ring)


def _clone(
    picture: Numbers,
    seen: Float,
    mark: Cloned,
    points: Sequence[tuple[float, float]],
    hole: Alpha,
    near: Box,
    linear: bool,
    others: Others,
) -> Float | None:
    """What lies elsewhere on this picture, or on another one of the burst, laid where the mark is."""
    h, w = picture.shape[:2]
    middle = np.array([np.mean([x for x, _ in points]) * w, np.mean([y for _, y in points]) * h])
    turn, scale = np.radians(mark.turn), 1.0 / mark.scale
    c, s = np.cos(turn) * scale, np.sin(turn) * scale
    inner = np.array([[c, s], [-s, c]])
    source = others(mark.frame) if mark.frame else picture
    if source is None:
        return None
    move = middle + np.array([mark.across * w, mark.down * h]) - inner @ middle
    here = np.array([near.left, near.top])
    matrix = np.concatenate([inner, (inner @ here + move)[:, None]], 1)
    size = (near.right - near.left, near.low - near.top)
    if mark.frame:
        matrix = laid_over(source, picture, near, hole) @ np.vstack([matrix, [0.0, 0.0, 1.0]])
    plain = not mark.frame and mark.turn == 0.0 and mark.scale == 1.0
    if plain:
        matrix[:, 2] = np.rint(matrix[:, 2])
    way = (cv2.INTER_NEAREST if plain else cv2.INTER_CUBIC) | cv2.WARP_INVERSE_MAP
    copied = cv2.warpAffine(source, matrix, size, flags=way, borderMode=cv2.BORDER_REFLECT_101)
    made = _seen(copied, linear)
    return joined(seen, made, hole, ring_of(hole)) if mark.joined else made


def _seen(numbers: Numbers, linear: bool) -> Float:
    """0…1 as the eye would see it."""
    top = np.float32(255.0 if numbers.dtype == np.uint8 else 65535.0)
    shares = numbers.astype(np.float32) / top
    return np.asarray(shares ** np.float32(ROOT), np.float32) if linear else shares


def _numbers(seen: Float, kind: np.dtype[Any], linear: bool) -> Numbers:
    shares = np.clip(seen, 0.0, 1.0)
    shares = shares ** np.float32(1.0 / ROOT) if linear else shares
    return np.asarray(np.rint(shares * (255.0 if kind == np.uint8 else 65535.0)), kind)


def _apart(boxes: Iterable[Box]) -> list[Box]:
    """Boxes joined until none overlap."""
    out: list[Box] = []
    for box in boxes:
        while True:
            hit = next(
                (o for o in out if o.top < box.low and box.top < o.low and o.left < box.right and box.left < o.right),
                None,
            )
            if hit is None:
                break
            out.remove(hit)
            box = Box(min(hit.top, box.top), max(hit.low, box.low), min(hit.left, box.left), max(hit.right, box.right))
        out.append(box)
    return out
