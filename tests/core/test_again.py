"""A second look at masks that are all but trusted."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.detect import find as finding
from lenskeep.core.detect.again import ANOTHER, looked_again, odds, sky_again, subject_again, worth_a_second_look
from lenskeep.core.detect.find import find
from lenskeep.core.detect.objects import Looked
from lenskeep.core.facts import DOUBTFUL_BELOW, Finding
from lenskeep.studio.tasks.find import detectors
from tools.known import known_frames

WORDS = "Much of the subject's outline is soft."


def doubtful(trust, area=0.2):
    return Finding(trust=trust, area=area, reasons=[WORDS])


def masks(shared):
    """Two masks (100, 100) whose intersection over union is about ``shared``."""
    one, other = np.zeros((100, 100), np.float32), np.zeros((100, 100), np.float32)
    one[:50] = other[:50] = 1
    other[50 : round(50 / shared)] = 1
    return one, other


@given(trust=st.floats(0, 1), area=st.floats(0, 1))
def test_only_doubtful_masks_that_agreement_can_clear_are_worth_a_second_look(trust, area):
    one = doubtful(trust, area)
    same = np.ones((4, 4), np.float32)
    if worth_a_second_look(one):
        assert one.doubtful and area > 0
        assert looked_again("sky", one, same, same).trust >= DOUBTFUL_BELOW - 1e-3
    elif area > 0 and one.doubtful:
        assert looked_again("sky", one, same, same).trust <= DOUBTFUL_BELOW + 1e-3


@given(trust=st.floats(0.6, 0.8), shared=st.floats(0.55, 1))
def test_trust_grows_with_how_much_the_looks_agree_and_never_leaves_its_range(trust, shared):
    less, more = (looked_again("sky", doubtful(trust), *masks(s)).trust for s in (0.5, shared))
    assert 0 <= less <= more <= 1


def test_agreement_clears_and_another_shape_is_said():
    same = masks(1)
    cleared = looked_again("sky", doubtful(0.75), *same)
    assert not cleared.doubtful and cleared.reasons == [WORDS] and cleared.area == 0.2
    other = looked_again("sky", doubtful(0.75), *masks(0.6))
    assert other.trust < 0.4 and other.reasons == [WORDS, ANOTHER.format("sky")]
    assert odds(looked_again("sky", doubtful(0.75), *masks(0.01)).trust) > odds(0.75) - 2.1, (
        "one look never decides alone"
    )


@pytest.fixture(scope="module")
def guests():
    """A frame with people (h, w, 3) at half its size."""
    image = next(k for k in known_frames() if k.facts["shot"] == "guests").image()
    return np.ascontiguousarray(cv2.resize(image, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA))


def test_what_is_plain_is_found_alike_on_the_mirror_image(guests):
    networks = detectors(2)
    found = find(guests, networks)
    features = finding.sky_probability(guests, networks.backbone, networks.sky_decoders)
    animals = networks.class_head.run({"s6": features.stages["s6"]})[1][0]
    looked = Looked(guests, networks.backbone, networks.class_head, networks.person, animals)
    for mask, other in ((found.subject, subject_again(looked, networks)), (found.sky, sky_again(guests, networks))):
        a, b = mask > 127, other > 0.5
        assert other.shape == mask.shape and (a & b).sum() / (a | b).sum() > 0.8


def test_finding_looks_again_where_it_is_worth_it_and_only_there(guests, monkeypatch):
    asked = []
    halves = np.zeros(guests.shape[:2], np.float32)
    halves[:, ::2] = 1
    monkeypatch.setattr(finding, "subject_again", lambda *_: asked.append("subject") or halves)
    monkeypatch.setattr(finding, "sky_again", lambda *_: asked.append("sky") or halves)
    monkeypatch.setattr(finding, "worth_a_second_look", lambda _: False)
    once = find(guests, detectors(2))
    assert asked == []
    monkeypatch.setattr(finding, "worth_a_second_look", lambda _: True)
    twice = find(guests, detectors(2))
    assert sorted(asked) == ["sky", "subject"]
    for kind in ("subject", "sky"):
        assert twice.facts.finding(kind).trust < once.facts.finding(kind).trust
        assert ANOTHER.format(kind) in twice.facts.finding(kind).reasons
    assert (twice.subject == once.subject).all() and (twice.sky == once.sky).all(), "a second look changes no mask"
    assert twice.facts.others["people"].trust <= once.facts.others["people"].trust
