"""The tests' own hands: an element that a page exchanged is the one that stands in its place now."""

import pytest
from selenium.common.exceptions import StaleElementReferenceException

from tools.running.renewed import Renewed


class Page:
    """Elements of a selector; using one that is gone is an error, as in a browser."""

    def __init__(self, *ids):
        self.ids, self.used = list(ids), []

    def use(self, params):
        if params["id"] not in self.ids:
            raise StaleElementReferenceException
        self.used.append(params["id"])
        return "used"


@pytest.fixture
def page(monkeypatch):
    monkeypatch.setattr("tools.running.renewed.PAUSE", 0)
    return Page("one", "two")


def run(page, renewed, again=lambda: True):
    return renewed.run(page.use, {"id": "two"}, lambda selector, within: page.ids, again)


def test_what_was_exchanged_is_found_in_its_place(page):
    renewed = Renewed()
    renewed.remember("a.b", page.ids)
    page.ids = ["three", "four"]
    assert run(page, renewed) == "used" and page.used == ["four"]


def test_nothing_is_guessed_where_fewer_stand_there(page):
    renewed = Renewed()
    renewed.remember("a.b", page.ids)
    page.ids = ["three"]
    with pytest.raises(StaleElementReferenceException):
        run(page, renewed)


def test_a_page_half_renewed_is_waited_for(page):
    renewed, looks = Renewed(), iter((["three"], ["three", "four"]))
    renewed.remember("a.b", page.ids)
    page.ids = []

    def found(selector, within):
        page.ids = next(looks)
        return page.ids

    assert renewed.run(page.use, {"id": "two"}, found, lambda: True) == "used" and page.used == ["four"]


def test_a_press_that_took_its_button_away_is_not_repeated(page):
    renewed = Renewed()
    renewed.remember("a.b", page.ids)
    page.ids = ["three", "four"]
    with pytest.raises(StaleElementReferenceException):
        run(page, renewed, again=lambda: False)
    assert page.used == []


def test_what_was_found_within_an_element_is_found_within_the_one_that_took_its_place(page):
    renewed = Renewed()
    renewed.remember("li", ["tile 1", "tile 2"])
    renewed.remember_first("a", "two", "tile 2")
    page.ids = ["link of tile 4"]

    def found(selector, within):
        return ["tile 3", "tile 4"] if within is None else [f"link of {within}", "another"]

    assert renewed.run(page.use, {"id": "two"}, found, lambda: True) == "used"
    assert page.used == ["link of tile 4"]
