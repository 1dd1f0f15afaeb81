"""A frame's panel answers at once; its picture follows, and nothing is taken from under a hand."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lenskeep.store import frames, recipes
from lenskeep.studio import looks as giving
from tools.made_up import look_recipe, ready_shoot
from tools.running.browser import Person

pytestmark = pytest.mark.browser


class Looking(Person):
    """Somebody on the page of a frame that has a look."""

    def __init__(self, desk, shoot):
        super().__init__(desk.driver, desk.address)
        self.library = desk.library
        self.id = frames.summaries(desk.library.db, shoot)[0].id

    @property
    def row(self):
        return frames.frame(self.library.db, self.id)

    def shown(self):
        return self.find("#after").get_attribute("src")

    def is_shown(self):
        row = self.row
        return row.finished and row.result_key in self.shown()

    def slider(self):
        return self.find("#panel [hx-post*='/strength'] input[type=range]")


@pytest.fixture
def me(desk, tmp_path):
    shoot = ready_shoot(desk.library, tmp_path / "card", 2)
    giving.give_look(desk.library, shoot, recipes.save_recipe(desk.library.db, look_recipe()).id, 1.0)
    person = Looking(desk, shoot)
    person.complaints()  # those of a page before
    person.driver.get(f"{desk.address}/frames/{person.id}")
    yield person
    person.ends()
    told = person.complaints()
    assert told == [], told


def test_the_page_shows_the_picture_that_was_still_being_made(me):
    me.wait(me.is_shown)


def test_a_slider_is_moved_by_keys_again_and_again_and_the_picture_follows(me):
    me.wait(me.is_shown)
    me.driver.execute_script("arguments[0].focus()", me.slider())
    for percent in (95, 90, 85):
        ActionChains(me.driver).send_keys(Keys.ARROW_LEFT).perform()
        me.wait(lambda percent=percent: me.row.override.strength == percent / 100)
        me.reads(f"{percent} %", "#panel output")
    assert me.slider().get_attribute("value") == "85"
    me.wait(me.is_shown)


def test_a_slider_that_is_held_is_not_taken_from_under_the_hand(me):
    me.wait(me.is_shown)
    slider = me.slider()
    hand = ActionChains(me.driver).move_to_element(slider).click_and_hold().move_by_offset(-30, 0)
    hand.perform()
    held = slider.get_attribute("value")
    me.driver.execute_script(  # somebody else's change, whose answer comes now
        f"window.told = htmx.ajax('POST', '/frames/{me.id}/accept', {{target: '#panel', values: {{accepted: 'true'}}}})"
    )
    me.wait(lambda: me.row.accepted)
    me.driver.execute_async_script("window.told.then(() => setTimeout(arguments[0], 100))")
    assert slider.get_attribute("value") == held != "100", "the same slider, where the hand has it"
    ActionChains(me.driver).release().perform()
    me.wait(lambda: abs(100 * me.row.override.strength - float(held)) < 0.5)
    me.reads("Accepted by hand", "#panel")
    me.wait(me.is_shown)


def test_what_is_said_of_the_picture_comes_with_it(me):
    """Guards look at the finished picture: what they say belongs to the one that is shown."""
    me.wait(me.is_shown)
    before = me.row.faults
    assert before, "the look is too much for this frame"
    assert len(me.all("#made li")) == len(before)
    me.driver.execute_script(
        "arguments[0].value = 0; arguments[0].dispatchEvent(new Event('change', {bubbles: true}))", me.slider()
    )
    me.wait(lambda: me.row.override.strength == 0 and me.row.finished)
    assert me.row.faults != before
    me.wait(lambda: len(me.all("#made li")) == len(me.row.faults))
    me.wait(me.is_shown)
