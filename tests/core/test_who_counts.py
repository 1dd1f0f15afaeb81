"""Who on a frame counts as a person or an animal: which witnesses are asked about a box, and what comes of it."""

import numpy as np
import pytest

from lenskeep.core.detect import witnesses
from lenskeep.core.detect.beings import beings_of, judged
from lenskeep.core.detect.boxes import Detected, within
from lenskeep.core.detect.explained import explained
from lenskeep.core.facts import Box, Face

H, W = 200, 300


class Known:
    """Witnesses who answer what they are told, by the box's left edge; how often the networks were asked."""

    def __init__(self, monkeypatch, presence=None, animal=None):
        self.presence, self.animal = presence or {}, animal or {}
        self.posed = self.classed = 0
        monkeypatch.setattr(witnesses, "posed", self._posed)
        monkeypatch.setattr(witnesses, "animal_on", self._classed)

    def _posed(self, image, box, network):
        self.posed += 1
        mask = np.zeros((H, W), np.float32)
        mask[within(box, mask.shape, 0)] = 1
        return mask, self.presence.get(round(float(box[0])), 0.0)

    def _classed(self, cut, looked):
        self.classed += 1
        shown = int(cut[..., 0].max())  # each box is painted with its own left edge
        return self.animal.get(shown, (0.0, 0.0))


def asked(boxes, salient=1.0, faces=()):
    """A picture whose boxes saliency has filled by a share from above."""
    image, guess = np.zeros((H, W, 3), np.uint8), np.zeros((H, W), np.float32)
    for one in boxes:
        rows, columns = within(one.box, guess.shape, 0)
        share = salient if isinstance(salient, float) else salient.get(round(float(one.box[0])), 1.0)
        guess[rows.start : rows.start + round(share * (rows.stop - rows.start)), columns] = 1
        image[rows, columns] = round(float(one.box[0]))
    return witnesses.Asked(image, guess, list(faces), None, None)


def box(x, score, seen="person", wide=40, tall=120, top=40):
    return Detected(np.array([x, top, x + wide, top + tall], np.float32), score, seen)


def face(x, y, size=14):
    return Face(box=Box(x0=x / W, y0=y / H, x1=(x + size) / W, y1=(y + size) / H), score=0.9)


def lefts(beings):
    return sorted(round(float(b.box[0])) for b in beings)


def test_a_faint_box_that_two_others_see_is_somebody(monkeypatch):
    """As whoever the frame's edge cuts, alone at their height."""
    sure, faint = box(60, 0.8), box(200, 0.28, tall=60)
    Known(monkeypatch, {60: 1.0, 200: 0.9})
    assert lefts(beings_of(judged([sure, faint], asked([sure, faint])))) == [60, 200]


@pytest.mark.parametrize(
    ("score", "filled", "presence"), [(0.2, 1.0, 0.9), (0.28, 0.37, 0.9), (0.28, 1.0, 0.7)], ids=str
)
def test_and_nobody_where_one_of_them_hesitates(monkeypatch, score, filled, presence):
    sure, faint = box(60, 0.8), box(200, score, tall=60)
    Known(monkeypatch, {60: 1.0, 200: presence})
    picture = asked([sure, faint], {200: filled})
    assert lefts(beings_of(judged([sure, faint], picture))) == [60]
    [why] = [j.why for j in judged([sure, faint], picture) if j.being is None]
    assert "faint" in why


def test_a_face_that_nobody_has_is_its_boxs_and_that_of_a_neighbour_is_not(monkeypatch):
    """Two in a row are covered by each other; the one behind is told by a face of their own."""
    first, behind = box(60, 0.8, wide=60), box(95, 0.2, wide=60)
    Known(monkeypatch, {60: 1.0, 95: 0.3})
    mine, theirs, in_both = face(80, 45), face(125, 45), face(98, 45)
    assert lefts(beings_of(judged([first, behind], asked([first, behind], faces=[mine, theirs])))) == [60, 95]
    assert lefts(beings_of(judged([first, behind], asked([first, behind], faces=[mine])))) == [60]
    assert lefts(beings_of(judged([first, behind], asked([first, behind], faces=[in_both])))) == [60]


def test_an_animal_that_saliency_missed_counts_where_the_class_head_is_sure_of_it(monkeypatch):
    dog = box(60, 0.34, "animal", wide=60, tall=60)
    for sure, counts in (((0.96, 0.9), True), ((0.96, 0.7), False), ((0.7, 0.9), False)):
        Known(monkeypatch, animal={60: sure})
        found = beings_of(judged([dog], asked([dog], 0.05)))
        assert [b.kind for b in found] == (["animal"] if counts else []), sure


def test_what_is_part_of_somebody_or_tiny_beside_them_costs_no_network(monkeypatch):
    whole, part, tiny = box(60, 0.9), box(64, 0.5, wide=30, tall=60), box(200, 0.5, wide=10, tall=12)
    known = Known(monkeypatch, {60: 1.0, 64: 1.0, 200: 1.0})
    told = judged([whole, part, tiny], asked([whole, part, tiny]))
    assert lefts(j.being for j in told if j.being) == [60]
    assert (known.posed, known.classed) == (1, 1)
    assert [j.why for j in told if j.being is None] == ["part of a surer one", "too small beside the others"]


def test_what_came_of_every_box_can_be_read(monkeypatch):
    boxes = [box(60, 0.9), box(150, 0.4, "toy"), box(200, 0.2)]
    Known(monkeypatch, {60: 1.0})
    lines = explained(judged(boxes, asked(boxes, {150: 0.0, 200: 0.0})))
    assert len(lines) == 3 and lines[0] == "person 0.90 at 60–100, 40–160: person, its box is sure"
    assert all("refused, " in line for line in lines[1:])
