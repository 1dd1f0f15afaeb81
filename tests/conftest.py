"""Made-up photographs and libraries for the tests."""

from collections.abc import Callable
from importlib.resources import files
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from lenskeep.core.facts import Box, Facts, Finding, Skyline
from lenskeep.core.regions import Found
from lenskeep.core.render import Frame
from lenskeep.studio.library import Library

DEMO = Path(str(files("lenskeep.demo") / "ferry-dogs"))
TRUTH = Path(__file__).parent.parent / "benchmarks" / "truth"


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
    exif = Image.Exif()
    if taken:
        exif.get_ifd(0x8769)[0x9003] = taken
    Image.fromarray(scene(height, width, seed)).save(path, quality=92, exif=exif)
    return path


def facts_for(height: int, width: int, **changes: object) -> Facts:
    data: dict[str, object] = {
        "detector": "test",
        "width": width,
        "height": height,
        "subject_box": Box(x0=0.35, y0=0.38, x1=0.65, y1=0.82),
        "skyline": Skyline(left=0.45, right=0.45),
        "subject": Finding(trust=0.95, area=0.1),
        "sky": Finding(trust=0.95, area=0.45),
    }
    return Facts.model_validate(data | changes)


def frame_of(linear: np.ndarray, **changes: object) -> Frame:
    """A frame with a disc as its subject and the upper 45 % as its sky."""
    h, w = linear.shape[:2]
    y, x = np.mgrid[:h, :w]
    subject = np.clip((0.22 * h - np.hypot(x - 0.5 * w, y - 0.6 * h)) / 2 + 0.5, 0, 1).astype(np.float32)
    sky = np.clip((0.45 * h - y) / 2, 0, 1).astype(np.float32)
    return Frame(linear, Found(subject, sky, facts_for(h, w, **changes)), h, w)


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "library")


@pytest.fixture
def photo_folder(tmp_path: Path) -> Callable[[int], Path]:
    """Makes a folder of so many photographs, a minute apart, named against their order in time."""

    def make(count: int) -> Path:
        folder = tmp_path / "card"
        for i in range(count):
            write_photo(folder / f"IMG_{900 - i}.jpg", i, f"2026:09:12 18:{i:02d}:00")
        return folder

    return make
