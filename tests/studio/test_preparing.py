"""A machine is prepared once: every kernel compiled beside the start, and what needs them waits."""

import subprocess
import sys
import threading
import time

import pytest
from starlette.testclient import TestClient

from lenskeep.store import frames, jobs
from lenskeep.studio import bring_in, find, preparing
from lenskeep.studio.preparing import Preparation
from lenskeep.studio.warm import PORTIONS
from lenskeep.web.app import create_app
from tools.made_up import write_photo

NEVER_LOADED = """
from lenskeep.core.jit import kernels_of
from lenskeep.studio.warm import PORTIONS
for portion in PORTIONS:
    portion()

def known():
    return {f"{one.py_func.__name__}{sig}" for one in kernels_of("lenskeep") for sig in one.signatures}

before = known()
from lenskeep.core.plan import make_plan
from lenskeep.core.render import compile_plan, render
from lenskeep.studio.book.starters import starters
from tools.made_up import found_on_demo
frame = found_on_demo("DUN_0310.jpg")
for each in starters()[::6]:
    render(compile_plan(make_plan(each), frame), lambda a, b: frame.proxy[a:b].copy(), *frame.proxy.shape[:2])
print("\\n".join(sorted(known() - before)))
"""


def test_finding_and_rendering_need_no_kernel_that_was_not_compiled():
    done = subprocess.run([sys.executable, "-c", NEVER_LOADED], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert done.stdout.strip() == ""


@pytest.fixture
def unprepared(tmp_path, monkeypatch):
    """A machine on which nothing says that anything was compiled; returns what would say so."""
    monkeypatch.setattr(preparing, "_mark", lambda: tmp_path / "prepared")
    monkeypatch.setattr(preparing, "_forget", (tmp_path / "forgotten").touch)
    return tmp_path / "prepared"


def test_it_says_how_far_it_is_and_is_done_once(unprepared):
    told, again = [], []
    first, second = Preparation(), Preparation()
    assert first.words == f"Preparing this machine, once: 0 of {len(PORTIONS)}."
    first.run(told.append)
    assert [words.split(": ")[1] for words in told] == [f"{n} of {len(PORTIONS)}." for n in range(len(PORTIONS) + 1)]
    assert (first.words, first.over.is_set(), unprepared.is_file()) == ("", True, True)
    assert unprepared.with_name("forgotten").exists()  # kernels of other sources are not in the way
    second.run(again.append)
    assert (again, second.over.is_set()) == ([], True)


def test_what_can_not_be_compiled_beforehand_holds_nobody_up(unprepared, monkeypatch):
    def refused(self, say):
        raise OSError("no room")

    monkeypatch.setattr(Preparation, "_compile", refused)
    mine = Preparation()
    mine.run()
    assert mine.over.is_set()
    assert not unprepared.exists()  # it is tried again at the next start


def test_other_sources_are_compiled_anew_and_nothing_else_is_thrown_away(tmp_path, monkeypatch):
    source, how, other = tmp_path / "engine" / "a.py", tmp_path / "jit.py", tmp_path / "plain.py"
    source.parent.mkdir()
    for path in (source, how, other):
        path.write_text("x = 1")
    monkeypatch.setattr(preparing, "ROOT", tmp_path)
    first = preparing._mark()
    other.write_text("x = 23")
    assert preparing._mark() == first  # nothing of it is in a kernel
    source.write_text("x = 23")
    second = preparing._mark()
    how.write_text("x = 23")
    assert len({first, second, preparing._mark()}) == 3

    kept = tmp_path / "kept"
    kept.mkdir()
    for name in ("a.nbi", "a.1.nbc", f"{preparing.MARK}0", "a.cpython-311.pyc"):
        (kept / name).touch()
    monkeypatch.setattr(preparing, "_folder", lambda _: kept)
    preparing._forget()
    assert [path.name for path in kept.iterdir()] == ["a.cpython-311.pyc"]


def test_the_queue_waits_until_the_machine_is_prepared_and_the_pages_say_so(library, tmp_path, monkeypatch):
    begun = threading.Event()
    monkeypatch.setattr(find.Finding, "prepare", lambda *_: begun.set())
    shoot = bring_in.create_shoot(library, "First")
    bring_in.receive(library, shoot, write_photo(tmp_path / "a.jpg"), "a.jpg")
    preparation = Preparation()
    app = create_app(library, workers=0, preparation=preparation)
    with TestClient(app, base_url="http://127.0.0.1:8431") as visitor:
        time.sleep(1.0)  # two looks of the queue
        assert not begun.is_set()
        assert "Preparing this machine, once: 0 of" in visitor.get("/cards").text
        assert "Preparing this machine" in visitor.get(f"/shoots/{shoot}").text
        preparation.over.set()
        assert begun.wait(10)
        assert "Preparing" not in visitor.get("/cards").text
    assert len(frames.summaries(library.db, shoot)) == len(jobs.jobs(library.db)) == 1
