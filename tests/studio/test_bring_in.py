"""Bringing in: whatever a card holds, the good frames come in and the bad ones are listed with what to do."""

import hashlib
import zipfile

import numpy as np
import pytest
import tifffile
from PIL import Image

from lenskeep.core.recipes.models import Recipe
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import frames, shoots
from lenskeep.studio import bring_in
from lenskeep.studio import find as finding
from lenskeep.studio.bench.stage import WITNESS_SIDE, Stage
from lenskeep.studio.queue import make_runner
from lenskeep.studio.tasks.originals import checked_original
from lenskeep.work.engines.carried import InFile
from tools.made_up import scene, write_dng, write_photo


def rows(library, shoot_id):
    return frames.frames(library.db, shoot_id)


def test_a_folder_with_everything_that_goes_wrong(library, tmp_path):
    folder = tmp_path / "card"
    good = write_photo(folder / "good.jpg", 1)
    (folder / "empty.jpg").write_bytes(b"")
    (folder / "words.jpg").write_text("not a picture")
    (folder / "cut.jpg").write_bytes(write_photo(folder / "x.jpg", 2, height=500, width=700).read_bytes()[:9000])
    (folder / "x.jpg").unlink()
    Image.fromarray(np.full((1, 1, 3), 9, np.uint8)).save(folder / "dot.png")
    Image.fromarray(scene()).convert("CMYK").save(folder / "press.jpg")
    tifffile.imwrite(folder / "deep.tif", scene().astype(np.uint16) * 257, photometric="rgb")
    (folder / ".hidden.jpg").write_bytes(b"x")
    (folder / "good.xmp").write_text("<x/>")
    shoot_id = bring_in.create_shoot(library, "  All   sorts ")
    received = bring_in.receive_folder(library, shoot_id, folder)
    assert sorted(f.file_name for f in rows(library, shoot_id)) == ["deep.tif", "dot.png", "good.jpg", "press.jpg"]
    assert {name for name, _ in received.refused} == {"empty.jpg", "words.jpg", "cut.jpg"}
    assert [r.file_name for r in shoots.refusals(library.db, shoot_id)] == [name for name, _ in received.refused]
    assert shoots.shoot(library.db, shoot_id).name == "All sorts"
    original = next(f for f in rows(library, shoot_id) if f.file_name == "good.jpg")
    assert library.original(original.sha256, original.suffix).read_bytes() == good.read_bytes()


def test_a_zip_comes_in_without_its_traps(library, tmp_path):
    photo = write_photo(tmp_path / "a.jpg", 3)
    archive = tmp_path / "shoot.zip"
    with zipfile.ZipFile(archive, "w", zipfile.ZIP_DEFLATED) as bundle:
        bundle.write(photo, "day/IMG_1.jpg")
        bundle.writestr("../out.jpg", photo.read_bytes())
        bundle.writestr("bomb.jpg", b"\0" * 50_000_000)
        bundle.writestr("inner.zip", archive_bytes(photo))
    shoot_id = bring_in.create_shoot(library, "Zip")
    received = bring_in.receive(library, shoot_id, archive, "shoot.zip")
    assert [f.file_name for f in rows(library, shoot_id)] == ["IMG_1.jpg"]
    assert [name for name, _ in received.refused] == ["out.jpg", "bomb.jpg", "inner.zip"]
    assert list((library.home / "incoming").iterdir()) == []


def archive_bytes(photo):
    path = photo.with_suffix(".inner.zip")
    with zipfile.ZipFile(path, "w") as bundle:
        bundle.write(photo, "a.jpg")
    return path.read_bytes()


def test_the_same_file_twice_is_one_frame(library, tmp_path):
    photo = write_photo(tmp_path / "a.jpg")
    shoot_id = bring_in.create_shoot(library, "A")
    first = bring_in.receive(library, shoot_id, photo, "a.jpg")
    again = bring_in.receive(library, shoot_id, photo, "copy of a.jpg")
    assert (len(first.frame_ids), again.known, len(rows(library, shoot_id))) == (1, ["copy of a.jpg"], 1)


def test_frames_stand_in_order_of_capture(library, photo_folder):
    folder = photo_folder(4)
    write_photo(folder / "AAA.jpg", 50)
    shoot_id = bring_in.create_shoot(library, "A")
    bring_in.receive_folder(library, shoot_id, folder)
    assert [f.file_name for f in rows(library, shoot_id)] == [*(f"IMG_{900 - i}.jpg" for i in range(4)), "AAA.jpg"]


def test_an_original_that_was_altered_is_noticed_not_used(library, tmp_path):
    photo = write_photo(tmp_path / "a.jpg")
    sha = hashlib.sha256(photo.read_bytes()).hexdigest()
    assert checked_original(InFile(photo), "a.jpg", sha, "").width == 180
    write_photo(photo, 7)
    with pytest.raises(PhotoProblem, match="changed since it came in"):
        checked_original(InFile(photo), "a.jpg", sha, "")
    photo.unlink()
    with pytest.raises(PhotoProblem, match="is gone from the library"):
        checked_original(InFile(photo), "a.jpg", sha, "")


def test_raw_files_of_a_shoot_can_start_neutral_and_are_found_anew_and_a_jpeg_stays(library, tmp_path):
    card = tmp_path / "card"
    card.mkdir()
    write_dng(card / "a.dng", np.full((64, 96, 3), 0.18))
    write_photo(card / "b.jpg", 1, "2026:09:12 18:00:00", 64, 96)
    shoot = bring_in.create_shoot(library, "Raw")
    bring_in.receive_folder(library, shoot, card)
    finding.queue_finding(library, shoot)
    make_runner(library).run_until_idle()

    def light(frame):
        return read_photo(library.computed(frame.content).base).rows(0, 64).mean()

    soft = {f.file_name: f for f in frames.frames(library.db, shoot)}
    assert soft["a.dng"].raw_base == "soft" and soft["b.jpg"].raw_base == "" and soft["a.dng"].suffix == ".dng"
    finding.set_raw_base(library, shoot, "neutral")
    waiting = {f.file_name: f.state for f in frames.frames(library.db, shoot)}
    assert waiting == {"a.dng": "waiting", "b.jpg": "ready"}
    make_runner(library).run_until_idle()
    neutral = {f.file_name: f for f in frames.frames(library.db, shoot)}
    assert neutral["a.dng"].facts is not None and frames.count_raws(library.db, shoot) == 1
    assert light(neutral["a.dng"]) < 0.9 * light(soft["a.dng"])
    assert Stage(library).picture(neutral["a.dng"].id, Recipe(), WITNESS_SIDE)[:2] == b"\xff\xd8"


def test_what_was_acknowledged_is_on_the_disk(library, tmp_path):
    """A power cut right after takes nothing back: the transaction that a frame comes in by is written through."""
    said = []
    shoot = bring_in.create_shoot(library, "Durable")
    library.db.reader.set_trace_callback(said.append)
    assert bring_in.receive(library, shoot, write_photo(tmp_path / "one.jpg"), "one.jpg").frame_ids
    library.db.reader.set_trace_callback(None)
    came = next(n for n, words in enumerate(said) if words.lstrip().startswith("INSERT INTO frames"))
    pragmas = [words for words in said[:came] if words.startswith("PRAGMA synchronous")]
    assert pragmas[-1:] == ["PRAGMA synchronous = FULL"]
    after = [words for words in said[came:] if words.startswith(("COMMIT", "PRAGMA synchronous"))]
    assert after[:2] == ["COMMIT", "PRAGMA synchronous = NORMAL"], "and later ones are as quick as before"
