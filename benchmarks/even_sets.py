"""What evening is measured on: frames put off as a camera would have, and shoots that nothing was tuned on."""

import json
from collections import defaultdict
from pathlib import Path

import cv2
import numpy as np
from PIL import ExifTags, Image

from lenskeep.core.colour.adapt import balance_matrix
from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import frames
from lenskeep.store.frames import FrameRow
from lenskeep.studio import bring_in
from lenskeep.studio import find as finding
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from tools.known import UNSEEN
from tools.photos.camera import filmic

SETTINGS = Path(__file__).parents[1] / "tools" / "photos" / "shoots"
FOURTH, MIXED = UNSEEN[2], UNSEEN[1]
"""A shoot of three places, each in one light; and places that were taken in several lights or before several papers,
held against each other all the same, as no scene would be: a dusk beside a noon.
"""
FRAMINGS = (((0.0, 0.0, 1.0, 1.0), 0.0), ((0.05, 0.06, 0.93, 0.94), 0.45), ((0.1, 0.02, 1.0, 0.92), -0.55))
"""Parts of a picture (x0, y0, x1, y1), and how many EV each is exposed more than it should be."""
LONG_SIDE = 1200


def altered(picture: np.ndarray, off: np.ndarray, light: np.ndarray | None, contrast: float) -> np.ndarray:
    """A frame's picture, put off linearly, or (``light`` under the demo's curve) developed again."""
    matrix = balance_matrix(*off).T.astype(np.float32)
    if light is None:
        return np.clip(picture @ matrix, 0, 1).astype(np.float32)
    turned = (light @ SRGB_TO_REC2020.T @ matrix @ REC2020_TO_SRGB.T).astype(np.float32)
    return rec2020_of(developed(turned, contrast))


def developed(light: np.ndarray, contrast: float) -> np.ndarray:
    """Light, linear sRGB, through the demo's film curve to 8 bits, as 0…1."""
    return np.asarray(np.rint(filmic(np.maximum(light, 0.0), contrast) * 255.0) / 255.0)


def light_of(picture: np.ndarray, contrast: float) -> np.ndarray:
    """The light that the demo's film curve drew like this, linear sRGB."""
    drawn = np.clip(encoded_srgb(np.clip(picture @ REC2020_TO_SRGB.T, 0, 1)), 0, 1)
    light = np.linspace(0.0, 4.0, 200_001)
    curve = filmic(light, contrast)
    top = int(np.argmax(curve >= 0.99999)) + 1
    return np.interp(drawn, curve[:top], light[:top])


def rec2020_of(drawn: np.ndarray) -> np.ndarray:
    linear = np.where(drawn <= 0.04045, drawn / 12.92, ((drawn + 0.055) / 1.055) ** 2.4)
    return np.asarray(linear @ SRGB_TO_REC2020.T, np.float32)


def encoded_srgb(linear: np.ndarray) -> np.ndarray:
    return np.where(linear < 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055)


def contrasts() -> dict[str, float]:
    """The film curve's contrast of each scene, by "folder, scene"."""
    out = {}
    for path in SETTINGS.glob("*.json"):
        shoot = json.loads(path.read_text())
        out |= {f"{shoot['folder']}, {name}": s["contrast"] for name, s in shoot["settings"].items()}
    return out


def unseen_shoot(home: Path, folder: Path) -> tuple[Library, dict[str, list[FrameRow]]]:
    """A shoot made of the renders in ``folder``, each framed three times and exposed otherwise, as its EXIF says;
    brought in, and its masks found. Returns its frames by scene.
    """
    facts, film = json.loads((folder / "facts.json").read_text()), contrasts()
    home.mkdir(parents=True, exist_ok=True)
    library, scene_of = Library(home / "library"), {}
    shoot = bring_in.create_shoot(library, folder.name)
    names = sorted(facts["frames"], key=lambda n: (facts["frames"][n]["scene"], n))
    for number, name in enumerate(names):
        scene = f"{folder.name}, {facts['frames'][name]['scene']}"
        picture = read_photo(folder / f"{name}.jpg").reduced(LONG_SIDE)
        for k, (part, ev) in enumerate(FRAMINGS):
            path = home / f"{name}_{k}.jpg"
            _write(path, picture, part, ev, film[scene], 60 * number + 4 * k)
            bring_in.receive(library, shoot, path, path.name)
            scene_of[path.name] = scene
    finding.queue_finding(library, shoot)
    make_runner(library).run_until_idle()
    out: dict[str, list[FrameRow]] = defaultdict(list)
    for frame in frames.frames(library.db, shoot):
        out[scene_of[frame.file_name]].append(frame)
    return library, out


def _write(path: Path, picture: np.ndarray, part: tuple[float, ...], ev: float, contrast: float, second: int) -> None:
    h, w = picture.shape[:2]
    x0, y0, x1, y1 = (round(v * size) for v, size in zip(part, (w, h, w, h), strict=True))
    light = light_of(np.ascontiguousarray(picture[y0:y1, x0:x1]), contrast) * 2.0**ev
    pixels = np.asarray(developed(light, contrast) * 255.0, np.uint8)
    exif = Image.Exif()
    inner = exif.get_ifd(ExifTags.IFD.Exif.value)
    inner[ExifTags.Base.DateTimeOriginal.value] = (
        f"2026:10:03 {9 + second // 3600:02d}:{second % 3600 // 60:02d}:{second % 60:02d}"
    )
    inner[ExifTags.Base.ExposureTime.value] = 2.0**ev / 250.0
    inner[ExifTags.Base.FNumber.value], inner[ExifTags.Base.ISOSpeedRatings.value] = 2.8, 400
    Image.fromarray(cv2.resize(pixels, (w, h), interpolation=cv2.INTER_CUBIC)).save(path, quality=92, exif=exif)
