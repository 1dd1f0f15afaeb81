"""The recipe book."""

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import looks, recipes
from lenskeep.studio import looks as giving
from tests.browser.promised import Table, hit
from tests.browser.promised.check import opened
from tools.made_up import look_recipe

book = Table(opened)


def in_book(me, name="Mine"):
    me.version = recipes.save_recipe(me.library.db, look_recipe(name=f"{name} {me.shoot}"))
    me.go("/recipes")
    return f"#recipe-{me.version.recipe_id}"


def fetched(me, address):
    return me.driver.execute_async_script(
        "fetch(arguments[0]).then((a) => a.text().then((t) => arguments[1]([a.status, t])))", address
    )


@book(".book-entry [x-data] > button")
def what_can_be_changed_is_listed(me):
    own = in_book(me)
    yield f"{own} [x-data] > button"
    me.wait(lambda: me.find(f"{own} [name=name]").is_displayed())


@book("form[action$='/rename'] button")
def a_recipe_is_renamed(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    me.set(me.find(f"{own} form[action$='/rename'] [name=name]"), f"Ours {me.shoot}")
    yield f"{own} form[action$='/rename'] button"
    me.wait(lambda: recipes.versions(me.library.db, me.version.recipe_id)[0].name == f"Ours {me.shoot}")


@book("form[action$='/file'] button")
def set_tags_and_note_are_kept(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    for name, value in (("shelf", "Evenings"), ("tags", "warm late"), ("note", "For the last hour.")):
        me.set(me.find(f"{own} form[action$='/file'] [name={name}]"), value)
    yield f"{own} form[action$='/file'] button"
    newest = lambda: recipes.versions(me.library.db, me.version.recipe_id)[0]  # noqa: E731
    kept = ("Evenings", "warm late", "For the last hour.")
    me.wait(lambda: (newest().shelf, newest().tags, newest().recipe.note) == kept)


@book("form[action$='/copy'] button")
def a_copy_is_made(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    me.set(me.find(f"{own} form[action$='/copy'] [name=name]"), f"Twin {me.shoot}")
    yield f"{own} form[action$='/copy'] button"
    twin = lambda: [v for v in recipes.newest_versions(me.library.db) if v.name == f"Twin {me.shoot}"]  # noqa: E731
    me.wait(twin)
    assert twin()[0].recipe.steps == me.version.recipe.steps


@book("form[action$='/delete'] button")
def a_recipe_is_deleted_with_its_versions(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    yield f"{own} form[action$='/delete'] button"
    me.wait(lambda: not recipes.versions(me.library.db, me.version.recipe_id))


@book("a.button[href$='.json']")
def a_recipe_leaves_as_a_file(me):
    own = in_book(me)
    status, text = fetched(me, me.find(f"{own} a.button[href$='.json']").get_attribute("href"))
    assert status == 200 and f"Mine {me.shoot}" in text
    yield f"{own} a.button[href$='.json']"


@book("a.button[href$='.cube']")
def a_recipe_leaves_as_a_table(me):
    plain = [{"id": "a", "name": "All", "adjustments": [{"kind": "exposure", "ev": 0.4}]}]
    me.version = recipes.save_recipe(me.library.db, Recipe.model_validate({"name": f"Even {me.shoot}", "steps": plain}))
    me.go("/recipes")
    own = f"#recipe-{me.version.recipe_id}"
    status, text = fetched(me, me.find(f"{own} a.button[href$='.cube']").get_attribute("href"))
    assert status == 200 and "LUT_3D_SIZE" in text
    yield f"{own} a.button[href$='.cube']"


@book("form[action$='/again'] button", ".book-entry summary")
def an_earlier_version_is_given_again(me):
    first = recipes.save_recipe(me.library.db, look_recipe(name=f"Twice {me.shoot}", ev=0.3))
    me.version = recipes.save_recipe(me.library.db, look_recipe(name=f"Twice {me.shoot}", ev=0.9))
    me.go("/recipes")
    own = f"#recipe-{me.version.recipe_id}"
    yield me.all(f"{own} summary")[-1]
    yield f"{own} form[action$='/again'] button"
    me.wait(lambda: len(recipes.versions(me.library.db, first.recipe_id)) == 3)
    assert recipes.versions(me.library.db, first.recipe_id)[0].recipe.steps == first.recipe.steps


@book("form[action*='/move-on/'] button")
def a_scene_moves_on_to_the_newer_version(me):
    first = recipes.save_recipe(me.library.db, look_recipe(name=f"On {me.shoot}", ev=0.3))
    giving.give_look(me.library, me.shoot, first.id, 1.0)
    newer = recipes.save_recipe(me.library.db, look_recipe(name=f"On {me.shoot}", ev=0.9))
    me.go("/recipes")
    yield f"#recipe-{first.recipe_id} form[action*='/move-on/'] button"
    me.wait(lambda: looks.look(me.library.db, me.scenes[0].id).version.id == newer.id)


@book("form[action='/recipes/starters'] button")
def a_ready_recipe_is_in_the_book(me):
    me.go("/recipes")
    known = {v.id for v in recipes.newest_versions(me.library.db)}
    yield
    me.wait(lambda: any(v.id not in known for v in recipes.newest_versions(me.library.db)))


@book("#book-tools [x-data] > button", "form[action='/recipes/sets.json'] button")
def a_set_leaves_as_one_file(me):
    own = in_book(me)
    hit(me, f"{own} [x-data] > button")
    me.set(me.find(f"{own} [name=shelf]"), "Leaving")
    hit(me, f"{own} form[action$='/file'] button")
    me.reads("Leaving", ".chip")
    yield "#book-tools [x-data] > button"
    me.wait(lambda: me.find("form[action='/recipes/sets.json'] button").is_displayed())
    status, text = fetched(me, "/recipes/sets.json?name=Leaving")
    assert status == 200 and f"Mine {me.shoot}" in text
