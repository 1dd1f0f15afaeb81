"""Masks and facts of a frame as its repairs make them. Everything that uses a mask follows: boxes, skyline, kinds."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cached_property

import cv2
import numpy as np

from lenskeep.core.detect.edges import colour_guided, grab, nearest_label
from lenskeep.core.detect.skyline import find_skyline
from lenskeep.core.detect.subject import box_around
from lenskeep.core.facts import SUBJECT_KINDS, Facts, Finding
from lenskeep.core.regions.base import Found
from lenskeep.core.regions.dabs import paint, smoothed
from lenskeep.core.regions.pieces import piece_alpha, piece_at, swept
from lenskeep.core.repairs.gaps import hole_at, island_at, without_seam
from lenskeep.core.repairs.models import Clicked, Emptied, Gap, Outlined, Painted, Repair, Repairs, Swept, Traced
from lenskeep.core.types import SRGB8, Alpha, LinearRGB, OKLab

FLOW, STEADINESS = 0.8, 0.3
TRACE_REACH = 0.012
"""How far a traced outline may lie from the edge that it means, as a share of the long side."""
TRACE_RADIUS, TRACE_EPS = 4, 2e-4
TRACE_LEAST, TRACE_GAIN = 0.6, 1.2
"""Below this overlap with what was outlined, or without so much more contrast along it, colours did not tell and the
outline stays as it is."""
SUBPIXEL = 4
"""Bits of a pixel that an outline's points are rounded to."""
_NO_COLOUR: OKLab = np.zeros((1, 1, 3), np.float32)


def repaired(found: Found, repairs: Repairs) -> Found:
    """The frame as its repairs make it; the same one without any."""
    if not repairs.done:
        return found
    masks = RepairedMasks(found, repairs)
    return replace(found, masks=masks, facts=masks.facts)


class RepairedMasks(Mapping[str, Alpha]):
    """The masks of a frame with its repairs, each made when it is first asked for, and the facts that follow."""

    def __init__(self, found: Found, repairs: Repairs) -> None:
        self._found, self._repairs = found, repairs
        self._by_hand = set(repairs.masks)
        self._made: dict[str, Alpha] = {}

    def __getitem__(self, name: str) -> Alpha:
        if name not in self._names:
            raise KeyError(name)
        if name not in self._made:
            self._made[name] = self._make(name)
        return self._made[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._names)

    def __len__(self) -> int:
        return len(self._names)

    @cached_property
    def _names(self) -> tuple[str, ...]:
        more = SUBJECT_KINDS if "subject" in self._by_hand else ()
        return tuple(dict.fromkeys((*self._found.masks, *self._repairs.masks, *more)))

    def _make(self, name: str) -> Alpha:
        mask = self._found.mask(name)
        if name in self._by_hand:
            return after(mask, self._repairs.of(name), self._found)
        if name in SUBJECT_KINDS and "subject" in self._by_hand:
            return self._shared[name]
        if name == "sky" and "subject" in self._by_hand:
            gained = np.maximum(self["subject"] - self._found.subject, 0)
            return np.asarray(np.minimum(mask, 1.0 - gained), np.float32)
        return mask

    @cached_property
    def _shared(self) -> dict[str, Alpha]:
        """The repaired subject by kind: what was there keeps its kind, what was added has that of the nearest."""
        subject = self["subject"]
        kinds = {name: self._found.mask(name) for name in SUBJECT_KINDS}
        label = np.zeros(subject.shape, np.uint8)
        for number, mask in enumerate(kinds.values(), 1):
            label[mask > 0.5] = number
        if not label.any():  # nothing was found here: what is the subject now is a thing
            label[:] = list(kinds).index("things") + 1
        nearest = nearest_label(label)
        return {
            name: np.where(nearest == number, subject, 0).astype(np.float32) for number, name in enumerate(kinds, 1)
        }

    @cached_property
    def facts(self) -> Facts:
        """What was found, with boxes, skyline, areas and trust as the repaired masks make them."""
        old = self._found.facts
        change: dict[str, object] = {}
        moved = {"subject", "sky"} & self._by_hand
        if "subject" in moved:
            change |= {"subject_box": box_around(self["subject"]), "out_of_line": ""}
            change["subject"] = by_hand(self["subject"])
        if "sky" in moved:
            change["sky"] = by_hand(self["sky"])
        if moved:
            change["skyline"] = find_skyline(self["sky"], self["subject"])
        others = [name for name in self._names if name not in ("subject", "sky")]
        touched = [n for n in others if n in self._by_hand or (n in SUBJECT_KINDS and "subject" in self._by_hand)]
        areas = old.areas | {name: share(self[name]) for name in touched}
        trusted = {n: by_hand(self[n]) for n in others if n in self._by_hand}
        if "subject" in self._by_hand:
            trusted |= {n: by_hand(self[n]) for n in SUBJECT_KINDS if n in areas and areas[n] > 0}
        change["others"] = {n: one for n, one in (old.others | trusted).items() if areas.get(n, 0) > 0 or n in trusted}
        change["areas"] = {name: area for name, area in areas.items() if area > 0}
        return old.model_copy(update=change)


def by_hand(mask: Alpha) -> Finding:
    """What is known of a mask that a photographer repaired."""
    return Finding(trust=1.0, area=share(mask), by_hand=True)


def share(mask: Alpha) -> float:
    return round(float((mask > 0.5).mean()), 5)


def after(mask: Alpha, repairs: Sequence[Repair], found: Found) -> Alpha:
    """A mask (h, w) 0…1 with repairs done in order; ``found`` is the frame as it was found."""
    out = np.array(mask, np.float32)
    for one in repairs:
        if isinstance(one, Emptied):
            out[:] = 0
        elif isinstance(one, Painted):
            _paint(out, one, found)
        else:
            own = gap_in(out, one) if isinstance(one, Gap) else _own(one, found)
            if own is None:  # found again, the mask may have no such mistake
                continue
            if isinstance(one, Clicked) and one.alone:
                out[:] = 0
            if isinstance(one, Clicked | Swept) and not one.away:
                out = without_seam(out, own)
            else:
                out = out * (1.0 - own) if one.away else np.maximum(out, own)
    return np.asarray(out, np.float32)


def gap_in(mask: Alpha, one: Gap | Clicked) -> Alpha | None:
    """The hole or island of a mask that is meant, None where there is none."""
    return (island_at if one.away else hole_at)(mask, one.x, one.y)


def _paint(out: Alpha, one: Painted, found: Found) -> None:
    h, w = out.shape
    path = smoothed(np.asarray(np.array(one.points) * [w, h], np.float32), STEADINESS)
    radius = max(0.5 * one.size * max(h, w), 0.5)
    lab = found.lab if one.edge_aware else _NO_COLOUR
    paint(out, path, radius, one.hardness, one.opacity, FLOW, one.away, one.edge_aware, lab)


def _own(one: Clicked | Swept | Outlined | Traced, found: Found) -> Alpha:
    """What a repair means by itself, (h, w) 0…1."""
    if isinstance(one, Clicked):
        return _clicked(one, found)
    if isinstance(one, Swept):
        return swept(found, one.points, one.least)
    filled = _outlined(one, found.shape)
    return _brought_to_edges(filled, found.picture) if isinstance(one, Traced) else filled


def _clicked(one: Clicked, found: Found) -> Alpha:
    piece = piece_at(found, one.x, one.y)
    return np.zeros(found.shape, np.float32) if piece is None else piece_alpha(found, piece)


def _outlined(one: Outlined | Traced, shape: tuple[int, ...]) -> Alpha:
    h, w = shape
    corners = np.rint(np.array(one.points) * [w, h] * 2**SUBPIXEL - 2 ** (SUBPIXEL - 1)).astype(np.int32)
    filled = np.zeros((h, w), np.uint8)
    cv2.fillPoly(filled, [corners], 255, lineType=cv2.LINE_AA, shift=SUBPIXEL)
    return filled.astype(np.float32) / np.float32(255)


def _brought_to_edges(filled: Alpha, picture: LinearRGB) -> Alpha:
    """An outline's inside moved to the edges near it: by colour within reach, then soft as the picture is."""
    reach = max(TRACE_REACH * max(filled.shape), 1.0)
    unsure = np.asarray(cv2.GaussianBlur(filled, (0, 0), reach), np.float32)
    image = shown(picture)
    hard = grab(image, unsure, 0.95, 0.05, core=3)
    a, b = hard > 0.5, filled > 0.5
    alike = (a & b).sum() >= TRACE_LEAST * max(int((a | b).sum()), 1)
    if not alike or _contrast(image, a) < TRACE_GAIN * _contrast(image, b):
        return np.asarray(cv2.GaussianBlur(filled, (0, 0), 1.0), np.float32)
    return colour_guided(image, hard, TRACE_RADIUS, TRACE_EPS)


def _contrast(image: SRGB8, inside: np.ndarray) -> float:
    """How much the picture changes along a border, in 8-bit steps a pixel; never quite nothing."""
    grey = cv2.cvtColor(image, cv2.COLOR_RGB2GRAY).astype(np.float32)
    slope = np.hypot(cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1)) / 8
    line = cv2.morphologyEx(inside.astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) > 0
    return float(slope[line].mean()) + 0.1 if line.any() else 0.1


def shown(picture: LinearRGB) -> SRGB8:
    """A linear picture (h, w, 3) as 8 bits a person would see, near enough to follow edges and points by."""
    return np.asarray(np.rint(255.0 * np.clip(picture, 0, 1) ** np.float32(1 / 2.2)), np.uint8)
