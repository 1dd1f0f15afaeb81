"""From light to files: the camera's faults are where they should be, and what is known of a frame is right."""

import io

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import ExifTags, Image

from tests.effort import examples
from tools.photos import camera, known, shoots
from tools.photos.plants import lawn
from tools.photos.scene import Camera
from tools.photos.skies import Sky

SETTING = {"contrast": 1.2, "grain": 0.0}


def flat(level=0.3, size=(120, 180)):
    return np.full((*size, 3), level, np.float32)


def exposed(light, frame, specks=()):
    return camera.exposed(light, SETTING, frame, specks, np.random.default_rng(0)).astype(int)


def test_dust_darkens_its_place_and_nothing_else():
    specks = [{"x": 0.25, "y": 0.5, "radius": 0.02, "depth": 0.3}]
    change = exposed(flat(), {}, specks) - exposed(flat(), {})
    assert change[60, 45].max() < -10 and np.abs(change[:, 60:]).max() <= 1
    assert change[60, 45 + 9 :].min() >= -1, "soft, but small"


@settings(max_examples=examples(20))
@given(st.floats(-2, 2), st.floats(-2, 2))
def test_more_exposure_is_never_darker(a, b):
    low, high = sorted((a, b))
    assert (exposed(flat(), {"ev": low}) <= exposed(flat(), {"ev": high})).all()


def test_white_balance_and_haze_go_the_way_they_say():
    warm = exposed(flat(), {"wb": (1.2, 1.0, 0.8)})[60, 90]
    assert warm[0] > warm[1] > warm[2]
    depth = np.tile(np.linspace(1, 5000, 180, dtype=np.float32), (120, 1))
    sky = np.zeros((120, 180), np.float32)
    sky[:20] = 1
    hazed = camera.hazed(flat(0.1), depth, sky, 1000, (0.8, 0.8, 0.8))
    assert np.allclose(hazed[:20], 0.1) and (np.diff(hazed[60, :, 0]) > 0).all() and hazed.max() < 0.8


def test_the_film_curve_rises_and_stays_in_range():
    y = camera.filmic(np.linspace(0, 40, 4000), 1.3)
    assert y[0] >= 0 and y[-1] <= 1 and (np.diff(y) >= 0).all()


def test_framing_takes_the_named_part_and_turns_about_its_middle():
    y, x = np.mgrid[:200, :300].astype(np.float32)
    whole = camera.framed(x, (0, 0, 1, 1), 0, (300, 200))
    assert np.abs(whole - x)[2:-2, 2:-2].max() < 0.01
    part = camera.framed(x, (0.5, 0.25, 1.0, 0.75), 0, (300, 200))
    assert part[100, 0] == pytest.approx(150, abs=1) and part[100, 299] == pytest.approx(299, abs=1)
    turned = camera.framed(y, (0.1, 0.1, 0.9, 0.9), 5, (300, 200))
    assert turned[100, 150] == pytest.approx(100, abs=1) and turned[100, 299] > turned[100, 0] + 10


def test_masks_are_summed_by_kind_and_boxes_found():
    covers = {name: np.zeros((100, 150), np.float32) for name in ("sky", "animal 1", "animal 2", "thing 1")}
    covers["sky"][:30] = 1
    covers["animal 1"][40:80, 30:60] = 1
    covers["animal 2"][50:70, 80:100] = 0.7
    covers["thing 1"][90, 100] = 1
    masks = known.masks(covers)
    assert set(masks) == {"sky", "animals", "things", "subject"}
    assert np.allclose(masks["animals"], covers["animal 1"] + covers["animal 2"]) and masks["subject"][90, 100] == 1
    first, second = known.boxes(covers)
    assert first == {"kind": "animals", "area": 0.08, "box": [0.2, 0.4, 0.4, 0.8]} and second["kind"] == "animals"
    assert known.skyline(masks["sky"], masks["subject"]) == pytest.approx([0.3, 0.3], abs=0.001)


def test_a_slanting_skyline_is_found_past_a_mast_and_a_subject():
    y, x = np.mgrid[:200, :300]
    sky = (y < 60 + 0.1 * x).astype(np.float32)
    sky[:, 140:150] = 0
    subject = np.zeros_like(sky)
    subject[20:150, 200:250] = 1
    sky = sky * (1 - subject)
    left, right = known.skyline(sky, subject)
    assert left == pytest.approx(0.3, abs=0.01) and right == pytest.approx(0.45, abs=0.012)
    assert known.skyline(np.ones_like(sky), subject * 0) is None


def test_the_horizon_is_where_the_camera_puts_it():
    level = Camera((0, -3, 1.0), (0, 5, 1.0), 30, 0.01, 3)
    assert level.horizon() == pytest.approx((0.5, 0.5))
    up = Camera((0, -3, 1.0), (0, 5, 2.0), 30, 0.01, 3)
    assert up.horizon()[0] > 0.5, "looking up lowers the horizon"
    height = 1067 / 2 / (0.5 * 1600 / np.tan(np.radians(15)))
    assert Camera((0, 0, 0), (0, 1, height), 30, 0.01, 1).horizon()[0] == pytest.approx(1.0, abs=0.001)


def test_the_sun_is_the_brightest_place_of_its_sky():
    sky = Sky(30, 20, (0.2, 0.3, 0.7), (0.8, 0.8, 0.9), (1, 0.8, 0.6), 2000, cloud=0.4)
    picture = sky.picture(128)
    assert picture.shape == (128, 256, 3) and np.isfinite(picture).all() and picture.min() >= 0
    row, column = np.unravel_index(picture.sum(-1).argmax(), picture.shape[:2])
    assert 90 - (row + 0.5) / 128 * 180 == pytest.approx(20, abs=3) and (
        column + 0.5
    ) / 128 * 180 - 180 == pytest.approx(30, abs=3)


def test_grass_grows_in_view_on_the_soil_and_short_where_it_should():
    grass = lawn(
        np.random.default_rng(1), 5000, 1, 8, 0.004, 0.1, lambda x, y: 0.2 + 0 * x, (0, -3, 0.5), ((0, 1, 0.8),)
    )
    x, y, z = grass.vertices.reshape(-1, 10, 3)[:, 0].T
    assert z == pytest.approx(0.19) and (np.abs(x) < 0.6 + 0.31 * (y + 3)).all() and y.min() > -2.1 and y.max() < 5.1
    tall = grass.vertices.reshape(-1, 10, 3)[:, -1, 2] - 0.19
    near = np.hypot(x, y - 1) < 0.3
    assert tall[near].mean() < 0.6 * tall[~near].mean()


@pytest.mark.parametrize("name", ["ferry", "dunes", "studio"])
def test_lists_of_frames_name_shots_that_exist(name):
    scene = __import__(f"tools.photos.scenes.{name}", fromlist=["SHOTS"])
    listed = shoots.read(name)
    assert {f["shot"] for f in listed["frames"]} == set(scene.SHOTS)
    assert len({f["name"] for f in listed["frames"]}) == len(listed["frames"])
    for frame in listed["frames"]:
        assert frame["scene"] in listed["settings"]


def test_a_frame_is_developed_with_its_facts_and_stored_as_the_sensor_saw_it(monkeypatch):
    listed = {"seed": 1, "settings": {"here": SETTING | {"f": 2.0, "iso": 100, "time": 0.01}}, "dust": [],
              "camera": {"make": "Madeup Optics", "model": "M", "lens": "L", "focal": 50}}  # fmt: skip
    light = np.zeros((1600, 1067, 3), np.float32)
    light[:400] = 0.8
    covers = {"sky": np.zeros((800, 534), np.float32), "animal 1": np.zeros((800, 534), np.float32)}
    covers["sky"][:200] = 1
    covers["animal 1"][400:600, 100:300] = 1
    frame = {"name": "A", "scene": "here", "at": "2026-01-02 03:04:05", "ev": -1.0}
    raw, masks, boxes, line, upright = shoots.developed(
        listed, frame, (light, np.ones((1600, 1067), np.float32), covers), 0
    )
    assert upright and raw.shape == (1067, 1600, 3) and masks["subject"].shape == (800, 534)
    assert boxes[0]["box"] == pytest.approx([100 / 534, 0.5, 300 / 534, 0.75], abs=0.003) and line == pytest.approx(
        [0.25, 0.25], abs=0.003
    )
    file = io.BytesIO()
    Image.fromarray(raw).save(file, "JPEG", exif=shoots.camera_data(listed, frame, 0, upright))
    shown = Image.open(file)
    exif = shown.getexif()
    assert exif[ExifTags.Base.Orientation.value] == 8
    from PIL import ImageOps

    seen = np.asarray(ImageOps.exif_transpose(shown).convert("L")).astype(int)
    assert seen.shape == (1600, 1067) and seen[100].mean() > seen[1500].mean() + 50, "the sky is on top when shown"
    assert exif.get_ifd(ExifTags.IFD.Exif.value)[ExifTags.Base.ExposureTime.value] == pytest.approx(0.005)
