"""What the Bench shows is what leaves: light over white and colours beyond sRGB are not lost on the way to the
screen.
"""

import cv2
import numpy as np
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.colour.spaces import SRGB_TO_REC2020
from lenskeep.core.colour.transfer import DECODE8, encode_srgb
from lenskeep.core.engine.planes import PROXY_SIDE, smaller
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.icc import output_profile
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import Photo, read_photo, to_srgb8
from lenskeep.files.working import TOP, read_working, working_bytes
from lenskeep.files.writing.jpeg import jpeg_bytes
from lenskeep.studio.bench.stage import KEY_SIDE, Stage, Staged
from lenskeep.studio.tasks.deliver import finished_pixels
from tests.effort import examples
from tools.made_up import frame_of, scene, write_dng

SUNLIT = [
    {"id": "down", "name": "Down", "adjustments": [{"id": "a", "kind": "exposure", "ev": -0.8}]},
    {"id": "high", "name": "Highlights", "adjustments": [{"id": "b", "kind": "highlights", "highlights": -70}]},
    {
        "id": "sky",
        "name": "Sky",
        "region": {"parts": [{"kind": "sky"}]},
        "adjustments": [{"id": "c", "kind": "saturation", "saturation": 30}],
    },
]
LOOK = Recipe.model_validate({"name": "Sunlit", "steps": SUNLIT})


def bright(h=1200, w=1800):
    """A scene whose upper left is lit up to 1.9 times white, with grain."""
    small = scene(h // 4, w // 4, seed=9).astype(np.float32) / 255
    linear = cv2.resize(small, (w, h), interpolation=cv2.INTER_CUBIC).clip(0, 1) ** 2.2 * [0.95, 0.49, 0.69]
    y, x = np.mgrid[:h, :w]
    linear *= (1 + 1.0 * np.exp(-((x / w - 0.25) ** 2 + (y / h - 0.25) ** 2) / 0.04))[..., None]
    return np.clip(linear + np.random.default_rng(2).normal(0, 0.004, linear.shape), 0, 1.9)


def raw(folder):
    write_dng(folder / "a.dng", bright())
    return read_photo(folder / "a.dng", base="neutral")


def lit(_folder):
    """Pixels as a raw file of another camera gives them: up to 1.9 in every channel."""
    pixels = np.rint(bright() / [0.95, 0.49, 0.69] * 1.3 / 2 * 65535).clip(0, 62258).astype(np.uint16)
    return Photo(pixels, None, Image.Exif(), None, "RAW", "neutral", 2.0)


def wide(folder):
    """A 16-bit TIFF in Rec. 2020, with greens and reds that sRGB does not have."""
    linear = np.clip(bright() * [0.9, 1.6, 0.5], 0, 1).astype(np.float32)
    linear[400:700, 200:800] = (0.02, 0.75, 0.05)
    linear[400:700, 1000:1500] = (0.8, 0.03, 0.02)
    codes = np.rint(encode_srgb(linear) * 65535).astype(np.uint16)
    tags = [(34675, "B", 0, output_profile("rec2020"), True)]
    tifffile.imwrite(folder / "a.tif", codes, photometric="rgb", extratags=tags)
    return read_photo(folder / "a.tif")


def seen_and_delivered(photo, working):
    """The Bench's picture and the delivered one at its size, both in OKLab."""
    look = make_plan(LOOK)
    delivered = finished_pixels(photo, frame_of(photo.reduced(PROXY_SIDE)), look, None, space="rec2020")
    staged = Staged(smaller(working, KEY_SIDE), frame_of(smaller(working, PROXY_SIDE)))
    seen = Stage.finished(staged, LOOK, space="rec2020")
    same_size = cv2.resize(DECODE8[delivered], seen.shape[1::-1], interpolation=cv2.INTER_AREA)
    return to_oklab(DECODE8[seen]), to_oklab(same_size)


def differences(photo, working):
    """(mean ΔE(OK), the same among the brightest twentieth)."""
    seen, delivered = seen_and_delivered(photo, working)
    away = np.sqrt(((seen - delivered) ** 2).sum(-1))
    top = delivered[..., 0] >= np.percentile(delivered[..., 0], 95)
    return float(away.mean()), float(away[top].mean())


@pytest.mark.parametrize("made", [raw, lit, wide])
def test_bench_and_delivery_agree_over_white_and_beyond_srgb(made, tmp_path):
    photo = made(tmp_path)
    base = photo.reduced(1600)
    path = tmp_path / "working.jxl"
    path.write_bytes(working_bytes(base))
    whole, top = differences(photo, read_working(path))
    assert whole <= 0.004 and top <= 0.01, (whole, top)
    (tmp_path / "base.jpg").write_bytes(jpeg_bytes(to_srgb8(base), 95))
    before = differences(photo, read_working(tmp_path / "base.jpg"))
    assert before[0] > 2 * whole or before[1] > 2 * top, "8 bits of sRGB would not have done"
    if made is not wide:
        assert photo.rows(0, photo.height).max() > (1.8 if made is lit else 1.3)


@settings(max_examples=examples(12))
@given(st.integers(1, 40), st.integers(1, 40), st.integers(0, 99), st.floats(0.0625, TOP, width=32))
def test_a_working_copy_is_near_what_it_was_made_of(h, w, seed, top):
    picture = np.random.default_rng(seed).uniform(0, top, (h, w, 3)).astype(np.float32)
    picture = cv2.GaussianBlur(picture, (0, 0), 2)
    import tempfile
    from pathlib import Path

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "working.jxl"
        path.write_bytes(working_bytes(picture))
        again = read_working(path)
    assert again.shape == picture.shape and again.dtype == np.float32
    assert np.sqrt(((to_oklab(again) - to_oklab(picture)) ** 2).sum(-1)).mean() < 0.02


def test_a_broken_working_copy_says_what_to_do(tmp_path):
    (tmp_path / "working.jxl").write_bytes(b"nothing")
    with pytest.raises(PhotoProblem, match="Find its masks again"):
        read_working(tmp_path / "working.jxl")


def test_white_and_black_are_held():
    picture = np.full((8, 8, 3), 1.0, np.float32) @ SRGB_TO_REC2020.T.astype(np.float32)
    picture[:4] = -0.1
    picture[6:] = 9.0
    assert working_bytes(picture)
