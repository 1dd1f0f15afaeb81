"""Around the Bench's pictures: how a region is shown, what it is compared with, measures and guards."""

from contextlib import contextmanager

from tests.browser.promised import ROOM, Table, at_the_bench, hit, is_pressed

SUBJECT = {"parts": [{"id": "p", "kind": "subject"}]}
STEPS = [
    {"id": "a", "name": "Lift", "region": SUBJECT, "adjustments": [{"id": "x", "kind": "exposure", "ev": 1.5}]},
    {"id": "b", "name": "Calm", "adjustments": [{"id": "y", "kind": "exposure", "ev": -0.4}]},
]
elsewhere = ("#lanes *", "#lanes-head *", "#choosing *", "#history-dialog *", ".option", "[data-repair-tool]")
"""Buttons of other tables."""


@contextmanager
def opened(desk):
    """The Bench of a shoot whose subject is lifted."""
    with at_the_bench(desk, STEPS) as person:
        yield person


stage = Table(opened)


def look(me):
    """What is seen where the key frame is, with what lies over it."""
    me.settled("#key-canvas")
    return me.find("#key-frame").screenshot_as_base64


@stage("[data-view=tint]")
def a_tint_lies_over_the_picture(me):
    me.open(0)
    before = look(me)
    yield
    me.wait(lambda: is_pressed(me, "[data-view=tint]") and look(me) != before)
    assert me.find("#tint-choice").is_displayed()


@stage("[data-view=grey]")
def a_grey_mask_stands_for_the_picture(me):
    me.open(0)
    me.settled("#key-canvas")
    yield
    me.wait(lambda: is_pressed(me, "[data-view=grey]"))
    me.settled("#key-canvas")
    script = (
        "const c = document.querySelector('#key-canvas');"
        "const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;"
        "for (let i = 0; i < d.length; i += 4) if (Math.abs(d[i] - d[i + 1]) + Math.abs(d[i] - d[i + 2]) > 6) return 0;"
        "return 1"
    )
    me.wait(lambda: me.driver.execute_script(script))


@stage("[data-view=contours]")
def contours_come_back(me):
    me.open(0)
    hit(me, "[data-view=none]")
    me.wait(lambda: not me.all("#overlay .contours"))
    yield
    me.wait(lambda: me.all("#overlay .contours"))


@stage("[data-view=none]")
def nothing_lies_over_the_picture(me):
    me.open(0)
    me.wait(lambda: me.all("#overlay .contours"))
    yield
    me.wait(lambda: is_pressed(me, "[data-view=none]") and not me.all("#overlay .contours"))


@stage("#original")
def the_untouched_picture_is_shown_until_it_is_pressed_again(me):
    finished = me.settled("#key-canvas")
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) > 2)
    me.reads("original", "#which")
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) < 0.1)


@stage("#base")
def the_picture_without_masked_steps_is_shown(me):
    finished = me.settled("#key-canvas")
    yield
    me.wait(lambda: me.settled("#key-canvas") < finished - 0.5)
    me.reads("base", "#which")


@stage("#divider")
def a_line_divides_original_and_finished(me):
    before = look(me)
    yield
    me.wait(lambda: me.find("#split").is_displayed() and look(me) != before)
    yield
    me.wait(lambda: not me.find("#split").is_displayed())


@stage("#beside")
def another_picture_stands_beside(me):
    yield
    me.wait(lambda: me.find("[data-beside-canvas]").is_displayed())
    yield
    me.wait(lambda: not me.find("[data-beside-canvas]").is_displayed())


@stage("#pinned")
def the_kept_state_is_shown(me):
    finished = me.settled("#key-canvas")
    me.set(me.find("#lane-b .lane-row input[type=range]"), 0)
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) > 1)
    brighter = me.settled("#key-canvas")
    hit(me, "[data-open-history]")
    hit(me, "#history-dialog [data-pin]")  # seen at once, then held ready
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) < 0.2)
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - brighter) < 0.2)
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) < 0.2)


@stage(ROOM)
def the_room_is_dimmed_and_lit(me):
    paper = "return getComputedStyle(document.documentElement).backgroundColor"
    before = me.driver.execute_script(paper)
    yield
    me.wait(lambda: me.driver.execute_script(paper) != before)
    yield
    me.wait(lambda: me.driver.execute_script(paper) == before)


@stage("a[href*='#scene-']")
def the_wall_is_gone_to(me):
    yield
    me.wait(lambda: f"/shoots/{me.shoot}" in me.driver.current_url)


@stage("[data-histogram=region]", "[data-histogram=frame]")
def the_histogram_counts_the_open_step(me):
    me.open(0)
    me.settled("#key-canvas")
    whole = me.sight("#histogram")
    yield
    me.wait(lambda: me.sight("#histogram") != whole)
    yield "[data-histogram=frame]"
    me.wait(lambda: me.sight("#histogram") == whole)


def warned(me):
    """The key frame is far too bright for a guard to be quiet."""
    hard = [{"id": "z", "kind": "exposure", "ev": 3.5}]
    steps = [*STEPS[:1], {"id": "b", "name": "Hard", "adjustments": hard}]
    me.load(steps)
    me.wait(lambda: me.all("[data-guard=clipped][data-warns]") and me.find("[data-mend]").is_displayed())


@stage("[data-guard]")
def where_a_guard_warns_is_seen_on_the_picture(me):
    warned(me)
    before = look(me)
    yield "[data-guard=clipped]"
    me.wait(lambda: is_pressed(me, "[data-guard=clipped]") and look(me) != before)


@stage("[data-mend]", "[data-mend-do=do]")
def the_step_to_blame_is_weakened_when_it_is_said_so(me):
    warned(me)
    before = me.recipe
    yield
    me.wait(lambda: me.find("[data-mend-offer]").is_displayed())
    assert me.recipe == before, "it is seen before it is done"
    yield "[data-mend-do=do]"
    me.wait(lambda: me.recipe.step("b").strength < 1)


@stage("[data-mend-do=leave]")
def a_mend_that_was_offered_is_left(me):
    warned(me)
    before, bright = me.recipe, me.settled("#key-canvas")
    hit(me, "[data-mend]")
    me.wait(lambda: me.find("[data-mend-offer]").is_displayed() and me.settled("#key-canvas") < bright)
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - bright) < 0.1)
    assert me.recipe == before


@stage("[data-close-go=guard]")
def the_next_warning_is_seen_closely(me):
    warned(me)
    hit(me, "[data-guard=clipped]")
    hit(me, "[data-close='1']")
    me.settled("#key-canvas")
    yield
    me.reads("place 1 of", "[data-close-told]")
