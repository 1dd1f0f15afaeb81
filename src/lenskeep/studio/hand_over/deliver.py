"""Handing over: finished JPEGs from the originals, a CSV of what was applied, as a ZIP or into a folder."""

import shutil
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import Any

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.names import file_stem
from lenskeep.core.problems import UserProblem
from lenskeep.files import gallery
from lenskeep.files.archive import Packed, zip_bytes, zip_stream
from lenskeep.files.reading.photo import Base
from lenskeep.files.writing import FORMS
from lenskeep.files.written import check_writable, crc_of, sum_of, write_beside, write_whole, written_whole
from lenskeep.store import checks, deliveries, findings, frames, jobs, looks, scenes, shoots
from lenskeep.store.deliveries import FileMade
from lenskeep.store.frames import FrameRow
from lenskeep.studio import applying, pinned
from lenskeep.studio.hand_over.beside import ABOUT, GALLERY, MASKS, beside, in_library
from lenskeep.studio.hand_over.making import task_of
from lenskeep.studio.hand_over.names import delivery_names
from lenskeep.studio.hand_over.options import DeliveryOptions, leaving
from lenskeep.studio.hand_over.sheet import SHEET, SheetRow
from lenskeep.studio.library import Library
from lenskeep.studio.space import check_room, size_estimate
from lenskeep.studio.tasks.deliver import Delivered, DeliverTask, deliver_frame, put_in_place
from lenskeep.studio.wanting import read_override
from lenskeep.work.engines.carried import OutFolder, land

KIND = "export"


class Given(pinned.Given):
    """What a frame's item keeps of the moment it was queued in; ``name`` is that of its file."""

    name: str


def queue_delivery(library: Library, shoot_id: int, options: DeliveryOptions, way: str = "") -> int:
    """Queue a hand-over of every frame with masks, with the look and each frame's own changes as they are now; returns
    the job. Raises UserProblem with what to do.
    """
    folder = None if options.folder is None else _checked_folder(library, options.folder)
    shoot = shoots.shoot(library.db, shoot_id)
    if shoot is None:
        raise UserProblem("This shoot is no longer in the library.")
    rows = leaving(options, [f for f in frames.summaries(library.db, shoot_id) if f.found_by])
    own_scenes = {f.scene_id for f in rows}
    for scene_id in own_scenes:
        if (look := looks.look(library.db, scene_id)) is not None:
            look.stack()  # an unreadable one is refused here
    sizes = ((f.width, f.height) for f in rows)
    form = FORMS[options.form]
    wanted = size_estimate(sizes, form.bytes_a_pixel, options.quality, options.long_side)
    check_room(folder or library.home, wanted, "this hand-over")
    # the folder is asked before the transaction: it may be a slow disk, for which nobody else is to wait
    names = delivery_names(
        rows,
        form.suffix,
        (lambda name: _taken(library, folder / name)) if folder else lambda _: False,
        options.names,
        shoot.name,
        {scene.id: scene.name for scene in scenes.scenes(library.db, shoot_id)},
    )
    kept = options.model_dump(exclude={"frames"})
    kept["gallery_folder"] = _own_folder(library, folder, GALLERY, gallery.PAGE) if options.gallery else ""
    kept["masks_folder"] = _own_folder(library, folder, MASKS, ABOUT) if options.masks else ""
    kept["zip"] = f"{file_stem(f'{shoot.name} {way}'.strip(), 'shoot')}.zip"
    kept |= {"way": way, "shoot": shoot.name}
    kept["folder"] = str(folder) if folder else None
    target = str(folder.resolve()) if folder else ""
    with library.db.writing():
        now = frames.to_render(library.db, shoot_id, set(names), True)  # without those that went this moment
        given = {i: _given_text(own, base, scene, turn, names[i]) for i, own, base, scene, turn in now}
        kept |= pinned.pinned(library, {scene for *_, scene, _ in now})
        there = [f.id for f in rows if f.id in given]
        return jobs.add_job(library.db, KIND, shoot_id, there, kept, given, target=target)


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


def _own_folder(library: Library, folder: Path | None, first: str, known_by: str) -> str:
    """A folder within a hand-over for what goes with its files: never one that holds something of others. One of ours
    is known by a file in it that we wrote.
    """
    name, number = first, 2
    while folder is not None and (folder / name).exists() and not _ours(library, folder / name / known_by):
        name, number = f"{first}-{number}", number + 1
    return name


def _ours(library: Library, path: Path) -> bool:
    return path.is_file() and not _taken(library, path)


def _taken(library: Library, path: Path) -> bool:
    """Whether something lies there that we did not write, or that was changed since."""
    if not path.exists() and not path.is_symlink():
        return False
    ours = deliveries.written(library.db, str(path))
    there = path.lstat()
    return ours is None or (ours.bytes, ours.mtime_ns) != (there.st_size, there.st_mtime_ns)


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
    at = at.replace(year=min(max(at.year, 1980), 2107))  # a ZIP knows no other years; a clock may be wrong
    files = [Packed(m.name, folder / m.name, m.bytes, m.crc32, at) for m in made]
    if job.state != "done" or len(made) != job.done or _lost(files) or not (folder / SHEET).is_file():
        raise UserProblem("This hand-over is not whole: files of it are gone from the library. Hand over once more.")
    for path in in_library(folder):
        data = path.read_bytes()
        files.append(Packed(str(path.relative_to(folder)), path, len(data), crc_of(data), at))
    return files


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


def _readable(options: dict[str, Any]) -> dict[str, Any]:
    """A job's options; an earlier version kept each frame's name among them."""
    return {k: v for k, v in options.items() if k != "names" or isinstance(v, str)}


class Delivering:
    """Handler of "export" jobs."""

    run: Callable[[Any], Any] = staticmethod(deliver_frame)

    def __init__(self, library: Library) -> None:
        self.library = library
        self._looks = pinned.JobLooks(library)

    def _given(self, job: jobs.Job, item: jobs.Item, frame: FrameRow) -> Given:
        if item.given != "{}":
            return Given.model_validate_json(item.given)
        older = job.options.get("names", {})
        names: dict[str, str] = older if isinstance(older, dict) else {}  # of a job that an earlier version queued
        name = names.get(str(frame.id), f"frame-{frame.id}.jpg")
        return Given(override=frame.override, base=frame.raw_base, scene=frame.scene_id, turn=frame.turn, name=name)

    def prepare(self, job: jobs.Job, item: jobs.Item) -> DeliverTask | None:
        frame = frames.frame(self.library.db, item.frame_id or 0)
        if frame is None:
            raise UserProblem("This frame was taken out of the shoot.")
        own, options = self._given(job, item, frame), DeliveryOptions.model_validate(_readable(job.options))
        then = replace(frame, raw_base=own.base, turn=own.turn)
        by = frame.found_by or DETECTOR
        known, computed = findings.facts_of(self.library.db, then.content, by), self.library.computed(then.content, by)
        if known is None or not computed.holds(known[0]):
            if then.content == frame.content:
                findings.mark_waiting(self.library.db, frame.id)
            raise UserProblem(applying.NO_MASKS.format(frame.file_name))
        plan, folder = self._looks.of(job, own.scene)[1].plan(own.override), folder_of(self.library, job)
        task = task_of(self.library, then, known[0], computed, own.override, plan, options, own.name, folder)
        before = deliveries.written(self.library.db, str(folder / own.name)) if options.folder else None
        return replace(
            task,
            gallery=str(job.options.get("gallery_folder") or ""),
            small=OutFolder(self._small(job)) if options.contact else None,
            masks=str(job.options.get("masks_folder") or ""),
            outside=options.folder is not None,
            ours=before.sha256 if before else None,
        )

    def record(self, job: jobs.Job, item: jobs.Item, result: Delivered) -> None:
        made, folder = result.made, folder_of(self.library, job)
        outside = bool(job.options.get("folder"))
        if result.data is not None:  # made where our folders are not seen
            before = deliveries.written(self.library.db, str(folder / made.name)) if outside else None
            made = put_in_place(made, result.data, folder, outside, before.sha256 if before else None)
        land(result.small, self._small(job))
        for path, data in result.more.items():
            write_whole(folder / path, data)
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
        options = DeliveryOptions.model_validate(_readable(job.options))
        texts = beside(self.library, job, str(job.options.get("shoot", "")), options, rows, self._small(job))
        count = f"{len(made)} of {job.total} files are"
        if job.options.get("folder"):
            named = [self._put(folder / name, text).name for name, text in texts.items()]
            renamed = sum(bool(m.note) for m in made.values())
            words = f" {renamed} got another name, since theirs was taken." if renamed else ""
            told = f"{count} in {folder}, with {' and '.join(named)}.{words}"
        else:
            for name, text in texts.items():
                write_whole(folder / name, text)
            told = f"{count} ready to download as {zip_name(job)}."
        shutil.rmtree(self._small(job), ignore_errors=True)  # last: who is stopped before it makes the sheets again
        return told

    def _small(self, job: jobs.Job) -> Path:
        """Where the pictures of contact sheets wait."""
        return self.library.delivery(job.id) / "small"

    def _put(self, path: Path, text: bytes) -> Path:
        """Write what goes with the files; where its name is taken by others, under another one."""
        before = deliveries.written(self.library.db, str(path))
        target = write_beside(path, text, before.sha256 if before else None)
        self._note_written(target, sum_of(target))
        return target

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
                    own.name,
                    " ".join(checks.told(self.library.db, frame.id)).strip(),
                    own.base,
                    own.turn,
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
                self.record(job, item, Delivered(FileMade(name, len(data), crc_of(data), sum_of(path))))
        if lost:
            words = f"{len(lost)} files of this hand-over are gone from {folder}. Resume it to make them again."
            jobs.undo_items(self.library.db, lost, "Its file is gone.")
            raise UserProblem(words)
