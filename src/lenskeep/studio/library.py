"""The library: one folder with the database, the originals, what was computed, and the deliveries."""

import fcntl
import os
import shutil
import uuid
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import IO

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.facts import Facts
from lenskeep.core.problems import UserProblem
from lenskeep.files.assets import Decoded
from lenskeep.files.written import holds
from lenskeep.store.assets import asset_bytes, asset_path
from lenskeep.store.database import Database
from lenskeep.studio.wanting import settle_library
from lenskeep.work.defects import log_into
from lenskeep.work.engines.carried import InFile

DEFAULT_HOME = Path.home() / ".lenskeep"
BASE_PICTURE, WORKING, THUMB = "base.jpg", "working.jxl", "thumb.jpg"
MEND = "Bring it in again on the Bench, or bring it back from a backup; then apply the look again."
FOLDERS = ("originals", "computed", "results", "deliveries", "incoming", "assets")


def home_from_environment() -> Path:
    """``LENSKEEP_HOME``, or ~/.lenskeep."""
    return Path(os.environ.get("LENSKEEP_HOME") or DEFAULT_HOME).expanduser().resolve()


@dataclass
class Library:
    """Opens (and makes, on first use) the library in ``home``. ``db`` raises LibraryProblem when that can't be."""

    home: Path

    @cached_property
    def db(self) -> Database:
        database = Database(self.home / "library.sqlite")
        log_into(self.home / "logs")
        settle_library(database)
        return database

    def original(self, sha256: str, suffix: str) -> Path:
        """The unaltered file that was brought in."""
        return self.home / "originals" / sha256[:2] / f"{sha256}{suffix}"

    def computed(self, sha256: str, found_by: str = DETECTOR) -> "Computed":
        """What was computed from a photograph; ``found_by`` names the detectors, "" those of today."""
        return Computed(self.home / "computed" / sha256[:2] / sha256, found_by or DETECTOR)

    def result(self, key: str) -> Path:
        """A finished picture at screen size."""
        return self.home / "results" / key[:2] / f"{key}.jpg"

    def tile(self, key: str) -> Path:
        """The same, small enough for the wall."""
        return self.home / "results" / key[:2] / f"{key}.tile.jpg"

    @cached_property
    def assets(self) -> Decoded:
        """Pictures and tables that recipes refer to."""
        return Decoded(lambda key: asset_bytes(self.db, key))

    def has_asset(self, key: str) -> bool:
        """Whether a picture or table is there as it came."""
        return holds(asset_path(self.db, key), key)

    def asset_files(self, keys: Iterable[str]) -> dict[str, InFile]:
        """The same as files that a task takes along. Raises UserProblem when one is gone or was altered, since the
        picture would be another than its look says.
        """
        paths = {key: asset_path(self.db, key) for key in keys}
        for key, path in paths.items():
            if not self.has_asset(key):
                how = "was altered" if path.is_file() else "is gone"
                raise UserProblem(f"A picture or table of the look {how} ({path}). {MEND}")
        return {key: InFile(path) for key, path in paths.items()}

    def delivery(self, job_id: int) -> Path:
        """The folder of a hand-over."""
        return self.home / "deliveries" / f"{job_id:05d}"

    def holds(self, path: Path) -> bool:
        """Whether a path lies inside the library, links followed."""
        return path.expanduser().resolve().is_relative_to(self.home.resolve())

    @contextmanager
    def scratch(self) -> Iterator[Path]:
        """A folder of one's own for files on their way in. It is locked for as long as it is used, so that whoever
        sweeps knows what a kill has left behind.
        """
        folder, handle = self._locked_folder()
        try:
            with handle:
                yield folder
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def _locked_folder(self) -> tuple[Path, IO[str]]:
        """A new folder with its lock. Whoever sweeps may take one between its making and its locking; then another."""
        while True:
            folder = self.home / "incoming" / uuid.uuid4().hex[:12]
            folder.mkdir(parents=True)
            try:
                handle = (folder / ".lock").open("w")
            except FileNotFoundError:
                continue
            fcntl.flock(handle, fcntl.LOCK_EX)
            if (folder / ".lock").exists():
                return folder, handle
            handle.close()

    @contextmanager
    def placing(self, alone: bool = False) -> Iterator[None]:
        """Held while an original is put in its place and written down; held ``alone`` while unused ones are swept."""
        with placing(self.home, alone):
            yield


@contextmanager
def placing(home: Path, alone: bool = False) -> Iterator[None]:
    """The same for whoever knows no more of a library than where it is."""
    home.mkdir(parents=True, exist_ok=True)
    with (home / "originals.lock").open("w") as handle:
        fcntl.flock(handle, fcntl.LOCK_EX if alone else fcntl.LOCK_SH)
        yield


def mask_names(areas: Iterable[str]) -> tuple[str, ...]:
    """Of the masks that every frame has, and those of some areas, with the map of pieces."""
    return ("subject", "sky", "pieces", *areas)


@dataclass(frozen=True)
class Computed:
    """What was computed from one original. Masks carry the version of the detectors that found them in their names, so
    that those of an earlier one stay until they are found anew.
    """

    folder: Path
    detector: str = DETECTOR

    @property
    def base(self) -> Path:
        """The untouched picture at screen size, sRGB."""
        return self.folder / BASE_PICTURE

    @property
    def working(self) -> Path:
        """What is rendered at screen size: the working copy, or, of frames found by an earlier version, that
        picture.
        """
        deep = self.folder / WORKING
        return deep if deep.is_file() else self.base

    @property
    def thumb(self) -> Path:
        return self.folder / THUMB

    def mask(self, name: str) -> Path:
        """A mask by name; ``pieces`` is the map of pieces."""
        return self.folder / f"{self.detector}.{name}.png"

    def held(self) -> list[Path]:
        """Its pictures, and every mask of these detectors, as far as they are there."""
        pictures = (self.base, self.folder / WORKING, self.thumb)
        return [p for p in (*pictures, *sorted(self.folder.glob(f"{self.detector}.*.png"))) if p.is_file()]

    def cleaned(self, key: str) -> Path:
        """What clean-up made of the photograph, by the key of its marks."""
        return self.folder / f"clean.{key}.npz"

    def holds(self, facts: Facts | None) -> bool:
        """Whether every file that the facts speak of is there."""
        return facts is not None and self.holds_masks(facts.areas)

    def holds_masks(self, areas: Iterable[str]) -> bool:
        """Whether the pictures, the masks that every frame has, and those of some areas are there."""
        try:
            there = {entry.name for entry in os.scandir(self.folder)}
        except OSError:
            return False
        masks = (self.mask(name).name for name in mask_names(areas))
        return {BASE_PICTURE, THUMB, *masks} <= there
