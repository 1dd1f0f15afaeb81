"""Embedded profiles into the working space, through Little CMS (as wrapped by imagecodecs)."""

import struct
from functools import lru_cache

import imagecodecs
import numpy as np
from PIL import ImageCms

from lenskeep.core.colour.spaces import D65_XY, PRIMARIES, SRGB_TO_REC2020, OutputSpace
from lenskeep.core.colour.transfer import DECODE8, decode_srgb
from lenskeep.core.types import LinearRGB

RELATIVE_COLORIMETRIC = 1
NEAR_ENOUGH = 0.004
"""Largest difference in linear light, over a grid of colours, under which a profile counts as sRGB."""


@lru_cache(maxsize=1)
def working_profile() -> bytes:
    """A profile of the working space: Rec. 2020 primaries, D65, gamma 1."""
    primaries = [value for x, y in PRIMARIES["rec2020"] for value in (x, y, 1.0)]
    return bytes(imagecodecs.cms_profile("rgb", whitepoint=[*D65_XY, 1.0], primaries=primaries, gamma=1.0))


@lru_cache(maxsize=3)
def output_profile(space: OutputSpace) -> bytes:
    """The profile written into deliveries: the space's primaries, D65, sRGB's transfer curve."""
    if space == "srgb":
        return _timeless(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    primaries = [value for x, y in PRIMARIES[space] for value in (x, y, 1.0)]
    curve = decode_srgb(np.linspace(0.0, 1.0, 4096, dtype=np.float32)) * 65535.0
    curve16 = np.rint(curve).astype(np.uint16)
    return _timeless(
        imagecodecs.cms_profile("rgb", whitepoint=[*D65_XY, 1.0], primaries=primaries, transferfunction=curve16)
    )


@lru_cache(maxsize=3)
def linear_profile(space: OutputSpace) -> bytes:
    """The same of numbers in proportion to light: the space's primaries, D65, gamma 1."""
    primaries = [value for x, y in PRIMARIES[space] for value in (x, y, 1.0)]
    return _timeless(imagecodecs.cms_profile("rgb", whitepoint=[*D65_XY, 1.0], primaries=primaries, gamma=1.0))


def _timeless(profile: bytes) -> bytes:
    """A profile with the time it was made set to a fixed one (ICC.1:2022, 7.2.8), and without the sum over it (7.2.18):
    the same picture must be the same file on every day.
    """
    made = struct.pack(">6H", 2026, 1, 1, 0, 0, 0)
    return bytes(profile[:24]) + made + bytes(profile[36:84]) + bytes(16) + bytes(profile[100:])


def to_working_space(pixels: np.ndarray, profile: bytes) -> LinearRGB:
    """RGB of 8 or 16 bits (h, w, 3) through its profile to linear Rec. 2020. Raises ValueError for a bad profile."""
    try:
        out = imagecodecs.cms_transform(
            np.ascontiguousarray(pixels),
            profile,
            working_profile(),
            colorspace="rgb",
            outcolorspace="rgb",
            outdtype="float32",
            intent=RELATIVE_COLORIMETRIC,
        )
    except Exception as error:
        raise ValueError("the embedded colour profile can't be used") from error
    return np.asarray(out, np.float32)


@lru_cache(maxsize=64)
def usable_profile(profile: bytes | None) -> bytes | None:
    """The profile when it must be applied; None when there is none, it is sRGB to the eye, or it is broken."""
    if not profile:
        return None
    levels = np.array([0, 24, 64, 118, 180, 255], np.uint8)
    grid = np.stack(np.meshgrid(levels, levels, levels, indexing="ij"), axis=-1).reshape(-1, 1, 3)
    try:
        seen = to_working_space(grid, profile)
    except ValueError:
        return None
    plain = DECODE8[grid] @ SRGB_TO_REC2020.T.astype(np.float32)
    return None if float(np.abs(seen - plain).max()) < NEAR_ENOUGH else profile
