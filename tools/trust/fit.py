"""Fit what each sign of trouble costs a mask's trust, on masks that are known.

Usage: python -m tools.trust.fit PHOTO_FOLDER [ROWS]
Finds on the demo's shoots and on the photographs with traced masks, as they are and spoilt in six ways
(``tools.spoilt``), and fits non-negative costs in log-odds by projected gradient descent, so that no sign can ever
speak for a mask. Renders that are kept apart (``tools.known.kept_apart``) and every third photograph are fitted to
by nothing; how trust does is printed for them, and for the others with each scene left out in turn; then the constants
for ``core/detect/trust.py``, ``trust_of_sky.py`` and ``trust_of_others.py``. What is taken for sky on a picture that is
known to have none is a bad mask. ROWS keeps what was found, which takes most of the time: about
fifteen minutes on two cores.
"""

import pickle
import sys
from collections.abc import Mapping
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from itertools import chain
from multiprocessing import get_context
from pathlib import Path
from types import MappingProxyType
from typing import NamedTuple

import cv2
import numpy as np

from benchmarks.masks import (
    BAD,
    KINDS,
    Photograph,
    area_under_curve,
    beside,
    demo,
    is_false_sky,
    worth_scoring,
)
from lenskeep.core.detect import trust, trust_of_sky
from lenskeep.core.detect import trust_of_others as others
from lenskeep.core.detect.find import find
from lenskeep.studio.tasks.find import detectors
from tools.overlap import intersection_over_union
from tools.spoilt import spoilt

SIDE, FOLDS, ROUNDS, RATE, RIDGE = 800, 8, 20000, 0.3, 0.003
MARKED, WELL = 0.955, 0.93
"""Share of bad masks that is marked, which the start of the log-odds is chosen for: what a look would visibly spoil is
told, and good masks (of this intersection over union) are looked at for nothing as seldom as that allows.
"""
SUBJECT_LEAST = {
    "undecided": (0.1, 0.2), "colour": (0.05, 0.1), "faces_out": (0.2, 0.1), "pieces": (0.1, 0.1),
    "border": (0.05, 0.1), "off_edges": (0.1, 0.2), "small": (0.2, 0.1), "large": (0.05, 0.1), "thing": (0.1, 0.1),
    "dark": (0.2, 0.1),
}  # fmt: skip
"""What signs of the subject cost at least that can speak for themselves: hardly any known mask has that trouble."""
SKY_LEAST = {"undecided": (0.7, 1.6), "range": (0.5, 0.5), "off_top": (2.0, 0.7)}
"""What signs of the sky cost at least: hardly any known mask is a lake, or has a border that is nowhere decided."""
MATTERS_OF_OPINION = ("plantpot",)
"""Photographs whose traced subject is one of several that could be meant."""


class Row(NamedTuple):
    """One mask that was found, and how well it fits the known one."""

    scene: str
    how: str
    kind: str
    iou: float
    signs: dict[str, float]
    area: float
    apart: bool


def looked_at(photo: Photograph) -> list[Row]:
    """The rows of one photograph, as it is and spoilt."""
    networks = detectors(1)
    scale = min(1.0, SIDE / max(photo.image.shape[:2]))
    image = cv2.resize(photo.image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    size = image.shape[1::-1]
    known = {k: cv2.resize(m, size, interpolation=cv2.INTER_NEAREST) for k, m in photo.masks.items()}
    out = []
    for how, picture, masks in [("as it is", image, known), *spoilt(image, known, sum(map(ord, photo.name)))]:
        found = find(picture, networks)
        for kind, m in masks.items():
            if worth_scoring(m) and kind in found.signs and kind in found.masks:
                iou = intersection_over_union(found.masks[kind], m)
                area = float((found.masks[kind] > 127).mean())
                out.append(Row(photo.scene, how, kind, iou, found.signs[kind], area, photo.apart))
        if is_false_sky(photo, found.facts):
            out.append(Row(photo.scene, how, "sky", 0.0, found.signs["sky"], found.facts.sky.area, photo.apart))
    return out


def gathered(folder: Path) -> list[Row]:
    """Rows of every photograph; every third of the traced ones is kept apart."""
    traced = [replace(p, apart=number % 3 == 2) for number, p in enumerate(beside(folder))]
    out: list[Row] = []
    with ProcessPoolExecutor(2, get_context("spawn")) as pool:
        for rows in pool.map(looked_at, chain(demo(), traced)):
            out += rows
            print(rows[0].scene if rows else "nothing known", flush=True)
    return out


def inputs(rows: list[Row], signs: list[trust.Sign]) -> np.ndarray:
    return np.array([[part for s in signs for part in s.parts(r.signs[s.name])] for r in rows])


def fitted(x: np.ndarray, good: np.ndarray, least: np.ndarray) -> tuple[np.ndarray, float]:
    """(costs, start) by logistic regression with costs of at least ``least``."""
    weights, start = np.maximum(np.full(x.shape[1], 0.5), least), 2.0
    for _ in range(ROUNDS):
        p = 1 / (1 + np.exp(x @ weights - start))
        error = p - good
        weights = np.maximum(weights - RATE * (-(x.T @ error) / len(x) + RIDGE * weights), least)
        start -= RATE * error.mean()
    return weights, float(start)


def shift_for(p: np.ndarray, good: np.ndarray) -> float:
    """How far log-odds must move down so that bad masks are marked: that many of them come to lie under .8."""
    odds = np.log(p / (1 - p))
    return float(np.quantile(odds[~good], MARKED) - np.log(0.8 / 0.2))


def fit(
    kinds: tuple[str, ...],
    rows: list[Row],
    signs: list[trust.Sign],
    name: str,
    at_least: Mapping[str, tuple[float, float]] = MappingProxyType({}),
) -> None:
    least = np.array([at_least.get(s.name, (0.0, 0.0)) for s in signs]).ravel()
    rows = [r for r in rows if r.kind in kinds and r.area > 0 and r.scene not in MATTERS_OF_OPINION]
    apart = [r for r in rows if r.apart]
    rows = [r for r in rows if not r.apart]
    x, good = inputs(rows, signs), np.array([r.iou >= BAD for r in rows])
    scenes = sorted({r.scene for r in rows})
    fold = np.array([scenes.index(r.scene) % FOLDS for r in rows])
    p = np.zeros(len(rows))
    for k in range(FOLDS):
        weights, start = fitted(x[fold != k], good[fold != k].astype(float), least)
        p[fold == k] = 1 / (1 + np.exp(x[fold == k] @ weights - start))
    shift = shift_for(p, good)
    told(f"{name}, left-out scenes", p, shift, good, rows)
    weights, start = fitted(x, good.astype(float), least)
    if apart:
        q = 1 / (1 + np.exp(inputs(apart, signs) @ weights - start))
        told(f"{name}, kept apart", q, shift, np.array([r.iou >= BAD for r in apart]), apart)
    print(f"{name}_START = {start - shift:.2f}")
    for sign, (first, rest) in zip(signs, weights.reshape(-1, 2), strict=True):
        print(f'    Sign("{sign.name}", {first:.2f}, {rest:.2f}, {sign.tolerated}, {sign.range}, "{sign.words}"),')


def told(words: str, p: np.ndarray, shift: float, good: np.ndarray, rows: list[Row]) -> None:
    odds = np.log(p / (1 - p)) - shift
    well = np.array([r.iou >= 0.93 for r in rows])
    over, plain = odds >= np.log(4), np.array([r.how == "as it is" for r in rows])
    print(
        f"{words}: {len(rows)} masks, {int((~good).sum())} bad; area under the curve {area_under_curve(p, good):.3f}, "
        f"{int(over.sum())} over .8, {int((over & ~good).sum())} of them bad; {int((~over & ~good).sum())} of "
        f"{int((~good).sum())} bad ones are marked; {(over & plain).sum()} of {plain.sum()} unspoilt ones are over .8"
    )
    marked, well = ~over, np.array([r.iou >= WELL for r in rows])
    share = (marked & ~well).sum() / max(marked.sum(), 1)
    print(
        f"  {(marked & well).sum()} of {well.sum()} over {WELL} are marked; {share:.0%} of the marked ones are under it"
    )


def main(folder: Path, kept: Path | None) -> None:
    rows = pickle.loads(kept.read_bytes()) if kept and kept.exists() else gathered(folder)
    if kept:
        kept.write_bytes(pickle.dumps(rows))
    fit(("subject",), rows, trust.SUBJECT_SIGNS, "SUBJECT", SUBJECT_LEAST)
    fit(("sky",), rows, trust_of_sky.SKY_SIGNS, "SKY", SKY_LEAST)
    fit(KINDS, rows, others.KIND_SIGNS, "KIND")


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]) if len(sys.argv) > 2 else None)
