"""Repairs offered to a burst: who is in it, what each frame is offered, and one by one taken over."""

import cv2
import numpy as np
import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.repairs.models import MOST, Clicked, Emptied, Painted
from lenskeep.store import frames
from lenskeep.studio import carrying, repairing
from tools.made_up import ready_shoot

CORNER = Painted(mask="subject", points=[(0.05, 0.9), (0.2, 0.9)], size=0.15, edge_aware=False)


@pytest.fixture
def shoot(library, tmp_path):
    """Sixteen frames, a second after each other."""
    return ready_shoot(library, tmp_path / "card", 16)


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def taken_at(library, frame_id, when):
    with library.db.writing() as write:
        write.execute("UPDATE frames SET taken_at = ? WHERE id = ?", (when, frame_id))


def test_a_burst_is_what_was_taken_within_twelve_seconds(library, shoot):
    first, *others = rows(library, shoot)
    near = carrying.burst(library, frames.frame(library.db, first.id))
    assert [f.id for f, _ in near] == [f.id for f in others[:12]] and near[0][1] == 1.0
    taken_at(library, others[0].id, "2026-09-12T18:20:00")
    assert others[0].id not in [f.id for f, _ in carrying.burst(library, first)]


def test_frames_without_a_time_have_no_burst(library, shoot):
    first = rows(library, shoot)[0]
    taken_at(library, first.id, None)
    assert carrying.burst(library, frames.frame(library.db, first.id)) == []


def test_nothing_is_offered_without_a_repair(library, shoot):
    with pytest.raises(UserProblem, match="Nothing is repaired"):
        carrying.offers(library, rows(library, shoot)[0].id)


def test_one_frame_takes_it_over_and_no_other_changes(library, shoot):
    first, second, third, *_ = rows(library, shoot)
    repairing.repair(library, first.id, CORNER)
    now = carrying.take_over(library, first.id, second.id)
    [stroke] = now.override.repairs.done
    assert stroke.edge_aware and now.facts.subject.by_hand
    assert not frames.frame(library.db, third.id).changed
    offered = {o.frame.id: o for o in carrying.offers(library, first.id)}
    assert offered[second.id].taken and not offered[third.id].taken
    repairing.undo(library, second.id)
    assert not frames.frame(library.db, second.id).changed


def test_repairs_that_a_frame_has_already_stay(library, shoot):
    first, second, *_ = rows(library, shoot)
    repairing.repair(library, second.id, Emptied(mask="sky"))
    repairing.repair(library, first.id, CORNER)
    assert {o.frame.id for o in carrying.offers(library, first.id) if o.others} == {second.id}
    now = carrying.take_over(library, first.id, second.id)
    assert [r.mask for r in now.override.repairs.done] == ["sky", "subject"]


def test_a_full_frame_says_so_and_keeps_what_it_has(library, shoot):
    first, second, *_ = rows(library, shoot)
    repairing.repair(library, first.id, CORNER)
    full = tuple(Emptied(mask="sky") for _ in range(MOST))
    repairing.change(library, second, lambda r: r.with_all(full))
    with pytest.raises(UserProblem, match="as many repairs as it can hold"):
        carrying.take_over(library, first.id, second.id)
    assert len(frames.frame(library.db, second.id).override.repairs.done) == MOST


def test_what_lies_outside_of_the_other_frame_is_refused_in_words(library, shoot, monkeypatch):
    first, second, *_ = rows(library, shoot)
    repairing.repair(library, first.id, Clicked(mask="subject", x=0.99, y=0.5))
    monkeypatch.setattr(carrying, "carried", lambda *_: iter(()))
    with pytest.raises(UserProblem, match="None of these repairs lies on that frame"):
        carrying.take_over(library, first.id, second.id)


def test_the_pictures_show_the_mask_before_and_after(library, shoot):
    first, second, *_ = rows(library, shoot)
    repairing.repair(library, first.id, CORNER)

    def red_of(with_repairs):
        data = carrying.picture(library, first.id, second.id, "subject", with_repairs)
        image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR).astype(float)
        h, w = image.shape[:2]
        part = image[int(0.86 * h) : int(0.94 * h), int(0.07 * w) : int(0.18 * w)]
        return (part[..., 2] - part[..., 1]).mean()

    now = red_of(False)
    assert red_of(True) > now + 60
    carrying.take_over(library, first.id, second.id)
    assert red_of(False) > now + 60 and red_of(True) == pytest.approx(red_of(False), abs=1.0)
