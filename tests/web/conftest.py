"""A client of the application that behaves as a browser on its own pages does."""

import re
from collections.abc import Iterator
from types import SimpleNamespace

import pytest
from starlette.testclient import TestClient

from lenskeep.store.assets import keep_assets
from lenskeep.studio.queue import make_runner
from lenskeep.studio.untrusted import apart
from lenskeep.web.app import create_app
from tools.made_up import ASSETS, ready_shoot

BASE = "http://127.0.0.1:8431"


@pytest.fixture(scope="session", autouse=True)
def helpers_stay() -> Iterator[None]:
    """An application that ends takes its helper processes along; those of the next test would be started anew, which
    takes longer than most tests do.
    """
    helpers = apart()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("lenskeep.web.app.apart", lambda: SimpleNamespace(close=lambda: None))
        yield
    helpers.close()


class Visitor(TestClient):
    """Sends the page's token with every change; ``work`` runs the queue."""

    def __init__(self, library):
        super().__init__(create_app(library, workers=0, run_jobs=False), base_url=BASE, follow_redirects=False)
        self.library = library
        found = re.search(r'name="csrf-token" content="(\w+)"', self.get("/").text)
        assert found, "the page carries its token"
        self.headers["x-csrf-token"] = found[1]

    def work(self):
        assert make_runner(self.library, 0).run_until_idle()


@pytest.fixture
def visitor(library):
    with Visitor(library) as client:
        yield client


@pytest.fixture
def shoot(library, tmp_path):
    keep_assets(library.db, ASSETS)
    return ready_shoot(library, tmp_path / "card", 4)
