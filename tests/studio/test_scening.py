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
    assert (first.name, second.name) == ("scene 1, 12:00", "scene 2, 16:00")
    ids = [f.id for f in frames.summaries(library.db, shoot)]
    assert [f.id for f in first.frames] == ids[:3] and [f.id for f in second.frames] == ids[3:]
    assert first.bursts == ((ids[0], ids[1]),) and second.bursts == ()
    assert first.key.id == ids[0] and second.key.id == ids[3], "each has a key frame of its own"


def test_what_a_frame_needs_is_told_and_nothing_is_changed(library, shoot):
    rows = frames.summaries(library.db, shoot)
    [scene] = scening.found_scenes(library, shoot)
    before = {n.frame.id: n.judged.ev for n in scening.evenness(library, scene)}
    darker(library, rows[2], 1.0)
    heard = []
    after = {n.frame.id: n.judged.ev for n in scening.evenness(library, scene, heard.append)}
    assert after[rows[2].id] - before[rows[2].id] == pytest.approx(1.0, abs=0.2)
    assert all(abs(after[r.id] - before[r.id]) < 0.15 for r in rows if r is not rows[2])
    assert scene.key.id == rows[0].id and after[rows[0].id] == 0.0
    assert heard[-1] == pytest.approx(1.0)
    assert not any(f.changed for f in frames.summaries(library.db, shoot))


def test_without_masks_and_with_too_many_frames_it_says_what_to_do(library, shoot, monkeypatch):
    empty = bring_in.create_shoot(library, "Empty")
    with pytest.raises(UserProblem, match="Find them first"):
        scening.found_scenes(library, empty)
    monkeypatch.setattr(scening, "MOST_AT_ONCE", 3)
    with pytest.raises(UserProblem, match="6 frames; at most 3"):
        scening.evenness(library, scening.found_scenes(library, shoot)[0])


def test_the_command_line_tells_scenes_and_needs_in_words_and_as_json(library, shoot, monkeypatch):
    monkeypatch.setenv("LENSKEEP_HOME", str(library.home))
    taken(library, shoot, [0, 1, 60, 4 * 3600, 4 * 3600 + 90, 4 * 3600 + 180])
    darker(library, frames.summaries(library.db, shoot)[4], 1.0)

    def run(*words, code=0):
        result = CliRunner().invoke(app, list(words))
        assert result.exit_code == code, result.output
        return result.output

    assert "scene 1, 12:00: 3 frames, IMG_000.jpg to IMG_002.jpg, bursts of 2" in run("scenes", "Ready")
    told = json.loads(run("scenes", "Ready", "--json"))
    assert [len(s["frames"]) for s in told] == [3, 3] and told[0]["bursts"] == [["IMG_000.jpg", "IMG_001.jpg"]]
    words = run("even", "Ready", "--scene", "2")
    assert words.count("the others are held to this one") == 1 and " EV, " in words
    [second] = json.loads(run("even", "Ready", "--scene", "2", "--json"))
    assert [n["frame"] for n in second["needs"] if n["held_to"]] == ["IMG_003.jpg"]
    [dark] = [n for n in second["needs"] if n["frame"] == "IMG_004.jpg"]
    assert dark["ev"] == pytest.approx(1.0, abs=0.3) and set(dark["left_over"]) == {"ev", "mired", "duv"}
    assert "has 2 scenes" in run("even", "Ready", "--scene", "9", code=1)
    assert "no shoot" in run("scenes", "Nothing", code=1)
