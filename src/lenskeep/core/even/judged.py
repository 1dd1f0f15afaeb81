"""From witnesses between pairs of frames to what each frame needs, and whether that is sure.

All frames of a scene together, by least squares with Cauchy weights, each of exposure, warmth and tint by itself; the
key frame only fixes the zero. A frame is sure where histograms alone and quantiles alone agree, where its own pairs
leave little unexplained, where hardly more than a third of it is burnt out, and where it stands no farther from the
key frame than two pictures are believed to: a dusk is no noon with a wrong balance.
"""

from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.even.cones import exact
from lenskeep.core.even.described import Described
from lenskeep.core.even.witnesses import LIMITS, Offset, by_histograms, by_place, by_quantiles
from lenskeep.core.types import Matrix

APART = (0.2, 8.0)
LEFT = (0.05, 2.5)
MOST_BURNT = 0.38
"""Beyond these (EV and mired that two ways of measuring differ by, that pairs leave over; share) nothing is sure."""
STILL = (0.15, 8.0, 4.0)
"""Moves smaller than all of these are within the error of measuring, and left away."""
ROUNDS = 25
NEIGHBOURS = 10
"""In a long scene a frame is held against so many of its nearest in order, the key, and a few spread over it."""
SPREAD = 3
THREADS = 2
Told = Callable[[float], None]


@dataclass(frozen=True)
class Pair:
    """An offset between the frames ``i`` and ``j``."""

    i: int
    j: int
    offset: Offset


@dataclass
class Witnessed:
    """What the pairs of a scene say, by kind of witness."""

    like: list[Pair] = field(default_factory=list)
    ranks: list[Pair] = field(default_factory=list)
    place: list[Pair] = field(default_factory=list)

    @property
    def all(self) -> list[Pair]:
        return [*self.like, *self.ranks, *self.place]


@dataclass(frozen=True)
class Judged:
    """What to add to a frame to meet the key frame: EV, mired, thousandths of Duv; and whether that is sure.

    ``left_over`` is what its pairs leave unexplained (EV, mired, mDuv).
    """

    ev: float
    mired: float
    duv: float
    sure: bool
    left_over: tuple[float, float, float]

    @property
    def moves(self) -> bool:
        return bool(self.ev or self.mired or self.duv)


def pairs_of(count: int, key: int) -> list[tuple[int, int]]:
    """Which of ``count`` frames in order are held against each other: all of few, of many each frame's neighbours, the
    key, and some spread over the scene.
    """
    if count <= 2 * NEIGHBOURS:
        return list(combinations(range(count), 2))
    chosen = set()
    far = max(1, count // SPREAD)
    for i in range(count):
        others = {
            *range(i + 1, min(i + 1 + NEIGHBOURS // 2, count)),
            key,
            *((i + k * far) % count for k in range(1, SPREAD)),
        }
        chosen |= {(min(i, j), max(i, j)) for j in others if j != i}
    return sorted(chosen)


def witnessed(frames: Sequence[Described], key: int = 0, told: Told = lambda _: None) -> Witnessed:
    """Every pair's witnesses; ``told`` hears the share that is done."""
    out = Witnessed()
    pairs = pairs_of(len(frames), key)

    def said(pair: tuple[int, int]) -> tuple[Offset | None, list[Offset], Offset | None]:
        a, b = frames[pair[0]], frames[pair[1]]
        return by_histograms(a, b), list(by_quantiles(a, b)), by_place(a, b)

    with ThreadPoolExecutor(THREADS) as pool:
        for done, ((i, j), (like, ranks, place)) in enumerate(zip(pairs, pool.map(said, pairs), strict=True)):
            out.like += [Pair(i, j, like)] if like else []
            out.ranks += [Pair(i, j, offset) for offset in ranks]
            out.place += [Pair(i, j, place)] if place else []
            told((done + 1) / len(pairs))
    return out


def judged(frames: Sequence[Described], key: int = 0, told: Told = lambda _: None) -> list[Judged]:
    """What each frame of a scene needs to meet ``frames[key]``. Raises IndexError for a key that is none of them."""
    _ = frames[key]
    said = witnessed(frames, key, told)
    return combined(said, np.array([f.burnt_share for f in frames]), key)


def combined(said: Witnessed, burnt: NDArray[np.floating], key: int) -> list[Judged]:
    count = len(burnt)
    if not said.all:
        return [Judged(0.0, 0.0, 0.0, False, (0.0, 0.0, 0.0))] * count
    standing, doubt, good = _standing(said, burnt)
    within = (np.abs(standing - standing[key]) < LIMITS).all(1)
    moves = exact(standing[key] - standing)
    moves[(np.abs(moves) < STILL).all(1)] = 0.0
    return [
        Judged(float(m[0]), float(m[1]), float(m[2]), bool(ok and good[key]), (float(d[0]), float(d[1]), float(d[2])))
        for m, ok, d in zip(moves, good & within, doubt, strict=True)
    ]


def _standing(said: Witnessed, burnt: NDArray[np.floating]) -> tuple[Matrix, Matrix, NDArray[np.bool_]]:
    """Where frames stand, what their pairs leave over, (n, 3) each; and which are sure, (n,)."""
    count = len(burnt)
    standing = solved(count, said.all)
    doubt = left_over(standing, said.all)
    apart = np.full((count, 3), 9.0)
    if said.like and said.ranks:
        apart = solved(count, said.like) - solved(count, said.ranks)
        apart = np.abs(apart - np.median(apart, axis=0))
    good = (apart[:, :2] < APART).all(1) & (doubt[:, :2] < LEFT).all(1) & (np.asarray(burnt) < MOST_BURNT)
    return standing, doubt, good


def solved(count: int, pairs: Sequence[Pair]) -> Matrix:
    """Where each frame stands, (count, 3), so that the differences fit the pairs: least squares, reweighted."""
    i, j = np.array([p.i for p in pairs]), np.array([p.j for p in pairs])
    apart = np.array([p.offset.value for p in pairs]).reshape(-1, 3)
    sigma = np.array([p.offset.sigma for p in pairs]).reshape(-1, 3)
    out = np.zeros((count, 3))
    for axis in range(3):
        trust = np.ones(len(pairs))
        for _ in range(ROUNDS):
            w = trust / sigma[:, axis] ** 2
            normal = np.eye(count) / (3.0 * LIMITS[axis]) ** 2
            np.add.at(normal, (i, i), w)
            np.add.at(normal, (j, j), w)
            np.add.at(normal, (i, j), -w)
            np.add.at(normal, (j, i), -w)
            right = np.zeros(count)
            np.add.at(right, i, w * apart[:, axis])
            np.add.at(right, j, -w * apart[:, axis])
            out[:, axis] = np.linalg.solve(normal, right)
            rest = (out[i, axis] - out[j, axis] - apart[:, axis]) / sigma[:, axis]
            trust = 1.0 / (1.0 + (rest / 2.0) ** 2)
    return out


def left_over(standing: Matrix, pairs: Iterable[Pair]) -> Matrix:
    """By frame and axis, (count, 3): the weighted median of what its own pairs leave unexplained."""
    rests: list[list[tuple[Matrix, Matrix]]] = [[] for _ in standing]
    for p in pairs:
        rest = np.abs(standing[p.i] - standing[p.j] - p.offset.value)
        weight = p.offset.sigma**-2.0
        rests[p.i].append((rest, weight))
        rests[p.j].append((rest, weight))
    out = np.zeros_like(standing)
    for k, own in enumerate(rests):
        if own:
            values, weights = np.array([r for r, _ in own]), np.array([w for _, w in own])
            out[k] = [_middle(values[:, axis], weights[:, axis]) for axis in range(3)]
    return out


def _middle(values: Matrix, weights: Matrix) -> float:
    """The weighted median."""
    order = np.argsort(values)
    total = np.cumsum(weights[order])
    return float(values[order][np.searchsorted(total, total[-1] / 2.0)])
