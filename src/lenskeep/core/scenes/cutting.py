"""Cuts where time and place change together, relative to the shoot's own rhythm; bursts stay whole."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from lenskeep.core.scenes.signature import apart
from lenskeep.core.types import Float

AROUND = 5
"""So many frames on either side are held against each other: a single close-up among them is no new place."""
ANOTHER_PLACE = 0.16
"""The least distance between both sides that makes another scene by itself; where a side has few frames yet, more."""
USUAL_SHARE, LEAST_USUAL, MOST_USUAL = 0.9, 30.0, 900.0
"""The gap (in seconds) that nine of ten in this shoot are shorter than; never taken for less than half a minute, nor,
where a few frames of several days lie together, for more than a quarter of an hour."""
PER_DOUBLING = 0.25
"""How much a gap adds with each doubling over the usual one; a place that stays needs sixteen times it."""
BURST_SECONDS, BURST_APART = 2.0, 0.3


@dataclass(frozen=True)
class Seen:
    """A frame to be put into scenes: when it was taken, in seconds of any clock (None when it does not say), and what
    is around its subject.
    """

    taken: float | None
    signature: Float


def scenes_of(frames: Sequence[Seen]) -> list[int]:
    """The scene, from 0 on, that each frame belongs to; frames are in the order they were taken."""
    if not frames:
        return []
    kept_whole = bursts_of(frames)
    usual = _usual_gap(frames)
    out = [0]
    begun = 0
    for i in range(1, len(frames)):
        new = kept_whole[i] != kept_whole[i - 1] and _change(frames, begun, i, usual) >= 1.0
        begun = i if new else begun
        out.append(out[-1] + int(new))
    return out


def bursts_of(frames: Sequence[Seen]) -> list[int]:
    """The burst, from 0 on, that each frame belongs to: less than two seconds after the one before, and alike."""
    out: list[int] = []
    for i, frame in enumerate(frames):
        gap = _gap(frames[i - 1], frame) if i else None
        same = gap is not None and 0 <= gap < BURST_SECONDS and _alike(frames[i - 1], frame)
        out.append(out[-1] + int(not same) if out else 0)
    return out


def _alike(a: Seen, b: Seen) -> bool:
    return apart(a.signature, b.signature) < BURST_APART


def _gap(a: Seen, b: Seen) -> float | None:
    return None if a.taken is None or b.taken is None else b.taken - a.taken


def _usual_gap(frames: Sequence[Seen]) -> float:
    gaps = [gap for a, b in pairwise(frames) if (gap := _gap(a, b)) is not None]
    usual = float(np.quantile(gaps, USUAL_SHARE, method="lower")) if gaps else LEAST_USUAL
    return min(max(usual, LEAST_USUAL), MOST_USUAL)


def _change(frames: Sequence[Seen], begun: int, at: int, usual: float) -> float:
    """How much speaks for a cut before the frame ``at``; 1 is enough. Place: the nearest of both sides."""
    before = frames[max(begun, at - AROUND) : at]
    after = frames[at : at + AROUND]
    few = float(np.sqrt(len(before) * len(after))) / AROUND
    place = few * min(apart(a.signature, b.signature) for a in before for b in after) / ANOTHER_PLACE
    gap = _gap(frames[at - 1], frames[at])
    time = PER_DOUBLING * float(np.log2(gap / usual)) if gap is not None and gap > usual else 0.0
    return place + time


def scene_name(number: int, begun: str | None) -> str:
    """What a scene is called until it gets a name: "scene 3, 14:20" (``begun`` as ISO 8601), "scene 3" without one."""
    clock = begun[11:16] if begun and len(begun) >= 16 else ""
    return f"scene {number}, {clock}" if clock else f"scene {number}"
