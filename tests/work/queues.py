"""Work that notes what it was told, in a queue of its own."""

import os
import time
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.store import arrivals, jobs, shoots
from lenskeep.work.engines.here import Here
from lenskeep.work.runner import Runner


def work(payload):
    """Top level, so that other processes can run it: append to a file, or fail in the way that is asked for."""
    folder, frame_id, bad = payload
    if frame_id in bad.get("fails", ()):
        raise UserProblem("the file is damaged")
    if frame_id in bad.get("dies", ()):
        os._exit(9)
    with (Path(folder) / "done.txt").open("a") as handle:
        handle.write(f"{frame_id}\n")
    return frame_id


class Recorder:
    """A handler that notes what it was told."""

    def __init__(self, folder, **bad):
        self.folder, self.bad = folder, bad
        self.recorded, self.told, self.before = [], [], lambda frame_id: None
        self.finish_problem = ""

    run = staticmethod(work)

    def prepare(self, job, item):
        self.before(item.frame_id)
        return (str(self.folder), item.frame_id, self.bad)

    def record(self, job, item, result):
        self.recorded.append(result)

    def failed(self, job, item, message):
        self.told.append((item.frame_id, message))

    def finish(self, job):
        if self.finish_problem:
            raise UserProblem(self.finish_problem)
        return f"{job.done} done"


def queued(db, count):
    shoot = shoots.add_shoot(db, "A")
    for i in range(1, count + 1):
        arrivals.add_frame(
            db, shoot, file_name=f"{i}.jpg", sha256=f"{i:064d}", suffix=".jpg", size=1, width=1, height=1, taken_at=None
        )
    return jobs.add_job(db, "apply", shoot, list(range(1, count + 1)))


def run(db, handler, engine=Here):
    return Runner(db, {"apply": handler}, engine).run_until_idle()


def until(condition, seconds=20.0):
    """What a condition gives as soon as it holds; fails where it never does."""
    end = time.monotonic() + seconds
    while not (held := condition()):
        assert time.monotonic() < end, "it did not come to that"
        time.sleep(0.02)
    return held
