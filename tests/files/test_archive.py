"""ZIPs that come in: no name leaves the folder, nothing unpacks without bounds; ZIPs that go out are whole."""

import io
import zipfile
import zlib
from datetime import datetime
from pathlib import Path

import pytest
from stream_zip import ZipIntegrityError

from lenskeep.files.archive import Packed, unpack_photos, zip_bytes, zip_stream
from lenskeep.files.problems import ArchiveProblem
from lenskeep.files.written import check_writable, written_whole
from tools.made_up import write_photo

AT = datetime(2026, 9, 12, 18, 0)


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
    data = photo.read_bytes()
    files = [Packed(name, photo, len(data), zlib.crc32(data), AT) for name in ("given.jpg", "Brücke – 橋.jpg")]
    out = b"".join(zip_stream(files))
    assert len(out) == zip_bytes(files), "a download can tell how far it is"
    with zipfile.ZipFile(io.BytesIO(out)) as bundle:
        assert bundle.namelist() == [f.name for f in files] and bundle.testzip() is None
        assert all(bundle.read(f.name) == data for f in files)


def test_a_file_that_is_not_what_was_written_down_is_never_packed(tmp_path):
    photo = write_photo(tmp_path / "a.jpg")
    files = [Packed("a.jpg", photo, photo.stat().st_size, zlib.crc32(photo.read_bytes()), AT)]
    photo.write_bytes(photo.read_bytes()[:-5])
    with pytest.raises(ZipIntegrityError):
        b"".join(zip_stream(files))


def test_more_than_four_gigabytes_become_a_wide_zip(tmp_path):
    """Sparse on the disk, and read only as far as is looked at."""
    big = tmp_path / "big.jpg"
    with big.open("wb") as sink:
        sink.truncate(4_400_000_000)
    files = [Packed("big.jpg", big, big.stat().st_size, 0, AT)]
    assert zip_bytes(files) is None
    first = next(zip_stream(files))
    assert first[:4] == b"PK\x03\x04" and int.from_bytes(first[4:6], "little") == 45


def test_a_failed_write_leaves_the_old_file_and_no_draft(tmp_path):
    target = tmp_path / "a.txt"
    target.write_text("old")
    with pytest.raises(RuntimeError), written_whole(target) as draft:
        draft.write_text("half")
        raise RuntimeError
    assert target.read_text() == "old" and [p.name for p in tmp_path.iterdir()] == ["a.txt"]


def test_a_folder_that_somebody_else_clears_meanwhile_can_be_written_to(tmp_path, monkeypatch):
    written = Path.write_bytes

    def cleared_at_once(self, data):
        written(self, data)
        self.unlink()

    monkeypatch.setattr(Path, "write_bytes", cleared_at_once)
    check_writable(tmp_path)
    with pytest.raises(OSError):
        check_writable(tmp_path / "not there")
