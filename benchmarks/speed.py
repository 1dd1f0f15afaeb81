"""A 24-megapixel frame through six masked steps, from JPEG to JPEG, against decoding and encoding the same file.

Run as a module it prints one JSON line; ``measured`` starts that in a fresh process, so that peak memory is its own.
"""

import json
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from importlib.resources import as_file, files
from pathlib import Path

import cv2
import imagecodecs
import numpy as np

from benchmarks import finding
from lenskeep.core.facts import Facts
from lenskeep.core.plan import make_plan
from lenskeep.core.recipe import Recipe
from lenskeep.files.photo import read_photo
from lenskeep.studio import tasks
from lenskeep.studio.library import Computed

WIDTH, HEIGHT, QUALITY = 6000, 4000, 92


def six_steps() -> Recipe:
    """Six masked steps, two of them with detail or haze."""

    def step(name: str, parts: list[dict[str, object]], *adjustments: dict[str, object]) -> dict[str, object]:
        return {"id": name, "name": name, "region": {"parts": parts}, "adjustments": list(adjustments)}

    subject, background, sky = ({"kind": kind} for kind in ("subject", "background", "sky"))
    ramp, pool = {"kind": "ramp", "anchor": "skyline"}, {"kind": "pool", "anchor": "subject"}
    steps = [
        step("lift", [subject], {"kind": "exposure", "ev": 0.5}, {"kind": "warmth", "mired": 8}),
        step("fur", [subject], {"kind": "medium_detail", "detail": 40}),
        step("quiet", [background], {"kind": "saturation", "saturation": -25}, {"kind": "exposure", "ev": -0.4}),
        step("air", [background, ramp | {"combine": "only within"}], {"kind": "haze", "haze": 25}),
        step("sky", [sky], {"kind": "highlights", "highlights": -40}, {"kind": "contrast", "contrast": 10}),
        step("pool", [pool], {"kind": "shadows", "shadows": 25}),
    ]
    return Recipe.model_validate({"name": "Six steps", "steps": steps})


def large_jpeg(path: Path) -> None:
    """A demo frame brought to 24 megapixels with grain, so that the file is as heavy as a camera's."""
    with as_file(files("lenskeep.demo") / "ferry-dogs" / "LKD_0201.jpg") as source:
        small = cv2.imread(str(source))
    large = cv2.resize(small, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC)
    grain = np.random.default_rng(1).normal(0, 4, (HEIGHT // 2, WIDTH // 2)).astype(np.float32)
    grain = cv2.resize(grain, (WIDTH, HEIGHT))[..., None]
    noisy = np.clip(large + grain, 0, 255).astype(np.uint8)
    path.write_bytes(imagecodecs.jpeg8_encode(np.ascontiguousarray(noisy[..., ::-1]), QUALITY, subsampling="444"))


def median_seconds(call: Callable[[], object], times: int) -> float:
    spent = []
    for _ in range(times):
        start = time.perf_counter()
        call()
        spent.append(time.perf_counter() - start)
    return statistics.median(spent)


def floor(data: bytes) -> None:
    """Decode and encode by libjpeg-turbo alone."""
    imagecodecs.jpeg8_encode(imagecodecs.jpeg8_decode(data), QUALITY, subsampling="444")


def deliver(folder: Path) -> None:
    """Print seconds and ratio of a delivery with masks at hand, seconds for the masks, and peak memory."""
    original, computed = folder / "large.jpg", Computed(folder / "computed")
    data = original.read_bytes()
    found = finding.measured(original, computed)
    facts = Facts.model_validate_json(found.pop("facts"))
    plan = make_plan(six_steps())

    def once() -> None:
        picture = read_photo(original)
        pixels = tasks.finished_pixels(picture, computed, facts, plan, None, threads=2)
        (folder / "out.jpg").write_bytes(tasks.jpeg_bytes(pixels, QUALITY, picture.exif))

    once()  # the first call loads the compiled kernels
    before, whole, after = (median_seconds(call, 3) for call in (lambda: floor(data), once, lambda: floor(data)))
    print(
        json.dumps(
            {
                "megapixels": WIDTH * HEIGHT / 1e6,
                "megabytes": len(data) / 1e6,
                "floor_seconds": (before + after) / 2,
                "seconds": whole,
                "ratio": whole / ((before + after) / 2),
                **found,
                "peak_gigabytes": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6,
            }
        )
    )


def measured() -> dict[str, float]:
    with tempfile.TemporaryDirectory() as scratch:
        large_jpeg(Path(scratch) / "large.jpg")
        command = [sys.executable, "-m", "benchmarks.speed", scratch]
        done = subprocess.run(command, check=True, capture_output=True, text=True)
    result: dict[str, float] = json.loads(done.stdout.strip().splitlines()[-1])
    return result


if __name__ == "__main__":
    deliver(Path(sys.argv[1]))
