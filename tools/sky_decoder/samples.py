"""What the sky decoder learns from: photographs with traced or rectangle labels, and made-up scenes.

Labels are the share of sky at every pixel, 0…1, and -1 where it is not known.
"""

import zlib
from pathlib import Path

import cv2
import numpy as np

from tools.sky_decoder.made_up_rooms import made_crowns, made_room
from tools.sky_decoder.made_up_skies import developed, made_scene, under_new_sky
from tools.sky_decoder.made_up_views import made_pale, made_street
from tools.sky_decoder.made_up_woods import made_wood

SIDE = 768
LONG, SHORT = 512, 352  # what the network is trained on; multiples of 32
VIEWS = {
    "gaps": (made_scene, made_scene, made_scene, made_room, made_scene, made_room, made_crowns, made_scene),
    "all": (
    made_scene, made_pale, made_wood, made_scene, made_room, made_crowns, made_wood, made_scene,
    made_street, made_room, made_wood, made_scene, made_crowns, made_pale, made_wood, made_street,
    ),
    "rooms": (
    made_room, made_wood, made_room, made_scene, made_room, made_pale, made_room, made_crowns,
    made_room, made_street, made_room, made_scene,
    ),
}  # fmt: skip
"""The views that follow each other: skies over horizons, rooms without any, gaps between trees, drawn or rendered; and
among all of them also pale ground, and slivers over houses."""
TRACED_VARIANTS, PLAIN_VARIANTS = 40, 24


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
    """(picture float 0…1, label, whether traced)."""
    stem = Path(row["file"]).stem
    image = cv2.cvtColor(cv2.imread(str(folder / row["file"])), cv2.COLOR_BGR2RGB)
    scale = SIDE / max(image.shape[:2])
    image = cv2.resize(image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    h, w = image.shape[:2]
    mask = folder / f"{stem}.sky.png"
    if mask.exists():
        traced = cv2.resize(cv2.imread(str(mask), 0), (w, h), interpolation=cv2.INTER_NEAREST)
        return image, np.where(traced == 128, -1, traced / 255).astype(np.float32), True
    label = np.full((h, w), 0 if row["note"] == "sky empty" else -1, np.float32)
    for key, value in (("sky", 1), ("not", 0)):
        for x0, y0, x1, y1 in rectangles.get(stem, {}).get(key, []):
            label[int(y0 * h) : int(y1 * h), int(x0 * w) : int(x1 * w)] = value
    return image, label, False


def framed(image, label, random, least=0.5):
    """A random crop of the network's shape, lying or upright, sometimes mirrored."""
    wide, high = (LONG, SHORT) if random.random() < 0.7 else (SHORT, LONG)
    h, w = label.shape
    part = random.uniform(least, 1.0)
    fit = min(w / wide, h / high) * part
    cw, ch = max(32, int(fit * wide)), max(32, int(fit * high))
    y, x = random.integers(0, h - ch + 1), random.integers(0, w - cw + 1)
    how = cv2.INTER_AREA if fit > 1 else cv2.INTER_LINEAR
    image = cv2.resize(image[y : y + ch, x : x + cw].astype(np.float32), (wide, high), interpolation=how)
    label = label[y : y + ch, x : x + cw]
    label = cv2.resize(label, (wide, high), interpolation=cv2.INTER_NEAREST if (label < 0).any() else how)
    return (image[:, ::-1], label[:, ::-1]) if random.random() < 0.5 else (image, label)


def of_photograph(folder: Path, row: dict[str, str], rectangles: dict):
    """Yields (picture uint8 (h, w, 3), label float32 (h, w)) of one photograph, cropped and developed several ways."""
    random = np.random.default_rng(zlib.crc32(Path(row["file"]).stem.encode()))
    image, label, traced = read(folder, row, rectangles)
    for k in range(TRACED_VARIANTS if traced else PLAIN_VARIANTS):
        picture = under_new_sky(image, label, random) if traced and k % 3 else image
        picture, share = framed(picture, label, random)
        yield (developed(picture, random) if k else np.rint(picture * 255).astype(np.uint8)), share


def grounds_and_subjects(folder: Path, rows: list[dict[str, str]], rectangles: dict):
    """Photographs without any sky, and (photograph, mask) of traced subjects among them, to make scenes of."""
    grounds, subjects = [], []
    for row in rows:
        image, label, _ = read(folder, row, rectangles)
        if (label < 0).any() or (label > 0).any():
            continue
        grounds.append(image)
        mask = folder / f"{Path(row['file']).stem}.subject.png"
        if mask.exists():
            cut = cv2.resize(cv2.imread(str(mask), 0), image.shape[1::-1], interpolation=cv2.INTER_AREA)
            subjects.append((image, (cut > 200).astype(np.float32)))
    return grounds, subjects


def made_up(number: int, views: str, grounds: list, subjects: list, woods: list):
    """The made-up scene of that number of one of ``VIEWS``, as (picture, label)."""
    random = np.random.default_rng([5, number])
    subject = subjects[random.integers(len(subjects))] if random.random() < 0.7 else None
    make = VIEWS[views][number % len(VIEWS[views])]
    if make is made_wood:
        view = made_wood(woods[random.integers(len(woods))], subject, random)
    else:
        view = make(_blurred(grounds[random.integers(len(grounds))], random), subject, random)
    picture, share = framed(*view, random, 0.75)
    return developed(picture, random), share


def _blurred(ground, random):
    return cv2.GaussianBlur(ground, (0, 0), random.uniform(1, 8)) if random.random() < 0.6 else ground
