"""What the buttons of a screen promise: a table that is walked by pressing, and held against the screen itself, so that
no button is left out of it.
"""

from selenium.common.exceptions import ElementClickInterceptedException, ElementNotInteractableException

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import frames, scenes
from lenskeep.studio.bench import draft as bench

BUTTONS = "button, summary, a.button, [role=button]"
_UNPROMISED = f"""
const known = arguments[0];
const all = [...document.querySelectorAll(`{BUTTONS}`)];
for (const one of document.querySelectorAll("template")) all.push(...one.content.querySelectorAll(`{BUTTONS}`));
return all.filter((b) => !known.some((css) => b.matches(css))).map((b) => b.outerHTML.replace(/\\s+/g, " ").slice(0, 200));
"""
"""The buttons of a page that match none of some selectors, shown or not."""


class Table:
    """Promises by the selector of their button. A promise is a generator: what is there before, ``yield`` where the
    button is pressed (or what is yielded: a selector, an element), then what must be true.
    """

    def __init__(self):
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

    def parameters(self):
        """For parametrize: (selector, promise), and their names."""
        return {
            "argvalues": list(self.promises.items()),
            "ids": [promise.__name__ for promise in self.promises.values()],
        }

    def unpromised(self, person, elsewhere=()):
        """Buttons of the page as it is that no promise is about; ``elsewhere`` are selectors of other tables."""
        return person.driver.execute_script(_UNPROMISED, [*self.promises, *self.passing, *elsewhere])


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


def load(person, steps, **more):
    """The person's Bench with this recipe; nothing is left of what was done before."""
    recipe = Recipe.model_validate({"name": "Hands", "steps": steps, **more})
    bench.load(person.library, person.shoot, recipe)
    scenes.set_key_frame(person.library.db, person.shoot, frames.summaries(person.library.db, person.shoot)[0].id)
    person.driver.get(f"{person.address}/scenes/{person.shoot}/bench")
    person.settled("#key-canvas")
