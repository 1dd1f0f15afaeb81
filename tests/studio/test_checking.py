"""The check: the worst first, one deed a key, another picture is looked at again, and an honest end."""

import csv
import io
import json

import cv2
import numpy as np
import pytest
from PIL import Image
from typer.testing import CliRunner

from lenskeep.cli import app
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.masks import read_mask
from lenskeep.store import checks, evenness, frames, recipes, scenes
from lenskeep.store.evenness import Need
from lenskeep.studio import applying, checking, deeds, looks
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.queue import make_runner
from lenskeep.studio.where import stripes_over
from tests.web.conftest import Visitor
from tools.made_up import ready_shoot

STEPS = [
    {
        "id": "lift",
        "name": "Lift",
        "region": {"parts": [{"kind": "subject"}]},
        "adjustments": [{"kind": "exposure", "ev": 0.3}],
    },
    {
        "id": "burn",
        "name": "Burn",
        "region": {"parts": [{"kind": "sky"}]},
        "adjustments": [{"kind": "exposure", "ev": 3.5}],
    },
]


@pytest.fixture
def shoot(library, tmp_path):
    """Six frames, every third one doubtful, under a look that burns skies."""
    made = ready_shoot(library, tmp_path / "card", 6)
    version = recipes.save_recipe(library.db, Recipe.model_validate({"name": "Look", "steps": STEPS}))
    looks.give_look(library, made, version.id, 1.0)
    run(library)
    return made


def run(library):
    assert make_runner(library, 0).run_until_idle()


def ids(library, shoot):
    return [f.id for f in frames.summaries(library.db, shoot)]


def test_every_frame_with_a_fault_is_there_the_worst_first(library, shoot):
    found = checking.entries(library, shoot)
    assert {e.frame.id for e in found} == set(ids(library, shoot))
    weights = [round(e.weight, 3) for e in found]
    assert weights == sorted(weights, reverse=True) and weights[-1] > 0
    doubtful = {f.id for f in frames.summaries(library.db, shoot) if f.doubtful}
    assert len(doubtful) == 2 and all(e.weight > 0.15 for e in found if e.frame.id in doubtful)
    one = next(e for e in found if e.frame.id in doubtful)
    plain = [f for f in one.faults if f.kind != "doubt"]
    assert one.weight > sum(f.weight for f in plain) and {f.kind for f in one.faults} >= {"doubt", "clipped"}


def test_the_step_that_the_worst_fault_comes_from_is_to_blame(library, shoot):
    found = checking.entries(library, shoot)
    doubtful = next(e for e in found if e.frame.doubtful)
    assert {e.blamed.id for e in found if not e.frame.doubtful} == {"burn"}
    assert {s.id for s in doubtful.steps} == {"burn", "lift"}, "the doubted subject is used by the other step"


def test_accepting_is_kept_and_all_seen_is_an_end(library, shoot):
    for entry in checking.entries(library, shoot):
        checking.accept(library, entry.frame.id)
    assert checking.entries(library, shoot) == [] and checks.counts(library.db, shoot) == (0, 6)
    assert not any(f.doubtful for f in frames.summaries(library.db, shoot))
    when, how = checks.told(library.db, ids(library, shoot)[0])
    assert how == "accepted" and when.startswith("20")


def test_going_back_asks_again(library, shoot):
    first = checking.entries(library, shoot)[0].frame.id
    checking.accept(library, first)
    checking.back(library, first)
    assert checking.entries(library, shoot)[0].frame.id == first and checks.told(library.db, first) == ("", "")


def test_another_picture_is_looked_at_again(library, shoot):
    first = checking.entries(library, shoot)[-1].frame.id
    checking.accept(library, first)
    looks.change_frame(library, first, strength=0.9)
    applying.render_frame(library, first)
    assert first in {e.frame.id for e in checking.entries(library, shoot)}
    deeds.undo(library, shoot)
    assert first not in {e.frame.id for e in checking.entries(library, shoot)}, "that picture was seen"


def test_weaken_leave_out_and_another_place_change_this_frame_alone(library, shoot):
    first, other = ids(library, shoot)[:2]
    assert checking.weaken(library, first).blamed.strength == pytest.approx(0.7)
    assert checking.weaken(library, first, "burn").blamed.strength == pytest.approx(0.49)
    assert not checking.leave_out(library, first, "burn").blamed.on
    assert checking.leave_out(library, first, "burn").blamed.on
    checking.other_region(library, first, "subject", "burn")
    own = frames.frame(library.db, first).override.of_step("", "burn")
    assert own.region.parts[0].kind == "subject" and own.strength == pytest.approx(0.49)
    checking.other_region(library, first, "all but its own", "burn")
    assert frames.frame(library.db, first).override.of_step("", "burn").region.invert
    assert frames.frame(library.db, other).override.is_neutral
    for _ in range(6):
        deeds.undo(library, shoot)
    assert frames.frame(library.db, first).override.is_neutral


def test_a_step_left_out_takes_its_fault_away(library, shoot):
    first = next(e.frame.id for e in checking.entries(library, shoot) if not e.frame.doubtful)
    checking.leave_out(library, first)
    applying.render_frame(library, first)
    entry = checking.entry(library, first)
    assert not entry.frame.warned and entry.faults == ()
    assert first not in {e.frame.id for e in checking.entries(library, shoot)}


def shares(data):
    """How strongly stripes cover each pixel, 0…1."""
    return np.asarray(Image.open(io.BytesIO(data)), np.float32)[..., 3] / 255.0


def test_where_a_guard_finds_fault_is_striped_and_nowhere_else(library, shoot):
    row = frames.frame(library.db, ids(library, shoot)[0])
    there = shares(stripes_over(library, row, "clipped"))
    sky = read_mask(library.computed(row.content, row.found_by).mask("sky")) / 255.0
    sky = cv2.resize(sky, there.shape[::-1])
    assert there.shape[0] / there.shape[1] == pytest.approx(row.height / row.width, abs=0.01)
    assert there[sky > 0.9].mean() > 0.5, "the look burns skies"
    assert there[sky < 0.1].mean() < 0.02
    assert not shares(stripes_over(library, row, "crushed")).any(), "what is not at fault is not striped"


def test_stripes_follow_what_the_frame_changed_and_need_its_masks(library, shoot):
    first = ids(library, shoot)[0]
    checking.leave_out(library, first, "burn")
    row = frames.frame(library.db, first)
    assert not shares(stripes_over(library, row, "clipped")).any()
    library.computed(row.content, row.found_by).mask("sky").unlink()
    with pytest.raises(UserProblem, match="Find its masks again"):
        stripes_over(library, row, "clipped")


def test_each_fault_says_where_it_is(library, shoot):
    with Visitor(library) as visitor:
        told = visitor.get(f"/shoots/{shoot}/check.json").json()["frames"]
        doubts = [f for frame in told for f in frame["faults"] if f["kind"] == "doubt"]
        guards = [f for frame in told for f in frame["faults"] if f["kind"] == "clipped"]
        assert {f["where"].rsplit("/", 1)[1] for f in doubts} <= {"subject", "sky"} and guards
        assert all(visitor.get(f["where"]).json()["paths"] for f in doubts)
        answer = visitor.get(guards[0]["where"])
        assert answer.headers["content-type"] == "image/png" and shares(answer.content).any()
        assert visitor.get("/frames/77/where/clipped.png").status_code == 404
        assert visitor.get(f"/frames/{told[0]['id']}/where/nothing.png").status_code in (404, 422)


def test_where_no_step_is_to_blame_it_says_what_else_to_do(library, shoot):
    first = ids(library, shoot)[0]
    with library.db.writing() as write:
        write.execute("UPDATE frames SET guards = '[]' WHERE id = ?", (first,))
    with pytest.raises(UserProblem, match="No step is to blame"):
        checking.weaken(library, first)
    with pytest.raises(UserProblem, match="can work in"):
        checking.other_region(library, ids(library, shoot)[1], "the moon")
    with pytest.raises(UserProblem, match="no longer"):
        checking.accept(library, 999)


def test_a_frame_that_stands_off_from_its_scene_says_so(library, shoot):
    [scene] = scenes.shown(library.db, shoot)
    own = ids(library, shoot)
    evenness.keep(library.db, scene.id, own[0], [Need(own[1], -1.0, 0, 0, True), Need(own[0], 0, 0, 0, True)])
    assert any(f.words == "1.0 EV over beside its scene" for f in checking.entry(library, own[1]).faults)


def test_rejected_frames_need_no_eye(library, shoot):
    with library.db.writing() as write:
        write.execute("UPDATE frames SET rejected = 1 WHERE id = ?", (ids(library, shoot)[0],))
    assert len(checking.entries(library, shoot)) == 5


def test_what_was_checked_goes_into_the_hand_overs_list(library, shoot, tmp_path):
    first, second, *_ = ids(library, shoot)
    checking.accept(library, first)
    checking.weaken(library, second)
    applying.render_frame(library, second)
    checking.accept(library, second)
    deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(folder=str(tmp_path / "out")))
    run(library)
    with next((tmp_path / "out").glob("*.csv")).open(encoding="utf-8-sig") as text:
        told = [line["checked"] for line in csv.DictReader(text)]
    assert told[0].endswith("accepted") and told[1].endswith("corrected") and told[2:] == [""] * 4


def test_the_command_line_tells_what_needs_an_eye_and_why(library, shoot, monkeypatch):
    monkeypatch.setenv("LENSKEEP_HOME", str(library.home))
    told = json.loads(CliRunner().invoke(app, ["check", "Ready", "--json"]).output)
    assert told["left"] == 6 and told["seen"] == 0 and told["frames"][-1]["step"] == "Burn"
    assert all(frame["why"] for frame in told["frames"])
    checking.accept(library, ids(library, shoot)[0])
    assert "5 to look at, 1 seen." in CliRunner().invoke(app, ["check", "Ready"]).output
