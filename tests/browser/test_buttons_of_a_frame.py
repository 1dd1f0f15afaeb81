"""What is pressed on a frame's page: its panel, repairing, cleaning up; and what each button promises."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains

from lenskeep.store import recipes, scenes
from lenskeep.studio import looks as giving
from lenskeep.studio import many
from tests.browser.promises import BAR, AtShoot, Table, hit, is_pressed, walk
from tools.made_up import look_recipe

pytestmark = pytest.mark.browser
frame = Table()


@pytest.fixture
def me(desk):
    """On the page of the second of three frames, which have one look and were taken in one burst."""
    person = AtShoot(desk, 3)
    with desk.library.db.writing() as write:
        for n, row in enumerate(person.rows):
            stamp = f"2026-09-12T18:00:0{n}"
            write.execute("UPDATE frames SET taken_at = ?, place = ? WHERE id = ?", (stamp, stamp, row.id))
    open_page(person)
    yield person
    person.ends()
    person.driver.execute_script("localStorage.clear(); sessionStorage.clear()")


def open_page(me, number=1):
    me.go(f"/frames/{me.rows[number].id}")
    me.wait(lambda: me.rows[number].finished and me.rows[number].result_key in me.find("#after").get_attribute("src"))


def at(me, css, x, y):
    box = me.find(css)
    across, down = (round((v - 0.5) * box.size[s]) for v, s in ((x, "width"), (y, "height")))
    return ActionChains(me.driver, duration=60).move_to_element_with_offset(box, across, down)


def stroke(me, css):
    wide = me.find(css).size["width"]
    at(me, css, 0.1, 0.8).click_and_hold().move_by_offset(round(0.1 * wide), 0).release().perform()
    me.ends()


def look(me):
    me.ends()
    return me.find("#picture").screenshot_as_base64


# --- going about


@frame("main a.button[href^='/shoots/']:not([href$='/check'])")
def the_wall_is_gone_to(me):
    yield
    me.wait(lambda: me.driver.current_url.endswith(f"/shoots/{me.shoot}"))


@frame("main a.button[href$='/check']")
def one_goes_back_to_the_check(me):
    me.go(f"/frames/{me.rows[1].id}?from=check")
    yield
    me.wait(lambda: me.driver.current_url.endswith("/check"))


@frame("main a.button[href$='/bench']")
def one_goes_back_to_the_bench(me):
    me.go(f"/frames/{me.rows[1].id}?from=bench")
    yield
    me.wait(lambda: me.driver.current_url.endswith("/bench"))


@frame("#earlier", "#later")
def the_frames_before_and_after_are_gone_to(me):
    yield
    me.wait(lambda: f"/frames/{me.rows[0].id}" in me.driver.current_url)
    me.ends()
    yield "#later"
    me.wait(lambda: f"/frames/{me.rows[1].id}" in me.driver.current_url)


@frame("[data-close='1']", "[data-close='fit']", "[data-close='2']", "[data-close-go]")
def every_pixel_is_seen(me):
    yield
    me.wait(lambda: is_pressed(me, "[data-close='1']"))
    yield "[data-close='fit']"
    me.wait(lambda: is_pressed(me, "[data-close='fit']"))


@frame("#divider")
def a_line_divides_original_and_finished(me):
    before = look(me)
    yield
    me.wait(lambda: me.find("#split").is_displayed() and look(me) != before)
    hit(me, "[data-base=measure]")
    me.wait(lambda: not me.rows[1].own_base.is_neutral)
    me.wait(lambda: is_pressed(me, "#divider"))  # also on the panel that is drawn anew
    yield
    me.wait(lambda: not me.find("#split").is_displayed())


@frame("#beside")
def the_original_stands_beside(me):
    yield
    me.wait(lambda: me.find("[data-beside-canvas]").is_displayed())


# --- masks and base


@frame("#accept", "#panel [hx-vals*=accepted]")
def masks_are_good_enough_and_doubted_again(me):
    open_page(me, 2)
    yield
    me.wait(lambda: me.rows[2].accepted)
    yield "#panel [hx-vals*=false]"
    me.wait(lambda: not me.rows[2].accepted)


@frame("[data-base=neutral]")
def a_cast_is_taken_out_by_a_click(me):
    yield
    me.wait(lambda: is_pressed(me, "[data-base=neutral]"))
    at(me, "#compare", 0.5, 0.1).click().perform()
    me.wait(lambda: me.rows[1].own_base.mired or me.rows[1].own_base.duv)


@frame("[data-base=measure]", "[data-base=came]")
def a_base_is_measured_and_taken_back(me):
    yield
    me.wait(lambda: not me.rows[1].own_base.is_neutral)
    yield "[data-base=came]"
    me.wait(lambda: me.rows[1].own_base.is_neutral)


@frame("[data-base=before]")
def a_base_is_as_on_the_frame_before(me):
    many.do(me.library, me.shoot, [me.rows[0].id], many.SetBase(what="base", values={"ev": 0.4}))
    yield
    me.wait(lambda: me.rows[1].own_base.ev == 0.4)


@frame("[data-deed=undo]", "[data-deed=redo]")
def the_last_is_undone_and_done_again(me):
    hit(me, "[data-base=measure]")
    me.wait(lambda: not me.rows[1].own_base.is_neutral)
    yield
    me.wait(lambda: me.rows[1].own_base.is_neutral)
    yield "[data-deed=redo]"
    me.wait(lambda: not me.rows[1].own_base.is_neutral)


# --- its own changes


@frame("[hx-post*='/reset']")
def the_shoots_look_is_back(me):
    giving.change_frame(me.library, me.rows[1].id, strength=0.4)
    open_page(me)
    yield
    me.wait(lambda: me.whole(1).override.strength == 1)


@frame("#panel form[hx-post*='/own?'] button", "[aria-label^='Take '][hx-post*='/own/']")
def a_recipe_is_for_this_frame_alone_and_is_taken_away(me):
    version = recipes.save_recipe(me.library.db, look_recipe(name="Alone", ev=-1))
    open_page(me)
    me.set(me.find("#panel [name=version_id]"), str(version.id))
    yield
    me.wait(lambda: [o.recipe.name for o in me.whole(1).override.own] == ["Alone"])
    yield "[aria-label='Take Alone away']"
    me.wait(lambda: not me.whole(1).override.own)


@frame("form[action$='/key'] button")
def this_is_the_key_frame(me):
    yield
    me.wait(lambda: "/bench" in me.driver.current_url)
    assert scenes.scene(me.library.db, me.rows[1].scene_id).key_frame_id == me.rows[1].id


@frame("[name=way][value=left]")
def the_frame_is_turned_to_the_left(me):
    yield
    me.wait(lambda: me.rows[1].turn == 3)


@frame("[name=way][value=right]")
def the_frame_is_turned_to_the_right(me):
    yield
    me.wait(lambda: me.rows[1].turn == 1)


@frame("form[action^='/frames/'][action$='/remove'] button")
def the_frame_is_out_of_the_shoot(me):
    yield
    me.wait(lambda: len(me.rows) == 2)
    me.wait(lambda: me.driver.current_url.endswith(f"/shoots/{me.shoot}"))


# --- repairing


def repairing(me):
    hit(me, "#repair")
    me.wait(lambda: me.find("#repair-bar").is_displayed())


def repairs(me):
    return me.whole(1).override.repairs.done


@frame("#repair")
def masks_can_be_repaired(me):
    yield
    me.wait(lambda: me.find("#repair-bar").is_displayed())
    yield
    me.wait(lambda: not me.find("#repair-bar").is_displayed())


@frame("[data-repair-tool=brush]", "[data-repair-way=away]", "[data-repair-way=add]")
def a_brush_adds_and_takes_away(me):
    repairing(me)
    yield
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: [r.away for r in repairs(me)] == [False])
    yield "[data-repair-way=away]"
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: [r.away for r in repairs(me)] == [False, True])
    yield "[data-repair-way=add]"
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: [r.away for r in repairs(me)] == [False, True, False])


@frame("[data-repair-tool=click]")
def what_is_under_the_pointer_is_taken(me):
    repairing(me)
    yield
    at(me, "[data-repair-overlay]", 0.5, 0.15).click().perform()
    me.wait(lambda: [r.kind in ("clicked", "gap") for r in repairs(me)] == [True], 90)


@frame("[data-repair-tool=outline]")
def a_line_is_clicked_around_it(me):
    repairing(me)
    yield
    for x, y in ((0.1, 0.6), (0.3, 0.6), (0.2, 0.9)):
        at(me, "[data-repair-overlay]", x, y).click().perform()
    me.find("body").send_keys("\ue007")
    me.wait(lambda: [r.kind in ("outlined", "traced") for r in repairs(me)] == [True])


@frame("[data-repair=none]", "[data-repair=as-found]")
def the_mask_is_empty_and_as_it_was_found(me):
    repairing(me)
    yield
    me.wait(lambda: me.whole(1).facts.subject.area == 0)
    yield "[data-repair=as-found]"
    me.wait(lambda: me.whole(1).facts.subject.area > 0)


@frame("[data-repair=undo]", "[data-repair=redo]")
def a_repair_is_undone_and_done_again(me):
    repairing(me)
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: len(repairs(me)) == 1)
    yield
    me.wait(lambda: not repairs(me))
    yield "[data-repair=redo]"
    me.wait(lambda: len(repairs(me)) == 1)


@frame("[data-repair=carry]", "[data-offer] button", "[data-close-dialog]")
def a_repair_is_offered_to_the_burst_and_taken_over(me):
    repairing(me)
    stroke(me, "[data-repair-overlay]")
    me.wait(lambda: len(repairs(me)) == 1)
    yield
    yield "[data-offer] button"
    me.wait(lambda: sum(bool(me.whole(n).override.repairs.done) for n in (0, 2)) == 1)
    yield "dialog [data-close-dialog]"
    me.wait(lambda: not any(d.is_displayed() for d in me.all("dialog")))


# --- cleaning up


def cleaning(me):
    hit(me, "#clean")
    me.wait(lambda: me.find("#clean-bar").is_displayed())


def marks(me):
    return [m.kind for m in me.whole(1).override.clean.done]


@frame("#clean")
def the_picture_can_be_cleaned_up(me):
    yield
    me.wait(lambda: me.find("#clean-bar").is_displayed())
    yield
    me.wait(lambda: not me.find("#clean-bar").is_displayed())


@frame("[data-clean-tool=heal]", "[data-clean=undo]", "[data-clean=redo]")
def a_stroke_heals_is_undone_and_done_again(me):
    cleaning(me)
    yield
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["heal"])
    yield "[data-clean=undo]"
    me.wait(lambda: not marks(me))
    yield "[data-clean=redo]"
    me.wait(lambda: marks(me) == ["heal"])


@frame("[data-clean-tool=colour]")
def a_stroke_takes_colour_out(me):
    cleaning(me)
    yield
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["colour"])


@frame("[data-clean-tool=clone]")
def a_stroke_covers_from_elsewhere(me):
    cleaning(me)
    yield
    me.find("[data-clean=frame]").send_keys("I")  # laid over from another frame of the burst
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["clone"])


@frame("[data-clean=another]")
def the_last_mark_is_filled_from_another_place(me):
    cleaning(me)
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["heal"])
    before = me.whole(1).override.clean.done[-1]
    yield
    me.wait(lambda: me.whole(1).override.clean.done[-1] != before)


@frame("[data-clean=masks]")
def masks_are_found_on_the_cleaned_picture(me):
    cleaning(me)
    stroke(me, "[data-clean-overlay]")
    me.wait(lambda: marks(me) == ["heal"])
    before = me.rows[1].found_at
    me.wait(lambda: me.find("[data-clean=masks]").is_enabled())
    yield
    me.wait(lambda: me.rows[1].found and me.rows[1].found_at != before, 90)


@frame("#clean-bar a.button")
def the_dust_of_the_shoot_is_gone_to(me):
    cleaning(me)
    yield
    me.wait(lambda: me.driver.current_url.endswith("/dust"))


# --- walked


@pytest.mark.parametrize(("css", "promise"), **frame.parameters())
def test_what_is_pressed_is_done(me, css, promise):
    walk(me, css, promise)


def test_no_button_of_a_frame_is_without_a_promise(me):
    for number in (1, 2):
        open_page(me, number)
        assert not (left := frame.unpromised(me, BAR)), left
