"""Sharing regions and changing their parts: a change reaches every user, and nothing works where nobody meant it to."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.recipes import edit_regions as regions
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions.kinds.brush import Stroke
from lenskeep.core.regions.kinds.picked import Pick
from tests.asked import after, setting
from tests.core.parts import PARTS, PIECE, STROKE, found

PICK = {"frame": "made-up", "x": 0.5, "y": 0.6, "piece": PIECE}


def recipe(count=4):
    steps = [
        {"id": f"s{i}", "name": f"Step {i}", "region": {"parts": [PARTS["background"]]}, "adjustments": []}
        for i in range(count)
    ]
    return Recipe.model_validate({"name": "Shared", "steps": steps})


def shared(users=("s1", "s2"), inverted=("s2",)):
    r = regions.share_region(recipe(), "s0", "Behind the dogs", "r1")
    for user in users:
        r = regions.use_shared(r, user, "r1", user in inverted)
    return r


@given(
    users=st.sets(st.sampled_from(["s1", "s2", "s3"])),
    inverted=st.sets(st.sampled_from(["s1", "s2", "s3"])),
    feather=st.floats(0, 0.1),
    x=st.floats(0, 1),
)
def test_a_change_of_a_shared_region_reaches_every_user_and_nobody_else(users, inverted, feather, x):
    r = shared(sorted(users), inverted)
    before = {s.id: r.region_of(s) for s in r.steps}
    r = regions.add_part(r, "s0", "pool", "only within", "near")
    r = setting({"regions/r1/region/feather": feather, "regions/r1/region/parts/near/x": x}).on(r)
    plain = r.region_of(r.step("s0"))
    assert plain.feather == feather and plain.parts[1].x == x
    for step in r.steps:
        if step.id in users:
            expected = plain.inverted() if step.id in inverted else plain
            assert r.region_of(step) == expected
        elif step.id != "s0":
            assert r.region_of(step) == before[step.id]
    assert {s.id for s in r.users("r1")} == {"s0", *users}
    assert Recipe.model_validate_json(r.model_dump_json()) == r


def test_an_inverted_use_is_the_opposite_mask_and_says_so():
    r = shared()
    a, b = (r.region_of(r.step(s)).alpha(found()) for s in ("s0", "s2"))
    assert abs(a + b - 1).max() < 1e-5
    assert r.sentence(r.step("s0")) == "Behind the dogs (shared)"
    assert r.sentence(r.step("s2")) == "all but Behind the dogs (shared)"


def test_a_copy_goes_its_own_way_and_can_be_shared_again():
    r = regions.own_copy(shared(), "s2")
    assert r.step("s2").shared is None and r.step("s2").region.invert
    changed = setting({"regions/r1/region/feather": 0.05}).on(r)
    assert changed.step("s2").region.feather == 0.0
    again = regions.share_again(changed, "s2")
    assert again.step("s2").shared.invert and again.region_of(again.step("s2")).feather == 0.05
    gone = regions.delete_shared(r, "r1", "copies")
    with pytest.raises(EditProblem, match="gone"):
        regions.share_again(gone, "s2")


def test_deleting_a_shared_region_gives_copies_or_switches_its_users_off():
    r = shared()
    copies = regions.delete_shared(r, "r1", "copies")
    assert copies.regions == {} and all(s.shared is None and s.enabled for s in copies.steps)
    assert copies.region_of(copies.step("s2")) == r.region_of(r.step("s2"))
    off = regions.delete_shared(r, "r1", "off")
    assert [s.enabled for s in off.steps] == [False, False, False, True]
    assert off.step("s0").region.parts == [] and off.step("s3").region.parts != []


def test_a_region_is_copied_from_another_step_also_as_its_opposite():
    r = regions.add_part(recipe(), "s0", "ramp", "only within")
    r = regions.copy_region(r, "s1", "s0", invert=True)
    assert r.step("s1").region == r.step("s0").region.inverted()


def test_parts_move_and_keep_what_they_are():
    r = regions.add_part(regions.add_part(recipe(1), "s0", "sky", "add"), "s0", "ramp", "take away")
    r = regions.move_part(r, "s0", "p3", -9)
    assert [p.kind for p in r.step("s0").region.parts] == ["ramp", "background", "sky"]
    r = regions.move_part(r, "s0", "p3", 1)
    assert [p.combine for p in r.step("s0").region.parts] == ["add", "take away", "add"]


def test_strokes_samples_picks_and_images_go_into_their_own_part_shared_or_not():
    r = shared()
    for kind in ("brush", "colour_match", "picked", "image"):
        r = regions.add_part(r, "s1", kind, "add")
    r = regions.add_stroke(r, "s1", "p2", Stroke.model_validate(STROKE))
    r = regions.add_sample(r, "s1", "p3", (0.5, 0.1, 0.0))
    r = regions.add_sample(r, "s1", "p3", (0.7, 0.0, 0.1))
    r = regions.remove_sample(r, "s1", "p3", 0)
    r = regions.add_pick(r, "s1", "p4", Pick.model_validate(PICK), alone=False)
    r = regions.add_pick(r, "s1", "p4", Pick.model_validate({**PICK, "away": True}), alone=False)
    r = regions.set_image(r, "s1", "p5", "mask.png", PARTS["image"]["picture"])
    parts = r.regions["r1"].region.parts
    assert len(parts[1].strokes) == 1 and parts[2].samples == [(0.7, 0.0, 0.1)]
    assert [p.away for p in parts[3].picks] == [False, True] and parts[4].name == "mask.png"
    r = regions.keep_on_frame(r, "s1", "p2", "made-up")
    r = regions.clear_picks(regions.clear_strokes(r, "s0", "p2"), "s0", "p4")
    parts = r.regions["r1"].region.parts
    assert parts[1].only_on == "made-up" and parts[1].strokes == [] and parts[3].picks == []


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda r: regions.share_region(r, "s3", "Behind the dogs", "r2"), "another name"),
        (lambda r: regions.share_region(r, "s3", "  ", "r2"), "a name"),
        (lambda r: regions.share_region(r, "s1", "Again", "r2"), "already"),
        (lambda r: regions.use_shared(r, "s3", "r9"), "no longer"),
        (lambda r: regions.own_copy(r, "s3"), "already"),
        (lambda r: regions.delete_shared(r, "r9", "off"), "no longer"),
        (lambda r: after(r, "stroke", step="s3", part="p1", stroke=STROKE), "no longer"),
        (lambda r: regions.move_part(r, "s3", "p4", 1), "no longer"),
        (lambda r: regions.remove_sample(regions.add_part(r, "s3", "colour_match", "add"), "s3", "p2", 0), "no longer"),
        (lambda r: after(r, "stroke", step="s3", part="p1", stroke={"points": []}), "points"),
        (lambda r: after(r, "set-image", step="s3", part="p1", name="x", picture="AAAA"), "picture"),
        (lambda r: setting({"steps/s1/shared/region": "r9"}).on(r), "invert"),
    ],
)
def test_what_cannot_be_done_says_why(change, words):
    with pytest.raises(EditProblem, match=words):
        change(shared())
