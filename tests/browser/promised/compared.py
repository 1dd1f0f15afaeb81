"""The line-up, and evening out."""

from lenskeep.store import evenness, jobs, looks, recipes
from lenskeep.store.evenness import Need
from tests.browser.promised import Table, hit, is_pressed
from tests.browser.promised.check import opened
from tools.made_up import look_recipe

line_up, even = Table(opened), Table(opened)


def lined_up(me):
    me.first = recipes.save_recipe(me.library.db, look_recipe(name=f"Lined {me.shoot}", ev=0.3))
    me.second = recipes.save_recipe(me.library.db, look_recipe(name=f"Lined {me.shoot}", ev=0.9))
    me.go(f"/scenes/{me.scenes[0].id}/line-up")
    me.wait(lambda: len(me.all("[data-tick]")) >= 3 and me.all(".line-up-cell img"))
    me.set(me.find("[data-add]"), str(me.second.id))
    me.wait(lambda: f"Lined {me.shoot}" in columns(me))
    me.ends()


def columns(me):
    return [c.text for c in me.all(".line-up thead [data-name]")]


def tick(me, *which):
    for n in which:
        hit(me, me.all("thead [data-tick]")[n])


def own_column(me):
    return columns(me).index(f"Lined {me.shoot}")


@line_up("[data-strengths]")
def one_is_seen_at_its_strengths(me):
    lined_up(me)
    tick(me, own_column(me))
    yield
    me.wait(lambda: {"50", "75", "125", "150"} <= {s.get_attribute("value") for s in me.all("thead [data-strength]")})


@line_up("[data-versions]")
def one_is_seen_in_its_versions(me):
    lined_up(me)
    tick(me, own_column(me))
    yield
    me.wait(lambda: sum(f"Lined {me.shoot}" in name for name in columns(me)) == 2)


@line_up("[data-mix]")
def two_are_mixed(me):
    lined_up(me)
    before = len(columns(me))
    tick(me, 1, own_column(me))
    yield
    me.wait(lambda: len(columns(me)) == before + 1)


@line_up("[data-only]")
def what_is_not_ticked_is_dropped(me):
    lined_up(me)
    tick(me, 1, own_column(me))
    yield
    me.wait(lambda: len(columns(me)) == 2)


@line_up("[data-drop]")
def one_is_dropped(me):
    lined_up(me)
    before = columns(me)
    yield
    me.wait(lambda: len(columns(me)) == len(before) - 1)


@line_up("[data-give]")
def the_scene_has_the_one_that_is_ticked(me):
    lined_up(me)
    tick(me, own_column(me))
    yield
    me.wait(lambda: looks.look(me.library.db, me.scenes[0].id).version.id == me.second.id)


@line_up(".line-up-cell", "[data-large-true]", "[data-large-close]")
def a_cell_is_seen_large_and_in_its_files_pixels(me):
    lined_up(me)
    yield
    me.wait(lambda: me.find("#line-up-large img").is_displayed())
    yield "[data-large-true]"
    me.wait(lambda: is_pressed(me, "[data-large-true]"))
    yield "[data-large-close]"
    me.wait(lambda: not me.find("#line-up-large").is_displayed())


@line_up("main a.button[href*='#scene-']")
def the_line_up_is_left_for_the_wall(me):
    lined_up(me)
    yield
    me.wait(lambda: f"/shoots/{me.shoot}" in me.driver.current_url)


def uneven(me, page="even"):
    ids = [f.id for f in me.rows]
    needs = [
        Need(ids[0], 0.0, 0.0, 0.0, True),
        Need(ids[1], 0.8, -12.0, 0.0, True),
        Need(ids[2], -0.6, 0.0, 0.0, False),
    ]
    evenness.keep(me.library.db, me.scenes[0].id, ids[0], needs)
    me.go(f"/scenes/{me.scenes[0].id}/even" if page == "even" else f"/shoots/{me.shoot}")


def ticked(me):
    return [t.is_selected() for t in me.all(".even-tick input")]


@even("#accept-even", "form[action$='/even/undo'] button")
def what_is_ticked_is_evened_out_and_undone(me):
    uneven(me)
    yield
    me.wait(lambda: [round(f.own_base.ev, 2) for f in me.rows] == [0, 0.8, 0])
    yield "form[action$='/even/undo'] button"
    me.wait(lambda: not any(f.own_base.ev for f in me.rows))


@even("[data-tick=none]", "[data-tick=sure]")
def none_and_what_is_sure_is_ticked(me):
    uneven(me)
    yield
    me.wait(lambda: ticked(me) == [False, False])
    yield "[data-tick=sure]"
    me.wait(lambda: sorted(ticked(me)) == [False, True])


@even(".evenness a.button")
def evening_out_is_gone_to(me):
    uneven(me, "wall")
    me.wait(lambda: me.all(".even-chart"))
    me.ends()
    yield
    me.wait(lambda: me.driver.current_url.endswith("/even"))


@even("[hx-post$='/measure']")
def a_scene_is_measured(me):
    uneven(me, "wall")
    before = len(jobs.jobs(me.library.db, me.shoot))
    yield
    me.wait(lambda: len(jobs.jobs(me.library.db, me.shoot)) > before)


@even("main a.button[href*='#scene-']")
def evening_out_is_left_for_the_wall(me):
    uneven(me)
    yield
    me.wait(lambda: f"/shoots/{me.shoot}" in me.driver.current_url)
