"""Files arrive as streams: written once, summed on the way, found with nobody asking; folders come by their path."""

import hashlib
import threading
from pathlib import Path

import pytest

from lenskeep.files import written
from lenskeep.store import frames, jobs, shoots
from tools.made_up import write_photo


def photo(tmp_path, seed=1, **size):
    return write_photo(tmp_path / f"in-{seed}.jpg", seed, **size).read_bytes()


def send(visitor, shoot, data, name="a.jpg", **how):
    return visitor.post(f"/shoots/{shoot}/file", params={"name": name}, content=data, **how)


@pytest.fixture
def empty(visitor):
    return visitor.post("/shoots", data={"name": "Arriving"}).json()["id"]


def rows(visitor, shoot):
    return frames.frames(visitor.library.db, shoot)


def left_lying(library):
    return (
        [p for p in (library.home / "scratch").rglob("*") if p.is_file()] if (library.home / "scratch").is_dir() else []
    )


def test_a_file_that_arrived_is_in_whole_and_queued_with_nobody_on_the_page(visitor, empty, tmp_path):
    data = photo(tmp_path, height=900, width=1300)
    assert send(visitor, empty, data).json() == {"added": 1, "known": [], "refused": []}
    (row,) = rows(visitor, empty)
    assert row.sha256 == hashlib.sha256(data).hexdigest()
    original = visitor.library.original(row.sha256, row.suffix)
    assert original.read_bytes() == data and original.stat().st_mode & 0o222 == 0
    assert [(j.kind, j.total) for j in jobs.jobs(visitor.library.db, empty)] == [("find", 1)]
    visitor.work()
    assert rows(visitor, empty)[0].facts is not None


def test_it_is_written_once_and_summed_while_it_arrives(visitor, empty, tmp_path, monkeypatch):
    read, copied = [], []
    monkeypatch.setattr(written, "sum_of", lambda path: read.append(path))
    monkeypatch.setattr(written, "copy_faithfully", lambda *a: copied.append(a))
    assert send(visitor, empty, photo(tmp_path)).json()["added"] == 1
    assert read == [] and copied == [] and left_lying(visitor.library) == []


def test_pieces_of_any_size_come_together(visitor, empty, tmp_path):
    data = photo(tmp_path, height=2000, width=3000)

    def pieces():
        at, step = 0, 1
        while at < len(data):
            yield data[at : at + step]
            at, step = at + step, step * 3 % 70_001 + 1

    assert send(visitor, empty, pieces(), headers={"content-length": str(len(data))}).json()["added"] == 1
    assert rows(visitor, empty)[0].sha256 == hashlib.sha256(data).hexdigest()


def test_a_body_that_ends_too_soon_is_refused_and_leaves_nothing(visitor, empty, tmp_path):
    data = photo(tmp_path)
    cut = send(visitor, empty, iter([data[:500]]), headers={"content-length": str(len(data))})
    assert cut.status_code == 422 and "did not arrive whole" in cut.text
    assert rows(visitor, empty) == [] and left_lying(visitor.library) == []
    assert send(visitor, empty, data).json()["added"] == 1, "the same file again"


def test_one_that_is_there_already_is_known_by_its_sum(visitor, empty, tmp_path):
    data = photo(tmp_path)
    send(visitor, empty, data)
    assert send(visitor, empty, data, "b.jpg").json() == {"added": 0, "known": ["b.jpg"], "refused": []}
    assert len(rows(visitor, empty)) == 1


@pytest.mark.parametrize(
    ("name", "shown"),
    [("../../etc/passwd", "passwd"), ("C:\\card\\IMG.jpg", "IMG.jpg"), ("", "unnamed"), ("a\0b.jpg", "ab.jpg")],
)
def test_a_name_is_a_name_and_no_path(visitor, empty, tmp_path, name, shown):
    assert send(visitor, empty, photo(tmp_path), name).json()["added"] == 1
    assert rows(visitor, empty)[0].file_name == shown


def test_what_is_no_photograph_is_listed_with_its_reason(visitor, empty):
    answer = send(visitor, empty, b"words", "notes.jpg").json()
    assert answer["added"] == 0 and answer["refused"][0][0] == "notes.jpg"
    assert [r.file_name for r in shoots.refusals(visitor.library.db, empty)] == ["notes.jpg"]
    assert send(visitor, empty, b"", "nothing.jpg").json()["refused"]


def test_several_arrive_at_once_into_one_job(visitor, empty, tmp_path):
    datas = [photo(tmp_path, seed) for seed in range(8)]
    answers = []
    threads = [
        threading.Thread(target=lambda d=d, n=n: answers.append(send(visitor, empty, d, f"{n}.jpg").json()))
        for n, d in enumerate(datas)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert [a["added"] for a in answers] == [1] * 8
    assert [(j.kind, j.total) for j in jobs.jobs(visitor.library.db, empty)] == [("find", 8)]


def test_no_token_no_file(visitor, empty, tmp_path):
    refused = send(visitor, empty, photo(tmp_path), headers={"x-csrf-token": "guess"})
    assert refused.status_code == 403 and rows(visitor, empty) == []


def test_a_folder_by_its_path_becomes_a_shoot(visitor, tmp_path, monkeypatch):
    monkeypatch.setenv("LENSKEEP_FOLDERS", str(tmp_path / "card"))
    for seed in range(2):
        write_photo(tmp_path / "card" / "DCIM" / f"{seed}.jpg", seed)
    assert str(tmp_path / "card") in visitor.get("/").text, "the page says what may be read"
    made = visitor.post("/shoots/from-folder", data={"folder": f"{tmp_path}/card/DCIM"})
    assert made.status_code == 201
    visitor.work()
    assert len(rows(visitor, made.json()["id"])) == 2 and "DCIM" in visitor.get("/").text


def test_a_folder_that_may_not_be_read_leaves_no_shoot_behind(visitor, tmp_path, monkeypatch):
    monkeypatch.setenv("LENSKEEP_FOLDERS", str(tmp_path / "card"))
    Path(tmp_path / "card").mkdir()
    before = len(shoots.shoots(visitor.library.db))
    refused = visitor.post("/shoots/from-folder", data={"folder": "/etc"})
    assert refused.status_code == 422 and "may not be read" in refused.text
    assert len(shoots.shoots(visitor.library.db)) == before


def test_activity_says_what_takes_how_much_room(visitor, empty, tmp_path):
    send(visitor, empty, photo(tmp_path))
    assert "/activity/room" in visitor.get("/activity").text
    told = visitor.get("/activity/room").text
    assert "Originals" in told and "Masks and working pictures" in told and "MB" in told


def test_looking_at_the_wall_says_that_a_shoot_is_open(visitor, empty):
    db = visitor.library.db
    with db.writing() as write:
        write.execute("UPDATE shoots SET opened_at = '2020-01-01T00:00:00.000+00:00'")
    visitor.get(f"/shoots/{empty}")
    assert db.reader.execute("SELECT max(opened_at) FROM shoots").fetchone()[0].startswith("2020"), (
        "reading writes nothing"
    )
    assert visitor.post(f"/shoots/{empty}/on-screen", json={"frames": []}).status_code == 204
    assert not db.reader.execute("SELECT max(opened_at) FROM shoots").fetchone()[0].startswith("2020")
