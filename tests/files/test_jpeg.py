"""Delivered JPEGs: upright EXIF kept, sRGB profile in, the size that was asked for."""

import io
import subprocess
import sys
import time

import numpy as np
import pytest
from PIL import Image, ImageCms

from lenskeep.files.icc import output_profile
from lenskeep.files.writing.jpeg import jpeg_bytes
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
