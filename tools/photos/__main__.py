"""Make the demo's photographs. ``python -m tools.photos SHOOT RENDERS`` renders what is missing and develops the shoot.

SHOOT is ferry, dunes, studio, unseen, unseen_again, passing, festival or hands, or woods, which are only rendered, to
learn from; RENDERS a folder for linear renders (of 12 MB each), kept so that exposure, colour and framing can be
changed without rendering again. ``--only SHOT,SHOT`` renders those alone, ``--develop`` renders nothing.
"""

import argparse
import importlib
import subprocess
import sys
import time
from pathlib import Path

from tools.photos import shoots

TRIES = 3


def trace_one(name, shot, path, samples):
    """Render one shot in this process."""
    from tools.photos import tracer

    scene = importlib.import_module(f"tools.photos.scenes.{name}").build(shot)
    shoots.save_render(path, tracer.traced(scene, samples), scene.camera.horizon())


def render(name, renders, only, samples):
    """Render each missing shot in a process of its own; a crash is tried again."""
    wanted = list(dict.fromkeys(frame["shot"] for frame in shoots.read(name)["frames"]))
    for shot in only or wanted:
        path = renders / f"{name}-{shot}.npz"
        if path.exists():
            continue
        for attempt in range(TRIES):
            started = time.time()
            words = [
                sys.executable,
                "-m",
                "tools.photos",
                name,
                str(renders),
                "--trace",
                shot,
                "--samples",
                str(samples),
            ]
            code = subprocess.run(words, cwd=shoots.ROOT, check=False).returncode
            print(
                f"{name} {shot}: {'done' if code == 0 else f'failed ({code})'} in {time.time() - started:.0f} s",
                flush=True,
            )
            if code == 0:
                break
            if attempt == TRIES - 1:
                print(f"{name} {shot}: given up after {TRIES} tries", flush=True)


def main():
    parser = argparse.ArgumentParser(prog="python -m tools.photos", description=__doc__)
    parser.add_argument("shoot", choices=("ferry", "dunes", "studio", *shoots.FOR_BENCHMARKS, *shoots.TO_LEARN_FROM))
    parser.add_argument("renders", type=Path)
    parser.add_argument("--only", help="shots to render, separated by commas")
    parser.add_argument("--samples", type=int, default=8)
    parser.add_argument("--develop", action="store_true")
    parser.add_argument("--trace", help=argparse.SUPPRESS)
    words = parser.parse_args()
    words.renders.mkdir(parents=True, exist_ok=True)
    if words.trace:
        trace_one(words.shoot, words.trace, words.renders / f"{words.shoot}-{words.trace}.npz", words.samples)
        return
    if not words.develop:
        render(words.shoot, words.renders, words.only.split(",") if words.only else None, words.samples)
    if not words.only and words.shoot not in shoots.TO_LEARN_FROM:
        shoots.develop(words.shoot, words.renders)


if __name__ == "__main__":
    main()
