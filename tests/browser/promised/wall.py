"""The wall: the shoot and its scenes."""

from contextlib import contextmanager
from functools import partial

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lenskeep.store import findings, jobs, looks, recipes, shoots
from lenskeep.studio import looks as giving
from lenskeep.studio import many
from tests.browser.hands import AtShoot
from tests.browser.promised import Table, hit
from tools.made_up import look_recipe

COUNT = 4


@contextmanager
def opened(desk):
    """The wall of a shoot of four finished frames."""
    person = AtShoot(desk, COUNT)
    person.go(f"/shoots/{person.shoot}")
    person.wait(lambda: len(person.all(".tile img[alt*=finished]")) == COUNT, 120)
    yield person
    person.ends()


wall = Table(opened)


def select(me, *numbers):
    def picked(number):
        """Pressed once more where the tile was drawn anew under the pointer."""
        if me.all(".tile")[number].get_attribute("data-picked") is None:
            link = me.all(".tile a")[number]
            me.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", link)
            ActionChains(me.driver).key_down(Keys.CONTROL).click(link).key_up(Keys.CONTROL).perform()
        return me.all(".tile")[number].get_attribute("data-picked") is not None

    for number in numbers:
        me.wait(partial(picked, number))
    me.wait(lambda: me.find("#selection").is_displayed())


def count(me):
    return int(me.find("[data-selected-count]").text or 0) if me.find("#selection").is_displayed() else 0


def panel(me, words):
    me.press(words, "#selection [x-data] > button")


def again(me):
    me.driver.refresh()
    me.wait(lambda: len(me.all(".tile")) == COUNT)


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
    for job in jobs.active_jobs(me.library.db, me.shoot, "find"):  # asked for is enough: it takes its time
        jobs.cancel(me.library.db, job.id)


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
