"""Orientation, capture time and the rest of a photograph's EXIF (CIPA DC-008)."""

from datetime import datetime, timedelta
from math import log2

from PIL import ExifTags, Image

ORIENTATION = ExifTags.Base.Orientation.value
_EXIF_IFD = ExifTags.IFD.Exif.value
_TAKEN = ExifTags.Base.DateTimeOriginal.value
_DIGITIZED = ExifTags.Base.DateTimeDigitized.value
_CHANGED = ExifTags.Base.DateTime.value
_SUBSECOND = ExifTags.Base.SubsecTimeOriginal.value
_TIME, _APERTURE = ExifTags.Base.ExposureTime.value, ExifTags.Base.FNumber.value
_ISO = ExifTags.Base.ISOSpeedRatings.value
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


def upright_exif(exif: Image.Exif, width: int, height: int) -> bytes:
    """The EXIF for a delivered file: everything kept, but turned upright and of the new size; b"" if too long."""
    copy = Image.Exif()
    copy.load(exif.tobytes())
    copy[ORIENTATION] = 1
    inner = copy.get_ifd(_EXIF_IFD)
    for tag, value in zip(_SIZE_TAGS, (width, height), strict=True):
        if tag in inner:
            inner[tag] = value
    data = copy.tobytes()
    return data if len(data) < 65_000 else b""
