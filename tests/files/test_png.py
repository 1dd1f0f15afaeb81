"""PNG as a form to leave in: without loss, in 8 and 16 bits, its profile and EXIF read by others."""

import io

import imagecodecs
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as arrays
from PIL import ExifTags, Image, ImageCms

from lenskeep.core.colour.spaces import SRGB_TO_REC2020
from lenskeep.core.colour.transfer import decode_srgb, encode_srgb
from lenskeep.core.engine.encode import ENCODERS, SIXTEEN_BITS
from lenskeep.files.reading.photo import read_photo
from lenskeep.files.writing import FORMS
from lenskeep.files.writing.png import png_bytes
from tests.effort import examples

PIXELS = arrays.arrays(
    st.sampled_from([np.uint8, np.uint16]), st.tuples(st.integers(1, 9), st.integers(1, 9), st.just(3))
)


@settings(max_examples=examples(20))
@given(PIXELS)
def test_every_pixel_comes_back(pixels):
    assert np.array_equal(imagecodecs.png_decode(png_bytes(pixels)), pixels)


@pytest.mark.parametrize("space", ["srgb", "display-p3", "rec2020"])
@pytest.mark.parametrize("kind", ["png", "png16"])
def test_other_readers_find_profile_and_exif(space, kind, tmp_path):
    form = FORMS[kind]
    exif = Image.Exif()
    exif[ExifTags.Base.Make.value], exif[ExifTags.Base.Orientation.value] = "Madeup Optics", 8
    linear = np.linspace(0, 1, 30 * 20 * 3, dtype=np.float32).reshape(20, 30, 3)
    pixels = np.empty(linear.shape, form.encoder.dtype)
    form.encoder.rows(linear, pixels, space)
    (tmp_path / "a.png").write_bytes(form.write(pixels, 92, exif, space, b""))
    with Image.open(tmp_path / "a.png") as image:
        image.load()
        read = image.getexif()
        assert read[ExifTags.Base.Make.value] == "Madeup Optics"
        assert read.get(ExifTags.Base.Orientation.value, 1) == 1, "it is upright already"
        name = ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(image.info["icc_profile"])))
        assert name
    again = read_photo(tmp_path / "a.png")
    assert np.abs(again.rows(0, 20) - linear).max() < (0.02 if kind == "png" else 0.0006)


def test_sixteen_bits_are_the_curve_to_half_a_code():
    codes = np.arange(65536, dtype=np.float64) / 65535
    linear = decode_srgb(codes.astype(np.float32)).astype(np.float64)
    grey = np.repeat(linear[:, None], 3, 1)[None]
    out = np.empty(grey.shape, np.uint16)
    SIXTEEN_BITS.rows(np.ascontiguousarray(grey @ SRGB_TO_REC2020.T, np.float32), out, "srgb")
    assert np.abs(out[0].astype(int) - np.arange(65536)[:, None]).max() <= 2
    assert (np.diff(out[0, :, 1].astype(int)) >= 0).all()


@settings(max_examples=examples(30))
@given(st.lists(st.floats(-0.25, 1.75, width=32), min_size=3, max_size=3))
def test_sixteen_bits_and_eight_say_the_same_colour(rgb):
    pixel = np.array([[rgb]], np.float32)
    deep, plain = (np.empty((1, 1, 3), e.dtype) for e in (SIXTEEN_BITS, ENCODERS["8 bits"]))
    SIXTEEN_BITS.rows(pixel, deep, "display-p3")
    ENCODERS["8 bits"].rows(pixel, plain, "display-p3")
    assert np.abs(deep / 65535 - plain / 255).max() < 0.6 / 255 + float(encode_srgb(np.float32(0.5 / 65535)))
