"""Looking closely at frames of a library: what is seen is what the hand-over writes, before it is packed."""

from concurrent.futures import ThreadPoolExecutor

import imagecodecs
import numpy as np
import pytest

from lenskeep.core.plan import Plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import Cut
from lenskeep.core.repairs.models import Emptied
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import applying, looks, repairing
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.close import view
from lenskeep.studio.close.view import MOST_SIDE, CloseView
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.queue import make_runner
from tools.made_up import look_recipe, ready_shoot

H, W = 620, 930


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 2, H, W)


@pytest.fixture
def close(library):
    return CloseView(library, ReadyFrames())


def first(library, shoot):
    return frames.frames(library.db, shoot)[0]


def delivered(library, shoot):
    """The pixels of the first frame's PNG out of a hand-over."""
    job_id = deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(form="png"))
    assert make_runner(library, 0).run_until_idle()
    name = f"{first(library, shoot).file_name[:-4]}.png"
    [path] = [f.path for f in deliver.packed(library, jobs.job(library.db, job_id)) if f.name == name]
    return imagecodecs.png_decode(path.read_bytes())


def test_a_cut_is_what_the_delivered_file_holds_there(library, shoot, close):
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 1.4)
    whole, frame = delivered(library, shoot), first(library, shoot)
    cut = Cut(411, 205, 333, 250)
    seen = close.cut(frame.id, applying.plan_of_frame(library, frame), cut)
    assert np.array_equal(seen, whole[205:455, 411:744])
    assert not np.array_equal(seen, close.cut(frame.id, Plan(()), cut, "original"))


def test_without_a_look_it_is_the_original(library, shoot, close):
    frame = first(library, shoot)
    assert applying.plan_of_frame(library, frame) == Plan(())
    photo = read_photo(library.original(frame.sha256, frame.suffix))
    seen = close.cut(frame.id, Plan(()), Cut(10, 20, 300, 200), "original")
    assert np.abs(seen.astype(int) - photo.pixels[20:220, 10:310]).max() <= 1


def test_a_repair_is_seen_at_once_without_decoding_again(library, shoot, close, monkeypatch):
    frame, cut = first(library, shoot), Cut(300, 200, 400, 300)
    recipe = look_recipe()
    before = close.cut(frame.id, recipe, cut)
    read = []
    monkeypatch.setattr(view, "checked_original", lambda *_: read.append(1))
    repairing.repair(library, frame.id, Emptied(mask="subject"))
    after = close.cut(frame.id, recipe, cut)
    assert not np.array_equal(before, after) and not read
    assert not close.cut(frame.id, recipe, cut, "grey", "subject").any(), "there is no subject any more"


def test_grey_and_tint_show_the_region_at_this_size(library, shoot, close):
    frame, recipe, cut = first(library, shoot), look_recipe(), Cut(200, 150, 600, 450)
    grey = close.cut(frame.id, recipe, cut, "grey", "subject")[..., 0] / 255
    # a lift by one stop over the whole frame and over the region differ by its alpha
    lift = [
        {"id": "subject", "region": {"parts": [{"kind": "subject"}]}, "adjustments": [{"kind": "exposure", "ev": 1}]}
    ]
    lifted = close.cut(frame.id, Recipe.model_validate({"name": "A", "steps": lift}), cut)
    plain = close.cut(frame.id, Plan(()), cut, "original")
    changed = (lifted.astype(int) - plain).max(-1) > 3
    assert grey[changed].min() > 0.02 and (grey < 0.01).any() and (grey > 0.99).any()
    tinted = close.cut(frame.id, recipe, cut, "tint", "subject", (255, 0, 0)).astype(int)
    finished = close.cut(frame.id, recipe, cut).astype(int)
    assert (tinted[grey > 0.99][:, 1] < finished[grey > 0.99][:, 1] + 1).all()
    assert np.abs(tinted - finished)[grey == 0].max() <= 1


@pytest.mark.parametrize(
    "cut", [Cut(-1, 0, 5, 5), Cut(0, 0, 0, 5), Cut(W - 4, 0, 5, 5), Cut(0, H, 1, 1), Cut(0, 0, MOST_SIDE + 1, 1)]
)
def test_a_cut_that_is_no_part_of_the_frame_is_refused_in_words(library, shoot, close, cut):
    with pytest.raises(UserProblem, match="cut"):
        close.cut(first(library, shoot).id, Plan(()), cut)


def test_a_frame_that_is_gone_or_was_altered_says_so(library, shoot, close):
    with pytest.raises(UserProblem, match="no longer"):
        close.cut(99, Plan(()), Cut(0, 0, 5, 5))
    frame = first(library, shoot)
    path = library.original(frame.sha256, frame.suffix)
    path.chmod(0o644)
    path.write_bytes(path.read_bytes()[:-1])
    with pytest.raises(UserProblem, match="changed since"):
        close.cut(frame.id, Plan(()), Cut(0, 0, 5, 5))


def test_many_at_once_open_a_frame_once_and_get_the_same(library, shoot, close, monkeypatch):
    opened, real = [], view.checked_original
    monkeypatch.setattr(view, "checked_original", lambda *a: (opened.append(1), real(*a))[1])
    frame, recipe = first(library, shoot), look_recipe()
    with ThreadPoolExecutor(8) as pool:
        seen = list(pool.map(lambda _: close.cut(frame.id, recipe, Cut(100, 100, 256, 256)), range(16)))
    assert len(opened) == 1 and all(np.array_equal(seen[0], each) for each in seen)


def test_originals_leave_memory_when_others_are_opened(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 4, H, W)
    room = ReadyFrames(room=12_000_000)
    close = CloseView(library, room)
    for frame in frames.frames(library.db, shoot):
        close.cut(frame.id, Plan(()), Cut(0, 0, 64, 64))
        assert room.held_bytes() <= 2 * 12_000_000
