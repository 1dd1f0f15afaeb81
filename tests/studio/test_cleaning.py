"""Marks on a frame: what is seen far and near is what leaves, they go back one by one, and nothing of them is lost."""

import csv
import io
import shutil
import time

import cv2
import numpy as np
import pytest

from lenskeep.core.clean.models import CleanUp, Cloned, Healed
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import Cut
from lenskeep.files.patches import cleaned_of, read_cleaned
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import encoded, read_photo
from lenskeep.files.working import read_working
from lenskeep.store import frames, jobs, recipes, shoots
from lenskeep.studio import applying, bring_in, cleaned, cleaning, deeds, find, looks, many
from lenskeep.studio.applying import plan_of_frame
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.bench.stage import Stage
from lenskeep.studio.close.view import CloseView
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.sheet import SHEET
from lenskeep.studio.library import Library
from lenskeep.studio.problems import ChangedMeanwhile
from lenskeep.studio.tidy import tidy
from tests.studio.doing import asked, run
from tools.made_up import DEMO, look_recipe

X, Y, R = 0.2, 0.15, 0.012
SPECK = Healed(points=((X, Y),), size=2.6 * R)
H, W = 1067, 1600


@pytest.fixture(scope="module")
def photograph(tmp_path_factory):
    """A real frame with a black speck in its sky."""
    picture = cv2.imread(str(DEMO.parent / "dune-wedding" / "DUN_0301.jpg"))
    cv2.circle(picture, (round(X * W), round(Y * H)), round(R * W), (0, 0, 0), -1)
    path = tmp_path_factory.mktemp("speck") / "speck.png"
    cv2.imwrite(str(path), picture)
    return path


@pytest.fixture(scope="module")
def with_masks(photograph, tmp_path_factory):
    """The folder of a library that has the speckled frame, with its masks: found once for all that follow."""
    library = Library(tmp_path_factory.mktemp("found") / "library")
    shoot = bring_in.create_shoot(library, "Specks")
    bring_in.receive(library, shoot, photograph, photograph.name)
    run(library)
    return library.home


@pytest.fixture
def speckled(library, with_masks):
    shutil.copytree(with_masks, library.home)
    [shoot] = shoots.shoots(library.db)
    return frames.frames(library.db, shoot.id)[0].id


def row(library, frame):
    return frames.frame(library.db, frame)


def darkest(pixels):
    """Of the place of the speck, 0…255, whatever the picture's size."""
    h, w = pixels.shape[:2]
    r = max(2, round(0.6 * R * w))
    y, x = round(Y * h), round(X * w)
    return int(pixels[y - r : y + r, x - r : x + r].min())


def near(library, frame, view="finished"):
    cut = Cut(round(X * W) - 40, round(Y * H) - 40, 80, 80)
    return CloseView(library, ReadyFrames(100_000_000)).cut(frame, Recipe(name="nothing"), cut, view)


def test_what_is_seen_far_and_near_is_what_leaves(library, speckled):
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, row(library, speckled).shoot_id, version.id, 1.0)
    run(library)
    assert darkest(read_photo(library.result(row(library, speckled).result_key)).pixels) < 60
    now = cleaning.mark(library, speckled, [SPECK])
    assert now.stale and now.override.clean.done == (SPECK,)
    looks_job = deliver.queue_delivery(library, now.shoot_id, deliver.DeliveryOptions(form="png"))
    applying.queue_stale(library, now.shoot_id, [speckled])
    run(library)
    finished = read_photo(library.result(row(library, speckled).result_key)).pixels
    assert darkest(finished) > 120, "on the wall"
    assert near(library, speckled).min() > 120, "closely"
    staged = Stage(library).ready(speckled, 1100)
    assert staged.picture[round(Y * staged.picture.shape[0]), round(X * staged.picture.shape[1])].min() > 0.3, (
        "on the Bench"
    )
    job = jobs.job(library.db, looks_job)
    [file] = [f for f in deliver.packed(library, job) if f.name.endswith(".png")]
    left = read_photo(file.path).pixels
    assert darkest(left) > 120, "in what leaves"
    # the same pixels closely and in the file
    cut = Cut(round(X * W) - 40, round(Y * H) - 40, 80, 80)
    seen = CloseView(library, ReadyFrames(100_000_000)).cut(
        speckled, plan_of_frame(library, row(library, speckled)), cut
    )
    assert np.array_equal(seen, left[cut.y : cut.y + 80, cut.x : cut.x + 80])
    sheet = next(f.path for f in deliver.packed(library, job) if f.name == SHEET)
    [cells] = csv.DictReader(io.StringIO(sheet.read_text("utf-8-sig")))
    assert cells["clean-up"] == "1 mark"


def test_the_working_copy_changes_as_if_made_of_the_cleaned_original(library, speckled):
    cleaning.mark(library, speckled, [SPECK])
    frame = row(library, speckled)
    kept = cleaned.kept(library, frame, frame.override.clean)
    photo = cleaned.original_files(library, frame).opened()
    for side in (640, 901, 1600):
        own = cleaned_of(photo, kept.patches, side)
        assert np.abs(own.working(photo.reduced(side)) - kept.photo(photo).reduced(side)).max() < 1e-3
    with pytest.raises(PhotoProblem):
        own.working(photo.reduced(320))


def test_a_frame_without_a_look_gets_a_picture_by_its_marks_and_loses_it_with_them(library, speckled):
    assert not row(library, speckled).wanted_key
    cleaning.mark(library, speckled, [SPECK])
    assert row(library, speckled).wanted_key
    cleaning.undo(library, speckled)
    assert not row(library, speckled).wanted_key
    assert near(library, speckled).min() < 20
    cleaning.redo(library, speckled)
    assert near(library, speckled).min() > 120


def test_another_source_is_another_picture_and_only_of_what_was_healed(library, speckled):
    with pytest.raises(UserProblem, match="Paint over a mark"):
        cleaning.other_source(library, speckled)
    cleaning.mark(library, speckled, [SPECK])
    first = near(library, speckled)
    cleaning.other_source(library, speckled)
    second = near(library, speckled)
    assert second.min() > 120 and not np.array_equal(first, second)
    cleaning.mark(library, speckled, [Cloned(points=((0.5, 0.1),), size=0.02, across=0.1)])
    with pytest.raises(UserProblem, match="Only what was healed"):
        cleaning.other_source(library, speckled)


def test_what_can_not_be_says_so_and_changes_nothing(library, speckled, monkeypatch):
    with pytest.raises(UserProblem, match="hold Alt"):
        cleaning.mark(library, speckled, [Cloned(points=((0.5, 0.1),), size=0.02)])
    with pytest.raises(UserProblem, match="no longer in this shoot"):
        cleaning.mark(library, speckled, [Cloned(points=((0.5, 0.1),), size=0.02, frame="0" * 64)])
    monkeypatch.setattr(cleaning, "MOST_MARKS", 1)
    cleaning.mark(library, speckled, [SPECK])
    with pytest.raises(UserProblem, match="holds 1 marks"):
        cleaning.mark(library, speckled, [SPECK])
    assert row(library, speckled).override.clean.done == (SPECK,)


def test_what_is_gone_is_made_again_to_the_bit(library, speckled):
    marks = [SPECK, Healed(points=((0.4, 0.1), (0.6, 0.12)), size=0.01)]
    for one in marks:
        cleaning.mark(library, speckled, [one])
    frame = row(library, speckled)
    path = library.computed(frame.content).cleaned(frame.override.clean.key())
    kept = path.read_bytes()
    for each in path.parent.glob("clean.*.npz"):
        each.unlink()
    cleaned.ensure(library, frame, frame.override.clean)
    again, before = read_cleaned(path.read_bytes()), read_cleaned(kept)
    assert [p.box for p in again.patches] == [p.box for p in before.patches]
    assert all(np.array_equal(a.pixels, b.pixels) for a, b in zip(again.patches, before.patches, strict=True))
    path.write_bytes(kept[: len(kept) // 2])
    with pytest.raises(PhotoProblem, match="Undo a mark"):
        Stage(library).ready(speckled, 1100)
    cleaning.undo(library, speckled)
    Stage(library).ready(speckled, 1100)


def test_what_earlier_marks_made_does_not_pile_up(library, speckled, monkeypatch):
    monkeypatch.setattr(cleaned, "YOUNG_SECONDS", -1.0)
    for k in range(5):
        cleaning.mark(library, speckled, [Healed(points=((0.1 + 0.1 * k, 0.1),), size=0.01)])
    folder = library.computed(row(library, speckled).content).folder
    assert len(list(folder.glob("clean.*.npz"))) == 2


def test_two_people_at_one_frame_do_not_lose_a_mark(library, speckled, monkeypatch):
    ensure = cleaning.ensure

    def slow(*args):
        monkeypatch.setattr(cleaning, "ensure", ensure)
        cleaning.mark(library, speckled, [Healed(points=((0.7, 0.1),), size=0.01)])
        ensure(*args)

    monkeypatch.setattr(cleaning, "ensure", slow)
    with pytest.raises(ChangedMeanwhile):
        cleaning.mark(library, speckled, [SPECK])
    assert len(row(library, speckled).override.clean.done) == 1


def test_marks_turn_are_pasted_and_undone_with_their_frame(library, speckled, photograph, tmp_path):
    cleaning.mark(library, speckled, [SPECK])
    frame = row(library, speckled)
    many.do(library, frame.shoot_id, [speckled], asked(what="turn", by=1))
    run(library)
    now = row(library, speckled)
    assert now.override.clean == CleanUp(done=(SPECK,)).turned(1)
    picture = read_photo(library.result(now.result_key)).pixels
    assert darkest(np.ascontiguousarray(np.rot90(picture))) > 120
    deeds.undo(library, frame.shoot_id)
    assert row(library, speckled).override.clean.done == (SPECK,)
    other = cv2.imread(str(photograph))
    other[-1, -1] = 0
    cv2.imwrite(str(tmp_path / "other.png"), other)
    [second] = bring_in.receive(library, frame.shoot_id, tmp_path / "other.png", "other.png").frame_ids
    run(library)
    with pytest.raises(UserProblem, match="clean-up"):
        many.do(library, frame.shoot_id, [second], asked(what="paste", source=speckled))
    many.do(library, frame.shoot_id, [second], asked(what="paste", source=speckled, clean=True))
    run(library)
    assert darkest(read_photo(library.result(row(library, second).result_key)).pixels) > 120


def test_masks_are_found_on_the_cleaned_picture_where_that_is_asked_for(library, speckled):
    before = row(library, speckled)
    with pytest.raises(UserProblem, match="Nothing but dust"):
        find.queue_on_cleaned(library, speckled)
    subject = before.facts.subject_box
    away = [(0.5 * (subject.x0 + subject.x1), y) for y in np.linspace(subject.y0, subject.y1, 12)]
    big = Cloned(points=tuple(away), size=min(0.45, 1.4 * (subject.x1 - subject.x0)), across=0.28, soft=0.05)
    cleaning.mark(library, speckled, [big])
    find.queue_on_cleaned(library, speckled)
    run(library)
    now = row(library, speckled)
    assert now.found_by == find.detector_on_cleaned(now.override.clean.key()) != before.found_by
    assert now.facts.areas.get("people", 0.0) < 0.5 * before.facts.areas["people"], "who was covered is found no more"
    assert now.finished and read_photo(library.computed(now.content).base).width == 1600
    untouched = read_working(library.computed(now.content).working)
    assert darkest(encoded(untouched, "srgb")) < 60, "the untouched picture stays as it came"
    # another mark meanwhile: the job says so, and nothing changes
    find.queue_on_cleaned(library, speckled)
    cleaning.mark(library, speckled, [SPECK])
    run(library)
    assert row(library, speckled).found_by == now.found_by
    # found again as a shoot, they are those of the photograph as it came
    find.queue_finding(library, now.shoot_id, everything=True)
    run(library)
    assert row(library, speckled).found_by == before.found_by


def test_what_marks_made_is_kept_as_long_as_a_frame_needs_it(library, speckled):
    cleaning.mark(library, speckled, [SPECK])
    cleaning.mark(library, speckled, [Healed(points=((0.5, 0.1),), size=0.01)])
    folder = library.computed(row(library, speckled).content).folder
    assert len(list(folder.glob("clean.*.npz"))) == 2
    tidy(library, budget=1, now=time.time() + 4000)
    assert [p.name for p in folder.glob("clean.*.npz")] == [f"clean.{row(library, speckled).override.clean.key()}.npz"]
