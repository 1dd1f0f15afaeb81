"""Orientation, capture time and the rest of a photograph's EXIF (CIPA DC-008)."""

from datetime import datetime, timedelta
from math import log2
from pathlib import Path

from PIL import ExifTags, Image

from lenskeep.files.reading.raw import is_raw, raw_exif

ORIENTATION = ExifTags.Base.Orientation.value
_EXIF_IFD = ExifTags.IFD.Exif.value
_TAKEN = ExifTags.Base.DateTimeOriginal.value
_DIGITIZED = ExifTags.Base.DateTimeDigitized.value
_CHANGED = ExifTags.Base.DateTime.value
_SUBSECOND = ExifTags.Base.SubsecTimeOriginal.value
_TIME, _APERTURE = ExifTags.Base.ExposureTime.value, ExifTags.Base.FNumber.value
_ISO = ExifTags.Base.ISOSpeedRatings.value
_MAKE, _MODEL = ExifTags.Base.Make.value, ExifTags.Base.Model.value
_SERIAL = ExifTags.Base.BodySerialNumber.value
_SIZE_TAGS = (ExifTags.Base.ExifImageWidth.value, ExifTags.Base.ExifImageHeight.value)


def capture_time(exif: Image.Exif) -> datetime | None:
    """When the picture was taken, in the camera's own time; None when the file doesn't say."""
    inner = exif.get_ifd(_EXIF_IFD)
    for text in (inner.get(_TAKEN), inner.get(_DIGITIZED), exif.get(_CHANGED)):
        try:
            moment = datetime.strptime(str(text).strip("\x00 "), "%Y:%m:%d %H:%M:%S")
        except ValueError:
            continue
        digits = "".join(c for c in str(inner.get(_SUBSECOND, "")) if c.isdigit())[:6]
        return moment + timedelta(microseconds=int(digits.ljust(6, "0"))) if digits else moment
    return None


def exposure_stops(exif: Image.Exif) -> float | None:
    """The exposure in stops: log2 of time × ISO / aperture², an ISO of 100 counting as one; None where a part of it is
    missing or nonsense.
    """
    inner = exif.get_ifd(_EXIF_IFD)
    try:
        time, aperture = float(inner[_TIME]), float(inner[_APERTURE])
        iso = inner[_ISO]
        speed = float(iso[0] if isinstance(iso, tuple) else iso)
        if min(time, aperture, speed) <= 0:
            return None
        return log2(time * speed / 100.0 / aperture**2)
    except (KeyError, TypeError, ValueError, ZeroDivisionError, IndexError, OverflowError):
        return None


def orientation(exif: Image.Exif) -> int:
    """1…8; 1 when missing or nonsense."""
    value = exif.get(ORIENTATION, 1)
    return value if isinstance(value, int) and 1 <= value <= 8 else 1


def copied(exif: Image.Exif) -> Image.Exif:
    """A copy to be written into. Its own texts (author, rights, maker) beyond ASCII are the bytes that they were read
    from: Pillow reads them byte by byte and would write a question mark for each.
    """
    copy = Image.Exif()
    copy.load(exif.tobytes())
    for tag, value in exif.items():
        if isinstance(value, str) and not value.isascii():
            copy[tag] = value.encode("latin-1", "replace")
        elif isinstance(value, bytes):
            copy[tag] = value
    return copy


def upright_exif(exif: Image.Exif, width: int, height: int, tagged: bool = True) -> bytes:
    """The EXIF for a delivered file: everything kept, but turned upright, which a tag says unless it is not ``tagged``,
    and of the new size; b"" if too long.
    """
    copy = copied(exif)
    copy[ORIENTATION] = 1
    if not tagged:
        del copy[ORIENTATION]
    inner = copy.get_ifd(_EXIF_IFD)
    for tag, value in zip(_SIZE_TAGS, (width, height), strict=True):
        if tag in inner:
            inner[tag] = value
    data = copy.tobytes()
    return data if len(data) < 65_000 else b""


def camera_name(exif: Image.Exif) -> str:
    """Maker, model and serial number of a camera, as far as a file names them; "" where it names none."""
    inner = exif.get_ifd(_EXIF_IFD)
    parts = [exif.get(_MAKE), exif.get(_MODEL), inner.get(_SERIAL)]
    return " ".join(" ".join(str(part).strip("\x00 ").split()) for part in parts if part)[:160]


def header(path: Path) -> Image.Exif:
    """The EXIF of a photograph that came in, without its pixels; an empty one where it has none."""
    try:
        if is_raw(path.name):
            return raw_exif(path)
        with Image.open(path) as image:
            return image.getexif()
    except (OSError, ValueError, SyntaxError):
        return Image.Exif()
