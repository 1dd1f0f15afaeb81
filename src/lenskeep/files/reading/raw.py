"""Camera raw files through LibRaw: as-shot white balance, highlights rebuilt, into linear Rec. 2020 of 16 bits."""

from datetime import datetime
from pathlib import Path

import numpy as np
import rawpy
import tifffile
from PIL import ExifTags, Image

from lenskeep.core.engine.planes import luminance
from lenskeep.core.types import LinearRGB
from lenskeep.files.problems import PhotoProblem

_KINDS = """
    3fr arw cr2 cr3 crw dcr dng erf fff iiq k25 kdc mef mos mrw nef nrw orf pef raf raw rw2 rwl sr2 srf srw x3f
"""
SUFFIXES = frozenset(f".{kind}" for kind in _KINDS.split())
SOFT_GAIN, SOFT_WHITE = 1.6, 4.0
"""The soft curve lifts middle grey by about a third of a stop and lays two stops over white into it."""


def is_raw(name: str) -> bool:
    return Path(name).suffix.lower() in SUFFIXES


def read_raw(path: Path, name: str) -> tuple[np.ndarray, float]:
    """(pixels (h, w, 3) uint16, linear Rec. 2020, upright; what 65535 stands for, 1 being the sensor's white).

    Raises PhotoProblem when it can't be read.
    """
    try:
        with rawpy.imread(str(path)) as raw:
            balance = [v for v in raw.camera_whitebalance[:3] if v > 0] or [1.0]
            pixels = raw.postprocess(
                gamma=(1, 1),
                no_auto_bright=True,
                output_bps=16,
                use_camera_wb=True,
                output_color=rawpy.ColorSpace.Rec2020,
                highlight_mode=rawpy.HighlightMode.ReconstructDefault,
            )
    except Exception as error:  # LibRaw's wrapper raises errors of many kinds
        raise PhotoProblem(
            f"{name} can't be read as a camera raw file. Is it whole? If the camera is very new, convert it to DNG."
        ) from error
    if pixels.ndim == 2 or pixels.shape[2] != 3:  # a sensor without colours, or with more than three
        pixels = np.repeat(pixels.reshape(*pixels.shape[:2], -1)[:, :, :1], 3, axis=2)
    # rebuilding highlights makes room for them: the channel with the largest gain is held at white
    return np.ascontiguousarray(pixels), max(balance) / min(balance)


_ORIENTATION = ExifTags.Base.Orientation.value


def raw_exif(path: Path) -> Image.Exif:
    """Capture time, make and model of a raw file built like a TIFF, as EXIF; empty when there is none."""
    exif = Image.Exif()
    try:
        with tifffile.TiffFile(path) as tiff:
            tags = tiff.pages.first.tags
            for tag in (ExifTags.Base.Make, ExifTags.Base.Model, ExifTags.Base.DateTime):
                if tag.value in tags:
                    exif[tag.value] = str(tags[tag.value].value)
            turned = tags[_ORIENTATION].value if _ORIENTATION in tags else 1
            if isinstance(turned, int) and 1 <= turned <= 8:
                exif[_ORIENTATION] = turned  # its pixels come upright; this says how the sensor lay
            inner = tags["ExifTag"].value if "ExifTag" in tags else {}
            taken = inner.get("DateTimeOriginal") if isinstance(inner, dict) else None
            if taken and _is_time(str(taken)):
                exif.get_ifd(ExifTags.IFD.Exif.value)[ExifTags.Base.DateTimeOriginal.value] = str(taken)
    except Exception:  # whatever is wrong with it: without EXIF the picture is still a picture
        pass
    return exif


def _is_time(text: str) -> bool:
    try:
        datetime.strptime(text, "%Y:%m:%d %H:%M:%S")
    except ValueError:
        return False
    return True


def soft(rgb: LinearRGB) -> LinearRGB:
    """The soft base curve: luminance through Reinhard et al. 2002, equation 4, colours kept in proportion."""
    y = luminance(rgb)
    lifted = y * np.float32(SOFT_GAIN)
    white = np.float32((SOFT_GAIN * SOFT_WHITE) ** 2)
    gain = np.float32(SOFT_GAIN) * (1.0 + lifted / white) / (1.0 + np.maximum(lifted, 0.0))
    return np.asarray(rgb * gain[..., None], np.float32)
