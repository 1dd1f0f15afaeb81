"""Damaged files of every kind: each is answered in words, alone, and whatever stands behind it still comes in.

``hostile/`` keeps one file of each kind that once stopped the rest; ``python -m benchmarks hostile`` brings in 100,000.
"""

import io
import os
import re
import time
import zipfile
from pathlib import Path

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.files import archive
from lenskeep.files.archive import unpack_photos
from lenskeep.files.problems import ArchiveProblem, PhotoProblem
from lenskeep.files.reading import photo
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import frames, shoots
from lenskeep.studio import bring_in, untrusted
from tools.damaged import damaged, whole
from tools.made_up import write_photo

WAYS = {"table": untrusted.table_fields, "picture": untrusted.overlay_fields, "mask": untrusted.mask_asset}
CORPUS = sorted((Path(__file__).parent / "hostile").iterdir())
RAW = re.compile(r"Traceback|Error\b|0x[0-9a-f]{4,}|object at|pydantic|\[Errno|NoneType|embedded null")


def in_words(reason):
    assert len(reason) > 15 and not RAW.search(reason) and "defect" not in reason, reason


@pytest.fixture
def shoot(library):
    return bring_in.create_shoot(library, "Hostile")


def names(library, shoot):
    return [f.file_name for f in frames.frames(library.db, shoot)]


def test_what_once_stopped_the_rest_is_listed_and_the_rest_comes_in(library, shoot, tmp_path):
    """Seen before: PngError, TypeError, zlib's and LZMA's errors became a 500, and nothing behind them came in."""
    card = tmp_path / "card"
    write_photo(card / "zz-last.jpg", 1)
    for path in CORPUS:
        (card / path.name).write_bytes(path.read_bytes())
    received = bring_in.receive_folder(library, shoot, card)
    assert "zz-last.jpg" in names(library, shoot) and "no-colours.dng" in names(library, shoot)
    refused = dict(received.refused)
    assert {"png-error.png", "type-error.tif"} <= set(refused) and len(refused) >= 4
    for reason in refused.values():
        in_words(reason)
    assert {r.file_name for r in shoots.refusals(library.db, shoot)} == set(refused), "each is listed on the wall"


def test_the_same_inside_a_zip(library, shoot, tmp_path):
    out = tmp_path / "all.zip"
    with zipfile.ZipFile(out, "w") as bundle:
        for path in CORPUS:
            bundle.write(path, path.name)
        bundle.write(write_photo(tmp_path / "a.jpg", 1), "zz-last.jpg")
    received = bring_in.receive(library, shoot, out, "all.zip")
    assert "zz-last.jpg" in names(library, shoot)
    assert len(received.refused) + len(received.frame_ids) == len(CORPUS) + 1
    for _, reason in received.refused:
        in_words(reason)


def test_three_hundred_damaged_files_are_each_taken_or_refused_in_words(library, shoot, tmp_path):
    answers = {"taken": 0, "refused": 0}
    for file in damaged(300, seed=20261126):
        path = tmp_path / "incoming"
        path.write_bytes(file.data)
        began = time.monotonic()
        try:
            if file.way == "photo":
                for _, reason in bring_in.receive(library, shoot, path, file.name).refused:
                    raise UserProblem(reason)
            elif file.way == "recipe":
                untrusted.recipe_of_upload(path, file.name)
            else:
                ways = {
                    "table": untrusted.table_fields,
                    "picture": untrusted.overlay_fields,
                    "mask": untrusted.mask_asset,
                }
                ways[file.way](path, file.name)
        except UserProblem as problem:
            in_words(str(problem))
            answers["refused"] += 1
        else:
            answers["taken"] += 1
        assert time.monotonic() - began < 10, file.name
    assert answers["taken"] > 30 and answers["refused"] > 150, answers


def test_whole_files_of_every_kind_are_what_the_damaged_ones_are_made_from(tmp_path):
    """Else the others would prove nothing."""
    taken = set()
    for name, data in whole()["photo"]:
        path = tmp_path / name
        path.write_bytes(data)
        if archive.is_zip(path):
            folder = tmp_path / f"of-{name}"
            folder.mkdir()
            assert all(unpacked for _, unpacked, _ in unpack_photos(path, folder))
        else:
            try:
                read_photo(path)
            except PhotoProblem:
                continue
        taken.add(name)
    assert {n for n, _ in whole()["photo"]} - taken <= {"moving.gif", "moving.webp", "half.tif", "float.tif"}


def die(*_):
    os._exit(11)


def hang(*_):
    time.sleep(600)


@pytest.mark.parametrize(("does", "words"), [(die, "the decoder breaks down on it"), (hang, "takes too long")])
def test_a_decoder_that_crashes_or_hangs_costs_its_own_file_only(library, shoot, tmp_path, monkeypatch, does, words):
    monkeypatch.setattr(untrusted, "wait_seconds", lambda _: 1.5)
    with monkeypatch.context() as broken:
        broken.setattr(untrusted, "_examine", does)
        bad = bring_in.receive(library, shoot, write_photo(tmp_path / "bad.jpg", 1), "bad.jpg")
    monkeypatch.setattr(untrusted, "wait_seconds", lambda _: 60.0)
    good = bring_in.receive(library, shoot, write_photo(tmp_path / "good.jpg", 2), "good.jpg")
    [(name, reason)] = bad.refused
    assert name == "bad.jpg" and words in reason and len(good.frame_ids) == 1


def test_a_file_that_cannot_even_be_opened_is_listed(library, shoot, tmp_path):
    folder = tmp_path / "card"
    write_photo(folder / "a.jpg")
    (folder / "loop.jpg").symlink_to(folder / "loop.jpg")
    (folder / "gone.jpg").symlink_to(folder / "nowhere.jpg")
    received = bring_in.receive_folder(library, shoot, folder)
    assert names(library, shoot) == ["a.jpg"] and received.refused == []
    [missing] = bring_in.receive(library, shoot, folder / "gone.jpg", "gone.jpg").refused
    in_words(missing[1])


def test_a_zip_with_an_endless_list_is_refused_before_the_list_is_read(tmp_path, monkeypatch):
    monkeypatch.setattr(archive, "MOST_LIST_BYTES", 2000)
    path = tmp_path / "many.zip"
    with zipfile.ZipFile(path, "w") as bundle:
        for n in range(100):
            bundle.writestr(f"{n}.jpg", b"")
    with pytest.raises(ArchiveProblem, match="files that are taken at once"):
        list(unpack_photos(path, tmp_path))


def test_a_huge_flat_picture_in_a_small_file_is_told_from_a_photograph(tmp_path):
    from PIL import Image

    Image.new("RGB", (6000, 5000)).save(tmp_path / "flat.png")
    with pytest.raises(PhotoProblem, match="far more than it holds"):
        read_photo(tmp_path / "flat.png")
    dark = Image.effect_noise((5200, 3500), 6).convert("RGB")
    out = io.BytesIO()
    dark.save(out, "JPEG", quality=30)
    (tmp_path / "night.jpg").write_bytes(out.getvalue())
    assert read_photo(tmp_path / "night.jpg").width == 5200
    assert photo.MOST_PIXELS_A_BYTE * len(out.getvalue()) > 2 * 5200 * 3500, "with room to spare"
