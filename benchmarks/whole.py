"""A whole shoot of 24 megapixels a frame, end to end: ``python -m benchmarks whole [FRAMES]`` (500 by default).

Frames are the demo's, enlarged with grain of their own, all different. What each stage takes a frame is printed beside
decoding and encoding alone by as many processes in the same run; and whether the second half takes longer.
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

from benchmarks.known import known_frames
from benchmarks.speed import HEIGHT, QUALITY, WIDTH, six_steps
from lenskeep.store import jobs, recipes
from lenskeep.studio import bring_in, looks
from lenskeep.studio import find as finding
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner

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


def _ran(library: Library, job_id: int | None) -> tuple[float, float]:
    """(seconds, how many times longer the second half of the items took than the first)."""
    assert job_id is not None
    runner, start, half = make_runner(library, PROCESSES), time.perf_counter(), 0.0
    thread = threading.Thread(target=runner.run_until_idle)
    thread.start()
    while thread.is_alive():
        job = jobs.job(library.db, job_id)
        if job and not half and job.done * 2 >= job.total:
            half = time.perf_counter() - start
        time.sleep(0.05)
    whole = time.perf_counter() - start
    job = jobs.job(library.db, job_id)
    assert job is not None and job.state == "done" and not job.failed, job
    return whole, (whole - half) / max(half, 1e-6)


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
            start = time.perf_counter()
            list(pool.map(decoded_and_encoded, paths))
            floor = (time.perf_counter() - start) / count
        library = Library(scratch / "library")
        shoot = bring_in.create_shoot(library, "Whole")
        for path in paths:
            bring_in.receive(library, shoot, Path(path), Path(path).name)
        find_s, find_growth = _ran(library, jobs.active_jobs(library.db, shoot, finding.KIND)[-1].id)
        version = recipes.save_recipe(library.db, six_steps())
        apply_s, apply_growth = _ran(library, looks.give_look(library, shoot, version.id, 1.0))
        options = deliver.DeliveryOptions(folder=str(scratch / "out"))
        out_s, out_growth = _ran(library, deliver.queue_delivery(library, shoot, options))
    finally:
        shutil.rmtree(scratch, ignore_errors=True)
    print(
        f"{count} frames of 24 megapixels on {PROCESSES} processes; decoding and encoding alone {floor:.2f} s a frame"
    )
    stages = {"finding": (find_s, find_growth), "applying": (apply_s, apply_growth), "hand-over": (out_s, out_growth)}
    for name, (seconds, growth) in stages.items():
        print(f"  {name:18s} {seconds / count:6.2f} s a frame; second half {growth:.2f} times the first")
    whole, at_hand = (find_s + apply_s + out_s) / count / floor, (apply_s + out_s) / count / floor
    print(f"  all of it {whole:.1f} times decoding and encoding (at most {WITH_FINDING:g}); with masks at hand")
    print(f"  {at_hand:.1f} times (at most {AT_HAND:g}); growth at most {GROWTH:g}")
    grown = max(find_growth, apply_growth, out_growth)
    return int(whole > WITH_FINDING) + int(at_hand > AT_HAND) + int(grown > GROWTH)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)
