"""A browser for each test, or one with the running application for those that only need a shoot of their own."""

import pytest

from lenskeep.studio.library import Library
from tools.running.browser import open_browser
from tools.running.server import Server


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
    from tests.browser.hands import Desk

    folder = tmp_path_factory.mktemp("desk")
    driver = open_browser(folder / "profile")
    library = Library(folder / "home")
    try:
        with Server(library.home) as server:
            yield Desk(driver, library, server.address, folder)
    finally:
        driver.quit()
