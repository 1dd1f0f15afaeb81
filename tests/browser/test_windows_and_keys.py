"""Two windows at one Bench notice each other, a quick key never sticks, a shoot is renamed and removed on its wall."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import drafts, shoots
from lenskeep.studio.bench import draft as bench
from tests.asked import asked
from tools.made_up import look_recipe

STEPS = [step.model_dump(mode="json") for step in look_recipe(ev=1.5).steps]


@pytest.mark.browser
def test_another_window_is_noticed_and_shown(hands):
    elsewhere = {"values": {"steps/sky/strength": 0.5, "steps/subject/strength": 0.25}}
    bench.change(hands.library, hands.shoot, asked("set", elsewhere))
    hands.reads("changed in another window", ".toast", 15)
    strength = hands.find("#lane-sky [data-path$='sky/strength'] input[type=number]")
    assert strength.get_attribute("value") == "50"
    hands.wait(hands.rests)
    # and what is done now is done on what was done there
    slider = hands.find("#lane-background [data-path$='background/strength'] input[type=range]")
    hands.set(slider, 80)
    hands.wait(lambda: hands.recipe.step("background").strength == 0.8)
    assert {s.id: s.strength for s in hands.recipe.steps} == {"subject": 0.25, "background": 0.8, "sky": 0.5}
    hands.wait(hands.rests)  # or the page would undo what it has not heard of yet
    hands.tap(hands.find("#undo"))
    hands.wait(lambda: hands.recipe.step("background").strength == 1.0)
    assert hands.recipe.step("sky").strength == 0.5


@pytest.mark.browser
def test_a_change_of_what_another_window_took_away_is_refused_in_words(hands):
    """Done at the very moment, before this window has noticed."""
    bench.change(hands.library, hands.shoot, asked("remove-step", {"step": "sky"}))
    hands.set(hands.find("#lane-sky [data-path$='sky/strength'] input[type=range]"), 30)
    hands.reads("in another window", ".toast")
    hands.wait(lambda: not hands.all("#lane-sky"))
    hands.wait(hands.rests)
    assert [s.id for s in hands.recipe.steps] == ["subject", "background"]
    hands.driver.get_log("browser")  # it notes every answer over 399


@pytest.mark.browser
def test_what_is_typed_is_a_name_and_no_keys(hands):
    hands.open(0)
    name = hands.find(".lane[data-open] [data-path$='/name']")
    view = hands.find("#key-frame").get_attribute("outerHTML").split(">")[0]
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("hvc", Keys.ENTER)
    hands.wait(lambda: hands.recipe.steps[0].name == "hvc")
    hands.wait(hands.rests)
    for dialog in ("#history-dialog", "#choosing"):
        assert not hands.find(dialog).is_displayed(), dialog
    assert hands.find("#key-frame").get_attribute("outerHTML").split(">")[0] == view
    hands.driver.execute_script("document.activeElement.blur()")
    ActionChains(hands.driver).send_keys("h").perform()
    hands.wait(lambda: hands.find("#history-dialog").is_displayed())


@pytest.mark.browser
def test_a_quick_tap_on_space_does_not_stick_on_the_original(hands):
    finished = hands.sight("#key-canvas")
    body = hands.find("body")
    hands.driver.execute_script("document.activeElement.blur()")
    for _ in range(3):
        hands.driver.execute_script(
            "for (const kind of ['keydown', 'keyup'])"
            " arguments[0].dispatchEvent(new KeyboardEvent(kind, {code: 'Space', bubbles: true}));",
            body,
        )
        hands.ends()
        assert hands.find("#original").get_attribute("aria-pressed") == "false"
        assert not hands.find("#which").is_displayed()
    assert hands.sight("#key-canvas") == finished
    ActionChains(hands.driver).key_down(Keys.SPACE).perform()
    hands.wait(lambda: hands.find("#which").is_displayed())
    assert hands.sight("#key-canvas") != finished
    ActionChains(hands.driver).key_up(Keys.SPACE).perform()
    hands.wait(lambda: not hands.find("#which").is_displayed())
    assert hands.sight("#key-canvas") == finished


@pytest.mark.browser
def test_a_bench_that_cannot_be_read_offers_the_way_back(hands):
    bench.load(hands.library, hands.shoot, Recipe(name="Spoilt in a moment"))
    with hands.library.db.writing() as write:
        sql = "UPDATE draft_states SET body = replace(body, '\"strength\":1.0', '\"strength\":NaN') WHERE id = ?"
        write.execute(sql, (drafts.state_number(hands.library.db, hands.shoot),))
    hands.driver.refresh()
    hands.reads("can’t be read")
    hands.press("Go back to the last state")
    hands.wait(lambda: len(hands.all(".lane")) == 3)
    hands.wait(hands.rests)


@pytest.mark.browser
def test_a_shoot_is_renamed_found_again_and_removed_on_its_wall(hands):
    hands.driver.get(f"{hands.address}/shoots/{hands.shoot}")
    hands.press("This shoot…")
    name = hands.find("#shoot-name")
    name.clear()
    name.send_keys("Lena and Tom", Keys.ENTER)
    hands.wait(lambda: shoots.shoot(hands.library.db, hands.shoot).name == "Lena and Tom")
    hands.reads("Lena and Tom", "h1")
    hands.press("This shoot…")
    hands.press("Remove this shoot…", "summary")
    hands.reads("This can’t be undone")
    hands.reads("4 frames with their masks")
    hands.press("Remove Lena and Tom")
    hands.wait(lambda: hands.driver.current_url.rstrip("/") == hands.address)
    assert shoots.shoot(hands.library.db, hands.shoot) is None
