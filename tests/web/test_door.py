"""Only who brings the key comes in, by whichever way; the library, and the key in it, are its owner's alone."""

import stat

import pytest
from starlette.testclient import TestClient

from lenskeep.web.app import create_app
from lenskeep.web.door import KEY_FILE, key_of
from tests.web.conftest import BASE
from tools.made_up import ready_shoot


@pytest.fixture
def client(library, tmp_path):
    ready_shoot(library, tmp_path / "card", 1)
    app = create_app(library, workers=0, run_jobs=False, key=key_of(library.home))
    with TestClient(app, base_url=BASE, follow_redirects=False) as client:
        yield client


WAYS = ["/", "/shoots.json", "/shoots/1", "/frames/1/thumb/x.jpg", "/static/css/app.css", "/?key=", "/?key=wrong"]


@pytest.mark.parametrize("way", WAYS)
def test_nothing_is_answered_without_the_key(client, way):
    answer = client.get(way)
    assert answer.status_code == 401 and "printed" in answer.text and "Ready" not in answer.text
    assert "set-cookie" not in answer.headers


def test_no_change_is_made_without_it_even_with_a_pages_token(client, library):
    assert client.post("/shoots", data={"name": "Mine"}, headers={"x-csrf-token": "0" * 64}).status_code == 401
    assert client.post(f"/shoots?key={key_of(library.home)}", data={"name": "Mine"}).status_code == 401


def test_the_printed_address_lets_in_once_and_for_all(client, library):
    answer = client.get(f"/shoots/1?show=all&key={key_of(library.home)}")
    assert (answer.status_code, answer.headers["location"]) == (303, "/shoots/1?show=all")
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie and "samesite=strict" in cookie and key_of(library.home).lower() not in cookie
    assert client.get("/shoots/1").status_code == 200 and "Ready" in client.get("/").text


def test_another_library_on_this_machine_is_not_opened_by_it(client, library, tmp_path):
    client.get(f"/?key={key_of(library.home)}")
    other = create_app(library, workers=0, run_jobs=False, key=key_of(tmp_path / "other"))
    with TestClient(other, base_url=BASE, cookies=client.cookies) as elsewhere:
        assert elsewhere.get("/").status_code == 401


def test_the_library_and_its_key_are_the_owners_alone(library):
    library.home.mkdir(parents=True)
    library.home.chmod(0o755)
    key = key_of(library.home)
    assert stat.S_IMODE(library.home.stat().st_mode) == 0o700
    assert stat.S_IMODE((library.home / KEY_FILE).stat().st_mode) == 0o600
    assert key_of(library.home) == key and len(key) >= 32, "it stays, so that a page that is open stays usable"


def test_files_leave_only_into_folders_that_are_named(visitor, shoot, monkeypatch, tmp_path):
    monkeypatch.setenv("LENSKEEP_TARGETS", str(tmp_path / "out"))
    (tmp_path / "out").mkdir()
    (tmp_path / "out" / "leads-away").symlink_to(tmp_path)
    for folder in ("/etc/cron.d", str(tmp_path / "elsewhere"), str(tmp_path / "out" / ".." / "x"), "/root/.config",
                   str(tmp_path / "out" / "leads-away" / "y")):  # fmt: skip
        answer = visitor.post(f"/shoots/{shoot}/hand-over", data={"form": "folder", "folder": folder})
        assert answer.status_code == 422 and "LENSKEEP_TARGETS" in answer.text, folder
    answer = visitor.post(f"/shoots/{shoot}/hand-over", data={"form": "folder", "folder": str(tmp_path / "out" / "a")})
    assert answer.status_code == 303
