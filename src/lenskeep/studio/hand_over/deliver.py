"""Handing over: finished JPEGs from the originals, a CSV of what was applied, as a ZIP or into a folder."""

import zlib
from collections.abc import Callable, Iterator, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from pydantic import BaseModel, Field, field_validator

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.names import file_stem
from lenskeep.core.problems import UserProblem
from lenskeep.files.archive import Packed, zip_bytes, zip_stream
from lenskeep.files.reading.photo import Base
from lenskeep.files.writing import FORMS
from lenskeep.files.writing.jpeg import JPEG
from lenskeep.files.written import check_writable, numbered, sum_of, write_beside, write_whole, written_whole
from lenskeep.store import checks, deliveries, findings, frames, jobs, looks, shoots
from lenskeep.store.deliveries import FileMade
from lenskeep.store.frames import FrameRow, FrameSummary
from lenskeep.studio import applying, pinned
from lenskeep.studio.hand_over.sheet import SHEET, SheetRow, sheet
from lenskeep.studio.library import Library
from lenskeep.studio.space import check_room, size_estimate
from lenskeep.studio.tasks.deliver import Delivered, DeliverTask, deliver_frame, put_in_place
from lenskeep.studio.tasks.frame_files import files_of
from lenskeep.studio.wanting import read_override
from lenskeep.work.engines.carried import InFile, OutFolder

KIND = "export"


class Given(pinned.Given):
    """What a frame's item keeps of the moment it was queued in; ``name`` is that of its file."""

    name: str


class DeliveryOptions(BaseModel):
    """What leaves, in which form. ``folder`` None means a ZIP to be downloaded; ``rejected`` frames leave only
    where that is asked for.
    """

    quality: int = Field(default=92, ge=40, le=100)
    long_side: int | None = Field(default=None, ge=200, le=20000)
    space: OutputSpace = "srgb"
    form: str = JPEG.name
    folder: str | None = None
    rejected: bool = False

    @field_validator("form")
    @classmethod
    def _is_known(cls, form: str) -> str:
        if form not in FORMS:
            raise ValueError("choose one of the forms that are offered")
        return form


def queue_delivery(library: Library, shoot_id: int, options: DeliveryOptions) -> int:
    """Queue a hand-over of every frame with masks, with the look and each frame's own changes as they are now; returns
    the job. Raises UserProblem with what to do.
    """
    folder = None if options.folder is None else _checked_folder(library, options.folder)
    shoot = shoots.shoot(library.db, shoot_id)
    with library.db.writing():
        found = [f for f in frames.summaries(library.db, shoot_id) if f.found_by]
        rows = [f for f in found if options.rejected or not f.rejected]
        if found and not rows:
            raise UserProblem("Every frame of this shoot is rejected. Tick that rejected ones leave, too.")
        if not rows or shoot is None:
            raise UserProblem("No frame of this shoot is ready yet. Let the finding end first.")
        own_scenes = {f.scene_id for f in rows}
        for scene_id in own_scenes:
            if (look := looks.look(library.db, scene_id)) is not None:
                look.stack()  # an unreadable one is refused here
        sizes = ((f.width, f.height) for f in rows)
        form = FORMS[options.form]
        wanted = size_estimate(sizes, form.bytes_a_pixel, options.quality, options.long_side)
        check_room(folder or library.home, wanted, "this hand-over")
        names = delivery_names(
            rows, form.suffix, (lambda name: _taken(library, folder / name)) if folder else lambda _: False
        )
        given = {
            i: _given_text(override, base, scene, turn, names[i])
            for i, override, base, scene, turn in frames.to_render(library.db, shoot_id, set(names), True)
        }
        kept = options.model_dump() | pinned.pinned(library, own_scenes)
        kept["zip"] = f"{file_stem(shoot.name, 'shoot')}.zip"
        kept["folder"] = str(folder) if folder else None
        return jobs.add_job(library.db, KIND, shoot_id, [f.id for f in rows], kept, given)


def _given_text(override: str, base: Base, scene: int, turn: int, name: str) -> str:
    return Given(override=read_override(override), base=base, scene=scene, turn=turn, name=name).model_dump_json()


def _checked_folder(library: Library, text: str) -> Path:
    """The folder to hand over into. Raises UserProblem."""
    if "\0" in text or any(len(part.encode()) > 255 for part in Path(text).parts):
        raise UserProblem("This is not the name of a folder. Type its whole path.")
    folder = Path(text).expanduser()
    if not folder.is_absolute():
        raise UserProblem("Give the whole path of the folder, from the root.")
    try:
        if library.holds(folder):
            raise UserProblem(f"{folder} is inside Lens Keep's own library. Choose a folder outside of it.")
        if folder.exists() and not folder.is_dir():
            raise UserProblem(f"{folder} is a file, not a folder.")
        folder.mkdir(parents=True, exist_ok=True)
        check_writable(folder)
    except OSError as error:
        raise UserProblem(f"{folder} can't be written to: {error.strerror or error}.") from error
    return folder


def _taken(library: Library, path: Path) -> bool:
    """Whether something lies there that we did not write, or that was changed since."""
    if not path.exists() and not path.is_symlink():
        return False
    ours = deliveries.written(library.db, str(path))
    there = path.lstat()
    return ours is None or (ours.bytes, ours.mtime_ns) != (there.st_size, there.st_mtime_ns)


def delivery_names(
    rows: Sequence[FrameSummary], suffix: str = JPEG.suffix, is_taken: Callable[[str], bool] = lambda _: False
) -> dict[int, str]:
    """A file name for every frame: its own, made safe, with the form's ending; equal and taken ones get numbers."""
    used: set[str] = set()
    names = {}
    for frame in rows:
        first = Path(f"{file_stem(Path(frame.file_name).stem, f'frame-{frame.id}')}{suffix}")
        name, number = first.name, 2
        while name.lower() in used or is_taken(name):
            name, number = numbered(first, number).name, number + 1
        used.add(name.lower())
        names[frame.id] = name
    return names


def folder_of(library: Library, job: jobs.Job) -> Path:
    """Where a hand-over's files lie: the folder that was asked for, or one in the library that a ZIP is made from."""
    folder = job.options.get("folder")
    return Path(str(folder)) if folder else library.delivery(job.id) / "files"


def zip_name(job: jobs.Job) -> str:
    """The name of a hand-over's ZIP, as it was when it was queued."""
    return str(job.options.get("zip") or "shoot.zip")


def packed(library: Library, job: jobs.Job) -> list[Packed]:
    """The files of a finished hand-over's ZIP. Raises UserProblem when it is not whole."""
    made, folder = deliveries.delivered(library.db, job.id), folder_of(library, job)
    at = datetime.fromisoformat(job.finished_at or job.created_at)
    files = [Packed(m.name, folder / m.name, m.bytes, m.crc32, at) for m in made]
    if job.state != "done" or len(made) != job.done or _lost(files) or not (folder / SHEET).is_file():
        raise UserProblem("This hand-over is not whole: files of it are gone from the library. Hand over once more.")
    text = (folder / SHEET).read_bytes()
    return [*files, Packed(SHEET, folder / SHEET, len(text), zlib.crc32(text), at)]


def old_zip(library: Library, job: jobs.Job) -> Path | None:
    """The ZIP that an earlier version of Lens Keep has left for a hand-over."""
    return next(iter(library.delivery(job.id).glob("*.zip")), None)


def write_zip(library: Library, job: jobs.Job, target: Path) -> None:
    """Write a finished hand-over's ZIP, whole or not at all. Raises UserProblem when something is there already."""
    files = packed(library, job)
    check_room(target.parent, zip_bytes(files) or sum(f.bytes for f in files), "the ZIP")
    if target.exists():
        raise UserProblem(f"{target} exists already. Choose another name.")
    with written_whole(target) as draft, draft.open("wb") as sink:
        for chunk in zip_stream(files):
            sink.write(chunk)


def _lost(files: list[Packed]) -> list[str]:
    """The names of the files that are not there, or not of the size they were written with."""
    return [f.name for f in files if not f.path.is_file() or f.path.stat().st_size != f.bytes]


class Delivering:
    """Handler of "export" jobs."""

    run: Callable[[Any], Any] = staticmethod(deliver_frame)

    def __init__(self, library: Library) -> None:
        self.library = library
        self._looks = pinned.JobLooks(library)

    def _given(self, job: jobs.Job, item: jobs.Item, frame: FrameRow) -> Given:
        if item.given != "{}":
            return Given.model_validate_json(item.given)
        names: dict[str, str] = job.options.get("names", {})  # of a job that an earlier version queued
        name = names.get(str(frame.id), f"frame-{frame.id}.jpg")
        return Given(override=frame.override, base=frame.raw_base, scene=frame.scene_id, turn=frame.turn, name=name)

    def prepare(self, job: jobs.Job, item: jobs.Item) -> DeliverTask | None:
        frame = frames.frame(self.library.db, item.frame_id or 0)
        if frame is None:
            raise UserProblem("This frame was taken out of the shoot.")
        own, options = self._given(job, item, frame), DeliveryOptions.model_validate(job.options)
        content = frames.content_of(frame.sha256, own.base, own.turn)
        by = frame.found_by or DETECTOR
        known, computed = findings.facts_of(self.library.db, content, by), self.library.computed(content, by)
        if known is None or not computed.holds(known[0]):
            if content == frame.content:
                findings.mark_waiting(self.library.db, frame.id)
            raise UserProblem(applying.NO_MASKS.format(frame.file_name))
        want, folder = self._looks.of(job, own.scene)[1], folder_of(self.library, job)
        plan = want.plan(own.override)
        before = deliveries.written(self.library.db, str(folder / own.name)) if options.folder else None
        return DeliverTask(
            original=InFile(self.library.original(frame.sha256, frame.suffix)),
            name=frame.file_name,
            sha256=frame.sha256,
            raw_base=own.base,
            turn=own.turn,
            frame=files_of(
                computed, content, known[0], self.library.asset_files(plan.assets()), own.override, own.base
            ),
            plan=plan,
            out=OutFolder(folder),
            file=own.name,
            quality=options.quality,
            long_side=options.long_side,
            space=options.space,
            form=options.form,
            outside=options.folder is not None,
            ours=before.sha256 if before else None,
        )

    def record(self, job: jobs.Job, item: jobs.Item, result: Delivered) -> None:
        made, folder = result.made, folder_of(self.library, job)
        outside = bool(job.options.get("folder"))
        if result.data is not None:  # made where our folders are not seen
            before = deliveries.written(self.library.db, str(folder / made.name)) if outside else None
            made = put_in_place(made, result.data, folder, outside, before.sha256 if before else None)
        deliveries.keep(self.library.db, job.id, item.id, made)
        if outside:
            self._note_written(folder / made.name, made.sha256)

    def _note_written(self, path: Path, sha256: str) -> None:
        there = path.stat()
        deliveries.note_written(self.library.db, str(path), sha256, there.st_size, there.st_mtime_ns)

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The reason stays on the item and is shown with the hand-over."""

    def finish(self, job: jobs.Job) -> str:
        self._check(job)
        for scene_id in job.options.get("looks", ("0",)):
            self._looks.of(job, int(scene_id))  # what is gone from the book is said here
        made = {m.item_id: m for m in deliveries.delivered(self.library.db, job.id)}
        folder = folder_of(self.library, job)
        rows = list(self._sheet_rows(job, made))
        text = sheet(rows).encode("utf-8-sig")
        renamed = sum(bool(m.note) for m in made.values())
        words = f" {renamed} got another name, since theirs was taken." if renamed else ""
        if not job.options.get("folder"):
            write_whole(folder / SHEET, text)
            return f"{len(made)} of {job.total} files are ready to download as {zip_name(job)}."
        before = deliveries.written(self.library.db, str(folder / SHEET))
        target = write_beside(folder / SHEET, text, before.sha256 if before else None)
        self._note_written(target, sum_of(target))
        return f"{len(made)} of {job.total} files are in {folder}, with {target.name}.{words}"

    def _sheet_rows(self, job: jobs.Job, made: dict[int, deliveries.Delivered]) -> Iterator[SheetRow]:
        for item, _ in jobs.items(self.library.db, job.id):
            frame = frames.frame(self.library.db, item.frame_id or 0) if item.id in made else None
            if frame is None:
                continue
            own = self._given(job, item, frame)
            content = frames.content_of(frame.sha256, own.base, own.turn)
            known = findings.facts_of(self.library.db, content, frame.found_by or DETECTOR)
            if known is not None:
                yield SheetRow(
                    made[item.id],
                    frame,
                    known[0],
                    self._looks.of(job, own.scene)[0],
                    own.override,
                    " ".join(checks.told(self.library.db, frame.id)).strip(),
                )

    def _check(self, job: jobs.Job) -> None:
        """A hand-over is whole: every item that is done has its file. Raises UserProblem, after which resuming makes
        what is missing again.
        """
        folder = folder_of(self.library, job)
        made = {m.item_id: m for m in deliveries.delivered(self.library.db, job.id)}
        lost = []
        for item, state in jobs.items(self.library.db, job.id):
            if state != "done":
                continue
            frame = frames.frame(self.library.db, item.frame_id or 0)
            name = made[item.id].name if item.id in made else self._given(job, item, frame).name if frame else ""
            path = folder / name
            if not name or not path.is_file() or (item.id in made and path.stat().st_size != made[item.id].bytes):
                lost.append(item.id)
            elif item.id not in made:  # made by an earlier version, which did not write it down
                data = path.read_bytes()
                self.record(job, item, Delivered(FileMade(name, len(data), zlib.crc32(data), sum_of(path))))
        if lost:
            words = f"{len(lost)} files of this hand-over are gone from {folder}. Resume it to make them again."
            jobs.undo_items(self.library.db, lost, "Its file is gone.")
            raise UserProblem(words)
