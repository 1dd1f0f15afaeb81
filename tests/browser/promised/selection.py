"""What is done to the frames that are selected on the wall."""

from selenium.webdriver.common.action_chains import ActionChains

from lenskeep.store import looks, recipes
from lenskeep.studio import many
from tests.browser.promised import Table, hit, is_pressed
from tests.browser.promised.wall import COUNT, again, count, opened, panel, select
from tools.made_up import look_recipe

selection = Table(opened)


@selection("[data-select=scene]")
def whole_scenes_are_selected(me):
    many.do(me.library, me.shoot, [me.rows[2].id, me.rows[3].id], many.NewScene(what="new-scene"))
    again(me)
    select(me, 0)
    panel(me, "Select…")
    yield
    me.wait(lambda: count(me) == 2)


@selection("[data-select=burst]")
def whole_bursts_are_selected(me):
    with me.library.db.writing() as write:
        some = [r.id for r in me.rows[:3]]
        write.execute(f"UPDATE frames SET burst = 1, burst_best = (id = {some[0]}) WHERE id IN (?, ?, ?)", some)
    again(me)
    select(me, 0)
    panel(me, "Select…")
    yield
    me.wait(lambda: count(me) == 3)


@selection("[data-select=like]")
def frames_like_the_first_are_selected(me):
    select(me, 0)
    panel(me, "Select…")
    yield
    me.wait(lambda: count(me) == COUNT)  # made-up frames are alike


@selection("[data-select=all]")
def every_frame_is_selected(me):
    select(me, 0)
    panel(me, "Select…")
    yield
    me.wait(lambda: count(me) == COUNT)


@selection("[data-select=none]")
def nothing_is_selected(me):
    select(me, 0, 1)
    yield "#selection > [data-select=none]"
    me.wait(lambda: count(me) == 0)


@selection(".tile-tick")
def a_frame_is_selected_by_its_tick(me):
    tile = me.all(".tile")[1]
    ActionChains(me.driver).move_to_element(tile).perform()
    yield tile.find_element("css selector", ".tile-tick")
    me.wait(lambda: count(me) == 1 and tile.get_attribute("data-picked") is not None)


@selection("#selection [x-data] > button")
def what_can_be_done_is_listed(me):
    select(me, 0)
    yield
    me.wait(lambda: me.find("[data-select=scene]").is_displayed())


@selection("[data-do-base] > button", "[data-added]")
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


@selection("[data-do=measure]", "[data-do=came]")
def a_base_is_measured_and_taken_back(me):
    select(me, 0, 1)
    panel(me, "Base…")
    yield
    me.wait(lambda: all(not f.own_base.is_neutral for f in me.rows[:2]) and me.rows[2].own_base.is_neutral)
    if not me.find("[data-do=came]").is_displayed():
        panel(me, "Base…")
    yield "[data-do=came]"
    me.wait(lambda: all(f.own_base.is_neutral for f in me.rows))


@selection("[data-do-strength] button", "[data-do=look]")
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


@selection("[data-line-up]")
def some_are_lined_up(me):
    select(me, 0, 1)
    panel(me, "Look…")
    yield
    me.wait(lambda: "/line-up" in me.driver.current_url)


@selection("[data-do-look] button")
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


@selection("[data-do=new-scene]")
def some_are_a_scene_of_their_own(me):
    select(me, 1, 2)
    panel(me, "Scene…")
    yield
    me.wait(lambda: len({f.scene_id for f in me.rows}) == 2)
    assert me.rows[1].scene_id == me.rows[2].scene_id != me.rows[0].scene_id


@selection("[data-begin]")
def a_scene_begins_with_the_first(me):
    select(me, 2)
    panel(me, "Scene…")
    yield
    me.wait(lambda: len(me.scenes) == 2)
    assert me.rows[2].scene_id == me.rows[3].scene_id != me.rows[1].scene_id


@selection("[data-move]")
def some_go_into_another_scene(me):
    many.do(me.library, me.shoot, [me.rows[2].id, me.rows[3].id], many.NewScene(what="new-scene"))
    again(me)
    select(me, 0)
    panel(me, "Scene…")
    yield f"[data-move='{me.rows[3].scene_id}']"
    me.wait(lambda: me.rows[0].scene_id == me.rows[3].scene_id)


@selection("[data-copy]", "[data-do-paste] .button-main")
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


@selection("[data-do=accept]")
def masks_are_accepted(me):
    select(me, 2)
    yield
    me.wait(lambda: me.rows[2].accepted)


@selection("[data-do=left]")
def a_frame_is_turned_to_the_left(me):
    select(me, 0)
    yield
    me.wait(lambda: me.rows[0].turn == 3)


@selection("[data-do=right]")
def a_frame_is_turned_to_the_right(me):
    select(me, 0)
    yield
    me.wait(lambda: me.rows[0].turn == 1)


@selection("[data-even]")
def a_scene_is_evened_out(me):
    select(me, 0, 1)
    yield
    me.wait(lambda: "/even" in me.driver.current_url)


@selection("[data-rate]")
def some_are_rated(me):
    select(me, 0, 3)
    yield "[data-rate='4']"
    me.wait(lambda: [f.rating for f in me.rows] == [4, 0, 0, 4])


@selection("[data-hand-over]")
def these_alone_are_handed_over(me):
    select(me, 0, 3)
    yield
    me.wait(lambda: "/hand-over" in me.driver.current_url)
    me.reads("2 selected frames leave")


@selection("[data-do=reject]", "[data-do=unreject]")
def some_are_rejected_and_taken_back_in(me):
    select(me, 0)
    yield
    me.wait(lambda: me.rows[0].rejected)
    yield "[data-do=unreject]"
    me.wait(lambda: not me.rows[0].rejected)


@selection("[data-back=undo]")
def what_was_done_last_is_undone(me):
    select(me, 0)
    hit(me, "[data-rate='3']")
    me.wait(lambda: me.rows[0].rating == 3)
    yield
    me.wait(lambda: me.rows[0].rating == 0)
