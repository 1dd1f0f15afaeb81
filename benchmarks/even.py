"""Evening a scene on the demo: ``python -m benchmarks even [LIBRARY]``.

Frames are put off by known amounts (exposure, warmth, tint; linear, clipped at white), a third of them or every one,
and judged against the scene's first frame. The error is what the judgement moves by beside what was put in, so the
demo's own differences in development do not count. Masks are those that the finders find on the frames as they came.
"""

import sys
import tempfile
import time
from collections import defaultdict
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.known import known_frames
from lenskeep.core.colour.adapt import balance_matrix
from lenskeep.core.even.described import PARTS, Described, described
from lenskeep.core.even.judged import Judged, judged
from lenskeep.demo.seed import ready
from lenskeep.files.masks import read_mask
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import frames, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.studio.library import Library

SIDE = 768
MOST = np.array((1.5, 40.0, 12.0))
SHARES = {"a third off": 0.35, "all off": 1.0}
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


def measured(library: Library) -> dict[str, Any]:
    """By set of offsets: mean error and mean of what was put in, share called sure, share of these that are right."""
    told: dict[str, list[tuple[np.ndarray, np.ndarray, np.ndarray]]] = defaultdict(list)
    describing: list[float] = []
    last: list[Described] = []
    for name, rows in scenes_of(library).items():
        looked = [seen(library, row) for row in rows]
        start = time.perf_counter()
        plain = [described(*one) for one in looked]
        describing.append((time.perf_counter() - start) / len(plain))
        was = judged(plain)
        for words, share in SHARES.items():
            for seed in SEEDS:
                rng = np.random.default_rng(seed)
                off = rng.uniform(-1, 1, (len(rows), 3)) * MOST * (rng.random(len(rows)) < share)[:, None]
                off[0] = 0.0
                altered = [
                    described(np.clip(p @ balance_matrix(*o).T.astype(np.float32), 0, 1).astype(np.float32), m)
                    if o.any()
                    else d
                    for (p, m), o, d in zip(looked, off, plain, strict=True)
                ]
                now = judged(altered)
                told[words].append((errors(now, was, off), off, np.array([j.sure for j in now])))
        print(f"  {name}: {len(rows)} frames", flush=True)
        last += plain
    start = time.perf_counter()
    judged((last * 2)[:LONG])
    return {"sets": told, "long_seconds": time.perf_counter() - start, "describe_seconds": float(np.mean(describing))}


def main(words: list[str]) -> int:
    """Prints figures beside what they should be; returns how many are not met."""
    missed = 0
    with tempfile.TemporaryDirectory() as scratch:
        library = Library(Path(words[0]) if words else Path(scratch) / "home")
        ready(library, print)
        m = measured(library)
    for name, parts in m["sets"].items():
        err, off = np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts])
        sure, moved = np.concatenate([p[2] for p in parts]), np.abs(off).sum(1) > 0
        good = (np.abs(err[:, 0]) <= GOOD[0]) & (np.abs(err[:, 1]) <= GOOD[1])
        ratios = np.abs(err[moved]).mean(0) / np.abs(off[moved]).mean(0)
        shares = f"EV {ratios[0]:.2f}, mired {ratios[1]:.2f}, mDuv {ratios[2]:.2f}"
        print(f"{name}: mean error as a share of doing nothing: {shares} (at most .125)")
        print(
            f"  sure {sure.mean():.2f}, of these right {good[sure].mean():.3f}, of the others {good[~sure].mean():.2f}"
        )
        still = ~moved & (np.abs(err[:, 0]) <= 0.08) & (np.abs(err[:, 1]) <= 4.0)
        if (~moved).any():
            print(f"  right frames that stay within .08 EV and 4 mired: {still.sum() / (~moved).sum():.3f}")
        missed += int(ratios.max() > 0.125) + int(good[sure].mean() < 0.97)
    print(f"describing {m['describe_seconds']:.2f} s a frame")
    print(f"{LONG} frames solved in {m['long_seconds']:.1f} s (at most 20)")
    return missed + int(m["long_seconds"] > 20)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)
