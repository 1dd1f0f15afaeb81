"""How well masks fit known ones, and whether trust tells where they do not: ``make bench``, or by itself.

Usage: python -m benchmarks.masks [FOLDER] [--spoilt]
FOLDER holds NAME.jpg with NAME.subject.png and NAME.sky.png (255 in, 0 out, 128 not counted); by default it is the demo
shoot. IoU is intersection over union of masks cut at one half; F is the boundary F-score within 2 px at a long side of
1024. ``--spoilt`` adds pictures made hard to read, for the calibration of trust.
"""

import sys
from dataclasses import dataclass
from importlib.resources import as_file, files
from pathlib import Path

import cv2
import numpy as np

from benchmarks.spoilt import spoilt
from lenskeep.core.detect.find import find
from lenskeep.studio.tasks import detectors

TRUTH = Path(__file__).parent / "truth"
KINDS = ("subject", "sky")
SIDE, REACH, LEAST_OUTLINE = 1024, 2, 100
BAD = 0.8


@dataclass(frozen=True)
class Score:
    name: str
    kind: str
    iou: float
    boundary: float
    trust: float


def counted(truth: np.ndarray) -> np.ndarray:
    """Where a mask's truth is known: traced ones leave 128 out, soft ones nothing."""
    traced = set(np.unique(truth)) <= {0, 128, 255}
    return truth != 128 if traced else np.ones_like(truth, bool)


def intersection_over_union(mask: np.ndarray, truth: np.ndarray) -> float:
    """IoU of two uint8 masks cut at one half, pixels of value 128 in the truth not counted where it is traced."""
    mask = cv2.resize(mask, truth.shape[::-1], interpolation=cv2.INTER_LINEAR)
    known = counted(truth)
    a, b = (mask >= 128) & known, (truth >= 129) & known
    return float((a & b).sum() / max((a | b).sum(), 1))


def boundary_score(mask: np.ndarray, truth: np.ndarray) -> float:
    """F-score of the outline's pixels that lie within 2 px of the other outline, at a long side of 1024 (Csurka et al.
    2013); the frame's own edge is no outline, and neither is what lies where the truth is not known. Not a number where
    the tracing left its whole border open.
    """
    scale = SIDE / max(truth.shape)
    size = (round(truth.shape[1] * scale), round(truth.shape[0] * scale))
    unknown = cv2.dilate((~counted(truth)).astype(np.uint8), np.ones((3, 3), np.uint8))
    near = cv2.resize(unknown, size, interpolation=cv2.INTER_NEAREST) > 0
    lines = []
    for m in (mask, truth):
        hard = (cv2.resize(m, size, interpolation=cv2.INTER_LINEAR) >= 128).astype(np.uint8)
        line = cv2.morphologyEx(hard, cv2.MORPH_GRADIENT, np.ones((2, 2), np.uint8)) > 0
        line[[0, -1]] = line[:, [0, -1]] = False
        lines.append(line & ~near)
    if unknown.any() and lines[1].sum() < LEAST_OUTLINE:
        return float("nan")
    if not lines[0].any() or not lines[1].any():
        return float(not lines[0].any() and not lines[1].any())
    away = [cv2.distanceTransform((~line).astype(np.uint8), cv2.DIST_L2, 3) for line in lines]
    precision, recall = (away[1][lines[0]] <= REACH).mean(), (away[0][lines[1]] <= REACH).mean()
    return float(2 * precision * recall / max(precision + recall, 1e-9))


def worth_scoring(truth: np.ndarray) -> bool:
    """Whether the true mask covers more than next to nothing of the picture."""
    return bool(((truth >= 129) & counted(truth)).mean() > 0.003)


def known_masks(path: Path, truth: Path) -> dict[str, np.ndarray]:
    names = {kind: truth / f"{path.stem}.{kind}.png" for kind in KINDS}
    return {kind: cv2.imread(str(f), cv2.IMREAD_GRAYSCALE) for kind, f in names.items() if f.exists()}


def scored(name: str, image: np.ndarray, known: dict[str, np.ndarray]) -> list[Score]:
    """Find on a picture and compare; masks that cover next to nothing of it are left out."""
    found = find(image, detectors(2))
    return [
        Score(name, kind, intersection_over_union(found.masks[kind], truth), boundary_score(found.masks[kind], truth),
              getattr(found.facts, kind).trust)
        for kind, truth in known.items()
        if worth_scoring(truth)
    ]  # fmt: skip


def measured(photos: Path, truth: Path, also_spoilt: bool) -> tuple[list[Score], list[Score]]:
    """(scores as they are, scores spoilt), printing one row a photograph."""
    plain, hard = [], []
    for number, path in enumerate(sorted(photos.glob("*.jpg"))):
        known = known_masks(path, truth)
        if not known:
            continue
        image = cv2.cvtColor(cv2.imread(str(path)), cv2.COLOR_BGR2RGB)
        own = scored(path.stem, image, known)
        plain += own
        row = "  ".join(f"{s.kind} IoU {s.iou:.3f} F {s.boundary:.2f} trust {s.trust:.2f}" for s in own)
        print(f"{path.stem:16s} {row}", flush=True)
        if also_spoilt:
            side = max(image.shape[:2])
            small = cv2.resize(image, None, fx=800 / side, fy=800 / side, interpolation=cv2.INTER_AREA)
            size = small.shape[1::-1]
            known = {k: cv2.resize(m, size, interpolation=cv2.INTER_NEAREST) for k, m in known.items()}
            for what, picture, masks in spoilt(small, known, number):
                hard += scored(f"{path.stem}, {what}", picture, masks)
    return plain, hard


def area_under_curve(trust: np.ndarray, good: np.ndarray) -> float:
    """How often a bad mask is trusted less than a good one (``good``: True and False); nan without one of each."""
    if good.all() or not good.any():
        return float("nan")
    a, b = trust[good][:, None], trust[~good]
    return float(((a > b).mean() + (a >= b).mean()) / 2)


def calibration(scores: list[Score], words: str) -> None:
    """Print how trust tells bad masks from good ones."""
    trusted = [s for s in scores if s.trust >= BAD]
    wrong = sum(s.iou < BAD for s in trusted)
    good = np.array([s.iou >= BAD for s in scores])
    curve = area_under_curve(np.array([s.trust for s in scores]), good)
    print(
        f"trust, {words}: {len(scores)} masks, {(~good).sum()} with IoU under {BAD}; area under the curve "
        f"{curve:.3f} (at least .9); of {len(trusted)} trusted over {BAD}, {wrong} are bad "
        f"({wrong / max(len(trusted), 1):.1%}, at most 2 %)"
    )


def main(words: list[str]) -> None:
    also_spoilt = "--spoilt" in words
    folders = [Path(w) for w in words if not w.startswith("--")]
    if folders:
        plain, hard = measured(folders[0], folders[0], also_spoilt)
    else:
        with as_file(files("lenskeep.demo") / "ferry-dogs") as folder:
            plain, hard = measured(folder, TRUTH, also_spoilt)
    for kind in KINDS:
        own = [s for s in plain if s.kind == kind]
        if own:
            ious, edges = [s.iou for s in own], [s.boundary for s in own]
            print(
                f"{kind}: mean IoU {np.mean(ious):.3f} (at least .95), least {min(ious):.3f}, mean boundary F "
                f"{np.nanmean(edges):.3f} ({np.isfinite(edges).sum()} with a known border), {len(own)} photographs"
            )
    for kind in (*KINDS, None):
        chosen = [s for s in plain + hard if kind in (None, s.kind)]
        if chosen:
            calibration(chosen, kind or "both")


if __name__ == "__main__":
    main(sys.argv[1:])
