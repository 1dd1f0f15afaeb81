"""ZIPs that come in: no name leaves the folder, nothing unpacks without bounds; ZIPs that go out are whole."""

import io
import zipfile

import pytest

from lenskeep.files.archive import pack, unpack_photos
from lenskeep.files.problems import ArchiveProblem
from lenskeep.files.written import written_whole
from tests.conftest import write_photo


def zipped(path, entries, method=zipfile.ZIP_DEFLATED):
    with zipfile.ZipFile(path, "w", method) as bundle:
        for name, data in entries:
            bundle.writestr(name, data)
    return path


def test_names_that_point_outside_are_left_out_and_the_rest_comes(tmp_path):
    names = ["../evil.jpg", "/etc/evil.jpg", "a/../../evil.jpg", "..\\evil.jpg", "C:\\evil.jpg", "day one/good.jpg"]
    archive = zipped(tmp_path / "a.zip", [(name, b"x") for name in names])
    into = tmp_path / "into"
    into.mkdir()
    found = list(unpack_photos(archive, into))
    assert [name for name, path, _ in found if path] == ["good.jpg"]
    assert all("outside" in why for _, path, why in found if not path)
    assert {p.name for p in tmp_path.iterdir()} == {"a.zip", "into"} and len(list(into.iterdir())) == 1


def test_a_bomb_is_refused_before_it_is_unpacked(tmp_path):
    archive = zipped(tmp_path / "a.zip", [("big.jpg", b"\0" * 60_000_000), ("good.jpg", b"fine")])
    found = list(unpack_photos(archive, tmp_path))
    assert [bool(path) for _, path, _ in found] == [False, True]
    assert "far more than it holds" in found[0][2]
    assert sum(p.stat().st_size for p in tmp_path.iterdir()) < 1_000_000


def test_an_entry_that_lies_about_its_size_stops_there(tmp_path):
    archive = zipped(tmp_path / "a.zip", [("a.jpg", b"x" * 5_000)], zipfile.ZIP_STORED)
    data = bytearray(archive.read_bytes())
    at = data.rindex(b"PK\x01\x02") + 24  # the unpacked size in the directory
    data[at : at + 4] = (100).to_bytes(4, "little")
    archive.write_bytes(data)
    [(_, path, why)] = unpack_photos(archive, tmp_path)
    assert path is None and "damaged" in why


def test_system_leftovers_are_passed_over(tmp_path):
    archive = zipped(tmp_path / "a.zip", [("__MACOSX/._a.jpg", b"x"), (".DS_Store", b"x"), ("a.jpg", b"y")])
    assert [name for name, *_ in unpack_photos(archive, tmp_path)] == ["a.jpg"]


def test_no_zip_at_all(tmp_path):
    (tmp_path / "a.zip").write_bytes(b"PK\x03\x04 but no more")
    with pytest.raises(ArchiveProblem, match="damaged"):
        list(unpack_photos(tmp_path / "a.zip", tmp_path))


def test_what_is_packed_comes_out_the_same(tmp_path):
    photo = write_photo(tmp_path / "a.jpg")
    pack([("given.jpg", photo)], tmp_path / "out.zip")
    with zipfile.ZipFile(io.BytesIO((tmp_path / "out.zip").read_bytes())) as bundle:
        assert bundle.namelist() == ["given.jpg"] and bundle.read("given.jpg") == photo.read_bytes()


def test_a_failed_write_leaves_the_old_file_and_no_draft(tmp_path):
    target = tmp_path / "a.txt"
    target.write_text("old")
    with pytest.raises(RuntimeError), written_whole(target) as draft:
        draft.write_text("half")
        raise RuntimeError
    assert target.read_text() == "old" and [p.name for p in tmp_path.iterdir()] == ["a.txt"]
