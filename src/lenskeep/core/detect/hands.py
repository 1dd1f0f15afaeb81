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
ARM, FINGERS, BEHIND = 0.25, 1.9, 0.3
"""In lengths of the palm: half of an arm's width that is surely its, how far from the palm's middle fingers reach, and
from where beyond the wrist on something is on the arm's side."""
AROUND, TOWARDS = 7.0, 1.5
"""In lengths of the palm: side of the crop in which a hand that was left out is looked for, and how far its middle lies
towards the arm."""
STEPS = 3
SLEEVE, SPECK = 0.4, 0.02
"""Shares: of what reaches the frame's edge, that a sleeve has; of the square of the palm's length, that is a speck."""
LEAST_HELD = 0.04
"""Of the object: less beside a hand is its rim or shade."""
OUTSIDE = (255, 0, 255)


def with_arms(image: SRGB8, base: Alpha, palms: Sequence[Palm], network: GraphNetwork) -> Alpha:
    """The subject (h, w) 0…1 with the hands that it left out: saliency is asked once more on a crop around each, and
    believed where an arm comes from the frame's edge.
    """
    out = base
    for palm in palms:
        if lies_on(palm, base > 0.5):
            continue
        seen = np.zeros_like(base)
        middle, half = palm.middle + palm.arm * TOWARDS * palm.size, AROUND / 2 * palm.size
        x0, y0 = (max(0, int(v)) for v in middle - half)
        x1, y1 = (int(v) for v in np.minimum(middle + half, base.shape[::-1]))
        if min(x1 - x0, y1 - y0) < 8:
            continue
        seen[y0:y1, x0:x1] = saliency(np.ascontiguousarray(image[y0:y1, x0:x1]), network)
        _, labels = cv2.connectedComponents((seen > 0.3).astype(np.uint8), connectivity=8)
        there = np.bincount(labels[palm.hull(base.shape)], minlength=1)
        if len(there) > 1 and lies_on(palm, seen > 0.5):
            piece = labels == 1 + int(there[1:].argmax())
            if at_edge(piece).any() and comes_in(palm, piece):
                out = np.maximum(out, np.where(piece, seen, np.float32(0)))
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
    like, near = _likeness(cut, near)
    if not near:
        return None
    person, held = np.zeros(inside.shape, bool), np.ones(inside.shape, bool)
    for palm in near:
        along, across, away = _places(palm, inside.shape)
        person |= palm.hull(inside.shape) | ((along > 0) & (np.abs(across) < ARM))
        held &= (away > FINGERS) & (along < BEHIND)
    labels = np.where(like > 0.5, cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    labels[held] = cv2.GC_BGD
    labels[person] = cv2.GC_FGD
    out = np.zeros_like(own)
    out[box] = _with_sleeve(_cut(cut, inside, labels), inside, at_edge(own)[box], near)
    return out


def _likeness(image: SRGB8, palms: Sequence[Palm]) -> tuple[Alpha, list[Palm]]:
    """(how like the palms' own skin every pixel is, (h, w) 0…1, the palms that have the colour of skin)."""
    lab = measured_oklab(through(DECODE8[image], SRGB_TO_REC2020))
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
