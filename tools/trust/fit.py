"""Fit what each sign of trouble costs a mask's trust, on masks that are known.

Usage: python -m tools.trust.fit PHOTO_FOLDER
Finds on the demo's shoots and on the photographs with traced masks, as they are and spoilt in six ways
(``benchmarks.spoilt``), and fits non-negative costs in log-odds by projected gradient descent, so that no sign can ever
speak for a mask. Prints how trust does when each scene is left out in turn, then the constants for
``core/detect/trust.py``. About forty minutes on two cores.
"""

import pickle
import sys
from itertools import chain
from pathlib import Path

import cv2
import numpy as np

from benchmarks.masks import BAD, MAIN, area_under_curve, beside, demo, intersection_over_union, worth_scoring
from benchmarks.spoilt import spoilt
from lenskeep.core.detect import trust
from lenskeep.core.detect.find import find
from lenskeep.studio.tasks.find import detectors

SIDE, FOLDS, ROUNDS, RATE, RIDGE = 800, 8, 20000, 0.3, 0.003
GOAL = 0.02
"""Share of bad masks among the trusted ones that the start of the log-odds is chosen for, on left-out scenes."""
MATTERS_OF_OPINION = ("plantpot",)
"""Photographs whose traced subject is one of several that could be meant."""
Row = tuple[str, str, str, float, dict[str, float], float]


def gathered(folder: Path) -> list[Row]:
    """(scene, how spoilt, kind, IoU, signs, area) of every mask."""
    out: list[Row] = []
    networks = detectors(2)
    for photo in chain(demo(), beside(folder)):
        scale = min(1.0, SIDE / max(photo.image.shape[:2]))
        image = cv2.resize(photo.image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
        size = image.shape[1::-1]
        known = {k: cv2.resize(photo.masks[k], size, interpolation=cv2.INTER_NEAREST) for k in MAIN if k in photo.masks}
        for how, picture, masks in [("as it is", image, known), *spoilt(image, known, sum(map(ord, photo.name)))]:
            found = find(picture, networks)
            for kind, m in masks.items():
                if worth_scoring(m):
                    iou = intersection_over_union(found.masks[kind], m)
                    area = float((found.masks[kind] > 127).mean())
                    out.append((photo.scene, how, kind, iou, found.signs[kind], area))
        print(photo.name, flush=True)
    return out


def inputs(rows: list[Row], signs: list[trust.Sign]) -> np.ndarray:
    return np.array([[part for s in signs for part in s.parts(r[4][s.name])] for r in rows])


def fitted(x: np.ndarray, good: np.ndarray) -> tuple[np.ndarray, float]:
    """(costs at most, start) by logistic regression with costs of at least 0."""
    weights, start = np.full(x.shape[1], 0.5), 2.0
    for _ in range(ROUNDS):
        p = 1 / (1 + np.exp(x @ weights - start))
        error = p - good
        weights = np.maximum(weights - RATE * (-(x.T @ error) / len(x) + RIDGE * weights), 0)
        start -= RATE * error.mean()
    return weights, float(start)


def shift_for(p: np.ndarray, good: np.ndarray) -> float:
    """How far log-odds must move down so that few of those over .8 are bad."""
    odds = np.log(p / (1 - p))
    for shift in np.arange(-1.5, 4.0, 0.05):
        over = odds - shift >= np.log(0.8 / 0.2)
        if over.any() and (over & ~good).sum() <= GOAL * over.sum():
            return float(shift)
    return 4.0


def fit(kind: str, rows: list[Row], signs: list[trust.Sign]) -> None:
    rows = [r for r in rows if r[2] == kind and r[5] > 0 and r[0] not in MATTERS_OF_OPINION]
    x, good = inputs(rows, signs), np.array([r[3] >= BAD for r in rows])
    scenes = sorted({r[0] for r in rows})
    fold = np.array([scenes.index(r[0]) % FOLDS for r in rows])
    p = np.zeros(len(rows))
    for k in range(FOLDS):
        weights, start = fitted(x[fold != k], good[fold != k].astype(float))
        p[fold == k] = 1 / (1 + np.exp(x[fold == k] @ weights - start))
    shift = shift_for(p, good)
    odds = np.log(p / (1 - p)) - shift
    over, plain = odds >= np.log(4), np.array([r[1] == "as it is" for r in rows])
    print(
        f"{kind}: {len(rows)} masks, {int((~good).sum())} bad; left-out scenes: area under the curve "
        f"{area_under_curve(p, good):.3f}, {int(over.sum())} over .8, {int((over & ~good).sum())} of them bad; "
        f"{(over & plain).sum()} of {plain.sum()} unspoilt ones are over .8"
    )
    weights, start = fitted(x, good.astype(float))
    print(f"{kind.upper()}_START = {start - shift:.2f}")
    for sign, (first, rest) in zip(signs, weights.reshape(-1, 2), strict=True):
        print(f'    Sign("{sign.name}", {first:.2f}, {rest:.2f}, {sign.tolerated}, {sign.range}, "{sign.words}"),')


def main(folder: Path, kept: Path | None) -> None:
    rows = pickle.loads(kept.read_bytes()) if kept and kept.exists() else gathered(folder)
    if kept:
        kept.write_bytes(pickle.dumps(rows))
    fit("subject", rows, trust.SUBJECT_SIGNS)
    fit("sky", rows, trust.SKY_SIGNS)


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]) if len(sys.argv) > 2 else None)
