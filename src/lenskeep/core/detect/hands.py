"""Hands by themselves: the arm they belong to, and what they hold told from them by the palm's own colour."""

from collections.abc import Sequence

import cv2
import numpy as np

from lenskeep.core.colour.oklab import measured_oklab
from lenskeep.core.colour.spaces import SRGB_TO_REC2020, through
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.detect.edges import GRAB_SIDE, extent, grabbed
from lenskeep.core.detect.palms import PALM_MARKS, Palm, at_edge, comes_in, lies_on
from lenskeep.core.detect.saliency import saliency
from lenskeep.core.detect.skin import complexion, like_face, skin_hue
from lenskeep.core.facts import Box, Face, Kind
from lenskeep.core.types import SRGB8, Alpha, Float, GraphNetwork, Mask8

LEAST_SKIN = 0.1
FAINT = 0.3
"""Of saliency around a hand: what hangs together with it from here on is its arm or what it holds."""
ARM, FINGERS, BEHIND = 0.25, 1.9, 0.3
"""In lengths of the palm: half of an arm's width that is surely its, how far from the palm's middle fingers reach, and
from where beyond the wrist on something is on the arm's side."""
AROUND, TOWARDS, BESIDE = 10.0, 2.5, 2.2
"""In lengths of the palm: side of the wide crop in which a hand that was left out is looked for, how far its middle
lies towards the arm, and what the close crop, from the palm to the frame's edge, holds besides."""
TELLING, LEAST_DEVIATION = 4.0, 0.01
"""How many deviations a colour may lie from those of palm and arm and still be theirs; the least deviation in OKLab."""
STEPS = 3
SLEEVE, SPECK = 0.4, 0.02
"""Shares: of what reaches the frame's edge, that a sleeve has; of the square of the palm's length, that is a speck."""
LEAST_HELD = 0.04
"""Of the object: less beside a hand is its rim or shade."""
OUTSIDE = (255, 0, 255)


def with_arms(image: SRGB8, base: Alpha, palms: Sequence[Palm], network: GraphNetwork) -> Alpha:
    """The subject (h, w) 0…1 with the hands or arms that it left out: saliency is asked once more on crops around each,
    and believed where an arm comes from the frame's edge.
    """
    out = base
    for palm in palms:
        if _comes_in_whole(palm, base > 0.5):
            continue
        seen = np.zeros_like(base)
        for box in _crops(palm, base.shape):
            seen[box] = np.maximum(seen[box], saliency(np.ascontiguousarray(image[box]), network))
        if _comes_in_whole(palm, seen > 0.5):
            piece = _piece_with(palm, seen > FAINT)
            out = np.maximum(out, np.where(piece, seen, np.float32(0)))
    return out


def _piece_with(palm: Palm, inside: np.ndarray) -> np.ndarray:
    """The connected piece that most of a palm lies on, (h, w); empty where that is none."""
    _, labels = cv2.connectedComponents(inside.astype(np.uint8), connectivity=8)
    there = np.bincount(labels[palm.hull(inside.shape)], minlength=2)
    return np.asarray(labels == 1 + int(there[1:].argmax())) if there[1:].any() else np.zeros_like(inside)


def _comes_in_whole(palm: Palm, inside: np.ndarray) -> bool:
    """Whether a hand's piece reaches from its palm to where its arm leaves the frame."""
    piece = _piece_with(palm, inside)
    return lies_on(palm, piece) and bool(at_edge(piece).any()) and comes_in(palm, piece)


def _crops(palm: Palm, shape: tuple[int, ...]) -> list[tuple[slice, slice]]:
    """Rows and columns of a wide crop around a hand, and of a close one from palm to where the arm leaves the frame."""
    size = np.array(shape[1::-1], np.float32)
    middle, half = palm.middle + palm.arm * TOWARDS * palm.size, AROUND / 2 * palm.size
    ahead = np.where(palm.arm > 0, size - palm.middle, palm.middle) / np.maximum(np.abs(palm.arm), 1e-3)
    leaves = palm.middle + palm.arm * max(float(ahead.min()), 0.0)
    more = BESIDE * palm.size
    ends = (
        (middle - half, middle + half),
        (np.minimum(palm.middle, leaves) - more, np.maximum(palm.middle, leaves) + more),
    )
    out = []
    for low, high in ends:
        x0, y0 = (int(v) for v in np.clip(low, 0, size - 8))
        x1, y1 = (int(v) for v in np.minimum(np.maximum(high, [x0 + 8, y0 + 8]), size))
        out.append((slice(y0, y1), slice(x0, x1)))
    return out


def hand_part(image: SRGB8, own: np.ndarray, palms: Sequence[Palm]) -> np.ndarray | None:
    """What of an object is the person whose palms these are, (h, w) of True and False; None where none of them has the
    colour of skin.

    The palm and the arm behind it are surely the person's, what lies farther from it than fingers reach is surely not;
    between them colour decides, first by likeness to the palm, then by GrabCut.
    """
    box = extent(own, 8)
    if box is None:
        return None
    cut, inside = np.ascontiguousarray(image[box]), own[box]
    corner = np.array([box[1].start, box[0].start], np.float32)
    near = [Palm(p.score, p.marks - corner) for p in palms]
    lab = measured_oklab(through(DECODE8[cut], SRGB_TO_REC2020))
    like, near = _likeness(lab, near)
    if not near:
        return None
    person, held = np.zeros(inside.shape, bool), np.ones(inside.shape, bool)
    for palm in near:
        along, across, away = _places(palm, inside.shape)
        person |= palm.hull(inside.shape) | ((along > 0) & (np.abs(across) < ARM))
        held &= (away > FINGERS) & (along < BEHIND)
    own_colour = (like > 0.5) & (_unlike(lab, person & inside) < TELLING)
    labels = np.where(own_colour, cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    labels[held] = cv2.GC_BGD
    labels[person] = cv2.GC_FGD
    out = np.zeros_like(own)
    out[box] = _with_sleeve(_cut(cut, inside, labels), inside, at_edge(own)[box], near)
    return out


def _unlike(lab: Float, sure: np.ndarray) -> Float:
    """How many deviations (Mahalanobis) each colour of (h, w, 3) lies from the ``sure`` ones."""
    known = lab[sure]
    spread = np.cov(known.T) + np.eye(3) * LEAST_DEVIATION**2 if len(known) > 3 else np.eye(3)
    away = lab - (known.mean(0) if len(known) else lab.reshape(-1, 3).mean(0))
    return np.asarray(np.sqrt(np.einsum("...i,ij,...j", away, np.linalg.inv(spread), away)), np.float32)


def _likeness(lab: Float, palms: Sequence[Palm]) -> tuple[Alpha, list[Palm]]:
    """(how like the palms' own skin every pixel is, (h, w) 0…1, the palms that have the colour of skin)."""
    h, w = lab.shape[:2]
    hue, kept = skin_hue(lab), []
    like = np.zeros((h, w), np.float32)
    for palm in palms:
        hull = palm.hull((h, w))
        if not hull.any() or hue[hull].mean() < LEAST_SKIN:
            continue
        marks = palm.marks[:PALM_MARKS] / np.array([w, h], np.float32)
        (x0, y0), (x1, y1) = marks.min(0), marks.max(0)
        face = Face(box=Box(x0=float(x0), y0=float(y0), x1=float(x1), y1=float(y1)), score=min(palm.score, 1.0))
        learnt = complexion(lab, face, hue)
        if learnt is not None:
            like = np.maximum(like, like_face(lab, face, learnt))
            kept.append(palm)
    return like, kept


def _places(palm: Palm, shape: tuple[int, ...]) -> tuple[Float, Float, Float]:
    """Where each pixel lies, in lengths of the palm: along the arm from the wrist, across, from the middle."""
    y, x = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    length = max(palm.size, 1.0)
    wrist, way = palm.marks[0], palm.arm
    dx, dy = (x - wrist[0]) / length, (y - wrist[1]) / length
    away = np.hypot(x - palm.middle[0], y - palm.middle[1]) / length
    along, across = dx * way[0] + dy * way[1], dx * way[1] - dy * way[0]
    return np.asarray(along, np.float32), np.asarray(across, np.float32), np.asarray(away, np.float32)


def _cut(image: SRGB8, inside: np.ndarray, labels: Mask8) -> np.ndarray:
    """GrabCut within the object: around it lies one colour of no picture, so that the surroundings say nothing."""
    h, w = inside.shape
    scale = min(1.0, GRAB_SIDE / max(h, w))
    size = (max(8, round(w * scale)), max(8, round(h * scale)))
    alone = np.where(inside[..., None], image, np.array(OUTSIDE, np.uint8))
    labels = np.where(inside, labels, cv2.GC_BGD).astype(np.uint8)
    small = cv2.resize(labels, size, interpolation=cv2.INTER_NEAREST)
    if not (small == cv2.GC_FGD).any() or not np.isin(small, (cv2.GC_BGD, cv2.GC_PR_BGD)).any():
        return inside
    hard = grabbed(cv2.resize(alone, size, interpolation=cv2.INTER_AREA), small, STEPS)
    return np.asarray((cv2.resize(hard, (w, h), interpolation=cv2.INTER_LINEAR) > 0.5) & inside)


def _with_sleeve(hand: np.ndarray, inside: np.ndarray, edge: np.ndarray, palms: Sequence[Palm]) -> np.ndarray:
    """The hand with specks, and with a sleeve: that lies behind a wrist and is most of what is at the frame's edge."""
    count, labels, stats, middles = cv2.connectedComponentsWithStats((inside & ~hand).astype(np.uint8), connectivity=4)
    _, edges = cv2.connectedComponents(edge.astype(np.uint8), connectivity=8)
    out, along = hand.copy(), np.max([_places(p, inside.shape)[0] for p in palms], 0)
    for k in range(1, count):
        part = labels == k
        x, y = (int(v) for v in middles[k])
        cuffs = np.isin(edges, np.unique(edges[part & edge])) & edge
        sleeve = along[y, x] > BEHIND and (cuffs & part).sum() > SLEEVE * max(int(cuffs.sum()), 1)
        if sleeve or stats[k, cv2.CC_STAT_AREA] < SPECK * max(p.size for p in palms) ** 2:
            out |= part
    return out


def with_hands(
    image: SRGB8, mask: Alpha, objects: Mask8, kinds: list[Kind], palms: Sequence[Palm]
) -> tuple[Mask8, list[Kind]]:
    """The map of objects (h, w) and their kinds: what ``palms`` lie on is a person, and what these hold is a thing by
    itself.
    """
    out, named = objects.copy(), list(kinds)
    for number in range(1, len(kinds) + 1) if palms else ():
        own = (objects == number) & (mask > 0.5)
        on_it = [p for p in palms if lies_on(p, own)]
        hand = hand_part(image, own, on_it) if on_it else None
        if hand is None:
            continue
        named[number - 1] = "person"
        held = own & ~hand
        if held.sum() >= LEAST_HELD * own.sum():
            named.append("thing")
            out[held] = len(named)
    return out, named
