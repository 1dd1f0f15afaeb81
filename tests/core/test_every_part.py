"""What holds for every kind of part, whatever it is."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.recipes.models import Recipe, recipe_schema
from lenskeep.core.regions import PART_KINDS, Region
from tests.core.parts import PARTS, found, region
from tests.effort import examples

KINDS = sorted(PART_KINDS)
HOW = ["add", "take away", "only within"]


def regions(most=4):
    """Any combination of parts, shaped in any way."""
    part = st.tuples(st.sampled_from(KINDS), st.sampled_from(HOW), st.booleans()).map(
        lambda t: {**PARTS[t[0]], "combine": t[1], "invert": t[2]}
    )
    return st.builds(
        lambda parts, invert, grow, snap, feather, ceiling: region(
            *parts, invert=invert, grow=grow, snap=snap, feather=feather, ceiling=ceiling
        ),
        st.lists(part, min_size=1, max_size=most),
        st.booleans(),
        st.sampled_from([0.0, 0.03, -0.03]),
        st.sampled_from([0.0, 1.0]),
        st.sampled_from([0.0, 0.02]),
        st.floats(0, 1),
    )


def test_the_tests_know_every_kind():
    assert set(PARTS) == set(PART_KINDS)


@pytest.mark.parametrize("kind", KINDS)
def test_a_part_goes_through_json_and_its_schema(kind):
    jsonschema = pytest.importorskip("jsonschema")
    whole = Recipe.model_validate({"steps": [{"id": "a", "region": {"parts": [PARTS[kind]]}}]})
    assert Recipe.model_validate_json(whole.model_dump_json()) == whole
    jsonschema.validate(whole.model_dump(mode="json"), recipe_schema())
    bare = Region.model_validate({"parts": [{"kind": kind}]})
    assert bare.alpha(found()).min() >= 0 and bare.alpha(found()).max() <= 1
    assert bare.sentence()


@pytest.mark.parametrize("kind", KINDS)
def test_a_part_covers_some_of_the_frame_and_inverted_the_rest(kind):
    alpha = region(PARTS[kind]).alpha(found())
    assert 0.005 < alpha.mean() < 0.995 and alpha.dtype == np.float32
    inverted = {**PARTS[kind], "invert": not PARTS[kind].get("invert", False)}
    np.testing.assert_allclose(alpha + region(inverted).alpha(found()), 1, atol=1e-5)


@pytest.mark.parametrize("kind", KINDS)
def test_a_part_agrees_with_itself_at_two_sizes(kind):
    small, large = region(PARTS[kind]).alpha(found(200, 300)), region(PARTS[kind]).alpha(found(600, 900))
    reduced = large.reshape(200, 3, 300, 3).mean((1, 3))
    assert np.abs(reduced - small).mean() < 0.012, kind


@pytest.mark.parametrize("kind", KINDS)
def test_what_can_be_set_is_described_and_keeps_to_its_range(kind):
    for field in PART_KINDS[kind].fields():
        assert field.label
        if field.form == "number":
            for value in (field.low, field.high):
                alpha = region({**PARTS[kind], field.name: value}).alpha(found())
                assert np.isfinite(alpha).all() and alpha.min() >= 0 and alpha.max() <= 1
        if field.form == "choice":
            for option in field.options:
                assert region({**PARTS[kind], field.name: option}).alpha(found()).shape == (80, 120)


@settings(max_examples=examples(60))
@given(regions())
def test_any_region_stays_within_bounds_and_goes_through_json(r):
    alpha = r.alpha(found())
    assert alpha.shape == (80, 120) and np.isfinite(alpha).all()
    assert alpha.min() >= 0 and alpha.max() <= r.ceiling + 1e-6
    assert Region.model_validate_json(r.model_dump_json()) == r
    told = r.sentence()
    assert told and all(word in told for part in r.parts for word in part.words().split()[:1]), told


@settings(max_examples=examples(40))
@given(regions())
def test_a_region_and_its_opposite_share_the_frame_out(r):
    whole = r.model_copy(update={"ceiling": 1.0, "snap": 0.0})
    both = whole.alpha(found()) + whole.inverted().alpha(found())
    np.testing.assert_allclose(both, 1, atol=2e-5)


@settings(max_examples=examples(30))
@given(regions(2), regions(2))
def test_de_morgan_holds_for_whole_regions(a, b):
    """All but (a and b) is all but a, only within all but b; seen through image-free unshaped regions."""
    plain = {"grow": 0.0, "snap": 0.0, "feather": 0.0, "ceiling": 1.0, "invert": False}
    first = a.parts[0].model_copy(update={"combine": "add", "id": "a"})
    second = b.parts[0].model_copy(update={"combine": "add", "id": "b"})
    f = found()
    left = Region(parts=[first, second], **{**plain, "invert": True}).alpha(f)
    flipped = [p.model_copy(update={"invert": not p.invert}) for p in (first, second)]
    flipped[1] = flipped[1].model_copy(update={"combine": "only within"})
    np.testing.assert_allclose(left, Region(parts=flipped, **plain).alpha(f), atol=2e-5)


@settings(max_examples=examples(20))
@given(regions(3))
def test_regions_agree_at_two_sizes(r):
    small, large = r.alpha(found(200, 300)), r.alpha(found(600, 900))
    reduced = large.reshape(200, 3, 300, 3).mean((1, 3))
    assert np.abs(reduced - small).mean() < 0.03
