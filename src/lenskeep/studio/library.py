"""The library: one folder with the database, the originals, what was computed, and the deliveries."""

import os
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from lenskeep.core.detect.find import DETECTOR
from lenskeep.store.database import Database

DEFAULT_HOME = Path.home() / ".lenskeep"


def home_from_environment() -> Path:
    """``LENSKEEP_HOME``, or ~/.lenskeep."""
    return Path(os.environ.get("LENSKEEP_HOME") or DEFAULT_HOME).expanduser().resolve()


@dataclass
class Library:
    """Opens (and makes, on first use) the library in ``home``."""

    home: Path

    @cached_property
    def db(self) -> Database:
        return Database(self.home / "library.sqlite")

    def original(self, sha256: str, suffix: str) -> Path:
        """The unaltered file that was brought in."""
        return self.home / "originals" / sha256[:2] / f"{sha256}{suffix}"

    def computed(self, sha256: str) -> "Computed":
        return Computed(self.home / "computed" / sha256[:2] / sha256)

    def result(self, key: str) -> Path:
        """A finished picture at screen size."""
        return self.home / "results" / key[:2] / f"{key}.jpg"

    def tile(self, key: str) -> Path:
        """The same, small enough for the wall."""
        return self.home / "results" / key[:2] / f"{key}.tile.jpg"

    def delivery(self, job_id: int) -> Path:
        """The folder of a hand-over."""
        return self.home / "deliveries" / f"{job_id:05d}"

    def sweep_drafts(self) -> None:
        """Remove the drafts that a kill left behind. Only for whoever alone runs this library's jobs."""
        for folder in ("computed", "results", "deliveries"):
            for draft in (self.home / folder).rglob(".*.part"):
                draft.unlink(missing_ok=True)

    def incoming(self) -> Path:
        folder = self.home / "incoming"
        folder.mkdir(parents=True, exist_ok=True)
        return folder


@dataclass(frozen=True)
class Computed:
    """What was computed from one original. Masks carry the detectors' version in their names."""

    folder: Path

    @property
    def base(self) -> Path:
        """The untouched picture at screen size, sRGB."""
        return self.folder / "base.jpg"

    @property
    def thumb(self) -> Path:
        return self.folder / "thumb.jpg"

    def mask(self, name: str) -> Path:
        """A mask by name; empty ones are not written. ``pieces`` is the map of pieces."""
        return self.folder / f"{DETECTOR}.{name}.png"

    @property
    def complete(self) -> bool:
        masks = (self.mask(name) for name in ("subject", "sky", "pieces"))
        return all(p.is_file() for p in (self.base, self.thumb, *masks))
