"""A folder of this machine comes in as a job: file by file, what is damaged listed, nothing read that may not be."""

import os
import zipfile

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.store import frames, jobs, shoots
from lenskeep.studio import bring_in, card
from lenskeep.studio import find as finding
from lenskeep.studio.queue import make_runner
from tools.made_up import write_photo


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.setenv("LENSKEEP_FOLDERS", str(tmp_path / "card"))
    for number in range(3):
        write_photo(tmp_path / "card" / "DCIM" / "100" / f"IMG_{number}.jpg", number)
    return tmp_path / "card"


def begin(library, folder, **how):
    shoot = bring_in.create_shoot(library, "Card")
    return shoot, card.queue_folder(library, shoot, str(folder), **how)


def work(library):
    assert make_runner(library, 0).run_until_idle()


def test_every_photograph_comes_in_and_is_found_without_anybody_waiting(library, folder):
    shoot, job = begin(library, folder)
    assert frames.frames(library.db, shoot) == [], "nothing is read while somebody waits"
    work(library)
    rows = frames.frames(library.db, shoot)
    assert sorted(f.file_name for f in rows) == ["IMG_0.jpg", "IMG_1.jpg", "IMG_2.jpg"]
    for row in rows:
        original = library.original(row.sha256, row.suffix)
        assert original.read_bytes() == next(folder.rglob(row.file_name)).read_bytes()
        assert not os.access(original, os.W_OK) or (os.geteuid() == 0 and original.stat().st_mode & 0o222 == 0)
    assert all(f.facts is not None for f in rows)
    assert jobs.job(library.db, job).message == f"3 of 3 files were brought in from {folder}."


def test_what_is_damaged_is_listed_and_the_rest_comes_in(library, folder):
    (folder / "cut.jpg").write_bytes((folder / "DCIM/100/IMG_1.jpg").read_bytes()[:700])
    (folder / "words.jpg").write_text("not a picture")
    with zipfile.ZipFile(folder / "more.zip", "w") as bundle:
        bundle.write(folder / "DCIM/100/IMG_1.jpg", "IMG_9.jpg")
    (folder / ".thumbs.jpg").write_bytes(b"x")
    (folder / "IMG_1.xmp").write_text("<x/>")
    shoot, job = begin(library, folder)
    assert jobs.job(library.db, job).total == 6
    work(library)
    assert len(frames.frames(library.db, shoot)) == 3
    refused = {r.file_name: r.reason for r in shoots.refusals(library.db, shoot)}
    assert set(refused) == {"cut.jpg", "words.jpg", "more.zip"} and "Unpack" in refused["more.zip"]
    assert jobs.job(library.db, job).failed == 3


def test_a_card_pulled_out_in_the_middle_is_put_back_and_gone_on_with(library, folder):
    shoot, job = begin(library, folder)
    aside = folder.with_name("pulled")
    folder.rename(aside)
    work(library)
    assert frames.frames(library.db, shoot) == []
    assert all("card still in" in reason for _, reason in jobs.failures(library.db, job))
    aside.rename(folder)
    jobs.resume(library.db, job)
    work(library)
    assert len(frames.frames(library.db, shoot)) == 3 and jobs.job(library.db, job).failed == 0


def test_the_same_folder_again_brings_only_what_is_new(library, folder):
    shoot, _ = begin(library, folder)
    work(library)
    write_photo(folder / "late.jpg", 9)
    card.queue_folder(library, shoot, str(folder))
    work(library)
    assert len(frames.frames(library.db, shoot)) == 4
    assert len(list((library.home / "originals").rglob("*.jpg"))) == 4
    assert finding.queue_finding(library, shoot) is None, "all is found"


@pytest.mark.parametrize("way", ["up", "link", "elsewhere"])
def test_no_folder_is_read_that_was_not_opened_up(library, folder, tmp_path, way):
    write_photo(tmp_path / "private" / "a.jpg", 5)
    (folder / "link").symlink_to(tmp_path / "private")
    text = {"up": f"{folder}/../private", "link": f"{folder}/link", "elsewhere": str(tmp_path / "private")}[way]
    with pytest.raises(UserProblem, match=r"may not be read.*LENSKEEP_FOLDERS"):
        begin(library, text)
    assert jobs.jobs(library.db) == []


def test_a_link_inside_a_folder_leads_nowhere_else(library, folder, tmp_path):
    write_photo(tmp_path / "private" / "secret.jpg", 5)
    (folder / "out").symlink_to(tmp_path / "private")
    (folder / "one.jpg").symlink_to(tmp_path / "private" / "secret.jpg")
    shoot, _ = begin(library, folder)
    work(library)
    assert sorted(f.file_name for f in frames.frames(library.db, shoot)) == ["IMG_0.jpg", "IMG_1.jpg", "IMG_2.jpg"]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "whole path"),
        ("pictures", "may not be read|whole path"),
        ("{card}/none", "no folder"),
        ("{card}/DCIM/100/IMG_0.jpg", "no folder"),
        ("{card}/\0", "not the name of a folder|no folder"),
        ("{card}/" + "x" * 5000, "not the name of a folder|no folder|may not be read"),
        ("{card}/empty", "no file"),
    ],
)
def test_a_name_that_leads_nowhere_is_said_so(library, folder, text, words):
    (folder / "empty").mkdir()
    with pytest.raises(UserProblem, match=words):
        begin(library, text.replace("{card}", str(folder)))


def test_the_library_itself_is_not_brought_in(library, folder, monkeypatch):
    monkeypatch.setenv("LENSKEEP_FOLDERS", str(library.home.parent))
    with pytest.raises(UserProblem, match="own library"):
        begin(library, library.home)


def test_whoever_sits_at_the_machine_may_name_any_folder(library, folder, tmp_path):
    write_photo(tmp_path / "private" / "a.jpg", 5)
    shoot, _ = begin(library, tmp_path / "private", anywhere=True)
    work(library)
    assert len(frames.frames(library.db, shoot)) == 1
