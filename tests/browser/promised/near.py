"""On the Bench's pictures: near and far, pointing, saving, asking before what is shared goes."""

from selenium.webdriver.common.keys import Keys

from lenskeep.store import frames, looks, recipes, scenes
from tests.browser.promised import Table, hit, is_pressed
from tests.browser.promised.stage import STEPS, SUBJECT, look, opened

near = Table(opened)


def look_of(me):
    look = looks.look(me.library.db, me.shoot)
    return look.layers[-1].version.name if look else ""


def gather(me):
    me.hand(0.5, 0.1).click().perform()
    me.wait(lambda: me.find("#gathered").is_displayed())


@near("[data-close='1']", "[data-close='fit']")
def every_pixel_of_the_file_is_seen(me):
    far = look(me)
    yield
    me.wait(lambda: is_pressed(me, "[data-close='1']") and me.find("[data-close-map]").is_displayed())
    assert look(me) != far
    yield "[data-close='fit']"
    me.wait(lambda: not me.find("[data-close-map]").is_displayed())


@near("[data-close='2']")
def each_pixel_is_twice_as_large(me):
    hit(me, "[data-close='1']")
    near = look(me)
    yield
    me.wait(lambda: is_pressed(me, "[data-close='2']") and look(me) != near)


@near("[data-close-go=face]")
def the_subject_is_gone_to(me):
    far = look(me)
    yield
    me.wait(lambda: me.find("[data-close-map]").is_displayed() and look(me) != far)


@near(".witness")
def a_witness_becomes_the_key_frame(me):
    other = frames.summaries(me.library.db, me.shoot)[1].id
    yield f".witness[data-frame='{other}']"
    me.wait(lambda: me.find("#bench").get_attribute("data-key") == str(other))
    assert scenes.scene(me.library.db, me.shoot).key_frame_id == other


@near(".gradient-mark")
def a_gradient_is_opened_where_it_lies(me):
    pool = {"id": "b", "name": "Pool", "region": {"parts": [{"id": "q", "kind": "pool"}]}, "adjustments": []}
    me.load([*STEPS[:1], pool])
    me.open(0)
    yield
    me.wait(lambda: me.find(".lane[data-open]").get_attribute("data-step") == "b")


@near("#found-open")
def all_that_was_found_is_listed(me):
    yield
    me.wait(lambda: me.all("#found-list [data-found]"))
    yield
    me.wait(lambda: not me.find("#found-list").is_displayed())


@near("[data-found]", "[data-turn]")
def what_is_in_the_list_is_gathered(me):
    hit(me, "#found-open")
    yield
    me.wait(lambda: len(me.all("#gathered [data-turn]")) == 1)


@near("[data-gathered-into]")
def what_was_gathered_goes_into_the_open_step(me):
    me.open(1)
    gather(me)
    words = me.find("[data-gathered-into]").text
    assert words == "Into “Calm”"
    yield
    me.wait(lambda: me.recipe.sentence(me.recipe.step("b")) == "sky")


@near("[data-gathered-clear]")
def what_was_pointed_at_is_let_go(me):
    gather(me)
    yield
    me.wait(lambda: not me.find("#gathered").is_displayed())


@near("#gathered [data-picker-open]")
def a_step_is_made_of_what_was_gathered(me):
    gather(me)
    yield
    me.driver.switch_to.active_element.send_keys("Haze", Keys.ENTER)
    me.wait(lambda: len(me.recipe.steps) == 3)
    assert me.recipe.sentence(me.recipe.steps[2]) == "sky"


@near("#save-open", "[name=then][value=stay]")
def the_recipe_is_kept_under_its_name(me):
    known = {v.id for v in recipes.newest_versions(me.library.db)}
    yield
    me.wait(lambda: me.find("#save-dialog").is_displayed())
    me.set(me.find("#save-dialog [name=name]"), "From the stage")
    yield "#save-dialog [name=then][value=stay]"
    me.wait(lambda: any(v.id not in known for v in recipes.newest_versions(me.library.db)))
    [made] = [v for v in recipes.newest_versions(me.library.db) if v.id not in known]
    assert made.name == "From the stage" and made.recipe.steps == me.recipe.steps


@near("[name=then][value=apply]", "[name=then][value='apply to all']")
def the_recipe_is_kept_and_becomes_the_look(me):
    hit(me, "#save-open")
    me.wait(lambda: me.find("#save-dialog").is_displayed())
    me.set(me.find("#save-dialog [name=name]"), "As the look")
    yield "#save-dialog [name=then][value=apply]"
    me.wait(lambda: look_of(me) == "As the look")


@near("#save-dialog [data-close]", "form [data-close]")
def nothing_is_saved(me):
    known = len(recipes.newest_versions(me.library.db))
    hit(me, "#save-open")
    yield "#save-dialog [data-close]"
    me.wait(lambda: not me.find("#save-dialog").is_displayed())
    assert len(recipes.newest_versions(me.library.db)) == known


@near("[data-tick]")
def all_steps_are_ticked(me):
    hit(me, "#save-open")
    for tick in me.all("#save-dialog [name=steps]"):
        if tick.is_selected():
            tick.click()
    yield "#save-dialog [data-tick=all]"
    me.wait(lambda: all(t.is_selected() for t in me.all("#save-dialog [name=steps]")))


@near("#repair", "[data-repair-way]", "[data-repair]")
def the_masks_of_the_key_frame_are_mended(me):
    yield
    me.wait(lambda: me.find("#repair-bar").is_displayed() and is_pressed(me, "#repair"))
    yield
    me.wait(lambda: not me.find("#repair-bar").is_displayed())


def shared(me):
    region = {"name": "Around", "region": SUBJECT}
    steps = [{**step, "shared": {"region": "r"}, "region": {"parts": []}} for step in STEPS]
    me.load(steps, regions={"r": region})
    me.open(0)
    me.chip("share")
    hit(me, ".lane[data-open] [data-delete-shared]")
    me.wait(lambda: me.find("#ask-dialog").is_displayed())


@near("[data-then=copies]")
def each_step_has_a_copy_of_what_was_shared(me):
    shared(me)
    yield
    me.wait(lambda: not me.recipe.regions)
    assert [me.recipe.sentence(s) for s in me.recipe.steps] == ["subject", "subject"]
    assert all(s.enabled for s in me.recipe.steps)


@near("[data-then=off]")
def steps_that_shared_are_switched_off(me):
    shared(me)
    yield
    me.wait(lambda: not me.recipe.regions)
    assert not any(s.enabled for s in me.recipe.steps)


@near("[data-then='']")
def what_is_shared_stays(me):
    shared(me)
    yield
    me.wait(lambda: not me.find("#ask-dialog").is_displayed())
    assert me.recipe.regions
