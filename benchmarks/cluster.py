"""A hand-over of many large frames on this machine's processes, and the same over a cluster of as many workers here.

``python -m benchmarks cluster [FRAMES]``, 100 by default. Workers of the second cluster do not see the library: every
original travels to them, every finished file back.
"""

import shutil
import tempfile
import time
from pathlib import Path

from benchmarks.speed import found_on, six_steps
from lenskeep.core.facts import Facts
from lenskeep.files.written import sum_of
from lenskeep.store import arrivals, findings, jobs, recipes
from lenskeep.studio import bring_in, looks
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Computed, Library
from lenskeep.studio.queue import make_runner
from tools.running.cluster import Cluster, may_hide

FRAMES, MOST = 100, 1.15


def filled(folder: Path, count: int) -> tuple[Library, int]:
    """A library with so many frames of 24 megapixels, alike but for their last bytes, masks at hand."""
    found_on(folder)
    facts = Facts.model_validate_json((folder / "facts.json").read_text("utf-8"))
    model, large = Computed(folder / "computed"), (folder / "large.jpg").read_bytes()
    library = Library(folder / "home")
    shoot = bring_in.create_shoot(library, "Large")
    for number in range(count):
        draft = folder / "draft.jpg"
        draft.write_bytes(large + number.to_bytes(4, "big"))
        sha = sum_of(draft)
        original = library.original(sha, ".jpg")
        original.parent.mkdir(parents=True, exist_ok=True)
        draft.rename(original)
        frame = arrivals.add_frame(
            library.db, shoot, file_name=f"L{number:04d}.jpg", sha256=sha, suffix=".jpg", size=len(large) + 4,
            width=facts.width, height=facts.height, taken_at=None,
        )  # fmt: skip
        assert frame is not None
        own = library.computed(sha)
        shutil.copytree(model.folder, own.folder)
        for picture in (own.base, own.thumb):  # are asked for, and not read
            picture.hardlink_to(folder / "large.jpg")
        findings.keep_facts(library.db, sha, facts, frame)
    version = recipes.save_recipe(library.db, six_steps())
    looks.give_look(library, shoot, version.id, 1.0)
    for job in jobs.jobs(library.db, shoot):
        jobs.cancel(library.db, job.id)
    return library, shoot


def seconds(library: Library, shoot: int, cluster: str = "") -> float:
    """A hand-over of everything, from being queued to its last file; the workers are warm."""
    runner = make_runner(library, 2, cluster)
    runner.start()
    try:
        _handed_over(library, shoot, 4)
        return _handed_over(library, shoot)
    finally:
        runner.stop()


def _handed_over(library: Library, shoot: int, only: int | None = None) -> float:
    began = time.perf_counter()
    deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(quality=92))
    job = jobs.jobs(library.db, shoot)[0]
    while (now := jobs.job(library.db, job.id)) and now.active:
        if only and now.done >= only:
            jobs.cancel(library.db, job.id)
        time.sleep(0.02)
    assert now and (only or (now.failed, now.done) == (0, now.total)), jobs.failures(library.db, job.id)[:2]
    return time.perf_counter() - began


def main(words: list[str]) -> int:
    """Returns how many figures are over their limit."""
    count = next((int(w) for w in words if w.isdigit()), FRAMES)
    over = 0
    with tempfile.TemporaryDirectory(prefix="lenskeep-cluster-") as scratch:
        folder = Path(scratch)
        library, shoot = filled(folder, count)
        hidden = [None, library.home] if may_hide() else [None]
        before = seconds(library, shoot)
        for home in hidden:
            with Cluster(folder, home) as cluster:
                took = seconds(library, shoot, cluster.address)
            after = seconds(library, shoot)  # this machine's pace changes while it is measured
            here = (before + after) / 2
            print(
                f"  {count} frames of 24 megapixels on two processes here: {before:.1f} s, {after:.1f} s after",
                flush=True,
            )
            before = after
            ratio, where = took / here, "do not see the library" if home else "see the library"
            over += ratio > MOST
            verdict = "ok" if ratio <= MOST else "TOO MUCH"
            print(
                f"  on two workers that {where}: {took:.1f} s, {ratio:.3f} times (at most {MOST}) {verdict}", flush=True
            )
    return over
