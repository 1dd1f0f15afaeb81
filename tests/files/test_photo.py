"""Photographs from disk: every kind that comes off a camera or out of another program, and every kind of damage."""

import io
import struct
import zlib
from datetime import datetime
from pathlib import Path

import imagecodecs
import numpy as np
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageCms

from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import Photo, averaged, linear_of, read_photo, to_srgb8
from tests.effort import examples
from tools.made_up import scene, write_photo


def save(path: Path, pixels: np.ndarray, **options) -> Path:
    Image.fromarray(pixels).save(path, **options)
    return path


def srgb_of(path: Path) -> np.ndarray:
    photo = read_photo(path)
    return to_srgb8(photo.rows(0, photo.height))


@pytest.mark.parametrize("value", range(1, 9))
def test_every_exif_orientation_ends_upright(tmp_path, value):
    upright = scene(64, 96)
    turned = {
        1: lambda a: a,
        2: lambda a: a[:, ::-1],
        3: lambda a: a[::-1, ::-1],
        4: lambda a: a[::-1],
        5: lambda a: a.transpose(1, 0, 2),
        6: lambda a: np.rot90(a, 1),
        7: lambda a: a[::-1, ::-1].transpose(1, 0, 2),
        8: lambda a: np.rot90(a, -1),
    }[value](upright)
    exif = Image.Exif()
    exif[0x0112] = value
    path = save(tmp_path / "a.png", np.ascontiguousarray(turned), exif=exif)
    assert np.abs(srgb_of(path).astype(int) - upright).max() <= 1


def test_capture_time_with_fractions_of_a_second(tmp_path):
    exif = Image.Exif()
    exif.get_ifd(0x8769).update({0x9003: "2026:09:12 18:41:07", 0x9291: "25"})
    path = save(tmp_path / "a.jpg", scene(), exif=exif)
    assert read_photo(path).taken == datetime(2026, 9, 12, 18, 41, 7, 250_000)
    assert read_photo(write_photo(tmp_path / "b.jpg")).taken is None


def test_a_wide_gamut_profile_is_honoured(tmp_path):
    """The same numbers mean a stronger red with the primaries of Display P3 (SMPTE RP 431-2, D65) than in sRGB."""
    primaries = [0.680, 0.320, 1.0, 0.265, 0.690, 1.0, 0.150, 0.060, 1.0]
    profile = imagecodecs.cms_profile("rgb", whitepoint=[0.3127, 0.3290, 1.0], primaries=primaries, gamma=2.2)
    pixels = np.full((16, 16, 3), (200, 60, 60), np.uint8)
    plain = read_photo(save(tmp_path / "s.png", pixels)).rows(0, 16)
    wide = read_photo(save(tmp_path / "p.png", pixels, icc_profile=profile)).rows(0, 16)
    assert wide[0, 0, 0] - wide[0, 0, 1] > 1.1 * (plain[0, 0, 0] - plain[0, 0, 1])


def test_a_broken_profile_counts_as_srgb(tmp_path):
    pixels = scene()
    path = save(tmp_path / "a.png", pixels, icc_profile=b"not a profile at all")
    assert np.abs(srgb_of(path).astype(int) - pixels).max() <= 1


@pytest.mark.parametrize("suffix", ["tif", "png"])
def test_sixteen_bits_keep_their_fine_steps(tmp_path, suffix):
    ramp = np.repeat(np.arange(20_000, 20_256, dtype=np.uint16)[None, :, None], 3, axis=2).repeat(8, axis=0)
    path = tmp_path / f"a.{suffix}"
    if suffix == "tif":
        tifffile.imwrite(path, ramp, photometric="rgb")
    else:
        path.write_bytes(imagecodecs.png_encode(ramp))
    row = read_photo(path).rows(0, 8)[0, :, 0]
    assert len(np.unique(row)) == 256 and (np.diff(row) > 0).all()


def test_grey_see_through_and_paletted_pictures_become_rgb(tmp_path):
    grey = save(tmp_path / "g.jpg", np.full((32, 32), 120, np.uint8))
    assert srgb_of(grey)[5, 5].tolist() == pytest.approx([120] * 3, abs=2)
    clear = np.zeros((32, 32, 4), np.uint8)
    assert srgb_of(save(tmp_path / "c.png", clear))[5, 5].tolist() == [255] * 3
    Image.fromarray(scene()).quantize(32).save(tmp_path / "p.png")
    assert srgb_of(tmp_path / "p.png").shape == (120, 180, 3)


def test_a_cmyk_jpeg_looks_like_itself(tmp_path):
    Image.fromarray(scene()).convert("CMYK").save(tmp_path / "a.jpg", quality=95)
    assert np.abs(srgb_of(tmp_path / "a.jpg").astype(int) - scene()).mean() < 6


def test_one_pixel_is_a_photograph(tmp_path):
    photo = read_photo(save(tmp_path / "a.png", np.full((1, 1, 3), 77, np.uint8)))
    assert photo.reduced(1024).shape == (1, 1, 3)


def test_reduced_keeps_mean_light(tmp_path):
    stripes = np.zeros((300, 400, 3), np.uint8)
    stripes[:, ::2] = 255
    small = read_photo(save(tmp_path / "a.png", stripes)).reduced(100)
    assert small.shape == (75, 100, 3) and small.mean() == pytest.approx(0.5, abs=0.01)


@settings(max_examples=examples(40))
@given(st.integers(1, 9), st.integers(1, 9), st.integers(1, 6), st.integers(0, 1 << 20))
def test_whole_pixels_are_averaged_in_linear_light(high, wide, bins, seed):
    pixels = np.random.default_rng(seed).integers(0, 256, (high * bins, wide * bins, 3), dtype=np.uint8)
    linear = linear_of(pixels).reshape(high, bins, wide, bins, 3).astype(np.float64).mean((1, 3))
    out = np.empty(linear.shape, np.float32)
    averaged(pixels, bins, out)
    assert out == pytest.approx(linear, abs=1e-6)


@pytest.mark.parametrize(("height", "width"), [(600, 900), (601, 903), (607, 911), (900, 450), (130, 90)])
def test_a_reduced_picture_is_the_same_whether_its_sides_divide_or_not(height, width, monkeypatch):
    pixels = np.random.default_rng(height).integers(0, 256, (height, width, 3), dtype=np.uint8)
    photo = Photo(pixels, None, Image.Exif(), None, "PNG")
    small = photo.reduced(120)
    whole = linear_of(pixels)
    assert small.mean((0, 1)) == pytest.approx(whole.mean((0, 1)), abs=2e-3)
    monkeypatch.setattr(Photo, "_is_srgb8", False)  # by way of rows of full size
    monkeypatch.setattr(Photo, "block", lambda _self, a, b, c, d: linear_of(pixels[a:b, c:d]))
    assert small == pytest.approx(photo.reduced(120), abs=1e-5)


def _huge_png() -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = struct.pack(">IIBBBBB", 60_000, 60_000, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(b"\0" * 9)) + chunk(b"IEND", b"")
    )


def _gif() -> bytes:
    out = io.BytesIO()
    Image.fromarray(scene()).save(out, "GIF")
    return out.getvalue()


def _cut_jpeg(share: float) -> bytes:
    out = io.BytesIO()
    Image.fromarray(scene(400, 600)).save(out, "JPEG", quality=90)
    return out.getvalue()[: int(len(out.getvalue()) * share)]


def _cut_tiff() -> bytes:
    out = io.BytesIO()
    tifffile.imwrite(out, scene(400, 600).astype(np.uint16) * 257, photometric="rgb")
    return out.getvalue()[:90_000]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"these are words\n" * 50, "not a JPEG, PNG, TIFF"),
        (_cut_jpeg(0.6), "cut off"),
        (_cut_jpeg(0.02), "cut off"),
        (_cut_tiff(), "again"),
        (_huge_png(), "60,000 × 60,000"),
        (_gif(), "GIF"),
    ],
    ids=["zero bytes", "text", "cut JPEG", "header only", "cut 16-bit TIFF", "huge PNG", "GIF"],
)
def test_what_cannot_be_read_says_why(tmp_path, data, words):
    path = tmp_path / "DSC_1.jpg"
    path.write_bytes(data)
    with pytest.raises(PhotoProblem, match=words) as caught:
        read_photo(path)
    assert "DSC_1.jpg" in str(caught.value)


def test_a_missing_file_says_so(tmp_path):
    with pytest.raises(PhotoProblem, match="can't be found"):
        read_photo(tmp_path / "gone.jpg")


def test_srgb_profile_itself_changes_nothing(tmp_path):
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    pixels = scene()
    assert np.abs(srgb_of(save(tmp_path / "a.png", pixels, icc_profile=profile)).astype(int) - pixels).max() <= 1
