"""The demo's photographs as they are committed: sizes, camera data, masks that fit them, bursts, slips, dust."""

from datetime import datetime

import cv2
import numpy as np
import pytest
from PIL import ExifTags, Image

from lenskeep.files.reading.photo import read_photo
from tools.known import FOLDERS, TRUTH, demo_folder, facts, known_frames

FRAMES = list(known_frames())
NAMES = [one.name for one in FRAMES]


def by_shoot(folder):
    return [one for one in FRAMES if one.shoot == folder]


def taken(one):
    inner = Image.open(one.path).getexif().get_ifd(ExifTags.IFD.Exif.value)
    return datetime.strptime(inner[ExifTags.Base.DateTimeOriginal.value], "%Y:%m:%d %H:%M:%S"), inner


def test_there_are_enough_frames_from_enough_renders_and_they_are_not_too_heavy():
    assert len(FRAMES) >= 48 and len({(one.shoot, one.facts["shot"]) for one in FRAMES}) >= 20
    for folder in FOLDERS:
        with demo_folder(folder) as shown:
            assert {p.stem for p in shown.glob("*.jpg")} == {one.name for one in by_shoot(folder)}
    weight = sum(one.path.stat().st_size for one in FRAMES) + sum(p.stat().st_size for p in TRUTH.rglob("*.png"))
    assert weight < 30e6


@pytest.mark.parametrize("one", FRAMES, ids=NAMES)
def test_a_frame_opens_upright_with_camera_data_and_masks_of_its_shape(one):
    photo = read_photo(one.path)
    assert {photo.width, photo.height} == {1600, 1067} and (photo.height > photo.width) == one.facts["upright"]
    assert 100_000 < one.path.stat().st_size <= 400_000
    _, inner = taken(one)
    for tag in ("ExposureTime", "FNumber", "ISOSpeedRatings", "LensModel", "FocalLength"):
        assert inner.get(ExifTags.Base[tag].value)
    masks = one.masks()
    for mask in masks.values():
        assert max(mask.shape) == 800 and (mask.shape[0] > mask.shape[1]) == one.facts["upright"]
        assert len(np.unique(mask)) > 16, "soft"
    assert one.facts["subjects"] and masks["subject"].max() == 255
    height, width = masks["subject"].shape
    inside = np.zeros_like(masks["subject"], bool)
    for subject in one.facts["subjects"]:
        x0, y0, x1, y1 = subject["box"]
        part = (slice(int(y0 * height), int(np.ceil(y1 * height))), slice(int(x0 * width), int(np.ceil(x1 * width))))
        assert (masks[subject["kind"]][part] >= 128).any()
        inside[part] = True
    left_out = (masks["subject"] >= 140) & ~inside
    assert left_out.mean() < 0.002, "the boxes hold the subject"
    if "sky" in masks:
        both = masks["sky"].astype(int) + masks["subject"]
        assert both.max() <= 258, "a sample meets one thing"


def test_outdoors_has_sky_and_a_skyline_and_indoors_has_neither():
    for one in FRAMES:
        indoors = one.shoot == "backdrop-studio"
        assert ("sky" in one.masks()) != indoors and (one.facts["skyline"] is None or not indoors)
    lines = [one.facts["skyline"] for one in FRAMES if one.shoot != "backdrop-studio"]
    assert sum(line is not None for line in lines) > 0.8 * len(lines)


def test_every_kind_of_subject_is_there_in_several_numbers():
    counts = {folder: {len(one.facts["subjects"]) for one in by_shoot(folder)} for folder in FOLDERS}
    assert (
        counts["ferry-dogs"] >= {1, 2, 4}
        and counts["dune-wedding"] >= {1, 2, 8}
        and counts["backdrop-studio"] >= {1, 2, 3}
    )
    assert {kind for one in by_shoot("dune-wedding") for kind in one.kinds()} == {"people"}
    held = [one for one in by_shoot("backdrop-studio") if {"animals", "things", "people"} <= set(one.kinds())]
    assert held, "a frame with something held in a hand"
    assert len({one.facts["scene"] for one in FRAMES}) == 6


def test_the_burst_hardly_differs_and_two_frames_went_wrong():
    burst = [one for one in by_shoot("dune-wedding") if one.name.startswith("DUN_030")]
    times = [taken(one)[0] for one in burst]
    assert len(burst) == 6 and (max(times) - min(times)).total_seconds() <= 2
    small = {
        one.name: cv2.resize(one.image(), (96, 64), interpolation=cv2.INTER_AREA).astype(float)
        for one in by_shoot("dune-wedding")
    }
    apart = [np.abs(small[a.name] - small[b.name]).mean() for a in burst for b in burst if a.name < b.name]
    assert max(apart) < 14 and min(apart) > 0.2
    burst_light = np.mean([small[one.name].mean() for one in burst])
    assert small["DUN_0311"].mean() < 0.85 * burst_light, "a stop under"
    cold, warm = small["DUN_0343"].mean((0, 1)), small["DUN_0341"].mean((0, 1))
    assert cold[2] / cold[0] > 1.2 * warm[2] / warm[0], "a wrong white balance"


@pytest.mark.parametrize("folder", ["dune-wedding", "backdrop-studio"])
def test_dust_is_at_the_listed_places_of_the_stored_pictures(folder):
    """On most frames every speck is darker than the ring around it; a busy place may hide one."""
    specks = facts(folder)["dust"]
    assert specks == facts("dune-wedding")["dust"], "one sensor"
    seen = []
    for one in by_shoot(folder):
        stored = cv2.imread(str(one.path), cv2.IMREAD_GRAYSCALE | cv2.IMREAD_IGNORE_ORIENTATION).astype(float)
        h, w = stored.shape
        y, x = np.mgrid[:h, :w]
        for speck in specks:
            away = np.hypot(x - speck["x"] * w, y - speck["y"] * h) / (speck["radius"] * max(h, w))
            seen.append(stored[away < 0.8].mean() < stored[(away > 2.2) & (away < 3.5)].mean() - 3)
    assert np.mean(seen) > 0.75
