"""A large frame through masked steps, from JPEG to JPEG, against decoding and encoding the same file.

Run as a module with a folder and what to measure it prints one JSON line; ``measured`` starts each measurement in a
fresh process, so that peak memory is its own.
"""

import json
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from importlib.resources import as_file, files
from pathlib import Path
from typing import Any

import cv2
import imagecodecs
import numpy as np

from benchmarks import finding, plain
from benchmarks.finding import seconds
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.facts import Facts
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.reading.photo import read_photo
from lenskeep.files.writing.jpeg import jpeg_bytes
from lenskeep.files.written import sum_of
from lenskeep.studio.library import Computed
from lenskeep.studio.tasks.deliver import DeliverTask, deliver_frame, finished_pixels
from lenskeep.studio.tasks.frame_files import files_of
from lenskeep.work.engines.carried import InFile, OutFolder

WIDTH, HEIGHT, QUALITY = 6000, 4000, 92
LARGER = (8200, 5467)
"""About 45 megapixels."""
BATCH = 10


def six_steps() -> Recipe:
    """Six masked steps, two of them with wide filters and one more each in sky and pool."""

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


def twelve_steps() -> Recipe:
    """The six steps, and the same again."""
    steps = six_steps().model_dump(mode="json")["steps"]
    again = [step | {"id": f"{step['id']}2", "strength": 0.5} for step in steps]
    return Recipe.model_validate({"name": "Twelve steps", "steps": steps + again})


def large_jpeg(path: Path, width: int = WIDTH, height: int = HEIGHT) -> None:
    """A demo frame enlarged, with grain, so that the file is as heavy as a camera's."""
    with as_file(files("lenskeep.demo") / "ferry-dogs" / "LKD_0201.jpg") as source:
        small = cv2.imread(str(source))
    large = cv2.resize(small, (width, height), interpolation=cv2.INTER_CUBIC)
    grain = np.random.default_rng(1).normal(0, 4, (height // 2, width // 2)).astype(np.float32)
    grain = cv2.resize(grain, (width, height))[..., None]
    noisy = np.clip(large + grain, 0, 255).astype(np.uint8)
    path.write_bytes(imagecodecs.jpeg8_encode(np.ascontiguousarray(noisy[..., ::-1]), QUALITY, subsampling="444"))


def floor(data: bytes) -> None:
    """Decode and encode by libjpeg-turbo alone."""
    imagecodecs.jpeg8_encode(imagecodecs.jpeg8_decode(data), QUALITY, subsampling="444")


def deliver(original: Path, computed: Computed, facts: Facts, recipe: Recipe, threads: int) -> None:
    """One delivery with masks at hand, as the application does it."""
    picture = read_photo(original)
    frame = files_of(computed, "bench", facts, {}).ready(picture.reduced(PROXY_SIDE))
    pixels = finished_pixels(picture, frame, make_plan(recipe), None, threads=threads)
    target = original.with_suffix(".out.jpg")
    target.write_bytes(jpeg_bytes(pixels, QUALITY, picture.exif))


def against_floor(original: Path, computed: Computed, facts: Facts, recipe: Recipe) -> dict[str, Any]:
    data = original.read_bytes()
    before, _ = seconds(lambda: floor(data))
    whole, _ = seconds(lambda: deliver(original, computed, facts, recipe, 2))
    after, _ = seconds(lambda: floor(data))
    base = (before + after) / 2
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    return {"floor_seconds": base, "seconds": whole, "ratio": whole / base, "peak_gigabytes": peak}


def one_of_batch(folder: str) -> None:
    original, computed, facts = at_hand(Path(folder), "large.jpg")
    deliver(original, computed, facts, six_steps(), 1)


def batch(folder: Path) -> dict[str, Any]:
    """Ten frames one after another on one core, and by two processes."""

    def timed(workers: int) -> float:
        with ProcessPoolExecutor(workers) as pool:
            list(pool.map(one_of_batch, [str(folder)] * workers))  # kernels loaded
            start = time.perf_counter()
            list(pool.map(one_of_batch, [str(folder)] * BATCH))
            return time.perf_counter() - start

    one, two = timed(1), timed(2)
    return {"one_seconds": one, "two_seconds": two, "gain": one / two}


def written_plainly(original: Path, computed: Computed, facts: Facts) -> dict[str, Any]:
    found = files_of(computed, "bench", facts, {}).ready(read_photo(original).reduced(PROXY_SIDE)).found
    subject, sky, b = found.mask("subject"), found.mask("sky"), facts.subject_box
    around = ((b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2, b.width, b.height) if b else (0.5, 0.5, 0.3, 0.3)
    line = facts.skyline.left if facts.skyline else 0.4
    data = original.read_bytes()
    spent, _ = seconds(lambda: plain.six_steps(data, subject, sky, line, around), 1)
    return {"seconds": spent}


def in_form(original: Path, computed: Computed, facts: Facts, form: str) -> dict[str, Any]:
    """One hand-over of six steps in another form, by the task that a hand-over runs."""
    out = OutFolder(original.parent / "out")
    files, plan = files_of(computed, "bench", facts, {}), make_plan(six_steps())
    task = DeliverTask(
        InFile(original), original.name, sum_of(original), "", files, plan, out, "out", QUALITY, None, form=form
    )
    spent, _ = seconds(lambda: deliver_frame(task), 1)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    size = (original.parent / "out" / "out").stat().st_size / 1e6
    return {"seconds": spent, "peak_gigabytes": peak, "megabytes": size}


def at_hand(folder: Path, name: str) -> tuple[Path, Computed, Facts]:
    facts = Facts.model_validate_json((folder / "facts.json").read_text())
    return folder / name, Computed(folder / "computed"), facts


WHAT: dict[str, Callable[[Path], dict[str, Any]]] = {
    "six": lambda f: against_floor(*at_hand(f, "large.jpg"), six_steps()),
    "twelve": lambda f: against_floor(*at_hand(f, "large.jpg"), twelve_steps()),
    "larger": lambda f: against_floor(*at_hand(f, "larger.jpg"), six_steps()),
    "batch": batch,
    "tiff16": lambda f: in_form(*at_hand(f, "large.jpg"), "tiff16"),
    "openraster": lambda f: in_form(*at_hand(f, "large.jpg"), "openraster"),
    "plain": lambda f: written_plainly(*at_hand(f, "large.jpg")),
}


def found_on(folder: Path) -> dict[str, Any]:
    large_jpeg(folder / "large.jpg")
    large_jpeg(folder / "larger.jpg", *LARGER)
    found = finding.measured(folder / "large.jpg", Computed(folder / "computed"))
    (folder / "facts.json").write_text(found.pop("facts"))
    return found


def measured() -> dict[str, dict[str, Any]]:
    """Every measurement by name; "find" is finding."""
    out: dict[str, dict[str, Any]] = {}
    with tempfile.TemporaryDirectory() as scratch:
        for what in ("find", *WHAT):
            command = [sys.executable, "-m", "benchmarks.speed", scratch, what]
            done = subprocess.run(command, check=True, capture_output=True, text=True)
            out[what] = json.loads(done.stdout.strip().splitlines()[-1])
    return out


if __name__ == "__main__":
    folder, what = Path(sys.argv[1]), sys.argv[2]
    print(json.dumps(found_on(folder) if what == "find" else WHAT[what](folder)))
