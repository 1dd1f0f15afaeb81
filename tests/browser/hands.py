"""Somebody working at the Bench with mouse and keyboard."""

from contextlib import contextmanager

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.support.ui import Select

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import frames, recipes, scenes
from lenskeep.store.assets import keep_assets
from lenskeep.studio import looks as giving
from lenskeep.studio import placing
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library
from tools.made_up import ASSETS, look_recipe, ready_shoot
from tools.running.browser import Person, open_browser
from tools.running.server import Server

PAINTED_AND_POOL = [
    {
        "id": "a",
        "name": "Painted",
        "region": {"parts": [{"kind": "brush"}]},
        "adjustments": [{"kind": "exposure", "ev": -1}],
    },
    {
        "id": "b",
        "name": "Pool",
        "region": {"parts": [{"kind": "pool"}]},
        "adjustments": [{"kind": "exposure", "ev": 0.5}],
    },
]
"""Steps of a region that is painted and one that is dragged by handles."""


class Hands(Person):
    """Somebody at the Bench with a shoot of a few frames."""

    def __init__(self, driver, address, library, shoot):
        super().__init__(driver, address)
        self.library, self.shoot = library, shoot

    @property
    def recipe(self):
        return bench.draft(self.library, self.shoot).recipe

    @property
    def parts(self):
        return self.recipe.region_of(self.recipe.steps[0]).parts

    def open(self, number):
        def is_open():
            return self.all(".lane")[number].get_attribute("data-open") is not None

        def opened():
            if not is_open():
                self.tap(self.all(".lane")[number].find_element("css selector", "[data-open-lane]"))
            return is_open()

        self.wait(opened)

    def add(self, kind, combine=None):
        """Add a part to the open step; its few settings open beside the picture."""
        count = len(self.all(".lane[data-open] [data-part]"))
        if combine:
            Select(self.find(".lane[data-open] [data-add-part] [name=combine]")).select_by_visible_text(combine)
        self.tap(self.find(".lane[data-open] [data-add-part] [data-picker-open]"))
        self.tap(self.find(f".lane[data-open] [data-add-part] [data-kind={kind}]"))
        self.wait(lambda: len(self.all(".lane[data-open] [data-part]")) == count + 1)
        self.wait(lambda: [p for p in self.all(f".lane[data-open] [data-part={kind}]") if p.is_displayed()])

    def chip(self, name):
        """Open the settings that a chip of the open step stands for: "edges", "share" or a part's kind."""

        def panel():
            which = f"[data-panel^='{name}-']" if name in ("edges", "share") else f"[data-part={name}]"
            return self.all(f".lane[data-open] {which}")[-1]

        def opened():
            if not panel().is_displayed():
                which = panel().get_attribute("data-panel")
                self.tap(self.find(f".lane[data-open] [data-chip='{which}']"))
            return panel().is_displayed()

        self.wait(opened)

    def tap(self, element):
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
        element.click()

    def tool(self, name):
        """Take a tool of the open step's last part that has it."""
        button = f".lane[data-open] [data-tool={name}]"
        self.wait(lambda: self.all(button))
        kind = self.driver.execute_script(
            "return arguments[0].closest('[data-part]').dataset.part", self.all(button)[-1]
        )
        self.chip(kind)

        def taken():
            if self.find("#overlay").get_attribute("data-tool") != name:
                self.tap(self.all(button)[-1])
            return self.find("#overlay").get_attribute("data-tool") == name

        self.wait(taken)

    def hand(self, x, y, duration=60):
        """A chain of actions, each so many ms long, that starts at a place of the key frame, 0…1."""
        box = self.find("#overlay")
        size = box.size
        across, down = round((x - 0.5) * size["width"]), round((y - 0.5) * size["height"])
        return ActionChains(self.driver, duration=duration).move_to_element_with_offset(box, across, down)

    def drag(self, start, end, *through):
        size = self.find("#overlay").size
        chain, at = self.hand(*start).click_and_hold(), start
        for point in (*through, end):
            chain.move_by_offset(round((point[0] - at[0]) * size["width"]), round((point[1] - at[1]) * size["height"]))
            at = point
        chain.release().perform()

    def load(self, steps, **more):
        """The Bench with this recipe and no other key frame than the first; nothing is left of what was done before."""
        recipe = Recipe.model_validate({"name": "Hands", "steps": steps, **more})
        self.driver.get("about:blank")  # else the page before asks for pictures of steps that are no longer there
        bench.load(self.library, self.shoot, recipe)
        first = frames.summaries(self.library.db, self.shoot)[0]
        scenes.set_key_frame(self.library.db, self.shoot, first.id)
        self.complaints()  # those of a page before
        self.driver.get(f"{self.address}/scenes/{self.shoot}/bench")
        self.settled("#key-canvas")

    def leaves_nothing(self):
        """Nothing is kept for the next one, and the browser has nothing to complain of."""
        self.driver.execute_script("localStorage.clear()")
        self.ends()
        told = self.complaints()
        assert told == [], told

    def rest_then_leave(self):
        """What is on its way when a page is left is complained of by the next one."""
        self.ends()
        self.driver.get(self.address)
        self.ends()

    def handle(self, name):
        return self.find(f"#overlay .handle[aria-label^='{name}']")


class AtShoot(Person):
    """Somebody with a shoot of their own of so many frames, a minute apart, which have a look or none."""

    def __init__(self, desk, count, look=True):
        super().__init__(desk.driver, desk.address)
        self.library = desk.library
        desk.shoots += 1
        self.shoot = ready_shoot(desk.library, desk.folder / f"card-{desk.shoots}", count)
        with desk.library.db.writing() as write:
            for n, row in enumerate(self.rows):
                stamp = f"2026-09-12T18:{n:02d}:00"
                write.execute("UPDATE frames SET taken_at = ?, place = ? WHERE id = ?", (stamp, stamp, row.id))
        placing.place(desk.library, self.shoot)
        if look:
            giving.give_look(desk.library, self.shoot, recipes.save_recipe(desk.library.db, look_recipe()).id, 1.0)

    @property
    def rows(self):
        return frames.summaries(self.library.db, self.shoot)

    @property
    def scenes(self):
        return scenes.shown(self.library.db, self.shoot)

    def go(self, address):
        self.driver.get(f"{self.address}{address}")

    def whole(self, number=0):
        return frames.frame(self.library.db, self.rows[number].id)


class Desk:
    """A browser and the running application, shared by tests; each gets a shoot of its own."""

    def __init__(self, driver, library, address, folder):
        self.driver, self.library, self.address, self.folder = driver, library, address, folder
        self.shoots = 0

    @contextmanager
    def bench(self, steps, height=200, width=300, count=4):
        """A person at the Bench of a new shoot with these steps; the browser must have nothing to complain of after."""
        self.shoots += 1
        shoot = ready_shoot(self.library, self.folder / f"card-{self.shoots}", count, height, width)
        keep_assets(self.library.db, ASSETS)
        person = Hands(self.driver, self.address, self.library, shoot)
        person.load(steps)
        yield person
        person.leaves_nothing()


@contextmanager
def running_desk(folder):
    """A desk with a library in this folder; the browser and the application end with it."""
    driver = open_browser(folder / "profile")
    library = Library(folder / "home")
    try:
        with Server(library.home, workers=1) as server:
            yield Desk(driver, library, server.address, folder)
    finally:
        driver.quit()
