"""A frame's page: going about, its masks, its base, its own changes."""

from contextlib import contextmanager

from selenium.webdriver.common.action_chains import ActionChains

from lenskeep.store import recipes, scenes
from lenskeep.studio import looks as giving
from lenskeep.studio import many
from tests.browser.hands import AtShoot
from tests.browser.promised import Table, hit, is_pressed
from tools.made_up import look_recipe


@contextmanager
def opened(desk):
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


frame = Table(opened)


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
