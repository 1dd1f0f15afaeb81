"""Kills of the queue's runner while it works on quick items: many, since each costs a fraction of a second."""

import os
import random
import signal
import tempfile
import time
from contextlib import suppress
from pathlib import Path

from lenskeep.files.written import write_whole
from lenskeep.store import health, jobs, shoots
from lenskeep.studio.library import Library
from lenskeep.work.engines.here import Here
from lenskeep.work.runner import Runner
from tools.running.kill_table import Table


class Quick:
    """A handler whose items write a file and note that they did."""

    def __init__(self, library: Library) -> None:
        self.library = library

    run = staticmethod(lambda payload: _write(*payload))

    def prepare(self, job: jobs.Job, item: jobs.Item) -> tuple[Path, int]:
        return self.library.home / "made", item.id

    def record(self, job: jobs.Job, item: jobs.Item, result: int) -> None:
        with self.library.db.writing() as write:
            write.execute(
                "INSERT INTO refusals (shoot_id, file_name, reason, at) VALUES (1, ?, '', '')", (str(result),)
            )

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        raise AssertionError(message)

    def finish(self, job: jobs.Job) -> str:
        return "done"


def _write(folder: Path, number: int) -> int:
    write_whole(folder / f"{number}.txt", b"x" * 2000)
    return number


def _work(home: Path) -> None:
    """In a process of its own: work until killed."""
    library = Library(home)
    Runner(library.db, {"quick": Quick(library)}, Here).run_until_idle()


def runner_kills(count: int, seed: int, table: Table, items: int = 400) -> None:
    chance = random.Random(seed + 1)
    done = 0
    while done < count:
        with tempfile.TemporaryDirectory() as scratch:
            home = Path(scratch)
            pid = os.fork()
            if pid == 0:
                _prepare(home, items)
                os._exit(0)
            os.waitpid(pid, 0)
            while done < count:
                pid = os.fork()
                if pid == 0:
                    with suppress(BaseException):
                        _work(home)
                    os._exit(0)
                time.sleep(chance.uniform(0.0, 0.12))
                os.kill(pid, signal.SIGKILL)
                os.waitpid(pid, 0)
                done += 1
                table.kills["the runner, quick items"] += 1
                if _checked(home, items, f"the runner, kill {done}", table):
                    break
            _to_the_end(home, items, table)
        print(f"  {done} of {count} runner kills, {len(table.faults)} faults", flush=True)


def _prepare(home: Path, items: int) -> None:
    library = Library(home)
    shoots.add_shoot(library.db, "Quick")
    jobs.add_job(library.db, "quick", 1, [None] * items)


def _checked(home: Path, items: int, when: str, table: Table) -> bool:
    """Look at the database after a kill, in a process of its own; True when all is done."""
    read, write = os.pipe()
    pid = os.fork()
    if pid == 0:
        out = Table()
        library = Library(home)
        for words in health.faults(library.db):
            out.faults.append(words)
        [job] = jobs.jobs(library.db)
        noted = [r[0] for r in library.db.reader.execute("SELECT file_name FROM refusals")]
        if len(noted) != len(set(noted)) or len(noted) != job.done:
            out.faults.append(f"{job.done} items are done and {len(set(noted))} of {len(noted)} noted")
        if job.failed or job.total != items:
            out.faults.append(f"{job.failed} failed, {job.total} of {items} there")
        if any(not (home / "made" / f"{n}.txt").is_file() for n in noted):
            out.faults.append("a file that was written down is not there")
        os.write(write, "\n".join([str(int(job.state == "done")), *out.faults]).encode()[:60_000])
        os._exit(0)
    os.close(write)
    with os.fdopen(read) as answers:
        finished, *faults = answers.read().split("\n")
    os.waitpid(pid, 0)
    for words in faults:
        table.fault(when, words)
    return finished == "1"


def _to_the_end(home: Path, items: int, table: Table) -> None:
    pid = os.fork()
    if pid == 0:
        with suppress(BaseException):
            _work(home)
        os._exit(0)
    os.waitpid(pid, 0)
    if not _checked(home, items, "the runner, at its end", table):
        table.fault("the runner, at its end", "the job did not end by itself")
