"""What is pressed on the wall, and what each button promises."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lenskeep.store import findings, jobs, looks, recipes, shoots
from lenskeep.studio import looks as giving
from lenskeep.studio import many
from tests.browser.promises import BAR, AtShoot, Table, hit, is_pressed, walk
from tools.made_up import look_recipe

pytestmark = pytest.mark.browser
wall = Table()
COUNT = 4
PANEL = "#selection [x-data]:nth-of-type({}) > button"


@pytest.fixture
def me(desk):
    person = AtShoot(desk, COUNT)
    person.go(f"/shoots/{person.shoot}")
    person.wait(lambda: len(person.all(".tile img[alt*=finished]")) == COUNT)
    yield person
    person.ends()


def select(me, *numbers):
    for number in numbers:
        link = me.all(".tile a")[number]
        me.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", link)
        ActionChains(me.driver).key_down(Keys.CONTROL).click(link).key_up(Keys.CONTROL).perform()
    me.wait(lambda: me.find("#selection").is_displayed())


def count(me):
    return int(me.find("[data-selected-count]").text or 0) if me.find("#selection").is_displayed() else 0


def panel(me, words):
    me.press(words, "#selection [x-data] > button")


def again(me):
    me.driver.refresh()
    me.wait(lambda: len(me.all(".tile")) == COUNT)


# --- the shoot


@wall("#standing [x-data] > button")
def what_can_be_done_with_the_shoot_is_listed(me):
    yield
    me.wait(lambda: me.find("#shoot-name").is_displayed())


@wall("form[action$='/rename'] button")
def the_shoot_is_renamed(me):
    me.press("This shoot…")
    me.set(me.find("#shoot-name"), "Lena and Tom")
    yield "#standing form[action$='/rename'] button"
    me.wait(lambda: shoots.shoot(me.library.db, me.shoot).name == "Lena and Tom")


@wall("form[action$='/find-again'] button")
def masks_are_found_again(me):
    me.press("This shoot…")
    yield
    me.wait(lambda: any(j.kind == "find" for j in jobs.jobs(me.library.db, me.shoot)))


@wall("form[action$='/scenes-again'] button")
def scenes_are_found_again(me):
    many.do(me.library, me.shoot, [me.rows[2].id], many.NewScene(what="new-scene"))
    with me.library.db.writing() as write:  # as if nobody had placed it
        write.execute("UPDATE frames SET placed = 0 WHERE shoot_id = ?", (me.shoot,))
    again(me)
    before = len(me.scenes)
    me.press("This shoot…")
    yield
    me.wait(lambda: len(me.scenes) < before)


@wall("form[action$='/remove'] button", "summary")
def the_shoot_goes(me):
    me.press("This shoot…")
    yield "details summary"
    me.reads("can’t be undone")
    yield "form[action$='/remove'] button"
    me.wait(lambda: shoots.shoot(me.library.db, me.shoot) is None)


@wall("#standing form[action$='/look'] button")
def another_look_is_applied(me):
    version = recipes.save_recipe(me.library.db, look_recipe(name="Night", ev=-1))
    again(me)
    me.press("Change the look")
    me.set(me.find("#standing [name=version_id]"), str(version.id))
    me.set(me.find("#standing form[action$='/look'] [name=strength]"), 50)
    yield
    look = lambda: giving.look_of_shoot(me.library, me.shoot)  # noqa: E731
    me.wait(lambda: look().version.id == version.id)
    assert look().layers[-1].strength == 0.5
    me.wait(lambda: all(f.finished for f in me.rows), 60)


@wall("#standing > div > a.button[href*='/bench']")
def a_look_is_made_on_the_bench(me):
    giving.give_layers(me.library, me.shoot, [])
    again(me)
    yield
    me.wait(lambda: "/bench" in me.driver.current_url)


@wall("a.button[href$='/dust']")
def dust_is_gone_to(me):
    yield
    me.wait(lambda: me.driver.current_url.endswith("/dust"))


@wall("a.button[href$='/check']")
def what_is_in_question_is_checked(me):
    yield
    me.wait(lambda: me.driver.current_url.endswith("/check"))


@wall("a.button[href$='/hand-over']")
def the_shoot_is_handed_over(me):
    yield
    me.wait(lambda: me.driver.current_url.endswith("/hand-over"))


@wall("form[action$='/try-again'] button")
def what_failed_is_tried_again(me):
    findings.mark_failed(me.library.db, me.rows[0].id, "No luck.")
    again(me)
    yield
    me.wait(lambda: me.rows[0].state != "failed", 60)


@wall("form[action$='/refusals/clear'] button")
def what_did_not_come_in_is_put_aside(me):
    shoots.add_refusal(me.library.db, me.shoot, "broken.jpg", "It is broken.")
    again(me)
    yield
    me.wait(lambda: not shoots.refusals(me.library.db, me.shoot))


# --- scenes


@wall("[data-open-layers]", ".layers button")
def the_look_of_a_scene_is_shown(me):
    yield
    me.wait(lambda: me.find("[data-layers]").is_displayed())
    yield "[data-layers] [data-away]"
    yield "[data-layers] [data-give=scene]"
    me.wait(lambda: looks.look(me.library.db, me.scenes[0].id) is None)


@wall(".scene-head a.button[href$='/bench']")
def a_scenes_bench_is_gone_to(me):
    yield
    me.wait(lambda: f"/scenes/{me.scenes[0].id}/bench" in me.driver.current_url)


@wall(".scene-head a.button[href$='/line-up']")
def a_scenes_line_up_is_gone_to(me):
    yield
    me.wait(lambda: me.driver.current_url.endswith("/line-up"))


def cut(me):
    many.do(me.library, me.shoot, [me.rows[2].id, me.rows[3].id], many.NewScene(what="new-scene"))
    again(me)
    hit(me, me.all(".scene-head [x-data] > button")[1])


@wall(".scene-head [x-data] > button")
def what_can_be_done_with_a_scene_is_listed(me):
    yield
    me.wait(lambda: me.find(".scene-head [name=name]").is_displayed())


@wall(".scene-head form[action$='/rename'] button")
def a_scene_is_renamed(me):
    hit(me, ".scene-head [x-data] > button")
    me.set(me.find(".scene-head [name=name]"), "At the pier")
    yield
    me.wait(lambda: me.scenes[0].name == "At the pier")


@wall("form[action$='/join'] button")
def a_scene_is_joined_to_the_one_before(me):
    cut(me)
    assert len(me.scenes) == 2
    yield
    me.wait(lambda: len(me.scenes) == 1)


@wall("form[action*='/look-of/'] button")
def a_scene_has_the_look_of_the_one_before(me):
    other = recipes.save_recipe(me.library.db, look_recipe(name="Night", ev=-1))
    many.do(me.library, me.shoot, [me.rows[2].id, me.rows[3].id], many.NewScene(what="new-scene"))
    giving.give_look(me.library, me.shoot, other.id, 1.0, scene_ids=[me.scenes[1].id])
    again(me)
    hit(me, me.all(".scene-head [x-data] > button")[1])
    yield
    first = looks.look(me.library.db, me.scenes[0].id).version.id
    me.wait(lambda: looks.look(me.library.db, me.scenes[1].id).version.id == first)


@wall("[data-unfold]")
def a_burst_is_unfolded(me):
    with me.library.db.writing() as write:
        write.execute(
            "UPDATE frames SET burst = 1, burst_best = (id = ?) WHERE shoot_id = ?", (me.rows[1].id, me.shoot)
        )
    again(me)
    shown = lambda: len([t for t in me.all(".tile") if t.is_displayed()])  # noqa: E731
    me.wait(lambda: shown() == 1)
    yield
    me.wait(lambda: shown() == COUNT)


# --- selecting


@wall("[data-select=scene]")
def whole_scenes_are_selected(me):
    many.do(me.library, me.shoot, [me.rows[2].id, me.rows[3].id], many.NewScene(what="new-scene"))
    again(me)
    select(me, 0)
    panel(me, "Select…")
    yield
    me.wait(lambda: count(me) == 2)


@wall("[data-select=burst]")
def whole_bursts_are_selected(me):
    with me.library.db.writing() as write:
        some = [r.id for r in me.rows[:3]]
        write.execute(f"UPDATE frames SET burst = 1, burst_best = (id = {some[0]}) WHERE id IN (?, ?, ?)", some)
    again(me)
    select(me, 0)
    panel(me, "Select…")
    yield
    me.wait(lambda: count(me) == 3)


@wall("[data-select=like]")
def frames_like_the_first_are_selected(me):
    select(me, 0)
    panel(me, "Select…")
    yield
    me.wait(lambda: count(me) == COUNT)  # made-up frames are alike


@wall("[data-select=all]")
def every_frame_is_selected(me):
    select(me, 0)
    panel(me, "Select…")
    yield
    me.wait(lambda: count(me) == COUNT)


@wall("[data-select=none]")
def nothing_is_selected(me):
    select(me, 0, 1)
    yield "#selection > [data-select=none]"
    me.wait(lambda: count(me) == 0)


@wall(".tile-tick")
def a_frame_is_selected_by_its_tick(me):
    tile = me.all(".tile")[1]
    ActionChains(me.driver).move_to_element(tile).perform()
    yield tile.find_element("css selector", ".tile-tick")
    me.wait(lambda: count(me) == 1 and tile.get_attribute("data-picked") is not None)


# --- doing to all of them


@wall("#selection [x-data] > button")
def what_can_be_done_is_listed(me):
    select(me, 0)
    yield
    me.wait(lambda: me.find("[data-select=scene]").is_displayed())


@wall("[data-do-base] > button", "[data-added]")
def a_base_is_set_or_added(me):
    select(me, 0, 1)
    many.do(me.library, me.shoot, [me.rows[0].id], many.SetBase(what="base", values={"ev": 0.2}))
    panel(me, "Base…")
    me.set(me.find("[data-do-base] [name=ev]"), "0.5")
    yield
    me.wait(lambda: [f.own_base.ev for f in me.rows] == [0.7, 0.5, 0, 0])
    if not me.find("[data-added=false]").is_displayed():
        panel(me, "Base…")
    yield "[data-added=false]"
    assert is_pressed(me, "[data-added=false]")
    me.set(me.find("[data-do-base] [name=ev]"), "0.5")
    yield "[data-do-base] > button"
    me.wait(lambda: [f.own_base.ev for f in me.rows] == [0.5, 0.5, 0, 0])


@wall("[data-do=measure]", "[data-do=came]")
def a_base_is_measured_and_taken_back(me):
    select(me, 0, 1)
    panel(me, "Base…")
    yield
    me.wait(lambda: all(not f.own_base.is_neutral for f in me.rows[:2]) and me.rows[2].own_base.is_neutral)
    if not me.find("[data-do=came]").is_displayed():
        panel(me, "Base…")
    yield "[data-do=came]"
    me.wait(lambda: all(f.own_base.is_neutral for f in me.rows))


@wall("[data-do-strength] button", "[data-do=look]")
def the_look_is_weaker_and_as_the_scenes_again(me):
    select(me, 0)
    panel(me, "Look…")
    me.set(me.find("[data-do-strength] [name=strength]"), "40")
    yield
    me.wait(lambda: me.whole().override.strength == 0.4)
    if not me.find("[data-do=look]").is_displayed():
        panel(me, "Look…")
    yield "[data-do=look]"
    me.wait(lambda: me.whole().override.strength == 1)


@wall("[data-line-up]")
def some_are_lined_up(me):
    select(me, 0, 1)
    panel(me, "Look…")
    yield
    me.wait(lambda: "/line-up" in me.driver.current_url)


@wall("[data-do-look] button")
def some_have_another_recipe_in_a_scene_of_their_own(me):
    other = recipes.save_recipe(me.library.db, look_recipe(name="Night", ev=-1))
    again(me)
    select(me, 0, 1)
    panel(me, "Look…")
    me.set(me.find("[data-do-look] [name=version]"), str(other.id))
    yield
    me.wait(lambda: len(me.scenes) == 2)
    own = me.whole().scene_id
    assert looks.look(me.library.db, own).version.id == other.id
    assert [f.scene_id == own for f in me.rows] == [True, True, False, False]


@wall("[data-do=new-scene]")
def some_are_a_scene_of_their_own(me):
    select(me, 1, 2)
    panel(me, "Scene…")
    yield
    me.wait(lambda: len({f.scene_id for f in me.rows}) == 2)
    assert me.rows[1].scene_id == me.rows[2].scene_id != me.rows[0].scene_id


@wall("[data-begin]")
def a_scene_begins_with_the_first(me):
    select(me, 2)
    panel(me, "Scene…")
    yield
    me.wait(lambda: len(me.scenes) == 2)
    assert me.rows[2].scene_id == me.rows[3].scene_id != me.rows[1].scene_id


@wall("[data-move]")
def some_go_into_another_scene(me):
    many.do(me.library, me.shoot, [me.rows[2].id, me.rows[3].id], many.NewScene(what="new-scene"))
    again(me)
    select(me, 0)
    panel(me, "Scene…")
    yield f"[data-move='{me.rows[3].scene_id}']"
    me.wait(lambda: me.rows[0].scene_id == me.rows[3].scene_id)


@wall("[data-copy]", "[data-do-paste] .button-main")
def what_one_has_is_pasted_onto_others(me):
    many.do(me.library, me.shoot, [me.rows[0].id], many.SetBase(what="base", values={"ev": 0.4}))
    select(me, 0)
    panel(me, "Copy…")
    yield
    me.reads("Copied from", ".toast-good")
    hit(me, "#selection > [data-select=none]")
    select(me, 2)
    panel(me, "Copy…")
    yield "[data-do-paste] .button-main"
    me.wait(lambda: me.rows[2].own_base.ev == 0.4)


@wall("[data-do=accept]")
def masks_are_accepted(me):
    select(me, 2)
    yield
    me.wait(lambda: me.rows[2].accepted)


@wall("[data-do=left]")
def a_frame_is_turned_to_the_left(me):
    select(me, 0)
    yield
    me.wait(lambda: me.rows[0].turn == 3)


@wall("[data-do=right]")
def a_frame_is_turned_to_the_right(me):
    select(me, 0)
    yield
    me.wait(lambda: me.rows[0].turn == 1)


@wall("[data-even]")
def a_scene_is_evened_out(me):
    select(me, 0, 1)
    yield
    me.wait(lambda: "/even" in me.driver.current_url)


@wall("[data-rate]")
def some_are_rated(me):
    select(me, 0, 3)
    yield "[data-rate='4']"
    me.wait(lambda: [f.rating for f in me.rows] == [4, 0, 0, 4])


@wall("[data-hand-over]")
def these_alone_are_handed_over(me):
    select(me, 0, 3)
    yield
    me.wait(lambda: "/hand-over" in me.driver.current_url)
    me.reads("2 selected frames leave")


@wall("[data-do=reject]", "[data-do=unreject]")
def some_are_rejected_and_taken_back_in(me):
    select(me, 0)
    yield
    me.wait(lambda: me.rows[0].rejected)
    yield "[data-do=unreject]"
    me.wait(lambda: not me.rows[0].rejected)


@wall("[data-back=undo]")
def what_was_done_last_is_undone(me):
    select(me, 0)
    hit(me, "[data-rate='3']")
    me.wait(lambda: me.rows[0].rating == 3)
    yield
    me.wait(lambda: me.rows[0].rating == 0)


# --- walked


@pytest.mark.parametrize(("css", "promise"), **wall.parameters())
def test_what_is_pressed_is_done(me, css, promise):
    walk(me, css, promise)


def test_no_button_of_the_wall_is_without_a_promise(me):
    shoots.add_refusal(me.library.db, me.shoot, "broken.jpg", "It is broken.")
    many.do(me.library, me.shoot, [me.rows[2].id, me.rows[3].id], many.NewScene(what="new-scene"))
    again(me)
    charts = (".evenness *",)
    assert not (left := wall.unpromised(me, (*BAR, *charts))), left
