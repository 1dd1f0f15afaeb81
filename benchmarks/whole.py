"""A whole shoot of 24 megapixels a frame, end to end: ``python -m benchmarks whole [FRAMES]`` (500 by default).

Frames are the demo's, enlarged with grain of their own, all different. What each stage takes a frame is printed beside
decoding and encoding alone by as many processes in the same run, before each stage and after the last; and whether the
second half takes longer than the first, beside how fast the machine itself was then.
"""

import shutil
import sys
import tempfile
import threading
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import imagecodecs
import numpy as np

from benchmarks.speed import HEIGHT, QUALITY, WIDTH, six_steps
from lenskeep.store import jobs, recipes
from lenskeep.studio import bring_in, looks
from lenskeep.studio import find as finding
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from tools.known import known_frames
from tools.running.stage_times import Stage

PROCESSES = 2
WITH_FINDING, AT_HAND, GROWTH = 9.0, 5.0, 1.15


def enlarged(number: int, source: str, target: str) -> str:
    """One frame of 24 megapixels with grain of its own, written as a JPEG."""
    picture = cv2.cvtColor(cv2.imread(source), cv2.COLOR_BGR2RGB)
    tall = picture.shape[0] > picture.shape[1]
    size = (HEIGHT, WIDTH) if tall else (WIDTH, HEIGHT)
    large = cv2.resize(picture, size, interpolation=cv2.INTER_CUBIC).astype(np.float32)
    grain = np.random.default_rng(number).standard_normal((size[1] // 2, size[0] // 2), np.float32) * 6.0
    large += cv2.resize(grain, size)[..., None]
    Path(target).write_bytes(imagecodecs.jpeg8_encode(np.clip(large, 0, 255).astype(np.uint8), level=QUALITY))
    return target


def decoded_and_encoded(path: str) -> int:
    """As what leaves is encoded: in the same quality, with chroma at full size."""
    pixels = imagecodecs.jpeg8_decode(Path(path).read_bytes())
    return len(imagecodecs.jpeg8_encode(pixels, level=QUALITY, subsampling="444"))


def _probed() -> float:
    """Seconds of a core for a fixed piece of work: this machine's speed changes by a third within minutes."""
    numbers = np.random.default_rng(0).random(150_000, np.float32)
    start = time.thread_time()
    np.sort(numbers)
    return time.thread_time() - start


def floor_of(paths: list[str]) -> float:
    """Seconds a frame of decoding and encoding alone, by processes that have done one frame before."""
    with ProcessPoolExecutor(PROCESSES) as pool:
        list(pool.map(decoded_and_encoded, paths[:PROCESSES]))
        start = time.perf_counter()
        list(pool.map(decoded_and_encoded, paths))
        return (time.perf_counter() - start) / len(paths)


def _ran(library: Library, name: str, job_id: int | None) -> Stage:
    assert job_id is not None
    runner, start = make_runner(library, PROCESSES), time.perf_counter()
    stage = Stage(name, 0.0, [(0.0, 0)], [])
    thread = threading.Thread(target=runner.run_until_idle)
    thread.start()
    while thread.is_alive():
        job, seconds = jobs.job(library.db, job_id), time.perf_counter() - start
        if job and job.done > stage.frames[-1][1]:
            stage.frames.append((seconds, job.done))
        if len(stage.probes) < seconds:
            stage.probes.append((seconds, _probed()))
        time.sleep(0.05)
    job = jobs.job(library.db, job_id)
    assert job is not None and job.state == "done" and not job.failed, job
    return stage._replace(whole=time.perf_counter() - start)


def told(stage: Stage, around: list[float]) -> None:
    """``around`` are the floors right before and after, since the machine's own speed drifts between the stages."""
    seconds, count = stage.frames[-1]
    quarters, (grown, slower) = ", ".join(f"{took:.2f}" for took, _ in stage.parts(4)), stage.growth()
    print(
        f"  {stage.name:10s} {stage.whole / count:5.2f} s a frame; by quarters {quarters}, then "
        f"{stage.whole - seconds:.1f} s; second half {grown:.2f} times the first, "
        f"the machine {slower:.2f} times as slow; {stage.whole / count / float(np.mean(around)):.2f} times the floors "
        f"around it"
    )


def main(words: list[str]) -> int:
    """Prints the table; returns how many figures are not met."""
    count = int(words[0]) if words else 500
    scratch = Path(tempfile.mkdtemp(prefix="lenskeep-whole-"))
    try:
        sources = [str(k.path) for k in known_frames()]
        card = scratch / "card"
        card.mkdir()
        with ProcessPoolExecutor(PROCESSES) as pool:
            jobs_of = [(n, sources[n % len(sources)], str(card / f"W_{n:04d}.jpg")) for n in range(count)]
            paths = list(pool.map(enlarged, *zip(*jobs_of, strict=True)))
        library = Library(scratch / "library")
        shoot = bring_in.create_shoot(library, "Whole")
        for path in paths:
            bring_in.receive(library, shoot, Path(path), Path(path).name)
        floors = [floor_of(paths)]
        found = _ran(library, "finding", jobs.active_jobs(library.db, shoot, finding.KIND)[-1].id)
        floors.append(floor_of(paths))
        version = recipes.save_recipe(library.db, six_steps())
        applied = _ran(library, "applying", looks.give_look(library, shoot, version.id, 1.0))
        floors.append(floor_of(paths))
        options = deliver.DeliveryOptions(folder=str(scratch / "out"))
        left = _ran(library, "hand-over", deliver.queue_delivery(library, shoot, options))
        floors.append(floor_of(paths))
    finally:
        shutil.rmtree(scratch, ignore_errors=True)
    floor = float(np.mean(floors))
    each = ", ".join(f"{one:.3f}" for one in floors)
    print(
        f"{count} frames of 24 megapixels on {PROCESSES} processes; decoding and encoding alone {floor:.3f} s a frame "
        f"(before, between and after: {each})"
    )
    stages = (found, applied, left)
    for stage, *around in zip(stages, floors, floors[1:], strict=False):
        told(stage, around)
    at_hand = (applied.whole + left.whole) / count / floor
    whole = found.whole / count / floor + at_hand
    print(f"  all of it {whole:.2f} times decoding and encoding (at most {WITH_FINDING:g}); with masks at hand")
    print(f"  {at_hand:.2f} times (at most {AT_HAND:g}); growth at most {GROWTH:g}")
    grown = max(longer / slower for longer, slower in (stage.growth() for stage in stages))
    return int(whole > WITH_FINDING) + int(at_hand > AT_HAND) + int(grown > GROWTH)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)
