"""Delivered JPEGs: upright EXIF kept, sRGB profile in, the size that was asked for."""

import io
import subprocess
import sys
import time
import zlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import ExifTags, Image, ImageCms

from lenskeep.files.icc import output_profile
from lenskeep.files.reading.exif import upright_exif
from lenskeep.files.writing.jpeg import jpeg_bytes, jpeg_pixels
from lenskeep.files.written import crc_of
from tests.effort import examples
from tools.made_up import scene


def opened(data):
    return Image.open(io.BytesIO(data))


def test_exif_stays_and_is_turned_upright():
    exif = Image.Exif()
    exif[0x010F], exif[0x0112] = "Maker", 6
    exif.get_ifd(0x8769).update({0x9003: "2026:09:12 18:41:07", 0xA002: 4000, 0xA003: 6000})
    found = opened(jpeg_bytes(scene(), 92, exif)).getexif()
    inner = found.get_ifd(0x8769)
    assert found[0x010F] == "Maker" and found[0x0112] == 1
    assert inner[0x9003] == "2026:09:12 18:41:07" and (inner[0xA002], inner[0xA003]) == (180, 120)
    assert exif[0x0112] == 6  # the photograph's own is untouched


def test_the_profile_is_srgb():
    profile = ImageCms.ImageCmsProfile(io.BytesIO(opened(jpeg_bytes(scene())).info["icc_profile"]))
    assert "srgb" in (ImageCms.getProfileDescription(profile) + ImageCms.getProfileName(profile)).lower()


@pytest.mark.parametrize(("low", "high"), [(40, 75), (75, 95)])
def test_higher_quality_is_closer_and_larger(low, high):
    pixels = scene()
    files = [jpeg_bytes(pixels, quality) for quality in (low, high)]
    errors = [np.abs(np.asarray(opened(f)).astype(int) - pixels).mean() for f in files]
    assert errors[1] < errors[0] and len(files[1]) > len(files[0])


@pytest.mark.parametrize("space", ["srgb", "display-p3", "rec2020"])
def test_the_same_picture_is_the_same_file_whenever_it_is_written(space):
    """Little CMS notes the time of day in the profiles it makes; a process of tomorrow must write the same bytes."""
    code = f"from lenskeep.files.icc import output_profile as p; import sys; sys.stdout.buffer.write(p({space!r}))"
    seen = set()
    for _ in range(2):
        seen.add(subprocess.run([sys.executable, "-c", code], capture_output=True, check=True).stdout)
        time.sleep(1.1)
    [profile] = seen
    assert profile == output_profile(space) and profile[24:26] == (2026).to_bytes(2)
    assert ImageCms.ImageCmsProfile(io.BytesIO(profile)).profile.xcolor_space == "RGB "


@given(
    shape=st.tuples(st.integers(1, 70), st.integers(1, 70)),
    quality=st.integers(40, 100),
    space=st.sampled_from(["srgb", "display-p3", "rec2020"]),
    fields=st.booleans(),
    seed=st.integers(0, 9),
)
@settings(max_examples=examples(40))
def test_every_byte_is_what_one_library_alone_would_write(shape, quality, space, fields, seed):
    """Lists of earlier hand-overs are proven to the byte: that it is made of two parts must not be seen."""
    pixels = np.random.default_rng(seed).integers(0, 256, (*shape, 3)).astype(np.uint8)
    exif, xmp = Image.Exif(), b"<x:xmpmeta/>" if fields else b""
    if fields:
        exif[ExifTags.Base.Make] = "M" * 300 + "\xff"
    whole, options = io.BytesIO(), {"quality": quality, "subsampling": 0 if quality >= 90 else 2}
    options |= {"icc_profile": output_profile(space)} | ({"xmp": xmp} if fields else {})
    if fields:
        options["exif"] = upright_exif(exif, shape[1], shape[0])
    Image.fromarray(pixels).save(whole, "JPEG", **options)
    assert jpeg_bytes(pixels, quality, exif if fields else None, space=space, xmp=xmp) == whole.getvalue()


def test_pixels_that_do_not_lie_together_are_written_as_they_are():
    pixels = scene()
    assert jpeg_bytes(pixels[:, ::-1]) == jpeg_bytes(np.ascontiguousarray(pixels[:, ::-1]))


@given(st.binary(max_size=5000))
def test_the_quick_sum_of_what_leaves_is_the_one_that_a_zip_holds(data):
    assert crc_of(data) == zlib.crc32(data)


@pytest.mark.parametrize("more", [b"", b"\xff\xd9", b"what a camera puts behind it"])
def test_an_end_is_found_whatever_stands_behind_it_and_missed_where_there_is_none(more):
    pixels = np.random.default_rng(0).integers(0, 256, (48, 64, 3)).astype(np.uint8)
    data = jpeg_bytes(pixels, 92)
    assert np.array_equal(jpeg_pixels(data + more), jpeg_pixels(data))
    with pytest.raises(EOFError):
        jpeg_pixels(data[:-2].rstrip(b"\xff"))
