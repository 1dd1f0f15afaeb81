"""The settings of what a step does."""

from selenium.webdriver.common.keys import Keys

from tests.browser.promised import Table, hit, is_pressed
from tests.browser.promised.where import OPEN, kinds, opened

what = Table(opened)


def unfolded(me, which):
    """The adjustment's settings are seen."""
    me.open(0)
    own = f"{OPEN}.adjustment[data-id={which}]"
    if not me.find(f"{own} [data-more]").is_displayed():
        hit(me, f"{own} [data-fold-button]")
    me.wait(lambda: me.find(f"{own} [data-more]").is_displayed())
    return own


@what("[data-fold-button]")
def everything_of_an_adjustment_can_be_set_and_is_folded_away(me):
    me.open(0)
    more = f"{OPEN}.adjustment[data-id=x] [data-more]"
    yield f"{OPEN}.adjustment[data-id=x] [data-fold-button]"
    me.wait(lambda: me.find(more).is_displayed())
    yield f"{OPEN}.adjustment[data-id=x] [data-fold-button]"
    me.wait(lambda: not me.find(more).is_displayed())


@what("[hx-vals*='remove-adjustment']")
def an_adjustment_is_removed(me):
    me.open(0)
    yield f"{OPEN}.adjustment[data-id=x] [hx-vals*='remove-adjustment']"
    me.wait(lambda: kinds(me)[0] == "curve" and len(kinds(me)) == 4)


@what("[data-add-adjustment] [data-picker-open]")
def an_adjustment_is_added(me):
    me.open(1)
    yield f"{OPEN}[data-add-adjustment] [data-picker-open]"
    me.driver.switch_to.active_element.send_keys("Haze", Keys.ENTER)
    me.wait(lambda: kinds(me, "b") == ["contrast", "haze"])


@what("[data-edit*='move-adjustment']")
def adjustments_change_places(me):
    own = unfolded(me, "x")
    yield f"{own} [data-edit*='\"place\": 1']"
    me.wait(lambda: kinds(me)[:2] == ["curve", "exposure"])
    me.settled("#key-canvas")
    own = unfolded(me, "x")
    yield f"{own} [data-edit*='move-adjustment'][data-edit*='\"place\": 0']"
    me.wait(lambda: kinds(me)[:2] == ["exposure", "curve"])


@what("[data-edit*='copy-adjustment']")
def an_adjustment_is_there_twice(me):
    own = unfolded(me, "x")
    yield f"{own} [data-edit*='copy-adjustment']:not([data-edit*=opposite])"
    me.wait(lambda: [a.ev for a in me.recipe.step("a").adjustments if a.kind == "exposure"] == [1.2, 1.2])


@what("[data-edit*='copy-adjustment'][data-edit*='opposite']")
def an_adjustment_has_its_opposite_below(me):
    own = unfolded(me, "x")
    yield f"{own} [data-edit*='copy-adjustment'][data-edit*=opposite]"
    me.wait(lambda: [a.ev for a in me.recipe.step("a").adjustments if a.kind == "exposure"] == [1.2, -1.2])


@what("[data-place=move-adjustment]")
def an_adjustment_goes_to_another_step(me):
    own = unfolded(me, "x")
    me.set(me.find(f"{own} [data-to-step]"), "b")
    yield f"{own} [data-place=move-adjustment]"
    me.wait(lambda: "exposure" in kinds(me, "b") and "exposure" not in kinds(me))


@what("[data-place=copy-adjustment]")
def an_adjustment_is_in_another_step_too(me):
    own = unfolded(me, "x")
    me.set(me.find(f"{own} [data-to-step]"), "b")
    yield f"{own} [data-place=copy-adjustment]"
    me.wait(lambda: "exposure" in kinds(me, "b") and "exposure" in kinds(me))


@what("[data-hold]")
def a_balance_is_held_to_the_key_frame(me):
    own = unfolded(me, "y")
    yield f"{own} [data-hold]"
    me.wait(lambda: me.recipe.step("a").adjustments[4].to == "a frame it is held to")


@what("[data-pick-colour]")
def a_colour_is_taken_from_the_picture(me):
    own = unfolded(me, "w")
    before = me.recipe.step("a").adjustments[2].colour
    yield f"{own} [data-pick-colour]"
    me.wait(lambda: is_pressed(me, f"{own} [data-pick-colour]"))
    me.hand(0.5, 0.1).click().perform()
    me.wait(lambda: me.recipe.step("a").adjustments[2].colour != before)


def curve(me):
    return next(a for a in me.recipe.step("a").adjustments if a.kind == "curve")


@what("[data-curve-do=next]", "[data-curve-do=remove]")
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


@what("[data-curve-do=straight]")
def a_curve_is_straight_again(me):
    straight = curve(me).points
    own = unfolded(me, "k")
    me.find(f"{own} canvas").click()
    me.wait(lambda: curve(me).points != straight)
    yield f"{own} [data-curve-do=straight]"
    me.wait(lambda: curve(me).points == straight)


@what("[data-band-tab]")
def another_side_of_the_bands_is_set(me):
    own = unfolded(me, "m")
    assert me.find(f"{own} [data-band-panel=turn]").is_displayed()
    yield f"{own} [data-band-tab=chroma]"
    me.wait(lambda: me.find(f"{own} [data-band-panel=chroma]").is_displayed())
    assert not me.find(f"{own} [data-band-panel=turn]").is_displayed()
