"""Evening a scene on the demo: ``python -m benchmarks even [LIBRARY]``.

Frames are put off by known amounts of exposure, warmth and tint, a third of them or every one, and judged against the
scene's first frame. Once as a camera does it: the light under the demo's own film curve is changed, and developed
again; the product knows nothing of that curve but its general estimate. Once linearly, as a raw file would be. The
error is what the judgement moves by beside what was put in, so the demo's own differences in development do not count.
Masks are those that the finders find on the frames as they came.

The same light says whether a base under the estimated curve comes nearer to the frame developed right than a gain.
"""

import sys
import tempfile
import time
from collections import defaultdict
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.even_sets import FOURTH, MIXED, altered, contrasts, light_of, unseen_shoot
from lenskeep.core.base.applied import light_ops
from lenskeep.core.base.curve import USUAL, Curve
from lenskeep.core.base.models import FrameBase
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.engine.ops import fuse
from lenskeep.core.engine.program import staged
from lenskeep.core.engine.run import run_stages
from lenskeep.core.even.camera import Exposed, estimated
from lenskeep.core.even.described import PARTS, Described, described
from lenskeep.core.even.described import SIDE as EVEN_SIDE
from lenskeep.core.even.judged import Judged, judged
from lenskeep.core.types import Window
from lenskeep.demo.seed import ready
from lenskeep.files.masks import read_mask
from lenskeep.files.reading.exif import exposure_stops
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import frames, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.studio.library import Library
from tools.known import known_frames

SIDE = 768
MOST = np.array((1.5, 40.0, 12.0))
Scenes = dict[str, list[FrameRow]]
SHARES = {"a third off": 0.35, "all off": 1.0}
SURE = {"a third off": 0.75, "all off": 0.6}
WAYS = {"as a camera": True, "linear": False}
SEEDS = (1, 2, 3)
GOOD = (0.2, 12.0)
LONG = 100


def scenes_of(library: Library) -> dict[str, list[FrameRow]]:
    """The demo's frames by the scenes that are known."""
    known = {k.path.name: f"{k.shoot}, {k.facts['scene']}" for k in known_frames()}
    out: dict[str, list[FrameRow]] = defaultdict(list)
    for shoot in shoots.shoots(library.db):
        for frame in frames.frames(library.db, shoot.id):
            out[known[frame.file_name]].append(frame)
    return out


def seen(library: Library, frame: FrameRow) -> tuple[np.ndarray, dict[str, np.ndarray]]:
    """A frame's untouched picture, and its masks that evening looks at."""
    picture = read_photo(library.original(frame.sha256, frame.suffix), frame.file_name).reduced(SIDE)
    computed = library.computed(frame.content, frame.found_by)
    names = [name for name in ("sky", *frame.areas.split()) if name in PARTS]
    return picture, {name: read_mask(computed.mask(name)).astype(np.float32) / 255.0 for name in names}


def errors(now: list[Judged], was: list[Judged], off: np.ndarray) -> np.ndarray:
    return np.array([[n.ev - w.ev, n.mired - w.mired, n.duv - w.duv] for n, w in zip(now, was, strict=True)]) + off


def curves_of(library: Library, scenes: Scenes) -> dict[str, Curve]:
    """The curve of each shoot's camera, estimated from its own frames as the product does it, else the usual one."""
    exposed: dict[str, list[Exposed]] = defaultdict(list)
    for name, rows in scenes.items():
        for row in rows:
            photo = read_photo(library.original(row.sha256, row.suffix), row.file_name)
            stops = exposure_stops(photo.exif)
            if stops is not None:
                exposed[name.split(", ")[0]].append(Exposed(photo.reduced(EVEN_SIDE), stops))
    out = {}
    for shoot, frames_of in exposed.items():
        found = estimated(frames_of)
        out[shoot] = found or USUAL
        print(f"  {shoot}: the camera's curve {'is taken for a usual one' if found is None else found}", flush=True)
    return out


def nearer(picture: np.ndarray, light: np.ndarray, contrast: float, off: np.ndarray, camera: Curve) -> bool:
    """Whether the opposite base, under the estimated curve, comes nearer to the frame developed right than linearly."""
    right = altered(picture, np.zeros(3), light, contrast)
    wrong = altered(picture, off, light, contrast)
    base = FrameBase(ev=-off[0], mired=-off[1], duv=-off[2], curve=camera)
    apart = []
    for curved in (True, False):
        out = np.ascontiguousarray(wrong.copy())
        made = run_stages(staged(fuse(light_ops(base, curved))), out, Window(0, 0, *out.shape[:2]))
        apart.append(np.linalg.norm(to_oklab(np.clip(made, 0, 1)) - to_oklab(right), axis=-1).mean())
    return bool(apart[0] < apart[1])


def measured(library: Library, scenes: Scenes) -> dict[str, Any]:
    """By way and set of offsets: errors, what was put in, what is called sure; and how often the curve comes nearer."""
    told: dict[str, list[tuple[np.ndarray, np.ndarray, np.ndarray, str]]] = defaultdict(list)
    describing: list[float] = []
    last: list[Described] = []
    curve: list[bool] = []
    film, curves = contrasts(), curves_of(library, scenes)
    for name, rows in scenes.items():
        looked = [seen(library, row) for row in rows]
        lights = [light_of(p, film[name]) for p, _ in looked]
        for way, as_camera in WAYS.items():
            start = time.perf_counter()
            curve_known = curves[name.split(", ")[0]] if as_camera else None
            plain = [described(p, m, curve_known) for p, m in looked]
            describing.append((time.perf_counter() - start) / len(plain))
            was = judged(plain)
            for words, share in SHARES.items():
                for seed in SEEDS:
                    rng = np.random.default_rng(seed)
                    off = rng.uniform(-1, 1, (len(rows), 3)) * MOST * (rng.random(len(rows)) < share)[:, None]
                    off[0] = 0.0
                    wrong = [
                        described(altered(p, o, light if as_camera else None, film[name]), m, curve_known)
                        if o.any()
                        else d
                        for (p, m), o, d, light in zip(looked, off, plain, lights, strict=True)
                    ]
                    now = judged(wrong)
                    told[f"{way}, {words}"].append((errors(now, was, off), off, np.array([j.sure for j in now]), name))
                    if as_camera and words == "all off":
                        cases = list(zip(looked, lights, off, strict=True))[seed::4]
                        camera = curves[name.split(", ")[0]]
                        curve += [nearer(p, light, film[name], o, camera) for (p, _), light, o in cases if o.any()]
        print(f"  {name}: {len(rows)} frames", flush=True)
        last += plain
    start = time.perf_counter()
    judged((last * 2)[:LONG])
    seconds = time.perf_counter() - start
    return {"sets": told, "long_seconds": seconds, "describe_seconds": float(np.mean(describing)), "nearer": curve}


def told_of(m: dict[str, Any], one_light: bool = True) -> int:
    """Prints figures beside what they should be; returns how many are not met. Where lights are mixed, what is called
    sure has to be right all the same; how much is made even there is printed alone.
    """
    missed = 0
    for name, parts in m["sets"].items():
        err, off = np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts])
        sure, moved = np.concatenate([p[2] for p in parts]), np.abs(off).sum(1) > 0
        good = (np.abs(err[:, 0]) <= GOOD[0]) & (np.abs(err[:, 1]) <= GOOD[1])
        ratios = np.abs(err[moved]).mean(0) / np.abs(off[moved]).mean(0)
        shares = f"EV {ratios[0]:.2f}, mired {ratios[1]:.2f}, mDuv {ratios[2]:.2f}"
        print(f"{name}: mean error as a share of doing nothing: {shares}{' (at most .125)' if one_light else ''}")
        others = f"{good[~sure].mean():.2f}" if (~sure).any() else "there are none"
        least_sure = SURE[next(words for words in SHARES if name.endswith(words))]
        print(
            f"  sure {sure.mean():.2f}{f' (at least {least_sure:g})' if one_light else ''}, of these right "
            f"{good[sure].mean():.3f} (at least .97), of the others {others}"
        )
        still = ~moved & (np.abs(err[:, 0]) <= 0.08) & (np.abs(err[:, 1]) <= 4.0)
        if (~moved).any():
            stay = still.sum() / (~moved).sum()
            print(f"  right frames that stay within .08 EV and 4 mired: {stay:.3f} (at least .97)")
        by_scene: dict[str, list[bool]] = defaultdict(list)
        for p, g in zip(parts, np.split(good, np.cumsum([len(p[0]) for p in parts])[:-1]), strict=True):
            by_scene[p[3]] += list(g[p[2]])
        least = min(by_scene, key=lambda n: np.mean(by_scene[n]) if by_scene[n] else 1.0)
        worst = float(np.mean(by_scene[least])) if by_scene[least] else 1.0
        print(f"  fewest right of the sure in one scene: {worst:.2f} ({least}; at least .93)")
        missed += int(good[sure].mean() < 0.97) + int(worst < 0.93)
        missed += (int(ratios.max() > 0.125) + int(sure.mean() < least_sure)) if one_light else 0
    nearer_share = float(np.mean(m["nearer"]))
    print(
        f"a base under the estimated curve is nearer than a plain gain: {nearer_share:.2f} (at least .80)", flush=True
    )
    return missed + int(nearer_share < 0.8)


def main(words: list[str]) -> int:
    """Prints figures beside what they should be; returns how many are not met."""
    with tempfile.TemporaryDirectory() as scratch:
        library = Library(Path(words[0]) if words else Path(scratch) / "home")
        ready(library, print)
        m = measured(library, scenes_of(library))
        missed = told_of(m)
        print(f"describing {m['describe_seconds']:.2f} s a frame")
        print(f"{LONG} frames solved in {m['long_seconds']:.1f} s (at most 20)", flush=True)
        for folder, words in ((FOURTH, "in one light at each place"), (MIXED, "in several lights at each place")):
            own, scenes = unseen_shoot(Path(scratch) / folder.name, folder)
            count = sum(map(len, scenes.values()))
            print(f"{folder.name}: {count} frames, on which nothing was tuned, {words}", flush=True)
            missed += told_of(measured(own, scenes), one_light=folder is FOURTH)
    return missed + int(m["long_seconds"] > 20)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)
