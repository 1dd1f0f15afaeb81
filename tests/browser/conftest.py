"""A browser for each test, or one with the running application for those that only need a shoot of their own."""

import pytest

from tools.running.browser import open_browser


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
