"""Made-up photographs, frames and libraries, for tests, benchmarks and pictures of the screens."""

import io
from functools import lru_cache
from importlib.resources import files
from pathlib import Path

import cv2
import numpy as np
import tifffile
from PIL import Image

from lenskeep.core.colour.spaces import rgb_to_xyz
from lenskeep.core.detect.find import DETECTOR, find, to_mask8
from lenskeep.core.engine.planes import PROXY_SIDE, smaller
from lenskeep.core.facts import Box, Facts, Finding, Piece, Skyline
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions import Found
from lenskeep.core.render import Frame
from lenskeep.files.assets import in_memory
from lenskeep.files.masks import mask_bytes
from lenskeep.files.reading.photo import linear_of, read_photo, to_srgb8
from lenskeep.files.working import working_bytes
from lenskeep.files.writing.jpeg import jpeg_bytes, jpeg_pixels
from lenskeep.files.written import write_whole
from lenskeep.store import findings, frames, scenes
from lenskeep.studio import bring_in
from lenskeep.studio.library import WORKING, Computed, Library
from lenskeep.studio.tasks.find import BASE_QUALITY, THUMB_QUALITY, detectors
from lenskeep.studio.tasks.frame_files import framed

DEMO = Path(str(files("lenskeep.demo") / "ferry-dogs"))
TRUTH = Path(__file__).parent.parent / "benchmarks" / "truth" / "ferry-dogs"


ASSETS: dict[str, bytes] = {}
"""Pictures and tables that made-up recipes refer to, by their keys."""


def scene(height: int = 120, width: int = 180, seed: int = 0) -> np.ndarray:
    """A made-up frame (h, w, 3) uint8: a graded sky, textured ground, a warm disc as the subject."""
    random = np.random.default_rng(seed)
    y, x = np.mgrid[:height, :width]
    sky = np.stack([150 + 60 * y / height, 180 + 40 * y / height, 230 + 0 * y], axis=-1)
    ground = np.stack([70 + 0 * y, 100 + 0 * y, 50 + 0 * y], axis=-1) + random.normal(0, 14, (height, width, 1))
    out = np.where((y < 0.45 * height)[..., None], sky, ground)
    disc = np.hypot(x - 0.5 * width, y - 0.6 * height) < 0.22 * height
    out[disc] = np.array([190, 120, 60]) + random.normal(0, 10, (int(disc.sum()), 1))
    return np.clip(out, 0, 255).astype(np.uint8)


def write_photo(path: Path, seed: int = 0, taken: str | None = None, height: int = 120, width: int = 180) -> Path:
    """A JPEG of ``scene``; ``taken`` as EXIF writes it."""
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(_photo(seed, taken, height, width))
    return path


@lru_cache(maxsize=256)  # hundreds of tests ask for the same few
def _photo(seed: int, taken: str | None, height: int, width: int) -> bytes:
    exif, out = Image.Exif(), io.BytesIO()
    if taken:
        exif.get_ifd(0x8769)[0x9003] = taken
    Image.fromarray(scene(height, width, seed)).save(out, "JPEG", quality=92, exif=exif)
    return out.getvalue()


def piece(label: int, kind: str, box: Box, area: float, colour: tuple[float, float, float]) -> Piece:
    return Piece(label=label, kind=kind, box=box, area=area, colour=colour)


def facts_for(height: int, width: int, **changes: object) -> Facts:
    data: dict[str, object] = {
        "detector": "test",
        "width": width,
        "height": height,
        "subject_box": Box(x0=0.35, y0=0.38, x1=0.65, y1=0.82),
        "skyline": Skyline(left=0.45, right=0.45),
        "subject": Finding(trust=0.95, area=0.1),
        "sky": Finding(trust=0.95, area=0.45),
        "areas": {"animals": 0.1, "greenery": 0.45},
        "pieces": [
            piece(1, "animal", Box(x0=0.35, y0=0.38, x1=0.65, y1=0.82), 0.1, (0.6, 0.06, 0.1)),
            piece(2, "sky", Box(x0=0, y0=0, x1=1, y1=0.45), 0.45, (0.8, -0.02, -0.05)),
            piece(3, "greenery", Box(x0=0, y0=0.45, x1=1, y1=1), 0.45, (0.45, -0.05, 0.06)),
        ],
    }
    return Facts.model_validate(data | changes)


def letters(text: str, face: str, height: int) -> np.ndarray:
    """Lettering good enough for tests: OpenCV's stroke font."""
    cover = np.zeros((height, height * len(text) // 2), np.uint8)
    cv2.putText(cover, text, (0, int(height * 0.75)), cv2.FONT_HERSHEY_DUPLEX, height / 45, 255, height // 24)
    return cover.astype(np.float32) / 255.0


def frame_of(linear: np.ndarray, **changes: object) -> Frame:
    """A frame with a disc as its subject, an animal, the upper 45 % as its sky and greenery below."""
    h, w = linear.shape[:2]
    y, x = np.mgrid[:h, :w]
    subject = np.clip((0.22 * h - np.hypot(x - 0.5 * w, y - 0.6 * h)) / 2 + 0.5, 0, 1).astype(np.float32)
    sky = np.clip((0.45 * h - y) / 2, 0, 1).astype(np.float32)
    ground = ((1 - subject) * (1 - sky)).astype(np.float32)
    masks = {"subject": subject, "sky": sky, "animals": subject, "greenery": ground}
    pieces = np.where(subject > 0.5, 1, np.where(sky > 0.5, 2, 3)).astype(np.uint8)
    found = Found(linear, masks, facts_for(h, w, **changes), pieces, "made-up", assets=in_memory(ASSETS))
    return Frame(linear, found, h, w, letters)


def found_on(linear: np.ndarray) -> Frame:
    """A frame with what the real detectors find on it."""
    proxy = np.ascontiguousarray(linear)
    return framed(proxy, find(to_srgb8(proxy), detectors(2)), *proxy.shape[:2], "this one")


def found_on_demo(name: str) -> Frame:
    """A demo frame by its file's name, of whichever shoot, with what the real detectors find on it."""
    [path] = DEMO.parent.glob(f"*/{name}")
    return found_on(read_photo(path).reduced(PROXY_SIDE))


@lru_cache(maxsize=256)
def _as_found(seed: int, height: int, width: int) -> dict[str, bytes]:
    """The pictures and masks that finding would leave of a photograph, by their names in the folder of its frame."""
    base = linear_of(jpeg_pixels(_photo(seed, None, height, width)))
    computed = Computed(Path())
    found = frame_of(smaller(base, PROXY_SIDE)).found
    masks = {name: to_mask8(found.mask(name)) for name in found.masks} | {"pieces": found.pieces}
    return {
        computed.base.name: jpeg_bytes(to_srgb8(base), BASE_QUALITY),
        WORKING: working_bytes(base),
        computed.thumb.name: jpeg_bytes(to_srgb8(base), THUMB_QUALITY),
    } | {computed.mask(name).name: mask_bytes(mask) for name, mask in masks.items()}


def ready_shoot(library: Library, folder: Path, count: int, height: int = 200, width: int = 300) -> int:
    """A shoot of so many frames with masks in place, written down without running the detectors.

    Every third frame is doubtful.
    """
    shoot_id = bring_in.create_shoot(library, "Ready")
    for i in range(count):
        path = write_photo(folder / f"IMG_{i:03d}.jpg", i, f"2026:09:12 18:{i // 60:02d}:{i % 60:02d}", height, width)
        [frame_id] = bring_in.receive(library, shoot_id, path, path.name).frame_ids
        with library.db.writing() as write:  # at once, before a server that is running begins to find
            write.execute("DELETE FROM jobs WHERE shoot_id = ? AND kind = 'find'", (shoot_id,))
        row = frames.frame(library.db, frame_id)
        assert row is not None
        computed = library.computed(row.sha256)
        for name, data in _as_found(i, height, width).items():
            write_whole(computed.folder / name, data)
        doubt = {"trust": 0.4, "area": 0.1, "reasons": ["Subject and sky overlap."]} if i % 3 == 2 else None
        facts = facts_for(
            height, width, detector=DETECTOR, **({"subject": Finding.model_validate(doubt)} if doubt else {})
        )
        findings.keep_facts(library.db, row.sha256, facts, frame_id)
        scenes.set_key_frame(library.db, row.scene_id, frame_id, only_first=True)
    return shoot_id


def look_recipe(name: str = "Evening", ev: float = 0.5) -> Recipe:
    """Lifts the subject, darkens the background and the sky."""
    parts = (("subject", "exposure", ev), ("background", "exposure", -ev), ("sky", "highlights", -40))
    steps = [
        {
            "id": where,
            "name": where.capitalize(),
            "region": {"parts": [{"kind": where}]},
            "adjustments": [{"kind": kind, ("ev" if kind == "exposure" else kind): value}],
        }
        for where, kind, value in parts
    ]
    return Recipe.model_validate({"name": name, "steps": steps})


WHITE = 16383
"""What a made-up sensor gives for white."""


def write_dng(path, linear: np.ndarray) -> None:
    """A colour-filter DNG of linear sRGB (h, w, 3), whose camera sees half the red and .7 of the blue."""
    h, w = linear.shape[:2]
    y, x = np.mgrid[:h, :w]
    red, blue = (y % 2 == 0) & (x % 2 == 0), (y % 2 == 1) & (x % 2 == 1)
    mosaic = np.where(red, linear[..., 0] * 0.5, np.where(blue, linear[..., 2] * 0.7, linear[..., 1]))
    data = np.clip(mosaic * WHITE, 0, WHITE).astype(np.uint16)
    to_camera = [v for k in np.linalg.inv(rgb_to_xyz("srgb")).ravel() for v in (round(k * 10000), 10000)]
    tags = [
        (33421, "H", 2, (2, 2), True), (33422, "B", 4, bytes([0, 1, 1, 2]), True),
        (50706, "B", 4, bytes([1, 4, 0, 0]), True), (50707, "B", 4, bytes([1, 1, 0, 0]), True),
        (50708, "s", 0, "Made-up Camera", True), (50721, "2i", 9, tuple(to_camera), True),
        (50728, "2I", 3, (5000, 10000, 10000, 10000, 7000, 10000), True), (50778, "H", 1, 21, True),
        (50717, "I", 1, WHITE, True), (50714, "I", 1, 0, True),
        (271, "s", 0, "Made-up", True), (306, "s", 0, "2026:09:12 18:30:05", True),
    ]  # fmt: skip
    tifffile.imwrite(path, data, photometric=32803, extratags=tags, metadata=None)
