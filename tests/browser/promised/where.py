"""The settings of a step's region."""

from contextlib import contextmanager

from selenium.webdriver.common.keys import Keys

from lenskeep.store import frames
from tests.browser.promised import Table, at_the_bench, hit, is_pressed

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
elsewhere = (
    *("#lanes-head *", ".lane-row *", ".lane-whole *", ".bar *", ".stage-area *", "#repair-bar *", "#gathered *"),
    *("dialog *", "template *", ".option", "[data-choose]", "#save-form *", "form [data-close]", "form [data-tick]"),
    "form [name=then]",
)
"""Buttons of other tables."""


@contextmanager
def opened(desk):
    """The Bench of a shoot whose steps have every kind of part and adjustment that has buttons of its own."""
    with at_the_bench(desk, STEPS, regions=REGIONS) as person:
        yield person


where = Table(opened)


def region(me, step):
    return me.recipe.region_of(me.recipe.step(step))


def kinds(me, step="a"):
    return [a.kind for a in me.recipe.step(step).adjustments]


def settings(me, number, chip):
    me.open(number)
    me.chip(chip)


def laid_down(me, tool):
    """The tool is not in the hand: some are taken as their settings open."""
    if is_pressed(me, f"{OPEN}[data-tool={tool}]"):
        hit(me, f"{OPEN}[data-tool={tool}]")
    me.wait(lambda: not is_pressed(me, f"{OPEN}[data-tool={tool}]"))


@where("[data-chip]", "[data-panel-close]")
def the_settings_of_a_part_open_beside_the_picture_and_close(me):
    me.open(0)
    panel = f"{OPEN}[data-part=subject]"
    yield f"{OPEN}[data-chip='part-a-p']"
    me.wait(lambda: me.find(panel).is_displayed())
    yield f"{panel} [data-panel-close]"
    me.wait(lambda: not me.find(panel).is_displayed())


@where("[data-add-part] [data-picker-open]")
def a_part_is_added(me):
    me.open(1)
    yield f"{OPEN}[data-add-part] [data-picker-open]"
    me.driver.switch_to.active_element.send_keys("Sky", Keys.ENTER)
    me.wait(lambda: me.recipe.sentence(me.recipe.step("b")) == "sky")


@where("[data-edit*='move-part']")
def parts_change_places(me):
    settings(me, 2, "colour_match")
    yield f"{OPEN}[data-part=colour_match] [data-edit*='\"by\": 1']"
    me.wait(lambda: [p.id for p in region(me, "c").parts] == ["t", "s", "u"])
    me.settled("#key-canvas")
    yield f"{OPEN}[data-part=colour_match] [data-edit*='\"by\": -1']"
    me.wait(lambda: [p.id for p in region(me, "c").parts] == ["s", "t", "u"])


@where("[data-edit*='remove-part']")
def a_part_is_removed(me):
    settings(me, 0, "brush")
    yield f"{OPEN}[data-part=brush] [data-edit*='remove-part']"
    me.wait(lambda: [p.id for p in region(me, "a").parts] == ["p"])


@where("[data-tool=pick]", "[data-edit*='clear-picks']")
def an_object_is_picked_by_a_click_and_forgotten(me):
    settings(me, 2, "picked")
    laid_down(me, "pick")
    yield f"{OPEN}[data-tool=pick]"
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "pick")
    me.hand(0.5, 0.6).click().perform()
    me.wait(lambda: len(region(me, "c").parts[1].picks) == 1, 60)
    me.settled("#key-canvas")
    me.chip("picked")
    yield f"{OPEN}[data-edit*='clear-picks']"
    me.wait(lambda: not region(me, "c").parts[1].picks)


@where("[data-tool=sample]", "[data-edit*='remove-sample']")
def a_colour_is_taken_and_let_go(me):
    settings(me, 2, "colour_match")
    laid_down(me, "sample")
    yield f"{OPEN}[data-tool=sample]"
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "sample")
    me.hand(0.5, 0.1).click().perform()
    me.wait(lambda: len(region(me, "c").parts[0].samples) == 2)
    me.settled("#key-canvas")
    me.chip("colour_match")
    yield f"{OPEN}[data-edit*='remove-sample']"
    me.wait(lambda: len(region(me, "c").parts[0].samples) == 1)


@where("[data-tool=brush]", "[data-stroke]")
def a_brush_adds_and_erases(me):
    settings(me, 0, "brush")
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


@where("[data-edit*='clear-strokes']")
def strokes_are_cleared(me):
    settings(me, 0, "brush")
    yield f"{OPEN}[data-edit*='clear-strokes']"
    me.wait(lambda: not region(me, "a").parts[1].strokes)


@where("[data-only-here]", "[data-edit*='keep-on-frame']")
def strokes_work_on_the_key_frame_alone_and_on_every_frame_again(me):
    settings(me, 0, "brush")
    yield f"{OPEN}[data-only-here]"
    me.wait(lambda: region(me, "a").parts[1].only_on != "")
    me.settled("#key-canvas")
    me.chip("brush")
    yield f"{OPEN}[data-edit*='keep-on-frame']"
    me.wait(lambda: region(me, "a").parts[1].only_on == "")


@where("[data-to-frame]")
def strokes_become_a_repair_of_the_frame(me):
    settings(me, 0, "brush")
    yield f"{OPEN}[data-to-frame]"
    first = frames.summaries(me.library.db, me.shoot)[0].id
    me.wait(lambda: frames.frame(me.library.db, first).override.repairs.done)
    me.wait(lambda: [p.kind for p in region(me, "a").parts] == ["subject"])


@where("[data-tool=draw]")
def a_gradient_is_drawn_on_the_picture(me):
    settings(me, 2, "ramp")
    before = region(me, "c").parts[2]
    yield f"{OPEN}[data-part=ramp] [data-tool=draw]"
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "draw")
    me.drag((0.3, 0.2), (0.35, 0.7))
    me.wait(lambda: region(me, "c").parts[2] != before)
    drawn = region(me, "c").parts[2]
    assert {round(drawn.y1, 1), round(drawn.y2, 1)} == {0.2, 0.7}


@where("[data-share] button")
def a_region_is_shared_by_name(me):
    settings(me, 0, "share")
    me.set(me.find(f"{OPEN}[data-share] [name=name]"), "All round")
    yield f"{OPEN}[data-share] button"
    me.wait(lambda: me.recipe.step("a").shared is not None)
    assert me.recipe.regions[me.recipe.step("a").shared.region].name == "All round"


@where("[data-take-region] button")
def a_shared_region_is_taken_over(me):
    settings(me, 1, "share")
    me.set(me.find(f"{OPEN}[data-take-region] [name=from]"), "shared r")
    yield f"{OPEN}[data-take-region] button"
    me.wait(lambda: me.recipe.step("b").shared is not None and me.recipe.step("b").shared.region == "r")


@where("[data-edit*='own-copy']", "[data-edit*='share-again']", "[data-delete-shared]")
def a_step_has_a_copy_of_its_own_and_shares_again(me):
    """Deleting what is shared asks first; what is then pressed stands in the stage's table."""
    settings(me, 3, "share")
    yield f"{OPEN}[data-edit*='own-copy']"
    me.wait(lambda: me.recipe.step("d").shared is None)
    assert [p.kind for p in region(me, "d").parts] == ["pool"]
    me.settled("#key-canvas")
    me.chip("share")
    yield f"{OPEN}[data-edit*='share-again']"
    me.wait(lambda: me.recipe.step("d").shared is not None and me.recipe.step("d").shared.region == "r")
