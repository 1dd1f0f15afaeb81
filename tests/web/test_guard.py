"""What protects the local server from other pages in the same browser and from other machines."""

import socket

import pytest
from starlette.testclient import TestClient

from lenskeep.store import shoots
from lenskeep.web.app import create_app
from tests.server import Server
from tests.web.conftest import BASE

PAGES = ["/", "/recipes", "/activity", "/nothing/here", "/shoots.json", "/static/css/app.css"]


@pytest.mark.parametrize("path", PAGES)
def test_every_answer_carries_the_policy(visitor, path):
    headers = visitor.get(path).headers
    policy = dict(part.strip().split(" ", 1) for part in headers["content-security-policy"].split(";"))
    assert policy["default-src"] == "'none'" and policy["script-src"] == "'self'" and policy["style-src"] == "'self'"
    assert policy["frame-ancestors"] == "'none'" and policy["base-uri"] == "'none'"
    assert "unsafe" not in headers["content-security-policy"]
    assert headers["x-content-type-options"] == "nosniff" and headers["referrer-policy"] == "same-origin"


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "lenskeep.local:8431"])
def test_another_host_name_is_refused(library, host):
    client = TestClient(create_app(library, workers=0, run_jobs=False), base_url=BASE)
    assert client.get("/", headers={"host": host}).status_code == 400
    assert client.get("/", headers={"host": "localhost:8431"}).status_code == 200


def changes():
    """Every address that takes a change, from the application itself."""
    from lenskeep.web.screens import activity, bench, book, frame, hand_over, home, pictures, wall

    screens = (activity, bench, book, frame, hand_over, home, pictures, wall)
    routes = [r for s in screens for r in s.router.routes if set(r.methods) - {"GET", "HEAD"}]
    return sorted({r.path for r in routes})


@pytest.mark.parametrize("path", changes())
def test_no_change_without_the_sessions_own_token(library, path):
    for part in ("{shoot_id}", "{frame_id}", "{job_id}", "{step_id}"):
        path = path.replace(part, "1")
    client = TestClient(create_app(library, workers=0, run_jobs=False), base_url=BASE)
    assert client.post(path, data={"name": "x"}).status_code == 403
    client.get("/")
    assert client.post(path, data={"name": "x"}, headers={"x-csrf-token": "0" * 64}).status_code == 403
    assert client.post(path, data={"name": "x", "csrf_token": "0" * 64}).status_code == 403
    assert shoots.shoots(library.db) == []


def test_a_token_of_another_session_does_not_work(visitor, library):
    other = TestClient(visitor.app, base_url=BASE)
    other.get("/")
    answer = other.post("/shoots", data={"name": "x"}, headers={"x-csrf-token": visitor.headers["x-csrf-token"]})
    assert answer.status_code == 403 and shoots.shoots(library.db) == []


def test_a_plain_form_with_its_token_is_taken(visitor, library):
    token = visitor.headers.pop("x-csrf-token")
    answer = visitor.post("/shoots", data={"name": "By form", "csrf_token": token})
    assert answer.status_code == 201 and shoots.shoots(library.db)[0].name == "By form"


def test_the_cookie_is_out_of_reach_of_scripts_and_other_sites(library):
    client = TestClient(create_app(library, workers=0, run_jobs=False), base_url=BASE)
    cookie = client.get("/").headers["set-cookie"].lower()
    assert "httponly" in cookie and "samesite=strict" in cookie


def test_the_server_listens_on_this_machine_only(tmp_path):
    with Server(tmp_path / "home", workers=0) as server:
        for family, address in ((socket.AF_INET, "127.0.0.2"), (socket.AF_INET, _own_address())):
            with socket.socket(family) as probe:
                probe.settimeout(2)
                assert probe.connect_ex((address, server.port)) != 0, address


def _own_address():
    """This machine's address towards others, without sending anything."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))
        except OSError:
            return "127.0.0.3"
        return probe.getsockname()[0]
