"""What goes wrong is said: words for what people can mend, an id for what only we can, never a library's raw text."""

import asyncio
import json
import re
import sqlite3

import pytest
from starlette.requests import Request

from lenskeep.core.problems import UserProblem
from lenskeep.store import frames, recipes, shoots
from lenskeep.studio import bring_in, looks
from lenskeep.studio.bench import draft as bench
from lenskeep.web.present import bound
from lenskeep.web.problems import Defects, said
from tests.web.conftest import Visitor
from tools.made_up import look_recipe

RAW = re.compile(r"Traceback|Error|0x[0-9a-f]{6}|object at|pydantic|\[Errno|embedded null|sqlite3")
HUGE = 2**63
PAGES = [
    "/shoots/{}", "/frames/{}", "/scenes/{}/bench", "/shoots/{}/bench", "/shoots/{}/hand-over", "/deliveries/{}.zip",
    "/recipes/versions/{}.json", "/frames/{}/thumb/x.jpg", "/scenes/{}/bench/state",
]  # fmt: skip


def in_words(answer, *statuses):
    assert answer.status_code in statuses, (answer.status_code, answer.text)
    assert len(answer.text) > 10 and not RAW.search(answer.text), answer.text
    return answer.text


@pytest.mark.parametrize("number", [HUGE, HUGE - 1, 10**30, 0, -1])
@pytest.mark.parametrize("path", PAGES)
def test_numbers_that_name_nothing(visitor, path, number):
    in_words(visitor.get(path.format(number)), 404)


def test_a_number_that_no_row_can_have_is_nothing_there_and_any_other_overflow_a_defect(tmp_path, caplog):
    too_large = OverflowError("Python int too large to convert to SQLite INTEGER")
    assert said(too_large, tmp_path)[0] == 404 and "defect" not in caplog.text
    assert said(OverflowError("math range error"), tmp_path)[0] == 500 and "defect" in caplog.text


@pytest.mark.parametrize("frames", [[10**30], [HUGE], [-(10**30)]])
def test_numbers_within_a_change_that_name_nothing_are_no_defect(visitor, shoot, frames, caplog):
    do = {"what": "rate", "rating": 3}
    in_words(visitor.post(f"/shoots/{shoot}/do", json={"frames": frames, "do": do}), 404, 422)
    assert "defect" not in caplog.text


@pytest.mark.parametrize("path", ["/shoots/{}/rename", "/scenes/{}/bench/edit", "/frames/{}/accept", "/jobs/{}/cancel"])
def test_changes_of_what_is_not_there(visitor, path):
    for number in (HUGE, 77):
        in_words(visitor.post(path.format(number), data={"name": "x", "op": "undo"}), 404)


def test_a_defect_is_logged_under_an_id_and_only_the_id_is_shown(library, monkeypatch):
    def broken(*_):
        raise KeyError("some inner thing")

    monkeypatch.setattr(shoots, "shoots", broken)
    with Visitor.__mro__[1](_app(library), base_url="http://127.0.0.1:8431", raise_server_exceptions=False) as client:
        answer = client.get("/", headers={"accept": "text/html"})
    assert answer.status_code == 500 and "inner thing" not in answer.text and "<html" in answer.text
    [name] = set(re.findall(r"defect [0-9a-f]{6}", answer.text))
    log = (library.home / "logs" / "lenskeep.log").read_text()
    assert name in log and "some inner thing" in log and "Traceback" in log


def _app(library):
    from lenskeep.web.app import create_app

    return create_app(library, workers=0, run_jobs=False)


def test_what_the_user_can_mend_is_no_defect(visitor, library, monkeypatch):
    monkeypatch.setattr(bring_in, "create_shoot", lambda *_: (_ for _ in ()).throw(UserProblem("Do this instead.")))
    answer = visitor.post("/shoots", data={"name": "x"})
    assert (answer.status_code, answer.text) == (422, "Do this instead.")
    assert (
        not (library.home / "logs" / "lenskeep.log").exists()
        or "defect" not in (library.home / "logs" / "lenskeep.log").read_text()
    )


@pytest.mark.parametrize(
    ("error", "status", "words"),
    [
        (sqlite3.OperationalError("attempt to write a readonly database"), 503, "can't be written to"),
        (sqlite3.DatabaseError("database disk image is malformed"), 503, "damaged"),
        (sqlite3.OperationalError("database is locked"), 503, "in use by another program"),
        (sqlite3.IntegrityError("FOREIGN KEY constraint failed"), 404, "no longer in the library"),
        (OSError(28, "No space left on device"), 507, "is on is full"),
        (ValueError("embedded null byte"), 500, "Something went wrong (defect"),
    ],
)
def test_troubles_of_disk_and_database(library, monkeypatch, error, status, words):
    def broken(*_, **__):
        raise error

    monkeypatch.setattr(shoots, "shoots", broken)
    with Visitor.__mro__[1](_app(library), base_url="http://127.0.0.1:8431", raise_server_exceptions=False) as client:
        assert words in in_words(client.get("/cards"), status)


def test_deep_and_odd_bodies(visitor, shoot):
    bench.load(visitor.library, shoot, look_recipe())
    address = f"/scenes/{shoot}/bench/set"
    json_type = {"content-type": "application/json"}
    bodies = (b"[" * 100_000, b'{"values":' * 5000, b"nothing", b'{"values": {"strength": NaN}}', b"\xff\xfe", b"{}")
    for body in bodies:
        in_words(visitor.post(address, content=body, headers=json_type), 400, 422)
    in_words(visitor.post(address, content=b" " * 5_000_000, headers=json_type), 413)
    for stroke in ("[" * 5000, '{"points": [[1e999, 0]]}', "null"):
        form = {"op": "stroke", "step": "subject", "index": "0", "stroke": stroke}
        in_words(visitor.post(f"/scenes/{shoot}/bench/edit", data=form), 422)
    assert bench.draft(visitor.library, shoot).recipe == look_recipe()


@pytest.mark.parametrize("field", ["by", "index", "sample", "frame", "x", "on", "step", "kind"])
@pytest.mark.parametrize("value", ["", "x", "9" * 400, "-1", "NaN", "\u0000", "1e400", "\u0661"])
def test_fields_that_make_no_sense(visitor, shoot, field, value):
    bench.load(visitor.library, shoot, look_recipe())
    for op in ("move-step", "remove-adjustment", "remove-sample", "add-pick", "add-adjustment", "move-part"):
        form = {"op": op, "step": "subject", "index": "0", "by": "1", "sample": "0", "frame": "1", "kind": "warmth"}
        answer = visitor.post(f"/scenes/{shoot}/bench/edit", data=form | {field: value})
        assert answer.status_code in (200, 404, 409, 422), (op, answer.text)
        if answer.status_code != 200:
            in_words(answer, answer.status_code)


def test_a_shoot_removed_in_another_tab(visitor, shoot):
    pages = [f"/shoots/{shoot}", f"/scenes/{shoot}/bench", f"/shoots/{shoot}/hand-over", f"/shoots/{shoot}/tiles"]
    frame = frames.frames(visitor.library.db, shoot)[0].id
    version = recipes.save_recipe(visitor.library.db, look_recipe())
    shoots.remove_shoot(visitor.library.db, shoot)
    for page in [*pages, f"/frames/{frame}"]:
        in_words(visitor.get(page), 404)
    changes = {
        f"/scenes/{shoot}/bench/edit": {"op": "add-step", "where": "sky", "what": "haze"},
        f"/scenes/{shoot}/bench/save": {"name": "x", "steps": "subject"},
        f"/scenes/{shoot}/bench/load": {"version_id": version.id},
        f"/shoots/{shoot}/look": {"version_id": version.id},
        f"/shoots/{shoot}/hand-over": {"quality": 80},
        f"/shoots/{shoot}/refusals/clear": {},
        f"/frames/{frame}/strength": {"strength": 40},
        f"/frames/{frame}/accept": {},
    }
    for address, data in changes.items():
        answer = visitor.post(address, data=data)
        assert answer.status_code == 404 or address.endswith("clear"), (address, answer.status_code, answer.text)
    picture = visitor.post(f"/scenes/{shoot}/bench/picture", json={"frame": frame})
    in_words(picture, 404)


def test_a_form_that_is_not_filled_in_says_which_field(visitor, shoot):
    assert "quality: must be at most 100" in in_words(
        visitor.post(f"/shoots/{shoot}/hand-over", data={"quality": 900}), 422
    )
    assert "name: is missing" in in_words(visitor.post("/shoots", data={}), 422)
    for name in ("\u200b\u200b", "\u3164", "x" * 121, "\u0000"):
        assert "Give the shoot a name" in in_words(visitor.post("/shoots", data={"name": name}), 422)


def test_a_frame_name_with_nothing_to_see_or_too_much(visitor, shoot, tmp_path):
    from tools.made_up import write_photo

    for n, name in enumerate(("\u200b.jpg", "x" * 400 + ".jpg", "a\u0000b.jpg")):
        data = write_photo(tmp_path / "a.jpg", 70 + n).read_bytes()
        answer = visitor.post(f"/shoots/{shoot}/files", files={"file": (name, data)})
        assert answer.status_code == 200 and answer.json()["added"] == 1, answer.text


def test_every_screen_opens_with_one_broken_row_in_everything(visitor, shoot):
    library = visitor.library
    good = recipes.save_recipe(library.db, look_recipe("Good"))
    bad = recipes.save_recipe(library.db, look_recipe("Bad"))
    looks.give_look(library, shoot, good.id, 1.0)
    visitor.work()
    bench.load(library, shoot, look_recipe("On the Bench"))
    frame = frames.frames(library.db, shoot)[0]
    with library.db.writing() as write:
        write.execute("UPDATE recipe_versions SET body = replace(body, '0.5', 'NaN') WHERE id = ?", (bad.id,))
        write.execute("UPDATE frames SET override = '{' WHERE id = ?", (frame.id,))
        write.execute("UPDATE findings SET facts = '[]' WHERE sha256 <> ?", (frame.sha256,))
    pages = ["/", f"/shoots/{shoot}", f"/scenes/{shoot}/bench", "/recipes", f"/frames/{frame.id}", "/activity"]
    for page in [*pages, f"/shoots/{shoot}/hand-over"]:
        assert visitor.get(page).status_code == 200, page
    book = visitor.get("/recipes").text
    assert "Bad" in book and "can't be read" in book.replace("&#39;", "'") and f"versions/{bad.id}/remove" in book
    assert visitor.post(f"/recipes/versions/{good.id}/remove").status_code == 422
    assert visitor.post(f"/recipes/versions/{bad.id}/remove").status_code == 303
    assert "Bad" not in visitor.get("/recipes").text
    # and when it is the look itself
    with library.db.writing() as write:
        write.execute("UPDATE recipe_versions SET body = '{' WHERE id = ?", (good.id,))
        write.execute("UPDATE draft_states SET body = '{' WHERE spliced = 0")
    for page in [*pages, f"/shoots/{shoot}/hand-over"]:
        assert visitor.get(page).status_code == 200, page
    assert "can’t be read" in visitor.get(f"/shoots/{shoot}").text
    assert "Go back to the last state" in visitor.get(f"/scenes/{shoot}/bench").text
    in_words(visitor.post(f"/shoots/{shoot}/hand-over", data={}), 422)
    saved = recipes.save_recipe(library.db, look_recipe("Fresh"))
    assert visitor.post(f"/scenes/{shoot}/bench/load", data={"version_id": saved.id}).status_code == 303
    assert bench.draft(library, shoot).recipe == look_recipe("Fresh")


def test_an_export_can_always_be_imported_again(visitor, shoot):
    """3.3 MB of an overlay were too much for our own import."""
    import os
    from io import BytesIO

    from PIL import Image

    from lenskeep.core.recipes.models import Recipe
    from lenskeep.files.assets import asset_key
    from lenskeep.store import assets

    out = BytesIO()
    Image.frombytes("RGB", (950, 950), os.urandom(950 * 950 * 3)).save(out, "PNG")
    assets.keep_assets(visitor.library.db, {asset_key(out.getvalue()): out.getvalue()})
    overlay = {"kind": "overlay", "picture": asset_key(out.getvalue())}
    big = Recipe.model_validate({"name": "Big", "steps": [{"id": "a", "adjustments": [overlay]}]})
    saved = recipes.save_recipe(visitor.library.db, big)
    exported = visitor.get(f"/recipes/versions/{saved.id}.json").content
    assert len(exported) > 3_300_000
    renamed = json.dumps(json.loads(exported) | {"name": "Back"}).encode()
    assert visitor.post("/recipes/import", files={"file": ("big.json", renamed)}).status_code == 303
    assert {v.name for v in recipes.newest_versions(visitor.library.db)} == {"Big", "Back"}


@pytest.mark.parametrize(
    ("html", "wanted"),
    [
        ("<p>at 50 % of 1 EV</p>", "<p>at 50\u00a0% of 1\u00a0EV</p>"),
        ('<input value="50 %"><b title="1 EV">x 3 steps</b>', '<input value="50 %"><b title="1 EV">x 3 steps</b>'),
        ("<textarea>grown 2 %</textarea> 2 %", "<textarea>grown 2 %</textarea> 2\u00a0%"),
        ("<script>a = 5 % 3; b = '<p>5 %</p>'</script>", "<script>a = 5 % 3; b = '<p>5 %</p>'</script>"),
    ],
)
def test_a_number_and_its_unit_stay_together_where_nobody_edits_them(html, wanted):
    assert bound(html) == wanted


async def _run(app, scope):
    sent = []

    async def receive():
        return {"type": "http.disconnect"}

    async def send(message):
        sent.append(message)

    await app(scope, receive, send)
    return sent


def test_an_upload_that_is_broken_off_is_no_defect_and_what_fails_otherwise_is_one(visitor, caplog):
    """Whoever asked has gone in the middle of sending: a closed lid, a pulled cable."""
    scope = {"type": "http", "method": "POST", "path": "/", "headers": [], "query_string": b"", "app": visitor.app}

    async def reads(_, receive, __):
        await Request(scope, receive).body()

    async def breaks(*_):
        raise ZeroDivisionError

    assert asyncio.run(_run(Defects(reads), scope)) == []
    assert "defect" not in caplog.text
    [start, *_] = asyncio.run(_run(Defects(breaks), scope))
    assert start["status"] == 500 and "defect" in caplog.text
