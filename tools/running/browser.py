"""Chromium, headless, from Debian's packages, and somebody who looks at its screen."""

import shutil
import time
import urllib.request
from contextlib import suppress

from selenium import webdriver
from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException, TimeoutException
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.command import Command

from tools.running.renewed import Renewed

FLAGS = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-dev-shm-usage",
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--window-size=1280,800",
    # nobody watches: what is drawn needs no process of its own, which takes less work
    "--in-process-gpu",
)  # fmt: skip

MOST_READ = 1500
LOOKS_SECONDS, SELDOM, MOST_SECONDS = 0.03, 0.1, 0.4
"""After which somebody who waits looks again: at least, as a share of what was waited, and at most; looking is work for
the browser too."""
PATIENCE = 2.5
"""A busy machine is no fault: so many times as long is waited as an idle one would take at most."""
TO_BE_PRESSED = """
const [element] = arguments;
window.pressed = false;
element.addEventListener('click', () => { window.pressed = true; }, {once: true, capture: true});
"""
"""On another page, where the press led, nothing is known of it."""


MANY = (Command.FIND_ELEMENTS, Command.FIND_CHILD_ELEMENTS)
ONE = (Command.FIND_ELEMENT, Command.FIND_CHILD_ELEMENT)


class PatientChrome(webdriver.Chrome):
    """Parts of a page are renewed under one's eyes: what went away before it was used is looked for again."""

    def __init__(self, *args, **more):
        self.renewed = Renewed()
        super().__init__(*args, **more)

    def execute(self, driver_command, params=None):
        run = super().execute
        pressing = driver_command == Command.CLICK_ELEMENT
        if pressing:
            self.execute_script(TO_BE_PRESSED, self.create_web_element(params["id"]))

        def found(selector, within):
            how = {"using": By.CSS_SELECTOR, "value": selector}
            if within is None:
                return [e.id for e in run(Command.FIND_ELEMENTS, how)["value"]]
            return [e.id for e in run(Command.FIND_CHILD_ELEMENTS, how | {"id": within})["value"]]

        def again():
            # it went away by being pressed, or before?
            return not pressing or self.execute_script("return window.pressed === false")

        answer = self.renewed.run(lambda p: run(driver_command, p), params, found, again)
        if driver_command in MANY + ONE and params["using"] == By.CSS_SELECTOR:
            selector, within = params["value"], params.get("id")
            if driver_command in MANY:
                self.renewed.remember(selector, [e.id for e in answer["value"]], within)
            else:
                self.renewed.remember_first(selector, answer["value"].id, within)
        return answer


def open_browser(profile, downloads=None):
    """A Chromium of its own profile, saving downloads into a folder without asking."""
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium")
    for flag in (*FLAGS, f"--user-data-dir={profile}"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    if downloads:
        options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    return PatientChrome(options, Service(shutil.which("chromedriver")))


class Person:
    """Somebody at the screen: looks for things by what they say, and waits as people do."""

    def __init__(self, driver, address):
        self.driver, self.address = driver, address

    def wait(self, condition, seconds=40):
        """What a condition gives as soon as it gives something; raises TimeoutException where it never does."""
        began, waited = time.monotonic(), 0.0
        while waited < PATIENCE * seconds:
            with suppress(NoSuchElementException, StaleElementReferenceException):  # renewed under one's eyes
                if found := condition():
                    return found
            time.sleep(min(max(LOOKS_SECONDS, SELDOM * waited), MOST_SECONDS))
            waited = time.monotonic() - began
        # what was on screen, since nobody sees the machine that it happened on
        seen = self.driver.execute_script("return document.body ? document.body.innerText : ''")
        raise TimeoutException(f"{waited:.0f} s at {self.driver.current_url}, which reads: {seen[:MOST_READ]}")

    def find(self, css):
        return self.wait(lambda: next((e for e in self.driver.find_elements(By.CSS_SELECTOR, css)), None))

    def all(self, css):
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def press(self, words, css="a, button"):
        """Press the link or button that shows these words."""

        def pressed():
            for element in self.all(css):
                if words in element.text and element.is_displayed() and element.is_enabled():
                    self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
                    element.click()
                    return True
            return False

        self.wait(pressed)

    def press_for(self, words, css, seconds=8):
        """Press what shows these words until what it is pressed for is there: a page may be drawn anew in between."""

        def there():
            self.press(words)
            until = time.monotonic() + seconds
            while not self.all(css) and time.monotonic() < until:
                time.sleep(LOOKS_SECONDS)
            return bool(self.all(css))

        self.wait(there)

    def reads(self, words, css="body", seconds=40):
        def there():
            return any(words in e.text for e in self.all(css))

        self.wait(there, seconds)

    def set(self, element, value):
        """Move a slider or fill a field as its own events would."""
        self.driver.execute_script(
            "arguments[0].value = arguments[1];"
            "for (const kind of ['input', 'change']) arguments[0].dispatchEvent(new Event(kind, {bubbles: true}));",
            element,
            value,
        )

    def picture(self, css):
        """Mean colour of a canvas."""
        return self.driver.execute_script(
            "const c = document.querySelector(arguments[0]);"
            "const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; let s = 0;"
            "for (let i = 0; i < d.length; i += 4) s += d[i] + d[i + 1] + d[i + 2]; return s / (d.length * 0.75);",
            css,
        )

    def sight(self, css):
        """What a canvas shows, to be compared."""
        return self.driver.execute_script("return document.querySelector(arguments[0]).toDataURL()", css)

    def fetched(self, address):
        """What lies at an address, for whoever this browser is."""
        cookie = "; ".join(f"{c['name']}={c['value']}" for c in self.driver.get_cookies())
        with urllib.request.urlopen(urllib.request.Request(address, headers={"cookie": cookie})) as answer:
            return answer.read()

    def ends(self):
        """Wait until nothing is on its way any more."""
        busy = "return document.documentElement.hasAttribute('data-busy')"
        self.wait(lambda: not self.driver.execute_script(busy))

    def rests(self):
        """Nothing is asked for, and every picture is drawn as it should be."""
        return self.driver.execute_script(
            "return !document.documentElement.hasAttribute('data-busy') && "
            "document.getElementById('bench').hasAttribute('data-rests')"
        )

    def settled(self, css):
        """The mean colour of a canvas of the Bench once the page rests."""
        self.wait(self.rests)
        return self.picture(css)

    def complaints(self):
        """What the browser complained about."""
        return [e["message"] for e in self.driver.get_log("browser") if e["level"] == "SEVERE"]
