"""The dust of a shoot: looked for as a job, confirmed once for its camera, healed where it is seen, taken back."""

import shutil

import cv2
import numpy as np
import pytest
from PIL import Image

from lenskeep.core.clean.dust import log_light, seen_at
from lenskeep.core.problems import UserProblem
from lenskeep.files.working import read_working
from lenskeep.store import dust, frames, jobs
from lenskeep.studio import bring_in, cleaned, deeds, dusting
from lenskeep.studio.bench.stage import Stage
from tests.studio.doing import DUSTY, DUSTY_NAMES, asked, run
from tools.made_up import ready_shoot

TRUE = ((0.213, 0.178), (0.607, 0.092), (0.842, 0.317), (0.389, 0.283), (0.118, 0.556))


@pytest.fixture(scope="module")
def searched(tmp_path_factory):
    """A library with five frames of the studio, searched for dust; copied for each test."""
    from lenskeep.studio.library import Library

    library = Library(tmp_path_factory.mktemp("dust") / "library")
    shoot = bring_in.create_shoot(library, "Studio")
    for name in DUSTY_NAMES:
        bring_in.receive(library, shoot, DUSTY / f"{name}.jpg", f"{name}.jpg")
    run(library)
    dusting.queue_search(library, shoot)
    run(library)
    return library.home, shoot


@pytest.fixture
def studio(searched, tmp_path):
    from lenskeep.studio.library import Library

    home, shoot = searched
    shutil.copytree(home, tmp_path / "own")
    return Library(tmp_path / "own"), shoot


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def confirm(library, shoot):
    dust.set_state(library.db, [d.id for d in dusting.of_shoot(library, shoot)], "confirmed")


def test_the_true_specks_are_found_with_the_frames_that_show_them(studio):
    library, shoot = studio
    found = dusting.of_shoot(library, shoot)
    assert len(found) == len(TRUE) and {d.camera for d in found} == {"Madeup Optics Madeup M2"}
    for x, y in TRUE:
        assert min(np.hypot((d.x - x) * 1600, (d.y - y) * 1067) for d in found) < 3
    assert all(d.state == "found" and set(d.shows) <= {f.id for f in rows(library, shoot)} for d in found)
    picture = dusting.crop(library, rows(library, shoot)[0], found[0].id)
    assert picture[:2] == b"\xff\xd8"
    with pytest.raises(UserProblem, match="no longer known"):
        dusting.crop(library, rows(library, shoot)[0], 999)


def test_nothing_is_healed_before_it_is_confirmed_and_what_is_dropped_stays_dropped(studio):
    library, shoot = studio
    with pytest.raises(UserProblem, match="Confirm first"):
        dusting.queue_heal(library, shoot)
    first = dusting.of_shoot(library, shoot)[0]
    dust.set_state(library.db, [first.id], "dropped")
    dusting.queue_search(library, shoot)
    run(library)
    assert (
        first.id not in [d.id for d in dusting.of_shoot(library, shoot)] and len(dusting.of_shoot(library, shoot)) == 4
    )


def test_confirmed_dust_goes_from_every_frame_that_shows_it_as_one_deed(studio):
    library, shoot = studio
    confirm(library, shoot)
    job = dusting.queue_heal(library, shoot)
    run(library)
    assert "Undo" in jobs.job(library.db, job).message
    for frame in rows(library, shoot):
        marks = frame.override.clean.done
        assert marks and all(m.dust for m in marks) and frame.finished
        assert cleaned.kept(library, frame, frame.override.clean) is not None, "made by the job, not anew"
        was = log_light(read_working(library.computed(frame.content).working))
        now = log_light(Stage(library).ready(frame.id, 1600).picture)
        for mark in marks:
            (before, calm, _), (after, _, _) = (seen_at(light, mark.points[0], 0.0045) for light in (was, now))
            assert not calm or after < 0.25 * before + 0.02
    before = rows(library, shoot)
    dusting.queue_heal(library, shoot)
    run(library)
    assert [f.override for f in rows(library, shoot)] == [f.override for f in before], "a second time adds nothing"
    deeds.undo(library, shoot)
    assert not any(f.override.clean.done for f in rows(library, shoot))


def test_the_next_shoot_of_the_camera_is_offered_what_is_known(studio, tmp_path):
    library, shoot = studio
    confirm(library, shoot)
    second = bring_in.create_shoot(library, "Second")
    picture = Image.open(DUSTY / "BST_0531.jpg")
    picture.save(tmp_path / "again.jpg", quality=97, exif=picture.getexif())
    bring_in.receive(library, second, tmp_path / "again.jpg", "again.jpg")
    run(library)
    assert len(dusting.of_shoot(library, second)) == 5
    dusting.queue_heal(library, second)
    run(library)
    assert rows(library, second)[0].override.clean.done


def test_a_speck_added_by_hand_on_a_turned_frame_lies_where_it_was_seen(studio):
    from lenskeep.studio import many

    library, shoot = studio
    first, second = rows(library, shoot)[:2]
    many.do(library, shoot, [first.id], asked(what="turn", by=1))
    dusting.add_by_hand(library, first.id, 0.9, 0.3)  # on the frame as it stands now
    [new] = [d for d in dusting.of_shoot(library, shoot) if d.by_hand]
    assert new.state == "confirmed"
    assert dusting.where(library, frames.frame(library.db, first.id), [new])[0][:2] == pytest.approx((0.9, 0.3))
    assert dusting.where(library, second, [new])[0][:2] == pytest.approx((0.3, 0.1))
    dust.set_state(library.db, [new.id], "dropped")
    assert not [d for d in dusting.of_shoot(library, shoot) if d.by_hand]


def test_too_few_frames_say_so(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 2)
    with pytest.raises(UserProblem, match="at least 3 frames"):
        dusting.queue_search(library, shoot)
    cv2.imwrite(str(tmp_path / "x.png"), np.zeros((4, 4, 3), np.uint8))
    assert dust.cameras(library.db, shoot) != []
