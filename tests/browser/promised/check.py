"""The check."""

from contextlib import contextmanager

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import checks, frames, recipes
from lenskeep.studio import looks as giving
from tests.browser.hands import AtShoot
from tests.browser.promised import Table

BURN = {
    "id": "burn",
    "name": "Burn",
    "region": {"parts": [{"kind": "sky"}]},
    "adjustments": [{"kind": "exposure", "ev": 3.5}],
}


@contextmanager
def opened(desk):
    """A shoot of three frames with a look."""
    person = AtShoot(desk, 3)
    person.desk = desk
    yield person
    person.driver.get(f"{person.address}/activity")
    person.ends()


check = Table(opened)


def checking(me):
    version = recipes.save_recipe(me.library.db, Recipe.model_validate({"name": "Burnt", "steps": [BURN]}))
    giving.give_look(me.library, me.shoot, version.id, 1.0)
    me.go("/")
    me.wait(lambda: all(f.finished for f in me.rows), 60)
    me.go(f"/shoots/{me.shoot}/check")
    me.wait(lambda: me.find("#check").get_attribute("data-begun") is not None)


def seen(me):
    return me.find("[data-name]").text


def of_seen(me):
    row = next(f for f in me.rows if f.file_name == seen(me))
    return frames.frame(me.library.db, row.id)


@check("[data-key=accept]")
def a_frame_is_good_as_it_is(me):
    checking(me)
    first = of_seen(me)
    yield
    me.wait(lambda: seen(me) != first.file_name)
    me.wait(lambda: checks.told(me.library.db, first.id)[1] == "accepted")


@check("[data-key=where]")
def where_it_is_is_shown_on_the_picture(me):
    checking(me)
    yield
    me.wait(lambda: me.find("[data-which]").is_displayed())


@check("[data-key=step]")
def the_next_step_to_blame_is_named(me):
    two = [BURN, {**BURN, "id": "more", "name": "More", "region": {"parts": [{"kind": "subject"}]}}]
    checking(me)
    version = recipes.save_recipe(me.library.db, Recipe.model_validate({"name": "Burnt twice", "steps": two}))
    giving.give_look(me.library, me.shoot, version.id, 1.0)
    me.wait(lambda: all(f.finished for f in me.rows), 60)
    me.driver.refresh()
    me.wait(lambda: me.find("#check").get_attribute("data-begun") is not None)
    first = me.find("[data-step]").text
    yield
    me.wait(lambda: me.find("[data-step]").text != first)


@check("[data-key=repair]")
def the_mask_is_mended(me):
    checking(me)
    yield
    me.wait(lambda: "repair" in me.driver.current_url)
    me.wait(lambda: me.find("#repair-bar").is_displayed())


@check("[data-key=weaken]", "[data-key=undo]")
def the_step_is_weaker_until_it_is_undone(me):
    checking(me)
    yield
    me.wait(lambda: (of_seen(me).override.of_step("", "burn").strength or 1) < 1)
    yield "[data-key=undo]"
    me.wait(lambda: of_seen(me).override.of_step("", "burn").strength is None)


@check("[data-key='leave out']")
def the_step_is_left_out_here(me):
    checking(me)
    yield
    me.wait(lambda: of_seen(me).override.of_step("", "burn").enabled is False)


@check("[data-key=region]", "[data-region]")
def the_step_works_in_another_place(me):
    checking(me)
    yield
    yield "[data-region=background]"
    me.wait(lambda: of_seen(me).override.of_step("", "burn").region is not None)
    assert of_seen(me).override.of_step("", "burn").region.parts[0].kind == "background"


@check("[data-key=base]")
def the_base_is_changed(me):
    checking(me)
    yield
    me.wait(lambda: me.find("[data-value=ev]").is_displayed())


@check("[data-key=skip]", "[data-key=back]")
def a_frame_waits_and_is_gone_back_to(me):
    checking(me)
    first = of_seen(me)
    yield
    me.wait(lambda: seen(me) != first.file_name)
    yield "[data-key=back]"
    me.wait(lambda: seen(me) == first.file_name)
    assert checks.told(me.library.db, first.id)[1] in ("", None)


@check("main a.button[href^='/shoots/']")
def the_check_is_left_for_the_wall(me):
    checking(me)
    yield
    me.wait(lambda: me.driver.current_url.endswith(f"/shoots/{me.shoot}"))
