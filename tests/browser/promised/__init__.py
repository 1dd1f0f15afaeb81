"""What the buttons of a screen promise: a table that is walked by pressing, and held against the screen itself, so that
no button is left out of it.
"""

from contextlib import contextmanager

from selenium.common.exceptions import ElementClickInterceptedException, ElementNotInteractableException

from tests.browser.hands import Hands
from tools.made_up import ready_shoot

BUTTONS = "button, summary, a.button, [role=button]"
_UNPROMISED = f"""
const known = arguments[0];
const all = [...document.querySelectorAll(`{BUTTONS}`)];
for (const one of document.querySelectorAll("template")) all.push(...one.content.querySelectorAll(`{BUTTONS}`));
const left = all.filter((b) => !known.some((css) => b.matches(css)));
return left.map((b) => b.outerHTML.replace(/\\s+/g, " ").slice(0, 200));
"""
"""The buttons of a page that match none of some selectors, shown or not."""


class Table:
    """Promises by the selector of their button. A promise is a generator: what is there before, ``yield`` where the
    button is pressed (or what is yielded: a selector, an element), then what must be true.
    """

    def __init__(self, opened):
        """``opened``: a context that gives somebody at the screen, of a desk."""
        self.opened = opened
        self.promises = {}
        self.passing = {}

    def __call__(self, *selectors):
        """Keep a promise of the first selector; the others are buttons that it presses besides."""

        def keep(promise):
            assert promise.__name__ not in {p.__name__ for p in self.promises.values()}, promise.__name__
            self.promises[selectors[0]] = promise
            for other in selectors[1:]:
                self.passing[other] = promise
            return promise

        return keep

    @property
    def known(self):
        """The selectors of all buttons that it speaks of."""
        return [*self.promises, *self.passing]

    def unpromised(self, person, elsewhere=()):
        """Buttons of the page as it is that no promise is about; ``elsewhere`` are selectors of other tables."""
        return person.driver.execute_script(_UNPROMISED, [*self.known, *elsewhere])


def listed(tables):
    """For parametrize: (table, selector, promise) of every promise in these tables, and their names."""
    every = [(table, css, promise) for table in tables for css, promise in table.promises.items()]
    return {"argvalues": every, "ids": [promise.__name__ for _, _, promise in every]}


def walk(person, css, promise):
    """Press a button as its promise says, and see it kept."""
    steps = promise(person)
    for wanted in steps:
        hit(person, wanted or css)


def hit(person, what):
    """Press the first button that is shown and can be pressed, as a hand does."""

    def pressed():
        found = person.all(what) if isinstance(what, str) else [what]
        for element in found:
            if not (element.is_displayed() and element.is_enabled()):
                continue
            person.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
            try:
                element.click()
            except (ElementClickInterceptedException, ElementNotInteractableException):
                return False  # something passes over it, or it is drawn anew
            return True
        return False

    person.wait(pressed)


def is_pressed(person, css):
    """Whether a button says that it is on."""
    return person.find(css).get_attribute("aria-pressed") == "true"


ROOM = ".bar [x-data=room] button"
BAR = (ROOM, ".bar nav a")
"""What every screen has on top; walked on the first of them."""


@contextmanager
def at_the_bench(desk, steps, **more):
    """The Bench of a shoot that all who ask for it share, with this recipe; the browser has nothing to complain of."""
    if not hasattr(desk, "bencher"):
        shoot = ready_shoot(desk.library, desk.folder / "shared-bench", 2, 200, 300)
        desk.bencher = Hands(desk.driver, desk.address, desk.library, shoot)
    person = desk.bencher
    person.load(steps, **more)
    yield person
    person.leaves_nothing()
