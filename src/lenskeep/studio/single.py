"""Plain files without a library: find and render along the same path as a shoot."""

import hashlib
from pathlib import Path

from lenskeep.core.detect.find import Findings, find
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.facts import Facts
from lenskeep.core.plan import Plan
from lenskeep.core.render import compile_plan, render
from lenskeep.core.types import LinearRGB
from lenskeep.files.jpeg import jpeg_bytes
from lenskeep.files.masks import full_size_mask, write_mask
from lenskeep.files.photo import Photo, read_photo, to_srgb8
from lenskeep.files.written import write_whole
from lenskeep.studio.prepared import framed
from lenskeep.studio.tasks import detectors

THREADS = 2


def _found(path: Path) -> tuple[Photo, LinearRGB, Findings]:
    photo = read_photo(path)
    proxy = photo.reduced(PROXY_SIDE)
    return photo, proxy, find(to_srgb8(proxy), detectors(THREADS), (photo.height, photo.width))


def photo_key(path: Path) -> str:
    """What names a photograph in what a recipe keeps for it alone: its content's hash, as in a library."""
    return hashlib.sha256(path.read_bytes()).hexdigest()


def detect_file(path: Path, out: Path) -> Facts:
    """Write NAME.subject.png, NAME.sky.png and so on (8-bit, the photograph's size) and NAME.json; masks with nothing
    in them only for subject and sky. Raises PhotoProblem.
    """
    photo, proxy, found = _found(path)
    for kind, mask in found.masks.items():
        write_mask(out / f"{path.stem}.{kind}.png", full_size_mask(mask, proxy, photo))
    write_whole(out / f"{path.stem}.json", (found.facts.model_dump_json(indent=2) + "\n").encode())
    return found.facts


def render_file(path: Path, plan: Plan, out: Path, quality: int) -> Path:
    """Write the finished JPEG as OUT/NAME.jpg and return its path. Raises PhotoProblem."""
    photo, proxy, found = _found(path)
    frame = framed(proxy, found, photo.height, photo.width, photo_key(path))
    pixels = render(compile_plan(plan, frame), photo.rows, photo.height, photo.width, THREADS)
    target = out / f"{path.stem}.jpg"
    write_whole(target, jpeg_bytes(pixels, quality, photo.exif))
    return target
