"""Fit the sky head on photographs with traced or rectangle labels.

Usage: python train.py PHOTO_FOLDER OUT.npz [--check]
Needs the lenskeep package and scikit-learn. A third of the photographs is kept aside by a fixed rule (``kept_aside``)
and never fitted to; --check prints how the fitted head does on both sides. Rectangles are in labels.json.
"""

import csv
import json
import sys
import warnings
import zlib
from pathlib import Path

import cv2
import numpy as np
from made_up_skies import developed, made_scene, under_new_sky
from sklearn.linear_model import LogisticRegression
from sklearn.preprocessing import StandardScaler

from lenskeep.core.detect.scene_features import scene_features
from lenskeep.files.weights import backbone_session

HERE = Path(__file__).parent
SIDE = 640
CELLS_A_PICTURE = 140
TRACED_VARIANTS, PLAIN_VARIANTS, MADE_SCENES = 12, 6, 500
PENALTY = 3e-3


def kept_aside(rows: list[dict[str, str]]) -> set[str]:
    """Every third photograph, in alphabetical order, of each kind: traced sky, traced subject, no sky, other sky."""
    strata: dict[str, list[str]] = {}
    for row in rows:
        if "sky" in row["masks"] and "subject" not in row["masks"]:
            kind = "traced sky"
        elif "subject" in row["masks"]:
            kind = "traced subject"
        else:
            kind = "no sky" if row["note"] == "sky empty" else "other sky"
        strata.setdefault(kind, []).append(Path(row["file"]).stem)
    return {name for names in strata.values() for name in sorted(names)[2::3]}


def read(folder: Path, row: dict[str, str], rectangles: dict) -> tuple[np.ndarray, np.ndarray, bool]:
    """(picture float 0…1, label 255 sky / 0 not / 128 unknown, whether traced)."""
    stem = Path(row["file"]).stem
    image = cv2.cvtColor(cv2.imread(str(folder / row["file"])), cv2.COLOR_BGR2RGB)
    scale = SIDE / max(image.shape[:2])
    image = cv2.resize(image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    h, w = image.shape[:2]
    mask = folder / f"{stem}.sky.png"
    if mask.exists():
        return image, cv2.resize(cv2.imread(str(mask), 0), (w, h), interpolation=cv2.INTER_NEAREST), True
    label = np.full((h, w), 0 if row["note"] == "sky empty" else 128, np.uint8)
    for key, value in (("sky", 255), ("not", 0)):
        for x0, y0, x1, y1 in rectangles.get(stem, {}).get(key, []):
            label[int(y0 * h) : int(y1 * h), int(x0 * w) : int(x1 * w)] = value
    return image, label, False


def cropped(image, label, random):
    h, w = label.shape
    part = random.uniform(0.55, 1.0)
    ch, cw = int(h * part), int(w * part)
    y, x = random.integers(0, h - ch + 1), random.integers(0, w - cw + 1)
    out = image[y : y + ch, x : x + cw], label[y : y + ch, x : x + cw]
    return (out[0][:, ::-1], out[1][:, ::-1]) if random.random() < 0.5 else out


def cells(picture, label, backbone, random):
    """(features, classes) of a balanced sample of cells that are wholly sky or wholly not."""
    features = scene_features(np.ascontiguousarray(picture), backbone)
    size = (features.shape[1], features.shape[0])
    xs, ys = [], []
    for value, cls in ((255, 1), (0, 0)):
        pure = cv2.resize((label == value).astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.95
        at = np.argwhere(pure)
        if len(at):
            at = at[random.choice(len(at), min(len(at), CELLS_A_PICTURE), replace=False)]
            xs.append(features[at[:, 0], at[:, 1]])
            ys.append(np.full(len(at), cls))
    return (np.concatenate(xs), np.concatenate(ys)) if xs else None


def training_set(folder, rows, rectangles, backbone):
    """Features, classes and weights; every photograph and every made-up scene counts the same."""
    parts, grounds, subjects = [], [], []
    for row in rows:
        stem = Path(row["file"]).stem
        random = np.random.default_rng(zlib.crc32(stem.encode()))
        image, label, traced = read(folder, row, rectangles)
        if not (label == 128).all() and not (label == 255).any():
            grounds.append(image)
            mask = folder / f"{stem}.subject.png"
            if mask.exists():
                cut = cv2.resize(cv2.imread(str(mask), 0), image.shape[1::-1], interpolation=cv2.INTER_AREA)
                subjects.append((image, (cut > 200).astype(np.float32)))
        parts.append(cells(np.rint(image * 255).astype(np.uint8), label, backbone, random))
        for k in range(TRACED_VARIANTS if traced else PLAIN_VARIANTS):
            picture = under_new_sky(image, label, random) if traced and k % 3 else image
            parts.append(cells(*_developed(*cropped(picture, label, random), random), backbone, random))
    random = np.random.default_rng(5)
    for _ in range(MADE_SCENES):
        ground = grounds[random.integers(len(grounds))]
        if random.random() < 0.6:
            ground = cv2.GaussianBlur(ground, (0, 0), random.uniform(1, 8))
        subject = subjects[random.integers(len(subjects))] if random.random() < 0.7 else None
        picture, label = made_scene(ground, subject, random)
        parts.append(cells(*_developed(picture, label, random), backbone, random))
    parts = [p for p in parts if p is not None]
    x = np.concatenate([p[0] for p in parts])
    y = np.concatenate([p[1] for p in parts])
    weights = np.concatenate([np.full(len(p[1]), 1 / len(p[1])) for p in parts])
    for cls in (0, 1):
        weights[y == cls] *= 1 / weights[y == cls].sum()
    return x, y, weights * len(y) / 2


def _developed(image, label, random):
    return developed(image, random), np.ascontiguousarray(label)


def fit(x, y, weights):
    """(weights, bias) of the head over raw features."""
    scaler = StandardScaler().fit(x)
    model = LogisticRegression(C=1 / (PENALTY * len(y)), max_iter=300)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        model.fit(scaler.transform(x), y, weights)
    w = model.coef_[0] / scaler.scale_
    return w.astype(np.float32), np.float32(model.intercept_[0] - (w * scaler.mean_).sum())


def check(folder, rows, rectangles, backbone, w, b, words):
    """Print IoU on labelled areas and the share of false sky, before any refinement of edges."""
    found, false = {}, {}
    for row in rows:
        image, label, _ = read(folder, row, rectangles)
        features = scene_features(np.rint(image * 255).astype(np.uint8), backbone)
        p = cv2.resize(features @ w + b, label.shape[::-1], interpolation=cv2.INTER_LINEAR) > 0
        counted = label != 128
        if (label == 255).any():
            found[row["file"]] = (p & (label == 255)).sum() / ((p | (label == 255)) & counted).sum()
        elif counted.any():
            false[row["file"]] = p.mean()
    print(words, "IoU", {k: round(float(v), 3) for k, v in found.items()})
    print(words, f"mean IoU {np.mean(list(found.values())):.3f}; false sky mean {np.mean(list(false.values())):.4f}",
          {k: round(float(v), 3) for k, v in false.items() if v > 0.003})


def main(folder: Path, out: Path, checking: bool) -> None:
    with (folder / "index.tsv").open() as handle:
        rows = list(csv.DictReader(handle, delimiter="\t"))
    rectangles = json.loads((HERE / "labels.json").read_text())
    aside = kept_aside(rows)
    fitted = [r for r in rows if Path(r["file"]).stem not in aside]
    backbone = backbone_session()
    x, y, weights = training_set(folder, fitted, rectangles, backbone)
    w, b = fit(x, y, weights)
    np.savez(out, weights=w, bias=b)
    print(f"{len(y)} cells, {x.shape[1]} features -> {out}")
    if checking:
        check(folder, fitted, rectangles, backbone, w, b, "fitted:")
        check(folder, [r for r in rows if Path(r["file"]).stem in aside], rectangles, backbone, w, b, "kept aside:")


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]), "--check" in sys.argv)
