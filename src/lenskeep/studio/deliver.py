"""Handing over: finished JPEGs from the originals, a CSV of what was applied, a ZIP or a folder."""

import csv
import io
import re
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

from pydantic import BaseModel, Field

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.plan import Plan, make_plan
from lenskeep.files.archive import pack
from lenskeep.files.written import write_whole, written_whole
from lenskeep.store import frames, jobs, recipes, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.store.recipes import Look
from lenskeep.studio import tasks
from lenskeep.studio.library import Library

KIND = "export"
SHEET = "what-was-applied.csv"
COLUMNS = (
    "file", "original", "taken", "recipe", "version", "look strength", "frame strength", "steps changed",
    "subject trust", "sky trust", "doubts", "missing", "accepted by hand",
)  # fmt: skip


class DeliveryOptions(BaseModel):
    """What leaves, in which form. ``folder`` None means a ZIP in the library, to be downloaded."""

    quality: int = Field(default=92, ge=40, le=100)
    long_side: int | None = Field(default=None, ge=200, le=20000)
    space: OutputSpace = "srgb"
    folder: str | None = None
    names: dict[int, str] = {}


def queue_delivery(library: Library, shoot_id: int, options: DeliveryOptions) -> int:
    """Queue a hand-over of every frame with masks; returns the job. Raises ValueError with what to do."""
    if options.folder is not None:
        folder = Path(options.folder).expanduser()
        if not folder.is_absolute():
            raise ValueError("Give the whole path of the folder, from the root.")
        if folder.exists() and not folder.is_dir():
            raise ValueError(f"{folder} is a file, not a folder.")
    rows = [f for f in frames.frames(library.db, shoot_id, DETECTOR) if f.facts is not None]
    if not rows:
        raise ValueError("No frame of this shoot is ready yet. Let the finding end first.")
    named = options.model_copy(update={"names": delivery_names(rows)})
    return jobs.add_job(library.db, KIND, shoot_id, [f.id for f in rows], named.model_dump())


def delivery_names(rows: list[FrameRow]) -> dict[int, str]:
    """A file name for every frame: its own, made safe, as .jpg; equal ones are numbered."""
    taken: set[str] = set()
    names = {}
    for frame in rows:
        stem = re.sub(r"[^\w .()+-]", "_", Path(frame.file_name).stem).strip(" .") or f"frame-{frame.id}"
        name, number = f"{stem}.jpg", 2
        while name.lower() in taken:
            name, number = f"{stem}-{number}.jpg", number + 1
        taken.add(name.lower())
        names[frame.id] = name
    return names


def zip_of(library: Library, job: jobs.Job) -> Path:
    """Where a hand-over's ZIP lies."""
    shoot = shoots.shoot(library.db, job.shoot_id or 0)
    stem = re.sub(r"[^\w.-]+", "-", shoot.name if shoot else "shoot").strip("-.") or "shoot"
    return library.delivery(job.id) / f"{stem}.zip"


def sheet(rows: list[FrameRow], look: Look | None, names: dict[int, str]) -> str:
    """The CSV of what was applied, one row a frame."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for f in rows:
        if f.id not in names or f.facts is None:
            continue
        changed = "; ".join(_step_words(k, v.enabled, v.strength) for k, v in sorted(f.override.steps.items()))
        writer.writerow(
            [
                names[f.id], _plain(f.file_name), f.taken_at or "",
                _plain(look.version.name) if look else "", look.version.version if look else "",
                look.strength if look else "", f.override.strength, _plain(changed),
                f.facts.subject.trust, f.facts.sky.trust, " ".join(f.facts.reasons), " ".join(f.missing),
                "yes" if f.accepted else "",
            ]
        )  # fmt: skip
    return out.getvalue()


def _plain(text: str) -> str:
    """Text that a spreadsheet does not take for a formula."""
    return "'" + text if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


def _step_words(step_id: str, enabled: bool | None, strength: float | None) -> str:
    words = [] if enabled is None else ["on" if enabled else "off"]
    return f"{step_id} {' '.join(words + ([] if strength is None else [f'at {strength:g}']))}"


class Delivering:
    """Handler of "export" jobs."""

    def __init__(self, library: Library) -> None:
        self.library = library

    @property
    def run(self) -> Callable[[Any], Any]:
        return tasks.deliver_frame

    def _folder(self, job: jobs.Job) -> Path:
        folder = job.options.get("folder")
        return Path(folder).expanduser() if folder else self.library.delivery(job.id) / "files"

    def prepare(self, job: jobs.Job, frame_id: int | None) -> tasks.DeliverTask | None:
        frame = frames.frame(self.library.db, frame_id or 0, DETECTOR)
        if frame is None or frame.facts is None:
            raise ValueError("This frame is no longer ready. Find its masks again and resume.")
        options = DeliveryOptions.model_validate(job.options)
        look = recipes.look(self.library.db, frame.shoot_id)
        plan = make_plan(look.version.recipe, look.strength, frame.override) if look else Plan(())
        return tasks.DeliverTask(
            original=self.library.original(frame.sha256, frame.suffix),
            name=frame.file_name,
            sha256=frame.sha256,
            computed=self.library.computed(frame.content),
            facts=frame.facts,
            plan=plan,
            target=self._folder(job) / options.names[frame.id],
            quality=options.quality,
            long_side=options.long_side,
            space=options.space,
            base=frame.base,
        )

    def record(self, job: jobs.Job, frame_id: int | None, result: Path) -> None:
        """The file itself is the record."""

    def failed(self, job: jobs.Job, frame_id: int | None, message: str) -> None:
        """The reason stays on the item and is shown with the hand-over."""

    def finish(self, job: jobs.Job) -> str:
        names = {int(k): v for k, v in DeliveryOptions.model_validate(job.options).names.items()}
        folder = self._folder(job)
        rows = [f for f in frames.frames(self.library.db, job.shoot_id or 0, DETECTOR) if f.id in names]
        look = recipes.look(self.library.db, job.shoot_id or 0)
        written = {f.id: names[f.id] for f in rows if (folder / names[f.id]).is_file()}
        write_whole(folder / SHEET, sheet(rows, look, written).encode("utf-8-sig"))
        if job.options.get("folder"):
            return f"{len(written)} files are in {folder}."
        target = zip_of(self.library, job)
        pack([(name, folder / name) for name in [*written.values(), SHEET]], target)
        for name in [*written.values(), SHEET]:
            (folder / name).unlink(missing_ok=True)
        return f"{len(written)} files are in {target.name}, ready to download."


def copy_zip(library: Library, job: jobs.Job, target: Path) -> None:
    """Copy a finished hand-over's ZIP, whole or not at all."""
    with written_whole(target) as draft:
        shutil.copyfile(zip_of(library, job), draft)
