"""How well masks fit known ones: on the demo shoot, and on any folder of photographs with traced masks.

Usage: python -m benchmarks.masks [FOLDER]
FOLDER holds NAME.jpg with NAME.subject.png and NAME.sky.png (255 in, 0 out, 128 not counted).
"""

import sys
import tempfile
from importlib.resources import as_file, files
from pathlib import Path

import cv2
import numpy as np

from lenskeep.studio.single import detect_file

TRUTH = Path(__file__).parent / "truth"


def intersection_over_union(mask: np.ndarray, truth: np.ndarray) -> float:
    """IoU of two uint8 masks cut at one half, pixels of value 128 in the truth not counted where it is traced."""
    mask = cv2.resize(mask, truth.shape[::-1], interpolation=cv2.INTER_LINEAR)
    traced = set(np.unique(truth)) <= {0, 128, 255}
    counted = truth != 128 if traced else np.ones_like(truth, bool)
    a, b = (mask >= 128) & counted, (truth >= 129) & counted
    return float((a & b).sum() / max((a | b).sum(), 1))


def score(photos: Path, truth: Path) -> dict[str, list[float]]:
    """Print one row a photograph; returns the IoUs by kind."""
    totals: dict[str, list[float]] = {"subject": [], "sky": []}
    with tempfile.TemporaryDirectory() as scratch:
        for path in sorted(photos.glob("*.jpg")):
            known = {k: truth / f"{path.stem}.{k}.png" for k in totals if (truth / f"{path.stem}.{k}.png").exists()}
            if not known:
                continue
            facts = detect_file(path, Path(scratch))
            row = []
            for kind, file in known.items():
                found = cv2.imread(f"{scratch}/{path.stem}.{kind}.png", cv2.IMREAD_GRAYSCALE)
                value = intersection_over_union(found, cv2.imread(str(file), cv2.IMREAD_GRAYSCALE))
                totals[kind].append(value)
                row.append(f"{kind} {value:.3f} (trust {getattr(facts, kind).trust:.2f})")
            print(f"{path.stem:16s} {'  '.join(row)}")
    return totals


def main(words: list[str]) -> None:
    if words:
        folder = Path(words[0])
        totals = score(folder, folder)
    else:
        with as_file(files("lenskeep.demo") / "ferry-dogs") as folder:
            totals = score(folder, TRUTH)
    for kind, values in totals.items():
        if values:
            print(f"{kind}: mean IoU {np.mean(values):.3f}, least {min(values):.3f}, {len(values)} photographs")


if __name__ == "__main__":
    main(sys.argv[1:])
