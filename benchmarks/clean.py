"""Clean-up on known truth: marks healed beside two inpaintings, dust found and healed, a clone from the burst, times.

Usage: python -m benchmarks clean [--pictures FOLDER]

A healed mark is scored by tone (mean ΔE(OK) of both blurred by 2 px, ÷ .01) plus texture (|log2| of the ratio of
gradient energy), since ΔE alone would reward blur. The first 40 marks were looked at while the method was made, the
second were not: their places and shapes are drawn by chance on frames of the same grounds.
"""

import time
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from skimage.restoration import inpaint_biharmonic

from lenskeep.core.clean.applied import DUST_REACH, cleaned, patched
from lenskeep.core.clean.dust import SIDE, log_light, specks
from lenskeep.core.clean.models import Cloned, Healed, Mark
from lenskeep.core.clean.sensor import stored
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.files.reading.exif import orientation
from lenskeep.files.reading.photo import linear_of, read_photo
from lenskeep.studio.tasks.dust import SOFT
from tools.known import TRUTH, demo_folder, facts, picture
from tools.photos.undusted import TILE, corner, tiles

SPOTS = {
    ("dune-wedding/DUN_0301", "sky"): ((0.25, 0.12, 8), (0.47, 0.20, 14), (0.88, 0.1, 20)),
    ("ferry-dogs/LKD_0101", "sky"): ((0.4, 0.12, 10), (0.56, 0.17, 16), (0.33, 0.19, 12)),
    ("ferry-dogs/LKD_0202", "grass"): (
        (0.1, 0.6, 8), (0.3, 0.85, 14), (0.75, 0.85, 20), (0.9, 0.55, 10), (0.6, 0.95, 26), (0.15, 0.45, 12)),
    ("ferry-dogs/LKD_0222", "grass"): ((0.1, 0.8, 16),),
    ("dune-wedding/DUN_0301", "sand"): (
        (0.1, 0.8, 10), (0.45, 0.96, 14), (0.72, 0.93, 20), (0.2, 0.95, 28), (0.12, 0.63, 10), (0.62, 0.70, 14)),
    ("ferry-dogs/LKD_0101", "planks"): (
        (0.35, 0.95, 10), (0.5, 0.8, 14), (0.45, 0.65, 10), (0.92, 0.92, 20), (0.1, 0.97, 12), (0.5, 0.9, 24)),
    ("ferry-dogs/LKD_0101", "fur"): ((0.29, 0.78, 10), (0.68, 0.70, 10)),
    ("backdrop-studio/BST_0501", "fur"): ((0.4, 0.6, 12), (0.45, 0.5, 18), (0.6, 0.75, 14)),
    ("backdrop-studio/BST_0531", "fur"): ((0.5, 0.6, 16),),
    ("ferry-dogs/LKD_0202", "fur"): ((0.55, 0.5, 12),),
    ("backdrop-studio/BST_0541", "fur"): ((0.28, 0.6, 16),),
    ("dune-wedding/DUN_0301", "cloth"): ((0.46, 0.75, 10), (0.33, 0.55, 10), (0.50, 0.90, 14)),
    ("backdrop-studio/BST_0501", "cloth"): ((0.1, 0.25, 20), (0.9, 0.45, 26)),
    ("backdrop-studio/BST_0531", "cloth"): ((0.3, 0.3, 30), (0.75, 0.86, 16)),
}  # fmt: skip
"""(frame, ground): (x, y, half width in pixels)."""
UNSEEN = ("ferry-dogs/LKD_0107", "ferry-dogs/LKD_0212", "dune-wedding/DUN_0326", "dune-wedding/DUN_0343",
          "backdrop-studio/BST_0510", "backdrop-studio/BST_0536")  # fmt: skip
PASSING = Path(__file__).parent / "passing"
MARKED = 26
DEEP = 24e6


@dataclass(frozen=True)
class Spot:
    frame: str
    ground: str
    x: float
    y: float
    half: float
    long: float
    angle: float


def spots(unseen: bool) -> list[Spot]:
    rng = np.random.default_rng(11 if unseen else 5)
    if not unseen:
        plain = [(frame, ground, *at) for (frame, ground), places in SPOTS.items() for at in places]
    else:
        plain = [
            (UNSEEN[k % 6], "by chance", rng.uniform(0.06, 0.94), rng.uniform(0.06, 0.94), rng.uniform(8, 24))
            for k in range(40)
        ]
    return [Spot(f, g, x, y, r, rng.uniform(1, 2), rng.uniform(0, np.pi)) for f, g, x, y, r in plain]


def path_of(frame: str) -> Path:
    shoot, name = frame.split("/")
    with demo_folder(shoot) as folder:
        return folder / f"{name}.jpg"


def away(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """ΔE(OK) of two uint8 pictures."""
    labs = [to_oklab(linear_of(np.ascontiguousarray(p))) for p in (a, b)]
    return np.sqrt(((labs[0] - labs[1]) ** 2).sum(-1))


def score(out: np.ndarray, true: np.ndarray, hole: np.ndarray) -> float:
    tone = away(*(cv2.GaussianBlur(p, (0, 0), 2) for p in (out, true)))[hole].mean() / 0.01

    def energy(p: np.ndarray) -> float:
        grey = p.astype(np.float32).mean(2) / 255
        return float((np.diff(grey, axis=1)[:-1] ** 2 + np.diff(grey, axis=0)[:, :-1] ** 2)[hole[:-1, :-1]].mean())

    return float(tone + abs(np.log2((energy(out) + 1e-9) / (energy(true) + 1e-9))))


def healed(spot: Spot) -> tuple[dict[str, float], np.ndarray]:
    """The score of each way, ours first; and a strip of pictures: marked, ours, true."""
    true = picture(path_of(spot.frame))
    h, w = true.shape[:2]
    reach = spot.half * (spot.long - 1)
    ends = [(spot.x * w + s * reach * np.cos(spot.angle), spot.y * h + s * reach * np.sin(spot.angle)) for s in (-1, 1)]
    hole = np.zeros((h, w), np.uint8)
    a, b = (tuple(round(v) for v in end) for end in ends)
    cv2.line(hole, a, b, 255, max(1, round(2 * spot.half)))  # type: ignore[call-overload]
    marked = true.copy()
    marked[hole > 0] = MARKED
    mark = Healed(points=tuple((x / w, y / h) for x, y in ends), size=(2 * spot.half + 5) / w, soft=0.1)
    ours = patched(marked, cleaned(marked, [mark]))
    grown = cv2.dilate(hole, np.ones((5, 5), np.uint8))
    ys, xs = np.nonzero(grown)
    part = (slice(max(0, ys.min() - 40), ys.max() + 40), slice(max(0, xs.min() - 40), xs.max() + 40))
    others = {
        "Telea": cv2.inpaint(marked[part], grown[part], 5, cv2.INPAINT_TELEA),
        "biharmonic": np.rint(255 * inpaint_biharmonic(marked[part] / 255.0, grown[part] > 0, channel_axis=2)),
    }
    inside = hole[part] > 0
    scores = {"ours": score(ours[part], true[part], inside)}
    scores |= {n: score(np.clip(o, 0, 255).astype(np.uint8), true[part], inside) for n, o in others.items()}
    size = (220, 220)
    strip = [cv2.resize(p[part], size, interpolation=cv2.INTER_NEAREST) for p in (marked, ours, true)]
    return scores, np.hstack(strip)


def dust_found() -> list[tuple[str, int, int, int]]:
    """(shoot, true places, of these found, found elsewhere)."""
    out = []
    for shoot in ("ferry-dogs", "dune-wedding", "backdrop-studio"):
        true = facts(shoot)["dust"]
        with demo_folder(shoot) as folder:
            photos = [read_photo(path) for path in sorted(folder.glob("*.jpg"))]
        found = specks([log_light(stored(p.reduced(SIDE), orientation(p.exif), 0)) for p in photos])
        near = [[np.hypot(f.x - t["x"], f.y - t["y"]) < 0.004 for t in true] for f in found]
        out.append(
            (shoot, len(true), sum(any(n[k] for n in near) for k in range(len(true))), sum(not any(n) for n in near))
        )
    return out


def dust_healed() -> dict[str, float]:
    """The dusty shoots' frames healed at the true places, beside the generator's own development without dust."""
    inner, border, grain, plain = [], [], [], []
    for shoot in ("dune-wedding", "backdrop-studio"):
        places, frames = facts(shoot)["dust"], facts(shoot)["frames"]
        sheet = cv2.imread(str(TRUTH / shoot / "undusted.jpg"))[..., ::-1]
        marks = [
            Healed(points=((d["x"], d["y"]),), size=2 * DUST_REACH * d["radius"], soft=SOFT, dust=True) for d in places
        ]
        for row, name in enumerate(frames):
            with demo_folder(shoot) as folder:  # as the sensor has it, which dust lies on
                how = cv2.IMREAD_COLOR | cv2.IMREAD_IGNORE_ORIENTATION
                pixels = np.ascontiguousarray(cv2.imread(str(folder / f"{name}.jpg"), how)[..., ::-1])
            h, w = pixels.shape[:2]
            true = sheet[row * TILE : (row + 1) * TILE]
            out, before = tiles(patched(pixels, cleaned(pixels, marks)), places), tiles(pixels, places)
            off, was = away(out, true), away(before, true)
            fine = [p.astype(np.float32) - cv2.GaussianBlur(p.astype(np.float32), (0, 0), 2) for p in (out, true)]
            y, x = np.mgrid[:TILE, :TILE]
            for k, d in enumerate(places):
                tile = slice(None), slice(k * TILE, (k + 1) * TILE)
                far = np.hypot(x + corner(d["x"], w) - d["x"] * w, y + corner(d["y"], h) - d["y"] * h)
                far = far / (d["radius"] * w)
                disc, ring, beyond = far < 1.5, (far >= 1.5) & (far < 2.2), far > 2.6
                if true[tile].max() < 16 or was[tile][disc].mean() - was[tile][beyond].mean() < 0.005:
                    continue  # no render of it is at hand, or it is not seen there
                inner.append(off[tile][disc].mean())
                border.append(off[tile][ring].mean())
                plain.append(was[tile][beyond].mean())
                grain.append(fine[0][tile][disc].var() / max(float(fine[1][tile][disc].var()), 1e-6))
    return {"discs": len(inner), "inner": float(np.mean(inner)), "worst": float(np.max(inner)),
            "border": float(np.mean(border)), "grain": float(np.median(grain)),
            "plain": float(np.mean(plain))}  # fmt: skip


def from_burst() -> tuple[float, float]:
    """Mean ΔE(OK), beside the generator's frame without it, of what a dog covered: painted over roughly and taken from
    the next frame, where it had walked on and the hand had moved; and as it was.
    """
    here, there, gone = (picture(PASSING / f"PAS_000{n}.jpg") for n in (1, 2, 3))
    h, w = here.shape[:2]
    dog = cv2.imread(str(PASSING / "PAS_0001.subject.png"), cv2.IMREAD_GRAYSCALE)
    covered = cv2.resize(dog, (w, h)) > 20
    ys, xs = np.nonzero(covered)
    size = 0.06
    step = 0.7 * size * w / h
    points: list[tuple[float, float]] = []
    for k, y in enumerate(np.arange(ys.min() / h, ys.max() / h + step, step)):  # back and forth, as a hand does
        ends = [(xs.min() / w, float(y)), (xs.max() / w, float(y))]
        points += ends[::-1] if k % 2 else ends
    mark = Cloned(points=tuple(points), size=size, frame="other", soft=0.2)
    out = patched(here, cleaned(here, [mark], others={"other": there}.get))
    return float(away(out, gone)[covered].mean()), float(away(here, gone)[covered].mean())


def times() -> dict[str, float]:
    """Milliseconds a mark on a frame of 24 megapixels."""
    small = picture(path_of("dune-wedding/DUN_0301"))
    big = cv2.resize(small, (6000, 4000), interpolation=cv2.INTER_CUBIC)
    marks: dict[str, Mark] = {
        "a speck of dust": Healed(points=((0.1, 0.8),), size=0.012),
        "a mark of 6 %": Healed(points=((0.1, 0.8),), size=0.06),
        "a wire across a third": Healed(points=((0.1, 0.8), (0.43, 0.82)), size=0.006),
    }
    out = {}
    for name, mark in marks.items():
        spent = []
        for _ in range(3):
            start = time.perf_counter()
            cleaned(big, [mark])
            spent.append(time.perf_counter() - start)
        out[name] = 1000 * min(spent)
    return out


def main(arguments: list[str]) -> None:
    folder = Path(arguments[1]) if arguments[:1] == ["--pictures"] else None
    for name, unseen in (("looked at", False), ("never looked at", True)):
        rows = [(spot, *healed(spot)) for spot in spots(unseen)]
        lower = sum(s["ours"] < min(s["Telea"], s["biharmonic"]) for _, s, _ in rows)
        means = {way: np.mean([s[way] for _, s, _ in rows]) for way in rows[0][1]}
        print(f"40 marks, {name}: lower than both on {lower} (30 wanted); mean scores",
              ", ".join(f"{way} {value:.2f}" for way, value in means.items()))  # fmt: skip
        worst = sorted(rows, key=lambda row: -row[1]["ours"])[:5]
        for spot, scores, _ in worst:
            told = ", ".join(f"{way} {value:.1f}" for way, value in scores.items())
            print(f"  worst: {spot.frame} {spot.ground} at {spot.x:.2f}, {spot.y:.2f}: {told}")
        if folder:
            cv2.imwrite(str(folder / f"worst-{unseen}.png"), np.vstack([p for _, _, p in worst])[..., ::-1])
    for shoot, true, found, wrong in dust_found():
        print(f"dust, {shoot}: {found} of {true} places found, {wrong} wrong")
    d = dust_healed()
    print(f"dust healed, {d['discs']:.0f} discs: mean ΔE(OK) {d['inner']:.4f} (.015 wanted), worst {d['worst']:.4f}; "
          f"border {d['border']:.4f} (.02); grain's variance × {d['grain']:.2f} (.75 to 1.25); "
          f"beside the dust, by the files alone, {d['plain']:.4f}")  # fmt: skip
    taken, before = from_burst()
    print(f"what a dog covered, from the burst: mean ΔE(OK) {taken:.4f} (.02 wanted); {before:.4f} with the dog")
    for name, value in times().items():
        print(f"{name} at 24 MP: {value:.0f} ms (300 wanted)")
