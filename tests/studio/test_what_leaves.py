"""Which frames leave, how they are called and sharpened, the gallery that goes with them, and the proof of it all."""

import json

import numpy as np
import pytest

from lenskeep.core.clean.models import Healed
from lenskeep.core.problems import UserProblem
from lenskeep.files.masks import mask_of_upload
from lenskeep.files.reading.photo import read_photo
from lenskeep.files.recipes import recipe_from_json
from lenskeep.files.writing import FORMS
from lenskeep.files.writing.contact import Small, contact_pdf
from lenskeep.files.writing.fields import Said
from lenskeep.files.writing.jpeg import preview_jpeg
from lenskeep.store import deeds as kept
from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import cleaning, deeds, looks, many
from lenskeep.studio.hand_over import coming_back, deliver, proof, ways
from lenskeep.studio.hand_over.names import check_pattern, delivery_names
from lenskeep.studio.hand_over.options import DeliveryOptions
from lenskeep.studio.hand_over.said import keep_said, said_of
from tests.studio.doing import asked, handed, pictures, run
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 5)


def came_back(library, shoot, data):
    path = library.home / "favourites.json"
    path.write_bytes(data)
    return coming_back.take(library, shoot, path, path.name)


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def test_frames_leave_by_rating_scene_selection_and_trust(library, shoot, tmp_path):
    own = rows(library, shoot)
    many.do(library, shoot, [own[0].id, own[3].id], asked(what="rate", rating=4))
    assert len(pictures(handed(library, shoot, tmp_path / "a", rating=3))) == 2
    assert len(pictures(handed(library, shoot, tmp_path / "b", frames=[own[1].id, own[2].id]))) == 2
    assert len(pictures(handed(library, shoot, tmp_path / "c", trusted=True))) == 4, "every third one is doubtful"
    many.do(library, shoot, [own[4].id], asked(what="new-scene"))
    scene = rows(library, shoot)[4].scene_id
    assert pictures(handed(library, shoot, tmp_path / "d", scenes=[scene])) == ["IMG_004.jpg"]
    for options, words in (
        ({"rating": 5}, "rated 5 or better"), ({"frames": [999]}, "None of the chosen"),
        ({"frames": [own[2].id], "trusted": True}, "doubtful masks"),
    ):  # fmt: skip
        with pytest.raises(UserProblem, match=words):
            deliver.queue_delivery(library, shoot, DeliveryOptions(**options))


def test_names_follow_a_pattern_and_never_meet(library, shoot, tmp_path):
    out = handed(library, shoot, tmp_path / "out", names="{shoot}_{date}-{number}")
    assert pictures(out) == [f"Ready_2026-09-12-{n:04d}.jpg" for n in range(1, 6)]
    own = rows(library, shoot)
    assert len(set(delivery_names(own, ".jpg", pattern="{shoot}", shoot="a/b").values())) == 5
    assert all(
        "/" not in n
        for n in delivery_names(own, ".jpg", pattern="{scene}{name}", scenes={own[0].scene_id: "../x"}).values()
    )
    for pattern, words in (
        ("{bride}", "no field {bride}"),
        ("{name", "not closed"),
        ("plain", "a field"),
        ("{name}" * 30, "120 letters"),
    ):
        with pytest.raises(UserProblem, match=words):
            check_pattern(pattern)
    assert check_pattern("  ") == "{name}"


def test_sharpening_for_paper_is_stronger_than_for_screens_and_keeps_light(library, shoot, tmp_path):
    first = [rows(library, shoot)[0].id]
    out = []
    for how in ("", "screen", "paper"):
        folder = handed(library, shoot, tmp_path / (how or "none"), sharpen=how, form="png", frames=first)
        out.append(read_photo(next(folder.glob("*.png"))).pixels.astype(float))
    energy = [np.abs(np.diff(p, axis=1)).mean() for p in out]
    assert energy[0] < energy[1] < energy[2] and abs(out[2].mean() - out[0].mean()) < 1


def test_a_hand_over_is_proved_equal_and_what_was_altered_is_named(library, shoot, tmp_path):
    looks.give_look(library, shoot, recipes.save_recipe(library.db, look_recipe()).id, 0.8)
    run(library)
    own = rows(library, shoot)
    cleaning.mark(library, own[1].id, [Healed(points=((0.4, 0.5),), size=0.1)])
    many.do(library, shoot, [own[2].id], asked(what="base", values={"ev": 0.5}))
    said = Said(author="Jörg")
    for form in FORMS:  # of every form two frames, of JPEGs all
        some = None if form == "jpeg" else [own[1].id, own[2].id]
        out = handed(
            library, shoot, tmp_path / form, form=form, gallery=not some, said=said, sharpen="screen", frames=some
        )
        again = proof.read_list(out / proof.LIST)
        assert [r.why for r in proof.remake(library, again)] == [""] * (2 if some else 5), form
        assert again.options.folder is None, "where files lie on this machine is nobody's business"
    listed = proof.read_list(tmp_path / "jpeg" / proof.LIST)
    # the look moves on, and the list still makes what was delivered
    looks.give_look(library, shoot, recipes.save_recipe(library.db, look_recipe(ev=-1.0)).id, 1.0)
    run(library)
    assert all(r.equal for r in proof.remake(library, listed))
    path = library.original(own[3].sha256, own[3].suffix)
    path.chmod(0o644)
    data = bytearray(path.read_bytes())
    data[len(data) // 2] ^= 1
    path.write_bytes(data)
    made = list(proof.remake(library, listed))
    assert [r.equal for r in made] == [True, True, True, False, True]
    assert own[3].file_name in made[3].why and "changed since it came in" in made[3].why


def test_a_list_that_can_not_be_used_says_why(library, shoot, tmp_path):
    out = handed(library, shoot, tmp_path / "out")
    plain = json.loads((out / proof.LIST).read_text())
    bad = tmp_path / "bad.json"
    for text, words in (
        ("{", "is no JSON"),
        ("[]", "no list of a hand-over"),
        (json.dumps(plain | {"files": 3}), "can't be used: files"),
    ):
        bad.write_text(text)
        with pytest.raises(UserProblem, match=words):
            proof.read_list(bad)
    with pytest.raises(UserProblem, match="can't be read"):
        proof.read_list(tmp_path / "none.json")
    plain["files"][0]["look"] = [{"recipe": "Gone", "version": 2, "key": "x", "strength": 1.0}]
    plain["files"][1]["original"]["sha256"] = "0" * 64
    plain["files"][2]["sha256"] = "0" * 64
    bad.write_text(json.dumps(plain))
    whys = [r.why for r in proof.remake(library, proof.read_list(bad))]
    assert "“Gone”, version 2" in whys[0] and "no longer in the library" in whys[1] and "otherwise" in whys[2]
    assert whys[3:] == ["", ""]


def test_a_gallery_goes_with_the_files_and_favourites_come_back_as_ratings(library, shoot, tmp_path):
    (tmp_path / "out" / "gallery").mkdir(parents=True)
    (tmp_path / "out" / "gallery" / "index.html").write_text("somebody else's")
    out = handed(library, shoot, tmp_path / "out", gallery=True, form="tiff16", space="display-p3", long_side=200)
    assert (out / "gallery" / "index.html").read_text() == "somebody else's"
    for size in ("small", "large"):
        assert len(list((out / "gallery-2" / size).glob("*.jpg"))) == 5
    text = (out / "gallery-2" / "index.html").read_text()
    data = json.loads(text.split('id="data">')[1].split("</script>")[0])
    assert [f["file"] for f in data["files"]] == [f"IMG_00{n}.tif" for n in range(5)] and "http" not in text
    chosen = {
        "format": "lenskeep-favourites/1",
        "files": [{"file": f["file"], "original": f["original"]} for f in data["files"][1:3]],
    }
    said = came_back(library, shoot, json.dumps(chosen).encode())
    assert "2 frames are rated 5" in said and [f.rating for f in rows(library, shoot)] == [0, 5, 5, 0, 0]
    assert kept.last_done(library.db, shoot).words == "rating 2 frames 5"
    deeds.undo(library, shoot)
    assert not any(f.rating for f in rows(library, shoot))
    for bad, words in (
        (b"{", "neither a gallery"),
        (b'{"format": "lenskeep-favourites/1"', "no list of favourites"),
        (json.dumps(chosen | {"files": []}).encode(), "None of the"),
    ):
        with pytest.raises(UserProblem, match=words):
            came_back(library, shoot, bad)
    # once more into the same folder: the gallery that is ours is made anew
    handed(library, shoot, tmp_path / "out", gallery=True, form="tiff16")
    assert not (out / "gallery-3").exists()


def test_a_gallery_is_in_the_zip(library, shoot):
    job = deliver.queue_delivery(library, shoot, DeliveryOptions(gallery=True))
    run(library)
    names = [f.name for f in deliver.packed(library, jobs.job(library.db, job))]
    assert {"gallery/index.html", "gallery/small/IMG_000.jpg", proof.LIST} <= set(names)


def test_what_is_said_stays_with_the_shoot_and_its_author_goes_on(library, shoot, tmp_path):
    keep_said(library, shoot, Said(author="A", rights="R", city="C", gps=False))
    second = ready_shoot(library, tmp_path / "second", 1)
    assert said_of(library, shoot).city == "C"
    assert said_of(library, second) == Said(author="A", rights="R", gps=False)


def test_contact_sheets_show_every_picture_by_its_name(library, shoot, tmp_path):
    out = handed(library, shoot, tmp_path / "out", contact=True, form="tiff16", names="{number}")
    data = (out / "contact-sheets.pdf").read_bytes()
    assert data.startswith(b"%PDF") and data.count(b"/Type /Page\n") + data.count(b"/Type /Page ") >= 1
    job = jobs.jobs(library.db, shoot)[0]
    assert not (library.delivery(job.id) / "small").exists()
    with pytest.raises(ValueError, match="at least one"):
        contact_pdf("none", [])
    jpeg = preview_jpeg(np.full((40, 60, 3), 90, np.uint8), 80)
    assert contact_pdf("many", [Small("n" * 200, jpeg)] * 41).count(b"/DCTDecode") == 3, "twenty on a page"


def test_ways_of_delivery_are_kept_and_leave_together(library, shoot, tmp_path):
    ways.keep(
        library, " web ", DeliveryOptions(long_side=200, form="webp", folder="/x", frames=[1], said=Said(author="B"))
    )
    ways.keep(library, "print", DeliveryOptions(form="tiff", sharpen="paper"))
    assert list(ways.ways(library)) == ["print", "web"] and ways.ways(library)["web"].folder is None
    assert ways.words(ways.ways(library)["web"]) == "webp, 200 px"
    own = [f.id for f in rows(library, shoot)][:2]
    made = ways.queue(
        library,
        shoot,
        ["web", "print"],
        DeliveryOptions(folder=str(tmp_path / "out"), frames=own, said=Said(author="A")),
    )
    run(library)
    assert [jobs.job(library.db, j).state for j in made] == ["done", "done"]
    assert sorted(p.suffix for p in (tmp_path / "out" / "web").iterdir())[-2:] == [".webp", ".webp"]
    listed = proof.read_list(tmp_path / "out" / "print" / proof.LIST)
    assert len(listed.files) == 2 and listed.options.said.author == "A" and listed.options.sharpen == "paper"
    before = len(jobs.jobs(library.db, shoot))
    with pytest.raises(UserProblem, match="no way of delivery"):
        ways.queue(library, shoot, ["web", "album"], DeliveryOptions())
    assert len(jobs.jobs(library.db, shoot)) == before
    with pytest.raises(UserProblem, match="a name"):
        ways.keep(library, "  ", DeliveryOptions())


def test_masks_and_recipes_go_along_for_going_on_elsewhere(library, shoot, tmp_path):
    looks.give_look(library, shoot, recipes.save_recipe(library.db, look_recipe("Dusk")).id, 0.8)
    run(library)
    (tmp_path / "out" / "masks").mkdir(parents=True)
    (tmp_path / "out" / "masks" / "mine.png").write_text("somebody else's")
    first = rows(library, shoot)[0]
    out = handed(library, shoot, tmp_path / "out", masks=True, long_side=240, frames=[first.id])
    own = out / "masks-2"
    subject = read_photo(own / "IMG_000.subject.png").pixels[..., 0]
    assert subject.shape == (160, 240) and subject[96, 120] > 240 and subject[:40].max() < 20
    assert {"IMG_000.sky.png", "about.txt", "Dusk 1.json"} <= {p.name for p in own.iterdir()}
    again = recipe_from_json((own / "Dusk 1.json").read_text())
    assert again.recipe == recipes.versions(library.db)[0].recipe, "it reads back"
    # the mask reads back as a part of a region
    assert mask_of_upload((own / "IMG_000.subject.png").read_bytes(), "subject.png").shape == (160, 240)
    handed(library, shoot, tmp_path / "out", masks=True, long_side=240, frames=[first.id])
    assert not (out / "masks-3").exists() and (out / "masks" / "mine.png").read_text() == "somebody else's"


def test_a_text_is_laid_over_every_picture_that_leaves_and_over_nothing_else(library, shoot, tmp_path):
    first = [rows(library, shoot)[0].id]
    plain, marked = (
        read_photo(
            next(handed(library, shoot, tmp_path / (text or "none"), form="png", frames=first, mark=text).glob("*.png"))
        )
        for text in ("", "Proof")
    )
    moved = np.abs(marked.pixels.astype(int) - plain.pixels).max(-1) > 20
    ys, xs = np.nonzero(moved)
    assert moved.sum() > 20 and ys.min() > 0.85 * plain.height and xs.min() > 0.6 * plain.width
    assert all(r.equal for r in proof.remake(library, proof.read_list(tmp_path / "Proof" / proof.LIST)))
