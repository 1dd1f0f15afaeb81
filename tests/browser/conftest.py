"""A browser for each test, or one with the running application for those that only need a shoot of their own; and what
was on the screen where one failed.
"""

import re
from contextlib import suppress
from pathlib import Path

import pytest
from selenium.common.exceptions import WebDriverException
from urllib3.exceptions import HTTPError

from tools.running.browser import PatientChrome, open_browser

LEFT = Path(__file__).parents[2] / ".lenskeep" / "failed"
LOG_LINES = 80


@pytest.fixture
def chromium(tmp_path):
    downloads = tmp_path / "downloads"
    downloads.mkdir()
    driver = open_browser(tmp_path / "profile", downloads)
    yield driver
    driver.quit()


@pytest.fixture(scope="session")
def desk(tmp_path_factory):
    """A browser and the running application that the tests of a process share; each has a shoot of its own."""
    from tests.browser.hands import running_desk

    with running_desk(tmp_path_factory.mktemp("desk")) as own:
        yield own


@pytest.fixture
def hands(desk, request):
    """Somebody at the Bench of a shoot whose recipe has the ``STEPS`` of the test's module."""
    with desk.bench(request.module.STEPS) as person:
        yield person


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item, call):
    """Where a test fails, what its browsers show and complain of, and the end of the servers' logs are kept."""
    report = yield
    if report.failed and call.when == "call":
        for given in getattr(item, "funcargs", {}).values():
            driver = given if isinstance(given, PatientChrome) else getattr(given, "driver", None)
            if isinstance(driver, PatientChrome):
                with suppress(WebDriverException, HTTPError, OSError):  # the browser may have ended itself
                    report.sections.append(("left behind", keep_sight(item.nodeid, driver, item.funcargs)))
                break
    return report


def keep_sight(name, driver, given):
    """A picture of the screen, and beside it its address, the console and the ends of the logs; returns where."""
    LEFT.mkdir(parents=True, exist_ok=True)
    stem = LEFT / re.sub(r"\W+", "-", name)[-150:]
    said = [driver.current_url, *(f"{e['level']} {e['message']}" for e in driver.get_log("browser"))]
    homes = {one.library.home for one in given.values() if hasattr(one, "library")}
    homes |= {one.home for one in given.values() if hasattr(one, "home")}
    for log in (Path(home) / "logs" / "lenskeep.log" for home in homes):
        if log.is_file():
            said += [str(log), *log.read_text("utf-8", "replace").splitlines()[-LOG_LINES:]]
    driver.save_screenshot(f"{stem}.png")
    stem.with_name(f"{stem.name}.txt").write_text("\n".join(said))
    return f"{stem}.png and .txt"
