"""What is pressed in the settings of a step's region and of what it does, and what each button promises."""

import pytest
from selenium.webdriver.common.keys import Keys

from lenskeep.store import frames
from tests.browser.promises import Table, hit, is_pressed, load, walk

pytestmark = pytest.mark.browser
STROKE = {"points": [[0.2, 0.2], [0.4, 0.3]]}
OPEN = ".lane[data-open] "
AROUND = {
    "parts": [{"id": "p", "kind": "subject"}, {"id": "q", "kind": "brush", "combine": "take away", "strokes": [STROKE]}]
}
STEPS = [
    {
        "id": "a",
        "name": "Lift",
        "region": AROUND,
        "adjustments": [
            {"id": "x", "kind": "exposure", "ev": 1.2},
            {"id": "k", "kind": "curve"},
            {"id": "w", "kind": "colour_wash", "wash": 40},
            {"id": "m", "kind": "colour_bands"},
            {"id": "y", "kind": "balance", "balance": 50},
        ],
    },
    {"id": "b", "name": "Calm", "adjustments": [{"id": "z", "kind": "contrast", "contrast": -25}]},
    {
        "id": "c",
        "name": "Matched",
        "region": {
            "parts": [
                {"id": "s", "kind": "colour_match", "samples": [[0.6, 0.05, 0.08]]},
                {"id": "t", "kind": "picked", "combine": "add"},
                {"id": "u", "kind": "ramp", "combine": "add"},
            ]
        },
        "adjustments": [],
    },
    {"id": "d", "name": "Around", "shared": {"region": "r"}, "adjustments": []},
]
REGIONS = {"r": {"name": "Near", "region": {"parts": [{"id": "v", "kind": "pool"}]}}}
sheets = Table()
elsewhere = (
    *("#lanes-head *", ".lane-row *", ".lane-whole *", ".bar *", ".stage-area *", "#repair-bar *", "#gathered *"),
    *("dialog *", "template *", ".option", "[data-choose]", "#save-form *", "form [data-close]", "form [data-tick]"),
    "form [name=then]",
)
"""Buttons of other tables."""


@pytest.fixture(scope="module")
def person(desk):
    with desk.bench(STEPS[1:2]) as one:
        yield one


@pytest.fixture
def me(person):
    load(person, STEPS, regions=REGIONS)
    yield person
    person.driver.execute_script("localStorage.clear()")
    person.ends()


def region(me, step):
    return me.recipe.region_of(me.recipe.step(step))


def kinds(me, step="a"):
    return [a.kind for a in me.recipe.step(step).adjustments]


def opened(me, number, chip):
    me.open(number)
    me.chip(chip)


def unfolded(me, which):
    """The adjustment's settings are seen."""
    me.open(0)
    own = f"{OPEN}.adjustment[data-id={which}]"
    if not me.find(f"{own} [data-more]").is_displayed():
        hit(me, f"{own} [data-fold-button]")
    me.wait(lambda: me.find(f"{own} [data-more]").is_displayed())
    return own


def laid_down(me, tool):
    """The tool is not in the hand: some are taken as their settings open."""
    if is_pressed(me, f"{OPEN}[data-tool={tool}]"):
        hit(me, f"{OPEN}[data-tool={tool}]")
    me.wait(lambda: not is_pressed(me, f"{OPEN}[data-tool={tool}]"))


# --- where


@sheets("[data-chip]", "[data-panel-close]")
def the_settings_of_a_part_open_beside_the_picture_and_close(me):
    me.open(0)
    panel = f"{OPEN}[data-part=subject]"
    yield f"{OPEN}[data-chip='part-a-p']"
    me.wait(lambda: me.find(panel).is_displayed())
    yield f"{panel} [data-panel-close]"
    me.wait(lambda: not me.find(panel).is_displayed())


@sheets("[data-add-part] [data-picker-open]")
def a_part_is_added(me):
    me.open(1)
    yield f"{OPEN}[data-add-part] [data-picker-open]"
    me.driver.switch_to.active_element.send_keys("Sky", Keys.ENTER)
    me.wait(lambda: me.recipe.sentence(me.recipe.step("b")) == "sky")


@sheets("[data-edit*='move-part']")
def parts_change_places(me):
    opened(me, 2, "colour_match")
    yield f"{OPEN}[data-part=colour_match] [data-edit*='\"by\": 1']"
    me.wait(lambda: [p.id for p in region(me, "c").parts] == ["t", "s", "u"])
    me.settled("#key-canvas")
    yield f"{OPEN}[data-part=colour_match] [data-edit*='\"by\": -1']"
    me.wait(lambda: [p.id for p in region(me, "c").parts] == ["s", "t", "u"])


@sheets("[data-edit*='remove-part']")
def a_part_is_removed(me):
    opened(me, 0, "brush")
    yield f"{OPEN}[data-part=brush] [data-edit*='remove-part']"
    me.wait(lambda: [p.id for p in region(me, "a").parts] == ["p"])


@sheets("[data-tool=pick]", "[data-edit*='clear-picks']")
def an_object_is_picked_by_a_click_and_forgotten(me):
    opened(me, 2, "picked")
    laid_down(me, "pick")
    yield f"{OPEN}[data-tool=pick]"
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "pick")
    me.hand(0.5, 0.6).click().perform()
    me.wait(lambda: len(region(me, "c").parts[1].picks) == 1, 60)
    me.settled("#key-canvas")
    me.chip("picked")
    yield f"{OPEN}[data-edit*='clear-picks']"
    me.wait(lambda: not region(me, "c").parts[1].picks)


@sheets("[data-tool=sample]", "[data-edit*='remove-sample']")
def a_colour_is_taken_and_let_go(me):
    opened(me, 2, "colour_match")
    laid_down(me, "sample")
    yield f"{OPEN}[data-tool=sample]"
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "sample")
    me.hand(0.5, 0.1).click().perform()
    me.wait(lambda: len(region(me, "c").parts[0].samples) == 2)
    me.settled("#key-canvas")
    me.chip("colour_match")
    yield f"{OPEN}[data-edit*='remove-sample']"
    me.wait(lambda: len(region(me, "c").parts[0].samples) == 1)


@sheets("[data-tool=brush]", "[data-stroke]")
def a_brush_adds_and_erases(me):
    opened(me, 0, "brush")
    laid_down(me, "brush")
    yield f"{OPEN}[data-tool=brush]"
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "brush")
    me.drag((0.3, 0.5), (0.5, 0.6))
    me.wait(lambda: [s.erase for s in region(me, "a").parts[1].strokes] == [False, False])
    me.settled("#key-canvas")
    me.chip("brush")
    yield f"{OPEN}[data-stroke=erase]"
    me.drag((0.3, 0.5), (0.5, 0.6))
    me.wait(lambda: [s.erase for s in region(me, "a").parts[1].strokes] == [False, False, True])


@sheets("[data-edit*='clear-strokes']")
def strokes_are_cleared(me):
    opened(me, 0, "brush")
    yield f"{OPEN}[data-edit*='clear-strokes']"
    me.wait(lambda: not region(me, "a").parts[1].strokes)


@sheets("[data-only-here]", "[data-edit*='keep-on-frame']")
def strokes_work_on_the_key_frame_alone_and_on_every_frame_again(me):
    opened(me, 0, "brush")
    yield f"{OPEN}[data-only-here]"
    me.wait(lambda: region(me, "a").parts[1].only_on != "")
    me.settled("#key-canvas")
    me.chip("brush")
    yield f"{OPEN}[data-edit*='keep-on-frame']"
    me.wait(lambda: region(me, "a").parts[1].only_on == "")


@sheets("[data-to-frame]")
def strokes_become_a_repair_of_the_frame(me):
    opened(me, 0, "brush")
    yield f"{OPEN}[data-to-frame]"
    first = frames.summaries(me.library.db, me.shoot)[0].id
    me.wait(lambda: frames.frame(me.library.db, first).override.repairs.done)
    me.wait(lambda: [p.kind for p in region(me, "a").parts] == ["subject"])


@sheets("[data-tool=draw]")
def a_gradient_is_drawn_on_the_picture(me):
    opened(me, 2, "ramp")
    before = region(me, "c").parts[2]
    yield f"{OPEN}[data-part=ramp] [data-tool=draw]"
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "draw")
    me.drag((0.3, 0.2), (0.35, 0.7))
    me.wait(lambda: region(me, "c").parts[2] != before)
    drawn = region(me, "c").parts[2]
    assert {round(drawn.y1, 1), round(drawn.y2, 1)} == {0.2, 0.7}


@sheets("[data-share] button")
def a_region_is_shared_by_name(me):
    opened(me, 0, "share")
    me.set(me.find(f"{OPEN}[data-share] [name=name]"), "All round")
    yield f"{OPEN}[data-share] button"
    me.wait(lambda: me.recipe.step("a").shared is not None)
    assert me.recipe.regions[me.recipe.step("a").shared.region].name == "All round"


@sheets("[data-take-region] button")
def a_shared_region_is_taken_over(me):
    opened(me, 1, "share")
    me.set(me.find(f"{OPEN}[data-take-region] [name=from]"), "shared r")
    yield f"{OPEN}[data-take-region] button"
    me.wait(lambda: me.recipe.step("b").shared is not None and me.recipe.step("b").shared.region == "r")


@sheets("[data-edit*='own-copy']", "[data-edit*='share-again']", "[data-delete-shared]")
def a_step_has_a_copy_of_its_own_and_shares_again(me):
    """Deleting what is shared asks first; what is then pressed stands in the stage's table."""
    opened(me, 3, "share")
    yield f"{OPEN}[data-edit*='own-copy']"
    me.wait(lambda: me.recipe.step("d").shared is None)
    assert [p.kind for p in region(me, "d").parts] == ["pool"]
    me.settled("#key-canvas")
    me.chip("share")
    yield f"{OPEN}[data-edit*='share-again']"
    me.wait(lambda: me.recipe.step("d").shared is not None and me.recipe.step("d").shared.region == "r")


# --- what


@sheets("[data-fold-button]")
def everything_of_an_adjustment_can_be_set_and_is_folded_away(me):
    me.open(0)
    more = f"{OPEN}.adjustment[data-id=x] [data-more]"
    yield f"{OPEN}.adjustment[data-id=x] [data-fold-button]"
    me.wait(lambda: me.find(more).is_displayed())
    yield f"{OPEN}.adjustment[data-id=x] [data-fold-button]"
    me.wait(lambda: not me.find(more).is_displayed())


@sheets("[hx-vals*='remove-adjustment']")
def an_adjustment_is_removed(me):
    me.open(0)
    yield f"{OPEN}.adjustment[data-id=x] [hx-vals*='remove-adjustment']"
    me.wait(lambda: kinds(me)[0] == "curve" and len(kinds(me)) == 4)


@sheets("[data-add-adjustment] [data-picker-open]")
def an_adjustment_is_added(me):
    me.open(1)
    yield f"{OPEN}[data-add-adjustment] [data-picker-open]"
    me.driver.switch_to.active_element.send_keys("Haze", Keys.ENTER)
    me.wait(lambda: kinds(me, "b") == ["contrast", "haze"])


@sheets("[data-edit*='move-adjustment']")
def adjustments_change_places(me):
    own = unfolded(me, "x")
    yield f"{own} [data-edit*='\"place\": 1']"
    me.wait(lambda: kinds(me)[:2] == ["curve", "exposure"])
    me.settled("#key-canvas")
    own = unfolded(me, "x")
    yield f"{own} [data-edit*='move-adjustment'][data-edit*='\"place\": 0']"
    me.wait(lambda: kinds(me)[:2] == ["exposure", "curve"])


@sheets("[data-edit*='copy-adjustment']")
def an_adjustment_is_there_twice(me):
    own = unfolded(me, "x")
    yield f"{own} [data-edit*='copy-adjustment']:not([data-edit*=opposite])"
    me.wait(lambda: [a.ev for a in me.recipe.step("a").adjustments if a.kind == "exposure"] == [1.2, 1.2])


@sheets("[data-edit*='copy-adjustment'][data-edit*='opposite']")
def an_adjustment_has_its_opposite_below(me):
    own = unfolded(me, "x")
    yield f"{own} [data-edit*='copy-adjustment'][data-edit*=opposite]"
    me.wait(lambda: [a.ev for a in me.recipe.step("a").adjustments if a.kind == "exposure"] == [1.2, -1.2])


@sheets("[data-place=move-adjustment]")
def an_adjustment_goes_to_another_step(me):
    own = unfolded(me, "x")
    me.set(me.find(f"{own} [data-to-step]"), "b")
    yield f"{own} [data-place=move-adjustment]"
    me.wait(lambda: "exposure" in kinds(me, "b") and "exposure" not in kinds(me))


@sheets("[data-place=copy-adjustment]")
def an_adjustment_is_in_another_step_too(me):
    own = unfolded(me, "x")
    me.set(me.find(f"{own} [data-to-step]"), "b")
    yield f"{own} [data-place=copy-adjustment]"
    me.wait(lambda: "exposure" in kinds(me, "b") and "exposure" in kinds(me))


@sheets("[data-hold]")
def a_balance_is_held_to_the_key_frame(me):
    own = unfolded(me, "y")
    yield f"{own} [data-hold]"
    me.wait(lambda: me.recipe.step("a").adjustments[4].to == "a frame it is held to")


@sheets("[data-pick-colour]")
def a_colour_is_taken_from_the_picture(me):
    own = unfolded(me, "w")
    before = me.recipe.step("a").adjustments[2].colour
    yield f"{own} [data-pick-colour]"
    me.wait(lambda: is_pressed(me, f"{own} [data-pick-colour]"))
    me.hand(0.5, 0.1).click().perform()
    me.wait(lambda: me.recipe.step("a").adjustments[2].colour != before)


def curve(me):
    return next(a for a in me.recipe.step("a").adjustments if a.kind == "curve")


@sheets("[data-curve-do=next]", "[data-curve-do=remove]")
def the_points_of_a_curve_are_gone_through_and_removed(me):
    own = unfolded(me, "k")
    bent = [[0.0, 0.0], [0.5, 0.7], [1.0, 1.0]]
    me.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", me.find(f"{own} canvas"))
    me.find(f"{own} canvas").click()
    me.wait(lambda: len(curve(me).points) == len(bent))
    which = me.find(f"{own} [data-curve-which]").text
    yield f"{own} [data-curve-do=next]"
    me.wait(lambda: me.find(f"{own} [data-curve-which]").text != which)
    while me.find(f"{own} [data-curve-which]").text != which:
        hit(me, f"{own} [data-curve-do=next]")
    yield f"{own} [data-curve-do=remove]"
    me.wait(lambda: len(curve(me).points) == 2)


@sheets("[data-curve-do=straight]")
def a_curve_is_straight_again(me):
    straight = curve(me).points
    own = unfolded(me, "k")
    me.find(f"{own} canvas").click()
    me.wait(lambda: curve(me).points != straight)
    yield f"{own} [data-curve-do=straight]"
    me.wait(lambda: curve(me).points == straight)


@sheets("[data-band-tab]")
def another_side_of_the_bands_is_set(me):
    own = unfolded(me, "m")
    assert me.find(f"{own} [data-band-panel=turn]").is_displayed()
    yield f"{own} [data-band-tab=chroma]"
    me.wait(lambda: me.find(f"{own} [data-band-panel=chroma]").is_displayed())
    assert not me.find(f"{own} [data-band-panel=turn]").is_displayed()


# --- walked


@pytest.mark.parametrize(("css", "promise"), **sheets.parameters())
def test_what_is_pressed_is_done(me, css, promise):
    walk(me, css, promise)


def test_no_button_of_a_sheet_is_without_a_promise(me):
    assert not (left := sheets.unpromised(me, elsewhere)), left
