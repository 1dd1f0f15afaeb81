"""What protects the local server from other pages in the same browser and from other machines."""

import re
import socket

import pytest
from starlette.testclient import TestClient

from lenskeep.store import frames, recipes, shoots
from lenskeep.studio import looks
from lenskeep.studio.hand_over import deliver
from lenskeep.web import own_files
from lenskeep.web.app import SCREENS, create_app
from tests.web.conftest import BASE
from tools.made_up import look_recipe
from tools.running.server import Server

PART = re.compile(r"\{\w+\}")
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


def routes(change):
    """Every address that takes a change, or that does not, from the application itself."""
    found = [r for screen in SCREENS for r in screen.router.routes]
    return sorted({r.path for r in found if bool(set(r.methods) - {"GET", "HEAD"}) == change})


def changes():
    return routes(change=True)


@pytest.mark.parametrize("path", changes())
def test_no_change_without_the_sessions_own_token(library, path):
    path = PART.sub("1", path)
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


def dump(library):
    return list(library.db.reader.iterdump())


@pytest.mark.parametrize("query", ["", "?key=2&only=doubtful&show=all&op=undo&accepted=true&name=x&step=subject"])
def test_no_address_changes_anything_by_being_looked_at(visitor, shoot, query):
    """A page of another site can make the browser look at any address, with the session's cookie where it is lax."""
    library = visitor.library
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 1.0)
    deliver.queue_delivery(library, shoot, deliver.DeliveryOptions())
    visitor.work()
    key = frames.frames(library.db, shoot)[0].result_key
    before, addresses = dump(library), routes(change=False)
    visitor.app.state.studio.runner.begin_stop()  # what goes on for as long as the server runs ends after one turn
    assert len(addresses) > 18
    seen = set()
    for path in addresses:
        for number in ("1", "2"):
            filled = path.replace("{key}", key).replace("{mask}", "sky")
            seen.add(visitor.get(PART.sub(number, filled) + query).status_code)
    assert seen <= {200, 303, 404, 422} and 200 in seen
    assert dump(library) == before


def test_only_files_of_the_application_itself_are_kept_by_the_browser(visitor, shoot):
    def caching(path):
        return visitor.get(path).headers["cache-control"]

    for page in ("/", f"/scenes/{shoot}/bench", f"/shoots/{shoot}"):
        named = re.findall(r'(?:src|href)="(/static/[^"]*)"', visitor.get(page).text)
        assert len(named) > 3 and {caching(path) for path in named} == {"public, max-age=31536000, immutable"}
    relative = re.findall(r'from "([^"]*)"', visitor.get(f"{own_files.ADDRESS}/js/bench/bench.js").text)
    assert relative and all(path.startswith("..") or path.startswith("./") for path in relative), "so they keep to it"
    assert caching("/static/js/bench/bench.js") == "no-cache", "asked for anew, and answered from what is kept"
    etag = visitor.get("/static/js/bench/bench.js").headers["etag"]
    assert visitor.get("/static/js/bench/bench.js", headers={"if-none-match": etag}).status_code == 304
    for page in ("/", f"/shoots/{shoot}", "/shoots.json", f"/scenes/{shoot}/bench/state"):
        assert caching(page) == "no-store"


def test_a_pictures_address_names_what_it_shows(visitor, shoot):
    frame = frames.frames(visitor.library.db, shoot)[0]
    right = visitor.get(f"/frames/{frame.id}/thumb/{frame.picture_key}.jpg")
    assert right.status_code == 200 and "immutable" in right.headers["cache-control"]
    other = visitor.get(f"/frames/{frame.id}/thumb/{frame.picture_key}-waiting.jpg")
    assert other.status_code == 200 and other.headers["cache-control"] == "no-store"
    first, second = (recipes.save_recipe(visitor.library.db, look_recipe(ev=ev)) for ev in (0.5, -1.5))
    pictures = []
    for version in (first, second):
        looks.give_look(visitor.library, shoot, version.id, 1.0)
        visitor.work()
        key = frames.frame(visitor.library.db, frame.id).result_key
        pictures.append((key, visitor.get(f"/frames/{frame.id}/finished/{key}.jpg").content))
    for key, content in pictures:  # the address of the first still shows the first, or nothing
        assert visitor.get(f"/frames/{frame.id}/finished/{key}.jpg").content == content
    assert pictures[0][1] != pictures[1][1]
    for bad in ("none", "../../library", "0" * 31, "G" * 32):
        assert visitor.get(f"/frames/{frame.id}/finished/{bad}.jpg").status_code == 404
