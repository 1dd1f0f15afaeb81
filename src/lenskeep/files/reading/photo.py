"""A photograph from disk: its pixels, upright, in strips of the working space; its size, time and profile."""

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Literal

import cv2
import imagecodecs
import numpy as np
import pillow_heif
import tifffile
from PIL import Image, ImageCms, UnidentifiedImageError

from lenskeep.core.colour.spaces import SRGB_TO_REC2020, OutputSpace
from lenskeep.core.colour.transfer import DECODE8, decode_srgb
from lenskeep.core.engine.encode.srgb8 import averaged_rows, decode_rows, encode_rows
from lenskeep.core.engine.planes import area_mean, proxy_size
from lenskeep.core.types import SRGB8, LinearRGB
from lenskeep.files.icc import to_working_space, usable_profile
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.exif import capture_time, orientation
from lenskeep.files.reading.raw import is_raw, raw_exif, read_raw, soft
from lenskeep.files.writing.jpeg import jpeg_pixels

FORMATS = {"JPEG": ".jpg", "PNG": ".png", "TIFF": ".tif", "HEIF": ".heic"}
Base = Literal["", "neutral", "soft"]
"""How a raw file is brought to a picture; "" for files that are pictures already."""
RAW_BASES: tuple[Base, ...] = ("soft", "neutral")
READABLE = "JPEG, PNG, TIFF, HEIC or camera raw"
pillow_heif.register_heif_opener()
MOST_PIXELS = 250_000_000
MOST_SPARSE_PIXELS, MOST_PIXELS_A_BYTE = 16_000_000, 100
"""Photographs hold a byte for every few pixels; a large picture out of a small file is a trap."""
_DECODE16 = decode_srgb(np.arange(65536, dtype=np.float32) / 65535.0)
Image.MAX_IMAGE_PIXELS = None  # the limit above is checked on the header, with a message of our own


@dataclass
class Photo:
    """Pixels (h, w, 3) of 8 or 16 bits, upright, in the space of ``profile`` (None: sRGB).

    With ``base`` set it was a raw file: pixels are linear Rec. 2020 in units of ``unit``.
    """

    pixels: np.ndarray
    profile: bytes | None
    exif: Image.Exif
    taken: datetime | None
    format: str
    base: Base = ""
    unit: float = 1.0

    @property
    def height(self) -> int:
        return int(self.pixels.shape[0])

    @property
    def width(self) -> int:
        return int(self.pixels.shape[1])

    def turned(self, quarters: int) -> "Photo":
        """The same turned by so many quarters clockwise."""
        if quarters % 4 == 0:
            return self
        return replace(self, pixels=np.ascontiguousarray(np.rot90(self.pixels, -quarters)))

    def rows(self, first: int, last: int) -> LinearRGB:
        """Rows ``first … last - 1`` in the working space; a new array each time, safe from several threads."""
        return self.block(first, last, 0, self.width)

    def block(self, first: int, last: int, left: int, right: int) -> LinearRGB:
        """Columns ``left … right - 1`` of these rows, in the same way."""
        part = self.pixels[first:last, left:right]
        if self.base:
            linear = part.astype(np.float32) * np.float32(self.unit / 65535.0)
            return soft(linear) if self.base == "soft" else linear
        if self.profile is not None:
            return to_working_space(part, self.profile)
        if self._is_srgb8:
            return linear_of(part)
        return np.asarray(_DECODE16[part] @ SRGB_TO_REC2020.T.astype(np.float32), np.float32)

    @property
    def _is_srgb8(self) -> bool:
        return not self.base and self.profile is None and self.pixels.dtype == np.uint8

    def reduced(self, side: int) -> LinearRGB:
        """The picture with a long side of at most ``side``, averaged in linear light, strip by strip."""
        h, w = proxy_size(self.height, self.width, side)
        if (h, w) == (self.height, self.width):
            return self.rows(0, h)
        bins, across, step = reducing(self.height, self.width, h, w)
        starts = range(0, self.height, step)

        def ends(first: int) -> tuple[int, int]:
            """Where a strip's rows end in the photograph, and in what it is reduced to."""
            last = min(first + step, self.height)
            return last, first // bins + max(1, round((last - first) / bins))

        small = np.empty((ends(starts[-1])[1], across, 3), np.float32)

        def strip(first: int) -> None:
            last, low = ends(first)
            out = small[first // bins : low]
            if self._is_srgb8 and bins > 1 and across * bins == self.width and len(out) * bins == last - first:
                averaged(self.pixels[first:last], bins, out)
            else:
                out[:] = cv2.resize(self.rows(first, last), (across, len(out)), interpolation=cv2.INTER_AREA)

        if len(starts) < 8:
            for first in starts:
                strip(first)
        else:  # large ones on two cores
            with ThreadPoolExecutor(2) as pool:
                list(pool.map(strip, starts))
        return area_mean(small, (h, w))


def reducing(height: int, width: int, h: int, w: int) -> tuple[int, int, int]:
    """How a picture is reduced to (h, w): strips of so many rows (the last) are averaged ``bins`` by ``bins`` first, to
    so many columns (the second), and all of them to their size then.
    """
    most = max(1, height // h)
    # most cameras' sides have common divisors: then whole pixels are averaged, which is quicker
    common = math.gcd(height, width)
    bins = next((n for n in range(most, most // 2, -1) if common % n == 0), most)
    return bins, max(w, round(width / bins)), bins * 64


def encoded(rgb: LinearRGB, space: OutputSpace) -> SRGB8:
    """Linear Rec. 2020 to 8 bits of an output space, gamut mapped."""
    out = np.empty(rgb.shape, np.uint8)
    encode_rows(np.ascontiguousarray(rgb, np.float32), out, space)
    return out


def linear_of(pixels: SRGB8) -> LinearRGB:
    """8-bit sRGB (h, w, 3) to linear Rec. 2020."""
    out = np.empty(pixels.shape, np.float32)
    decode_rows(np.ascontiguousarray(pixels), DECODE8, out)
    return out


def averaged(pixels: SRGB8, bins: int, out: LinearRGB) -> None:
    """``out`` (h, w, 3), linear Rec. 2020 = the mean of ``bins`` by ``bins`` of 8-bit sRGB (h · bins, w · bins, 3)."""
    averaged_rows(np.ascontiguousarray(pixels), DECODE8, bins, out)


def to_srgb8(rgb: LinearRGB) -> SRGB8:
    """Linear Rec. 2020 to 8-bit sRGB, gamut mapped."""
    return encoded(rgb, "srgb")


def read_photo(path: Path, name: str | None = None, base: Base = "soft") -> Photo:
    """Read a photograph whole. ``name`` is what the photographer calls the file; ``base`` counts for raw files only.

    Raises PhotoProblem, with what to do, for anything that can't be read wholly.
    """
    name = name or path.name
    if not path.is_file():
        raise PhotoProblem(f"{name} can't be found. Was it moved?")
    if path.stat().st_size == 0:
        raise PhotoProblem(f"{name} is empty (0 bytes). Copy it again from the card.")
    if is_raw(name):
        pixels, unit = read_raw(path, name)
        exif = raw_exif(path)
        return Photo(pixels, None, exif, capture_time(exif), "RAW", base or "soft", unit)
    try:
        with Image.open(path) as image:
            return _read(path, name, image)
    except PhotoProblem:
        raise
    except UnidentifiedImageError:
        raise PhotoProblem(
            f"{name} is not a {READABLE} file, whatever its name says. Export it as one of these."
        ) from None
    except MemoryError as error:
        raise PhotoProblem(f"{name} needs more memory than there is. Export it smaller.") from error
    except Exception as error:  # decoders of every kind raise errors of every kind
        cut = "truncated" in str(error) or "broken" in str(error) or isinstance(error, EOFError)
        why = "is cut off: the end is missing" if cut else "is damaged and can't be read"
        raise PhotoProblem(f"{name} {why}. Copy it again from the card or a backup.") from error


def _read(path: Path, name: str, image: Image.Image) -> Photo:
    kind = image.format or ""
    if kind == "MPO":  # a JPEG with further pictures behind the first
        kind = "JPEG"
    if kind not in FORMATS:
        raise PhotoProblem(f"{name} is a {kind} file. Bring in {READABLE} files.")
    if image.width * image.height > MOST_PIXELS:
        raise PhotoProblem(
            f"{name} claims to be {image.width:,} × {image.height:,} pixels; "
            f"at most {MOST_PIXELS // 1_000_000} megapixels are read. Export it smaller."
        )
    if image.width * image.height > MOST_SPARSE_PIXELS + MOST_PIXELS_A_BYTE * path.stat().st_size:
        raise PhotoProblem(f"{name} unpacks to far more than it holds, as no photograph does. Export it anew.")
    exif = image.getexif()
    profile = image.info.get("icc_profile")
    pixels, used_profile = _pixels(path, image, kind, profile)
    pixels = _upright(pixels, orientation(exif))
    return Photo(np.ascontiguousarray(pixels), used_profile, exif, capture_time(exif), kind)


def _pixels(path: Path, image: Image.Image, kind: str, profile: bytes | None) -> tuple[np.ndarray, bytes | None]:
    if image.mode == "CMYK":
        return _from_cmyk(image, profile), None
    if kind == "TIFF":
        deep = _deep_tiff(path)
        if deep is not None:
            return deep, usable_profile(profile)
    elif kind == "JPEG" and image.mode == "RGB":
        return jpeg_pixels(path.read_bytes()), usable_profile(profile)
    elif kind == "PNG":
        raw = np.asarray(imagecodecs.png_decode(path.read_bytes()))
        if raw.dtype == np.uint16:
            return _three_channels(raw), usable_profile(profile)
    colour = image.mode in ("RGB", "RGBA", "RGBX")
    image.load()
    pixels = np.asarray(image if image.mode == "RGB" else _flat(image))
    return pixels, usable_profile(profile) if colour else None


def _flat(image: Image.Image) -> Image.Image:
    """Any mode to RGB; transparency over white."""
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        rgba = image.convert("RGBA")
        ground = Image.new("RGBA", image.size, (255, 255, 255, 255))
        return Image.alpha_composite(ground, rgba).convert("RGB")
    if image.mode.startswith("I;16") or image.mode in ("I", "F"):
        values = np.asarray(image, np.float32)
        top = 65535.0 if values.max(initial=0) > 255 else 255.0
        return Image.fromarray(np.clip(values / top * 255.0, 0, 255).astype(np.uint8)).convert("RGB")
    return image.convert("RGB")


def _from_cmyk(image: Image.Image, profile: bytes | None) -> np.ndarray:
    image.load()
    if profile:
        import io

        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            target = ImageCms.createProfile("sRGB")
            turned = ImageCms.profileToProfile(image, source, target, outputMode="RGB")
            if turned is not None:
                return np.asarray(turned)
        except ImageCms.PyCMSError:
            pass  # a broken profile: the plain conversion is better than no picture
    return np.asarray(image.convert("RGB"))


def _deep_tiff(path: Path) -> np.ndarray | None:
    """16-bit RGB or grey of the first page; None when it is not that."""
    with tifffile.TiffFile(path) as tiff:
        page = tiff.pages.first
        if page.dtype != np.uint16 or int(page.photometric) not in (1, 2):
            return None
        data = page.asarray()
    if data.ndim == 3 and data.shape[0] in (3, 4) and data.shape[2] not in (3, 4):
        data = data.transpose(1, 2, 0)
    return _three_channels(data)


def _three_channels(data: np.ndarray) -> np.ndarray:
    if data.ndim == 2:
        return np.repeat(data[:, :, None], 3, axis=2)
    if data.shape[2] in (2, 4):  # over white, as everywhere
        alpha = data[:, :, -1:].astype(np.float32) / 65535.0
        colour = data[:, :, :-1].astype(np.float32) * alpha + 65535.0 * (1.0 - alpha)
        data = np.rint(colour).astype(np.uint16)
    return np.repeat(data, 3, axis=2) if data.shape[2] == 1 else data[:, :, :3]


def _upright(pixels: np.ndarray, value: int) -> np.ndarray:
    """Turn pixels by the EXIF orientation 1…8."""
    if value in (5, 6, 7, 8):
        pixels = pixels.transpose(1, 0, 2)
    flip_columns = value in (2, 3, 6, 7)
    flip_rows = value in (3, 4, 7, 8)
    return pixels[:: -1 if flip_rows else 1, :: -1 if flip_columns else 1]
