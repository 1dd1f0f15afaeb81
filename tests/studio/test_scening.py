"""Scenes and evenness of a shoot in the library, and what the command line tells of them."""

import json

import numpy as np
import pytest
from typer.testing import CliRunner

from lenskeep.cli import app
from lenskeep.core.problems import UserProblem
from lenskeep.files.working import read_working, working_bytes
from lenskeep.files.written import write_whole
from lenskeep.store import frames
from lenskeep.studio import bring_in, placing, scening
from tools.made_up import ready_shoot

COUNT = 6


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", COUNT, 400, 600)


def taken(library, shoot, seconds):
    """Give the frames other times, in seconds after noon, and put them into scenes by these."""
    rows = frames.summaries(library.db, shoot)
    with library.db.writing() as write:
        for row, s in zip(rows, seconds, strict=True):
            stamp = f"2026-09-12T{12 + s // 3600:02d}:{s % 3600 // 60:02d}:{s % 60:02d}"
            write.execute("UPDATE frames SET taken_at = ?, place = ? WHERE id = ?", (stamp, stamp, row.id))
    placing.place(library, shoot)


def darker(library, row, stops):
    working = library.computed(row.content, row.found_by).working
    write_whole(working, working_bytes((read_working(working) * np.float32(2.0**-stops)).astype(np.float32)))


def test_a_shoot_is_cut_at_its_long_pause_and_a_burst_is_told(library, shoot):
    taken(library, shoot, [0, 1, 60, 4 * 3600, 4 * 3600 + 90, 4 * 3600 + 180])
    first, second = scening.found_scenes(library, shoot)
    assert (first.scene.name, second.scene.name) == ("scene 1, 12:00", "scene 2, 16:00")
    ids = [f.id for f in frames.summaries(library.db, shoot)]
    assert [f.id for f in first.frames] == ids[:3] and [f.id for f in second.frames] == ids[3:]
    assert first.bursts == ((ids[0], ids[1]),) and second.bursts == ()
    assert first.key.id == ids[0] and second.key.id == ids[3], "each has a key frame of its own"


def test_without_masks_it_says_what_to_do(library):
    empty = bring_in.create_shoot(library, "Empty")
    with pytest.raises(UserProblem, match="Find them first"):
        scening.found_scenes(library, empty)


def test_the_command_line_measures_tells_and_accepts(library, shoot, monkeypatch):
    monkeypatch.setenv("LENSKEEP_HOME", str(library.home))
    monkeypatch.setenv("LENSKEEP_WORKERS", "0")
    taken(library, shoot, [0, 1, 60, 4 * 3600, 4 * 3600 + 90, 4 * 3600 + 180])
    darker(library, frames.summaries(library.db, shoot)[4], 1.0)

    def run(*words, code=0):
        result = CliRunner().invoke(app, list(words))
        assert result.exit_code == code, result.output
        return result.output

    assert "scene 1, 12:00: 3 frames, IMG_000.jpg to IMG_002.jpg, bursts of 2" in run("scenes", "Ready")
    told = json.loads(run("scenes", "Ready", "--json"))
    assert [len(s["frames"]) for s in told] == [3, 3] and told[0]["bursts"] == [["IMG_000.jpg", "IMG_001.jpg"]]
    [second] = json.loads(run("even", "Ready", "--scene", "2", "--json"))
    assert [n["frame"] for n in second["needs"] if n["held_to"]] == ["IMG_003.jpg"]
    [dark] = [n for n in second["needs"] if n["frame"] == "IMG_004.jpg"]
    assert dark["needs"]["ev"] > 0.5 and "under" in dark["words"] and dark["proposed"]["ev"] > 0.5
    words = run("even", "Ready", "--scene", "2")
    assert words.count("the others are held to this one") == 1 and "under" in words
    assert not any(f.changed for f in frames.summaries(library.db, shoot)), "telling changes nothing"
    run("even", "Ready", "--scene", "2", "--accept")
    changed = [f.file_name for f in frames.summaries(library.db, shoot) if f.changed]
    assert changed == [n["frame"] for n in second["needs"] if n["ticked"]]
    assert "has 2 scenes" in run("even", "Ready", "--scene", "9", code=1)
    assert "no shoot" in run("scenes", "Nothing", code=1)
