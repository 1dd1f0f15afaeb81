"""What comes from elsewhere does no harm and is said in words; what leaves says no more than was asked for."""

import io
import json
import struct
import zipfile
from xml.etree import ElementTree

import pytest
from PIL import Image

from lenskeep.core.names import shown_name
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.archive import unpack_photos
from lenskeep.files.problems import ArchiveProblem
from lenskeep.files.recipes import recipe_from_json
from lenskeep.files.sets import hash_of, set_from_json
from lenskeep.files.writing.fields import Said, exif_with, xmp_packet
from lenskeep.store import recipes
from lenskeep.studio.book import shelves
from lenskeep.studio.hand_over import coming_back
from tools.made_up import look_recipe


def overlapping(path, count=5000):
    """A ZIP whose list names one entry many times."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as bundle:
        bundle.writestr("a.jpg", b"x" * 200_000)
    data = packed.getvalue()
    at = data.index(b"PK\x01\x02")
    entry, end = data[at : data.index(b"PK\x05\x06")], data[data.index(b"PK\x05\x06") :]
    head = struct.pack("<HHII", count, count, len(entry) * count, at)
    path.write_bytes(data[:at] + entry * count + end[:8] + head + end[20:])
    return path


def test_a_zip_whose_entries_overlap_is_refused_before_any_work(tmp_path):
    with pytest.raises(ArchiveProblem, match="damaged"):
        list(unpack_photos(overlapping(tmp_path / "a.zip"), tmp_path))


def test_an_honest_zip_is_taken(tmp_path):
    with zipfile.ZipFile(tmp_path / "a.zip", "w", zipfile.ZIP_DEFLATED) as bundle:
        for name in ("a.jpg", "ü b.jpg", "c.jpg"):
            bundle.writestr(name, name.encode() * 100)
    (tmp_path / "into").mkdir()
    assert [reason for _, _, reason in unpack_photos(tmp_path / "a.zip", tmp_path / "into")] == ["", "", ""]


def test_where_it_was_taken_leaves_only_where_that_was_asked_for():
    exif = Image.Exif()
    exif.get_ifd(0x8825)[1] = "N"
    assert 0x8825 not in exif_with(exif, Said()) and 0x8825 in exif_with(exif, Said(gps=True))


@pytest.mark.parametrize("name", ["a\x00b", "a\x0bb", "line\nline", "a\u202eb"])
def test_what_a_file_says_of_itself_can_be_read_by_everybody(name):
    packet = xmp_packet(Said(author=name, title=name)).decode()
    root = ElementTree.fromstring(packet[packet.index("?>") + 2 : packet.rindex("<?")])
    assert [t for t in root.itertext() if t.strip()] and "\x00" not in Said(author=name).author


def in_a_set(*plain):
    entries = [{"kind": kind, "tags": "", "sha256": hash_of(p), "recipe": p} for kind, p in plain]
    return json.dumps(
        {"format": "lenskeep-set/1", "name": "Se\u202et\x00", "author": "", "note": "", "entries": entries}
    )


def test_an_unreadable_entry_of_ones_own_name_buries_nothing(library):
    own = recipes.save_recipe(library.db, look_recipe("Evening"))
    told = shelves.take_set(library, set_from_json(in_a_set(("recipe", {"name": "Evening", "steps": "none"}))))
    [kept] = [v for v in recipes.newest_versions(library.db) if v.name == "Evening"]
    assert kept.id == own.id and not kept.unreadable and "not understood" in told[0]
    assert any(v.unreadable and v.name.startswith("Evening (") for v in recipes.newest_versions(library.db))


def test_names_that_come_in_can_be_seen_and_mean_what_they_show():
    plain = look_recipe("Eve\u202ening\u2066").model_dump(mode="json")
    plain["steps"][0]["name"] = "\u200b"
    read = recipe_from_json(json.dumps(plain)).recipe
    assert read.name == "Evening" and read.steps[0].name == "Step"
    taken = set_from_json(in_a_set(("recipe", Recipe(name="\u2028", steps=[]).model_dump(mode="json"))))
    assert taken.name == "Set" and taken.entries[0].recipe.name == "Without a name"
    assert shown_name("\u202e\u200f") == "" and shown_name("अ\u200dब") == "अ\u200dब", "joiners belong to letters"


def test_a_body_that_nests_too_deeply_is_answered_in_words(visitor, shoot):
    deep = "[" * 100_000 + "]" * 100_000
    for path in (
        "/scenes/1/bench/set",
        "/scenes/1/bench/choices",
        f"/shoots/{shoot}/on-screen",
        "/scenes/1/bench/edit",
    ):
        answer = visitor.post(path, content=deep, headers={"content-type": "application/json"})
        assert answer.status_code == 422 and "parsing" not in answer.text and "Error" not in answer.text, path


def test_a_list_that_is_far_too_long_is_refused_in_words(visitor, shoot, monkeypatch):
    monkeypatch.setattr(coming_back, "MOST_BYTES", 1_000_000)
    answer = visitor.post(f"/shoots/{shoot}/lists", files={"file": ("list.json", b" " * 2_000_000)})
    assert answer.status_code == 422 and "too large" in answer.text


def test_an_upload_that_is_broken_off_is_no_defect(visitor, shoot, caplog):
    from starlette.requests import ClientDisconnect

    from lenskeep.web.problems import Defects

    async def gone(scope, receive, send):
        raise ClientDisconnect

    import asyncio

    asyncio.run(Defects(gone)({"type": "http"}, None, None))
    assert not caplog.records
