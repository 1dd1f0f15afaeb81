"""Photographs that the camera laid on their side are stood upright: on the wall, on the Bench, and in what leaves."""

import io

import numpy as np
import pytest
from PIL import Image

from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import Cut
from lenskeep.core.repairs.models import Emptied
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import bring_in, deeds, looks, many, repairing
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.close.view import CloseView
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.queue import make_runner
from tests.studio.doing import asked, run
from tools.made_up import DEMO, look_recipe

FACES = "LKD_0113.jpg"


@pytest.fixture
def lying(library, tmp_path):
    """A real frame of a shoot that has a look, laid on its side as by a camera that was pointed down."""
    upright = Image.open(DEMO / FACES)
    upright.thumbnail((900, 900))
    path = tmp_path / "lying.jpg"
    upright.transpose(Image.Transpose.ROTATE_90).save(path, quality=95)
    shoot = bring_in.create_shoot(library, "Lying")
    bring_in.receive(library, shoot, path, path.name)
    run(library)
    looks.give_look(library, shoot, recipes.save_recipe(library.db, look_recipe()).id, 1.0)
    run(library)
    return frames.summaries(library.db, shoot)[0]


def turned(library, frame, by=1):
    said = many.do(library, frame.shoot_id, [frame.id], asked(what="turn", by=by))
    return said, frames.frame(library.db, frame.id)


def test_it_stands_upright_with_masks_and_picture_of_its_own_and_undo_lays_it_back(library, lying):
    was = frames.frame(library.db, lying.id)
    said, now = turned(library, lying)
    assert "turning 1 frame" in said
    assert (now.width, now.height, now.state) == (lying.height, lying.width, "waiting")
    assert not now.result_key, "the picture of the other way is none of its own"
    thumb = read_photo(library.computed(now.content).thumb)
    assert (thumb.width > thumb.height) == (now.width > now.height), "the wall shows it at once"
    run(library)
    now = frames.frame(library.db, lying.id)
    assert now.finished and now.facts is not None
    finished = read_photo(library.result(now.result_key))
    assert (finished.width > finished.height) == (now.width > now.height)
    assert now.facts.subject.trust >= was.facts.subject.trust, "who stands on her feet is found more surely"

    view = CloseView(library, ReadyFrames(100_000_000))
    whole = view.cut(now.id, Recipe(), Cut(0, 0, now.width, now.height))
    before = np.asarray(Image.open(library.original(lying.sha256, lying.suffix)).convert("RGB"), int)
    assert np.abs(whole.astype(int) - np.rot90(before, -1)).mean() < 2, "closely, too"

    deeds.undo(library, lying.shoot_id)
    run(library)
    now = frames.summary(library.db, lying.id)
    assert (now.width, now.height, now.turn, now.content) == (lying.width, lying.height, 0, lying.content)
    assert now.finished and now.wanted_key == lying.wanted_key
    deeds.redo(library, lying.shoot_id)
    assert frames.summary(library.db, lying.id).turn == 1
    for _ in range(3):
        turned(library, lying)
    run(library)
    now = frames.summary(library.db, lying.id)
    assert now.turn == 0 and now.wanted_key == lying.wanted_key and now.finished, "four quarters are none"


def test_what_leaves_is_turned_pixel_by_pixel(library, lying):
    plain = delivered(library, lying)
    turned(library, lying, 2)
    run(library)
    over = delivered(library, lying)
    assert over.shape == plain.shape
    assert np.abs(over[::-1, ::-1].astype(int) - plain.astype(int)).mean() < 6, "the same picture, upside down"


def test_a_hand_over_keeps_how_it_stood_when_it_was_queued(library, lying):
    job = deliver.queue_delivery(library, lying.shoot_id, deliver.DeliveryOptions())
    turned(library, lying)
    assert make_runner(library, 0).run_until_idle()
    assert out_of(library, job).shape == (lying.height, lying.width, 3)


def test_repairs_are_taken_back_with_a_word_and_undone_with_it(library, lying):
    repairing.repair(library, lying.id, Emptied(mask="sky"))
    said, now = turned(library, lying)
    assert "repaired masks" in said and not now.override.repairs.done
    deeds.undo(library, lying.shoot_id)
    run(library)
    assert frames.frame(library.db, lying.id).override.repairs.done


def delivered(library, frame):
    job = deliver.queue_delivery(library, frame.shoot_id, deliver.DeliveryOptions())
    run(library)
    return out_of(library, job)


def out_of(library, job):
    folder = deliver.folder_of(library, jobs.job(library.db, job))
    [path] = folder.glob("*.jpg")
    return np.asarray(Image.open(io.BytesIO(path.read_bytes())).convert("RGB"))
