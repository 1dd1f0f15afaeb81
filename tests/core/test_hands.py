"""Hands by themselves: where palms are, whose they are, and what they hold told from them."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.detect import witnesses as finder
from lenskeep.core.detect.beings import Being, beings_of, judged
from lenskeep.core.detect.boxes import Detected
from lenskeep.core.detect.composed import with_beings
from lenskeep.core.detect.find import find
from lenskeep.core.detect.hands import hand_part, with_arms, with_hands
from lenskeep.core.detect.objects import Looked
from lenskeep.core.detect.palms import ANCHORS, SIDE, Palm, apart, comes_in, find_hands, find_palms, without_hands
from lenskeep.core.detect.witnesses import Asked
from lenskeep.core.facts import Box, Face
from lenskeep.studio.tasks.find import detectors
from tests.effort import examples
from tools.known import known_frames
from tools.overlap import intersection_over_union

H, W = 200, 300
PAPER, SKIN, GREEN, SLEEVE = (120, 130, 150), (214, 170, 148), (60, 140, 70), (50, 60, 110)


class Palms:
    """A palm network that answers with marks (7, 2) in its own 192 px and scores, ``once`` or each time it is asked."""

    def __init__(self, *answers, once=False):
        self.answers, self.once, self.asked = answers, once, 0

    def run(self, fed):
        shown = fed["square"]
        assert shown.shape == (1, SIDE, SIDE, 3) and shown.dtype == np.float32 and shown.max() <= 1
        self.asked += 1
        numbers, odds = np.zeros((1, len(ANCHORS), 18), np.float32), np.full((1, len(ANCHORS), 1), -50, np.float32)
        for place, (marks, score) in enumerate(() if self.once and self.asked > 1 else self.answers):
            k = int(np.abs(ANCHORS * SIDE - np.mean(marks, 0)).sum(1).argmin()) + place % 2
            numbers[0, k, 4:] = (np.asarray(marks, np.float32) - ANCHORS[k] * SIDE).ravel()
            odds[0, k, 0] = np.log(score / (1 - score))
        return [numbers, odds]


class Saliency:
    """Sees what is redder than blue, which skin is and the rest of these pictures is not."""

    def __init__(self):
        self.asked = 0

    def run(self, fed):
        self.asked += 1
        return [(fed["picture"][:, :1] - fed["picture"][:, 2:] > 0.3).astype(np.float32)]


def marks(x, y, size=20.0, way=(-1.0, 0.0)):
    """A palm whose middle is (x, y); its arm goes ``way``."""
    way = np.asarray(way, float)
    side = np.array([-way[1], way[0]])
    knuckles = [-0.5 * way + 0.5 * side * k for k in (-0.6, -0.2, 0.2, 0.6)]
    thumb = [0.2 * way + 0.5 * side, -0.1 * way + 0.6 * side]
    return np.asarray([np.array([x, y]) + size * p for p in (0.5 * way, *knuckles, *thumb)], np.float32)


def palm(x, y, size=20.0, way=(-1.0, 0.0), score=0.9):
    return Palm(score, marks(x, y, size, way))


def being(box, kind="person", whole=False, score=0.4):
    return Being(np.array(box, np.float32), score, kind, True, 0.5, whole=whole)


def arm(sleeve=False, held=GREEN):
    """(picture, true arm, what it holds): an arm from the left edge to a palm about (110, 100), holding a ball."""
    random = np.random.default_rng(4)
    picture = np.full((H, W, 3), PAPER, np.uint8)
    person, thing = np.zeros((H, W), np.uint8), np.zeros((H, W), np.uint8)
    cv2.rectangle(person, (0, 90), (130, 110), 1, -1)
    cv2.circle(thing, (155, 100), 28, 1, -1)
    thing &= 1 - person
    picture[person > 0], picture[thing > 0] = SKIN, held
    if sleeve:
        picture[80:121, :60], person[80:121, :60] = SLEEVE, 1
    noise = random.normal(0, 2, picture.shape)
    return np.clip(picture + noise, 0, 255).astype(np.uint8), person > 0, thing > 0


def overlap(a, b):
    return (a & b).sum() / max((a | b).sum(), 1)


@settings(max_examples=examples(30))
@given(
    x=st.floats(50, 140), y=st.floats(50, 140), side=st.integers(60, 900), top=st.integers(-200, 100),
    left=st.integers(-200, 100), score=st.floats(0.62, 0.99),
)  # fmt: skip
def test_palms_come_back_in_the_pictures_own_pixels(x, y, side, top, left, score):
    true = marks(x, y, 30)
    [found] = find_palms(np.zeros((H, W, 3), np.uint8), top, left, side, Palms((true, score)))
    np.testing.assert_allclose(found.marks, true * side / SIDE + [left, top], atol=0.01 * side)
    assert found.score == pytest.approx(score, abs=1e-3) and found.size == pytest.approx(30 * side / SIDE, rel=0.05)
    np.testing.assert_allclose(found.arm, [-1, 0], atol=0.01)


def test_faint_palms_are_none_and_of_those_in_one_place_the_surest_stays():
    assert find_palms(np.zeros((H, W, 3), np.uint8), 0, 0, 192, Palms((marks(90, 90), 0.5))) == []
    here, again, there = palm(100, 100, score=0.7), palm(108, 100, score=0.9), palm(160, 100, score=0.8)
    assert apart([here, again, there]) == [again, there]


def test_an_arm_comes_from_where_its_piece_reaches_the_frames_edge():
    _, person, thing = arm()
    assert comes_in(palm(110, 100, way=(-1, 0)), person | thing)
    assert not comes_in(palm(110, 100, way=(1, 0)), person | thing)
    within = np.roll(person | thing, 20, 1)
    within[:, :20] = False
    assert comes_in(palm(130, 100, way=(1, 0)), within)  # reaching no edge it may come from anywhere


def test_hands_are_looked_for_only_where_nobody_is_seen_whole():
    picture, person, thing = arm()
    base = (person | thing).astype(np.float32)
    network = Palms((marks(70, 96, 13), 0.9), once=True)  # on the whole frame, which is 300 px wide
    face = Face(box=Box(x0=0.8, y0=0.1, x1=0.9, y1=0.2), score=0.9)
    assert find_hands(picture, base, [being((0, 0, 90, 190), whole=True)], [], network) == []
    assert find_hands(picture, base, [], [face], network) == [] and network.asked == 0
    [found] = find_hands(picture, base, [], [], network)
    assert network.asked == 2 and np.abs(found.middle - [115, 100]).max() < 2  # the frame, then its piece


def test_an_animals_paw_is_no_hand():
    picture, person, thing = arm()
    base = (person | thing).astype(np.float32)
    network = Palms((marks(70, 96, 13), 0.9))
    assert find_hands(picture, base, [being((0, 60, 200, 140), "animal")], [], network) == []


def test_a_person_who_is_a_hand_alone_is_told_from_one_who_is_small_beside_it():
    hand, far, dog = being((0, 80, 190, 130)), being((200, 0, 260, 190)), being((0, 80, 190, 130), "animal")
    assert without_hands([hand, far, dog], [palm(110, 100)]) == [far, dog]
    taken_for_one = replace(dog, salient=0.0)
    assert without_hands([dog, taken_for_one], [palm(110, 100)]) == [dog]
    standing = being((80, 10, 140, 290))
    assert without_hands([standing], [palm(110, 100, size=16)]) == [standing]
    assert without_hands([hand], []) == [hand]


@pytest.mark.parametrize(
    ("box", "score", "presence", "face", "whole"),
    [
        ((60, 20, 110, 180), 0.40, 1.0, False, True),  # away from the frame's edges: no arm
        ((0, 90, 140, 130), 0.40, 1.0, False, False),  # comes from the edge, and the finder is not sure
        ((0, 20, 110, 180), 0.70, 1.0, False, True),
        ((0, 20, 110, 180), 0.40, 1.0, True, True),
        ((60, 20, 110, 180), 0.70, 0.1, False, False),
    ],
)
def test_somebody_is_seen_whole_where_an_arm_would_not_look_so(monkeypatch, box, score, presence, face, whole):
    monkeypatch.setattr(finder, "animal_on", lambda *_: (0.0, 0.0))
    monkeypatch.setattr(finder, "posed", lambda *_: (np.ones((H, W), np.float32), presence))
    x, y = (box[0] + box[2]) / 2 / W, (box[1] + box[3]) / 2 / H
    faces = [Face(box=Box(x0=x - 0.02, y0=y - 0.02, x1=x + 0.02, y1=y + 0.02), score=0.9)] if face else []
    one = Detected(np.array(box, np.float32), score, "person")
    looked = Looked(arm()[0], None, None, None, np.zeros((4, 6), np.float32))
    [found] = beings_of(judged([one], Asked(looked.image, np.ones((H, W), np.float32), faces, looked, None)))
    assert found.whole == whole


@pytest.mark.parametrize("sleeve", [False, True])
def test_a_hand_is_told_from_what_it_holds_and_keeps_its_sleeve(sleeve):
    picture, person, thing = arm(sleeve)
    hand = hand_part(picture, person | thing, [palm(110, 100)])
    assert overlap(hand, person) > 0.93 and overlap((person | thing) & ~hand, thing) > 0.9


def test_what_has_the_hands_own_colour_is_held_where_no_finger_reaches():
    picture, person, thing = arm(held=SKIN)
    cv2.rectangle(picture, (188, 96), (290, 104), SKIN, -1)
    thing[96:105, 188:291] = True
    hand = hand_part(picture, person | thing, [palm(110, 100)])
    assert not hand[:, 200:].any() and hand[100, 60]


def test_what_is_not_of_the_colour_of_skin_is_no_hand():
    picture, person, thing = arm()
    picture[person] = (40, 60, 200)
    assert hand_part(picture, person | thing, [palm(110, 100)]) is None
    assert hand_part(picture, np.zeros((H, W), bool), [palm(110, 100)]) is None


def test_a_hand_becomes_a_person_and_what_it_holds_a_thing_beside_the_other_objects():
    picture, person, thing = arm()
    mask = (person | thing).astype(np.float32)
    mask[150:190, 200:280] = 1
    objects = np.zeros((H, W), np.uint8)
    objects[150:190, 200:280], objects[person | thing] = 1, 2
    shared, kinds = with_hands(picture, mask, objects, ["animal", "animal"], [palm(110, 100)])
    assert kinds == ["animal", "person", "thing"]
    assert overlap(shared == 3, thing) > 0.9 and (shared == 1).sum() == 3200
    assert (objects == 3).sum() == 0, "the map that was given stays"
    same, kinds = with_hands(picture, mask, objects, ["animal", "thing"], [])
    assert kinds == ["animal", "thing"] and (same == objects).all()


def test_a_bare_hand_holds_nothing():
    picture, person, _ = arm()
    objects = person.astype(np.uint8)
    shared, kinds = with_hands(picture, person.astype(np.float32), objects, ["thing"], [palm(110, 100)])
    assert kinds == ["person"] and (shared == objects).all()


def test_a_hand_that_saliency_left_out_is_looked_for_once_more():
    picture, person, thing = arm()
    found = with_arms(picture, thing.astype(np.float32), [palm(110, 100)], Saliency())
    assert overlap(found > 0.5, person | thing) > 0.93


def test_an_arm_that_ends_within_the_frame_is_completed_and_a_whole_one_not_looked_at_again():
    picture, person, thing = arm()
    base = (person | thing).astype(np.float32)
    base[:, :50] = 0
    network = Saliency()
    assert overlap(with_arms(picture, base, [palm(110, 100)], network) > 0.5, person | thing) > 0.93
    assert network.asked == 2
    whole = (person | thing).astype(np.float32)
    assert with_arms(picture, whole, [palm(110, 100)], network) is whole and network.asked == 2


def test_what_no_arm_leads_to_is_not_added():
    picture, _, thing = arm()
    picture[:, :40] = PAPER
    base = thing.astype(np.float32)
    assert with_arms(picture, base, [palm(110, 100)], Saliency()) is base
    assert with_arms(picture, base, [palm(280, 20, way=(1, 0))], Saliency()) is base


@settings(max_examples=examples(40))
@given(x=st.floats(-50, 350), y=st.floats(-50, 250), size=st.floats(1, 200), angle=st.floats(0, 6.28))
def test_a_palm_anywhere_even_off_the_picture_breaks_nothing(x, y, size, angle):
    picture, person, thing = arm()
    base = (person | thing).astype(np.float32)
    odd = palm(x, y, size, (np.cos(angle), np.sin(angle)))
    found = with_arms(picture, base, [odd], Saliency())
    assert found.shape == base.shape and (found >= base).all() and found.max() <= 1
    shared, kinds = with_hands(picture, found, (found > 0.5).astype(np.uint8), ["thing"], [odd])
    assert set(np.unique(shared)) <= set(range(len(kinds) + 1)) and (shared > 0)[found > 0.5].all()


def test_a_hand_away_from_every_animal_stays_in_the_subject():
    picture, person, thing = arm()
    dog = np.zeros((H, W), np.float32)
    dog[120:180, 220:290] = 1
    base = np.maximum(dog, (person | thing).astype(np.float32))
    beside = Being(np.array([220, 120, 290, 180], np.float32), 0.9, "animal", True, 0.9, dog)
    without = with_beings(picture, [beside], base, base, [], Saliency(), Figure()).mask
    held = with_beings(picture, [beside], base, base, [], Saliency(), Figure(), [palm(110, 100)]).mask
    assert without[100, 60] == 0 and held[100, 60] > 0.9 and held[100, 160] > 0.9


class Figure:
    def run(self, fed):
        return [np.zeros((1, 256, 256, 1), np.float32)]


@pytest.mark.parametrize("name", ["BST_0541", "BST_0542"])
def test_on_the_demo_a_hand_with_a_carrot_is_a_person_with_a_thing(name):
    frame = next(k for k in known_frames() if k.name == name)
    found, truth = find(frame.image(), detectors(2)), frame.masks()
    scores = {kind: intersection_over_union(found.masks[kind], truth[kind]) for kind in truth}
    assert min(scores[kind] for kind in ("subject", "animals")) > 0.95, scores
    assert scores["people"] > 0.92 and scores["things"] > 0.75, scores
    assert found.masks["skin"].max() > 127
