"""Camera raw (a made-up DNG), HEIC, and output spaces: what comes in goes out as it was."""

import io

import numpy as np
import pillow_heif
import pytest
import tifffile
from PIL import Image

from lenskeep.core.colour.spaces import SRGB_TO_REC2020, from_rec2020
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.plan import Plan
from lenskeep.core.render import compile_plan, render
from lenskeep.files.icc import output_profile, to_working_space, usable_profile
from lenskeep.files.reading.photo import PhotoProblem, read_photo, to_srgb8
from lenskeep.files.writing.jpeg import jpeg_bytes
from tools.made_up import frame_of, scene, write_dng


def patches() -> np.ndarray:
    linear = np.full((240, 360, 3), 0.18)
    linear[60:120, 60:120] = (0.4, 0.1, 0.05)
    linear[150:210, 200:300] = 1.6  # beyond the sensor's green and, after balancing, inside its red
    return linear


def test_a_raw_file_has_its_white_balance_its_time_and_highlights_over_white(tmp_path):
    write_dng(tmp_path / "a.dng", patches())
    photo = read_photo(tmp_path / "a.dng", base="neutral")
    assert photo.taken is not None and photo.taken.second == 5 and photo.format == "RAW"
    grey, colour, bright = (photo.rows(y, y + 1)[0, x] for y, x in ((20, 20), (90, 90), (180, 250)))
    assert grey == pytest.approx((0.18, 0.18, 0.18), abs=0.01)
    assert colour == pytest.approx(SRGB_TO_REC2020 @ (0.4, 0.1, 0.05), abs=0.02)
    assert bright.max() > 1.1 and np.ptp(bright) < 0.6


def test_the_soft_curve_lifts_the_middle_and_bends_highlights_without_a_cast(tmp_path):
    write_dng(tmp_path / "a.dng", patches())
    neutral, soft = (read_photo(tmp_path / "a.dng", base=b).rows(0, 240) for b in ("neutral", "soft"))
    assert 1.1 < soft[20, 20, 1] / neutral[20, 20, 1] < 1.5
    assert soft[180, 250].max() < neutral[180, 250].max()
    assert soft[90, 90] / soft[90, 90].sum() == pytest.approx(neutral[90, 90] / neutral[90, 90].sum(), abs=2e-3)


def test_a_broken_raw_file_says_so(tmp_path):
    (tmp_path / "b.nef").write_bytes(b"II*\0" + b"nothing here" * 90)
    with pytest.raises(PhotoProblem, match="can't be read as a camera raw file"):
        read_photo(tmp_path / "b.nef")


def test_heic_is_read_upright_and_in_its_colours(tmp_path):
    pixels = scene(120, 180)
    pillow_heif.from_pillow(Image.fromarray(pixels)).save(tmp_path / "a.heic", quality=95)
    photo = read_photo(tmp_path / "a.heic")
    assert photo.format == "HEIF" and (photo.height, photo.width) == (120, 180)
    assert np.abs(to_srgb8(photo.rows(0, 120)).astype(int) - pixels).mean() < 2


@pytest.mark.parametrize("space", ["srgb", "display-p3", "rec2020"])
def test_an_untouched_frame_goes_through_unchanged_in_each_space(tmp_path, space):
    random = np.random.default_rng(4)
    pixels = random.integers(0, 256, (96, 128, 3)).astype(np.uint8)
    pixels[:8] = np.arange(128)[None, :, None] * 2  # and a grey ramp
    path = tmp_path / "a.tif"
    tifffile.imwrite(path, pixels, photometric="rgb", extratags=[(34675, "B", 0, output_profile(space), True)])
    photo = read_photo(path)
    assert (photo.profile is None) == (space == "srgb")
    frame = frame_of(photo.rows(0, 96))
    out = render(compile_plan(Plan(()), frame), photo.rows, 96, 128, space=space)
    assert np.abs(out.astype(int) - pixels).max() <= 1
    assert np.ptp(out[:8], axis=-1).max() <= 1


@pytest.mark.parametrize("space", ["display-p3", "rec2020"])
def test_a_written_profile_means_what_it_says(space):
    grid = np.zeros((1, 4, 3), np.uint8)
    grid[0, 0], grid[0, 1], grid[0, 2], grid[0, 3] = (255, 0, 0), (0, 255, 0), (0, 0, 255), (128, 128, 128)
    data = jpeg_bytes(np.repeat(np.repeat(grid, 16, 0), 16, 1), 95, space=space)
    with Image.open(io.BytesIO(data)) as image:
        profile = image.info["icc_profile"]
    assert usable_profile(profile) is not None
    expected = DECODE8[grid] @ np.linalg.inv(from_rec2020(space)).T
    np.testing.assert_allclose(to_working_space(grid, profile), expected, atol=3e-3)
