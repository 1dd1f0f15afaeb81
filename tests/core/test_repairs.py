"""Repairs of one frame's masks: what they do to the mask, and everything that follows from it."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from lenskeep.core.regions import Region
from lenskeep.core.repairs.applied import repaired
from lenskeep.core.repairs.models import Repair, Repairs
from tests.effort import examples
from tools.made_up import frame_of, scene

ADAPTER = TypeAdapter(Repair)


@pytest.fixture(scope="module")
def found():
    return frame_of(((scene(120, 180) / 255.0) ** 2.2).astype(np.float32)).found


def made(kind, mask="subject", **values):
    return ADAPTER.validate_python({"kind": kind, "mask": mask} | values)


def after(found, *repairs):
    return repaired(found, Repairs(done=repairs))


def stroke(x0, y0, x1, y1, **values):
    return made(
        "painted", points=[(x0, y0), (x1, y1)], **({"size": 0.1, "hardness": 0.9, "edge_aware": False} | values)
    )


def pixel(mask, x, y):
    return float(mask[int(y * mask.shape[0]), int(x * mask.shape[1])])


def test_without_repairs_the_frame_is_the_same_one(found):
    assert repaired(found, Repairs()) is found and Repairs().key() == ""


def test_a_stroke_adds_where_it_was_painted_and_nowhere_else(found):
    now = after(found, stroke(0.1, 0.9, 0.2, 0.9))
    assert pixel(now.subject, 0.15, 0.9) > 0.95 and pixel(found.subject, 0.15, 0.9) == 0
    far = np.s_[:, 80:]
    assert np.array_equal(now.subject[far], found.subject[far])


def test_a_stroke_that_takes_away_leaves_a_hole(found):
    now = after(found, stroke(0.5, 0.6, 0.5, 0.6, away=True))
    assert pixel(now.subject, 0.5, 0.6) < 0.05 and pixel(now.subject, 0.5, 0.75) > 0.9


def test_an_edge_aware_stroke_stops_at_the_edge(found):
    """Painted over the horizon from the ground, it leaves the sky alone."""
    plain = after(found, stroke(0.1, 0.47, 0.3, 0.47, size=0.2))
    aware = after(found, stroke(0.1, 0.50, 0.3, 0.50, size=0.2, edge_aware=True))
    above = np.s_[44:52, 20:50]
    assert plain.subject[above].mean() > 0.5 and aware.subject[above].mean() < 0.1
    assert aware.subject[60:64, 20:50].mean() > 0.2


def test_boxes_kinds_areas_and_trust_follow(found):
    now = after(found, stroke(0.05, 0.9, 0.2, 0.9))
    assert now.facts.subject_box.x0 < 0.06 and found.facts.subject_box.x0 > 0.3
    assert now.facts.subject.by_hand and now.facts.subject.trust == 1.0 and not now.facts.subject.reasons
    assert now.facts.areas["animals"] > float((found.subject > 0.5).mean()), "what was added is of the nearest kind"
    assert pixel(now.mask("animals"), 0.1, 0.9) > 0.9 and "people" not in now.facts.areas
    assert not now.facts.sky.by_hand and now.facts.sky == found.facts.sky


def test_what_becomes_subject_is_no_longer_sky_or_background(found):
    now = after(found, stroke(0.1, 0.2, 0.2, 0.2))
    assert pixel(now.sky, 0.15, 0.2) < 0.05 and pixel(now.sky, 0.5, 0.1) > 0.95
    background = Region.model_validate({"parts": [{"kind": "background"}]})
    assert pixel(background.alpha(now), 0.15, 0.2) < 0.05 < pixel(background.alpha(found), 0.15, 0.2)


def test_none_here_empties_the_mask_and_the_step_is_told(found):
    now = after(found, made("emptied"))
    assert not now.subject.any() and now.facts.subject_box is None and now.facts.area("subject") == 0
    assert Region.model_validate({"parts": [{"kind": "subject"}]}).lost(now) == ["subject"]
    assert "animals" not in now.facts.areas
    emptied = after(found, made("emptied", "sky"))
    assert emptied.facts.skyline is None and emptied.facts.sky.area == 0


def test_a_click_takes_the_piece_under_it_and_alone_takes_nothing_else(found):
    sky_too = after(found, made("clicked", x=0.5, y=0.1))
    assert pixel(sky_too.subject, 0.5, 0.1) > 0.9 and pixel(sky_too.subject, 0.5, 0.6) > 0.9
    alone = after(found, made("clicked", x=0.1, y=0.9, alone=True))
    assert pixel(alone.subject, 0.1, 0.9) > 0.9 and pixel(alone.subject, 0.5, 0.6) < 0.1
    gone = after(found, made("clicked", x=0.5, y=0.6, away=True))
    assert not (gone.subject > 0.5).any()


def test_an_outline_takes_what_lies_within(found):
    square = [(0.0, 0.6), (0.2, 0.6), (0.2, 0.9), (0.0, 0.9)]
    now = after(found, made("outlined", points=square))
    assert now.subject[75:105, 2:33].min() > 0.99 and now.subject[:68, :20].max() == 0
    share = float(now.subject[:, :40].mean()) * 40 / 180
    assert abs(share - 0.2 * 0.3) < 0.004


def test_a_mask_that_was_not_found_can_be_made(found):
    now = after(found, made("clicked", "water", x=0.1, y=0.9))
    assert "water" in now.facts.areas and pixel(now.mask("water"), 0.1, 0.9) > 0.9
    assert "water" in set(now.masks)


def test_order_counts_undo_and_redo_go_through_it(found):
    one, two = made("emptied"), stroke(0.1, 0.9, 0.2, 0.9)
    both = Repairs().with_one(one).with_one(two)
    assert repaired(found, both).facts.area("subject") > 0
    back = both.undo()
    assert back.done == (one,) and back.redo() == both and back.undo().undo() == back.undo()
    assert back.with_one(two).undone == (), "another repair ends what could be made again"
    assert both.without("subject").done == () and both.without("sky").done == both.done
    assert Repairs(done=(two, one)).key() != both.key() and back.key() == Repairs(done=(one,)).key()


@pytest.mark.parametrize(
    "bad",
    [
        {"kind": "painted", "mask": "subject", "points": [], "size": 0.1},
        {"kind": "painted", "mask": "subject", "points": [(float("nan"), 0)], "size": 0.1},
        {"kind": "painted", "mask": "subject", "points": [(0, 0)], "size": 0},
        {"kind": "painted", "mask": "../sky", "points": [(0, 0)], "size": 0.1},
        {"kind": "outlined", "mask": "sky", "points": [(0, 0), (1, 1)]},
        {"kind": "clicked", "mask": "sky", "x": 2, "y": 0},
        {"kind": "melted", "mask": "sky"},
    ],
)
def test_what_makes_no_sense_is_refused(bad):
    with pytest.raises(ValidationError):
        ADAPTER.validate_python(bad)


place = st.floats(-0.4, 1.4, allow_nan=False)
strokes = st.builds(
    lambda a, b, size, away, aware: made(
        "painted", points=[a, b], size=size, away=away, edge_aware=aware, hardness=0.5
    ),
    st.tuples(place, place), st.tuples(place, place), st.floats(0.005, 1.0), st.booleans(), st.booleans(),
)  # fmt: skip
outlines = st.builds(
    lambda points, away: made("outlined", points=points, away=away),
    st.lists(st.tuples(place, place), min_size=3, max_size=9), st.booleans(),
)  # fmt: skip


@settings(max_examples=examples(40))
@given(st.lists(strokes | outlines, max_size=5))
def test_masks_stay_masks_and_the_kinds_make_up_the_subject(found, repairs):
    now = after(found, *repairs)
    for name in now.masks:
        mask = now.mask(name)
        assert mask.dtype == np.float32 and mask.shape == found.shape
        assert mask.min() >= 0.0 and mask.max() <= 1.0 and np.isfinite(mask).all()
    if repairs:
        kinds = [now.mask(k) for k in ("people", "animals", "things")]
        assert np.abs(np.max(kinds, 0) - now.subject).max() < 1e-6
        assert (now.subject + now.sky).max() <= 2.0 - float(now.sky.max() < 0)
    assert now.facts.model_validate_json(now.facts.model_dump_json()) == now.facts


@settings(max_examples=examples(25))
@given(strokes)
def test_adding_never_takes_and_taking_never_adds(found, one):
    now = after(found, one)
    difference = now.subject - found.subject
    assert (difference.max() <= 1e-6) if one.away else (difference.min() >= -1e-6)


def test_a_sweep_takes_every_piece_that_it_crosses(found):
    now = after(found, made("emptied"), made("swept", points=[(0.1, 0.9), (0.1, 0.2)]))
    assert pixel(now.subject, 0.9, 0.9) > 0.9 and pixel(now.subject, 0.9, 0.1) > 0.9
    assert pixel(now.subject, 0.5, 0.6) < 0.1, "the disc was not crossed, and it is an object"
    back = after(found, made("swept", points=[(0.3, 0.6), (0.55, 0.6)], away=True))
    assert pixel(back.subject, 0.5, 0.6) < 0.1


def with_sand(found):
    """Two narrow legs of one colour in a wide piece of ground."""
    pieces = found.pieces.copy()
    h, w = pieces.shape
    pieces[:] = 3
    for label, x in ((4, 0.4), (5, 0.5)):
        pieces[int(0.3 * h) : int(0.8 * h), int(x * w) : int((x + 0.03) * w)] = label
    [ground] = [p for p in found.facts.pieces if p.label == 3]
    legs = [ground.model_copy(update={"label": k, "kind": "thing", "colour": (0.3, 0, 0.05 * k)}) for k in (4, 5)]
    facts = found.facts.model_copy(update={"pieces": [*found.facts.pieces, *legs]})
    return replace(found, pieces=pieces, facts=facts)


@pytest.mark.parametrize(("least", "sand"), [(0.0, True), (0.3, False)])
def test_a_sweep_from_leg_to_leg_leaves_the_ground_between_that_it_only_brushes(found, least, sand):
    frame = with_sand(found)
    across = made("swept", points=[(0.41, 0.6), (0.515, 0.6)], least=least)
    now = after(frame, made("emptied"), across)
    assert pixel(now.subject, 0.415, 0.6) > 0.9 and pixel(now.subject, 0.515, 0.6) > 0.9
    assert (pixel(now.subject, 0.8, 0.6) > 0.5) == sand, "one that was kept by an earlier version stays as it was"


def test_a_sweep_that_begins_in_the_ground_or_goes_far_through_it_means_it(found):
    frame = with_sand(found)
    for points in ([(0.38, 0.6), (0.415, 0.6)], [(0.41, 0.5), (0.9, 0.5)]):
        now = after(frame, made("emptied"), made("swept", points=points, least=0.3))
        assert pixel(now.subject, 0.8, 0.6) > 0.5 and pixel(now.subject, 0.415, 0.6) > 0.9


def test_a_sweep_spreads_to_touching_pieces_of_its_kind_and_colour(found):
    """Pieces of ground that touch: one like the first, one not; a third that is like it lies apart."""
    pieces = found.pieces.copy()
    h, w = pieces.shape
    pieces[int(0.5 * h) :, : w // 4] = 4
    pieces[int(0.9 * h) :, : w // 4] = 5
    [ground] = [p for p in found.facts.pieces if p.label == 3]
    near = ground.model_copy(update={"label": 4, "colour": (0.46, -0.05, 0.06)})
    more = [near, ground.model_copy(update={"label": 5, "colour": (0.7, 0, 0)})]
    facts = found.facts.model_copy(update={"pieces": [*found.facts.pieces, *more]})
    frame = replace(found, pieces=pieces, facts=facts)
    now = after(frame, made("emptied"), made("swept", points=[(0.05, 0.7), (0.15, 0.7)]))
    assert pixel(now.subject, 0.1, 0.7) > 0.9 and pixel(now.subject, 0.3, 0.9) > 0.9
    assert pixel(now.subject, 0.1, 0.97) < 0.1
