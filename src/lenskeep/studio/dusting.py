"""Dust of a shoot: looked for on its frames, confirmed or dropped once for each camera, healed wherever it is seen."""

import json
from collections import Counter
from collections.abc import Callable, Collection
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from lenskeep.core.clean.dust import Speck
from lenskeep.core.clean.models import CleanUp, Healed, Mark
from lenskeep.core.clean.sensor import to_frame, to_sensor
from lenskeep.core.problems import UserProblem
from lenskeep.files.reading.photo import to_srgb8
from lenskeep.files.working import read_working
from lenskeep.files.writing.jpeg import preview_jpeg
from lenskeep.store import dust, frames, jobs
from lenskeep.store.dust import Dust
from lenskeep.store.frames import FrameRow
from lenskeep.studio import basing, deeds
from lenskeep.studio.applying import frame_there, queue_stale
from lenskeep.studio.cameras import learn_cameras
from lenskeep.studio.gathered import Gathered
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.dust import HealTask, SearchTask, heal_dust, search
from lenskeep.work.engines.carried import InFile, OutFolder, land

SEARCH, HEAL = "dust", "dust-heal"
DUSTED = Gathered(HEAL, "dusted")
MOST_LOOKED_AT, LEAST_LOOKED_AT = 60, 3
BY_HAND_RADIUS = 0.004
RAISED = 2.0
_MARKS: TypeAdapter[tuple[Healed, ...]] = TypeAdapter(tuple[Healed, ...])


def queue_search(library: Library, shoot_id: int) -> int:
    """Queue looking for dust, one item a camera; returns the job. Raises UserProblem with too few frames."""
    learn_cameras(library, shoot_id)
    ready = {f.id for f in frames.summaries(library.db, shoot_id) if f.found}
    own = [s for s in dust.stored(library.db, shoot_id) if s.frame_id in ready]
    counted = Counter(s.camera for s in own)
    enough = [name for name, count in counted.most_common() if count >= LEAST_LOOKED_AT]
    if not enough:
        raise UserProblem(f"Dust is told by its place on at least {LEAST_LOOKED_AT} frames of a camera. Bring in more.")
    given = []
    for name in enough:
        of = [s.frame_id for s in own if s.camera == name]
        every = max(1.0, len(of) / MOST_LOOKED_AT)
        given.append(json.dumps({"camera": name, "frames": [of[int(k * every)] for k in range(int(len(of) / every))]}))
    return jobs.add_job(library.db, SEARCH, shoot_id, [None] * len(given), given=given, lane=jobs.NEXT)


class Searching:
    """Handler of "dust" jobs: a camera an item."""

    run: Callable[[Any], Any] = staticmethod(search)

    def __init__(self, library: Library) -> None:
        self.library = library

    def _frames(self, item: jobs.Item) -> list[FrameRow]:
        chosen = json.loads(item.given)["frames"]
        found = (frames.frame(self.library.db, i) for i in chosen)
        return [f for f in found if f is not None and self.library.computed(f.content).working.is_file()]

    def prepare(self, job: jobs.Job, item: jobs.Item) -> SearchTask | None:
        rows = self._frames(item)
        lay = {s.frame_id: s.orientation for s in dust.stored(self.library.db, job.shoot_id or 0)}
        return SearchTask(
            tuple(InFile(basing.working_of(self.library, f)) for f in rows),
            tuple(lay.get(f.id, 1) for f in rows),
            tuple(f.turn for f in rows),
        )

    def record(self, job: jobs.Job, item: jobs.Item, result: list[Speck]) -> None:
        if job.shoot_id is None:
            return
        camera, rows = str(json.loads(item.given)["camera"]), self._frames(item)
        made = [
            Dust(0, camera, s.x, s.y, s.radius, "found", False, s.evidence, s.seen, s.calm, job.shoot_id,
                 tuple(rows[n].id for n in s.shows if n < len(rows)))
            for s in result
        ]  # fmt: skip
        dust.keep_found(self.library.db, camera, job.shoot_id, made)

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The item keeps the reason."""

    def finish(self, job: jobs.Job) -> str:
        own = dust.cameras(self.library.db, job.shoot_id or 0)
        count = sum(len([d for d in dust.of_camera(self.library.db, c) if d.state != "dropped"]) for c in own)
        if not count:
            return "No dust was found."
        return f"{count} {'speck' if count == 1 else 'specks'} of dust. Look at them, then confirm or drop each."


def of_shoot(library: Library, shoot_id: int) -> list[Dust]:
    """What is known of the sensors of a shoot's cameras, without what was dropped."""
    known = (d for camera in dust.cameras(library.db, shoot_id) for d in dust.of_camera(library.db, camera))
    return [d for d in known if d.state != "dropped"]


def where(library: Library, frame: FrameRow, some: Collection[Dust]) -> list[tuple[float, float, float]]:
    """Where specks of its camera lie on an upright frame, with their radii."""
    own = dust.stored_one(library.db, frame.id)
    if own is None:
        return []
    return [(*to_frame((d.x, d.y), own.orientation, frame.turn), d.radius) for d in some if d.camera == own.camera]


def add_by_hand(library: Library, frame_id: int, x: float, y: float) -> None:
    """A speck that somebody saw on a frame, at a place of it. Raises UserProblem."""
    frame = frame_there(library, frame_id)
    learn_cameras(library, frame.shoot_id)
    own = dust.stored_one(library.db, frame_id)
    if own is None:
        raise UserProblem("Nothing is known of the camera of this frame.")
    dust.add(library.db, own.camera, frame.shoot_id, *to_sensor((x, y), own.orientation, frame.turn), BY_HAND_RADIUS)


def queue_heal(library: Library, shoot_id: int, frame_ids: Collection[int] | None = None) -> int:
    """Queue healing confirmed dust on a shoot's frames, or some of them; returns the job. Raises UserProblem."""
    learn_cameras(library, shoot_id)
    if not any(d.state == "confirmed" for d in of_shoot(library, shoot_id)):
        raise UserProblem("Confirm first which specks are dust.")
    own = [f.id for f in frames.summaries(library.db, shoot_id) if f.found and (frame_ids is None or f.id in frame_ids)]
    if not own:
        raise UserProblem("No frame of this shoot is ready yet. Let the finding end first.")
    return jobs.add_job(library.db, HEAL, shoot_id, own, lane=jobs.NEXT)


class Healing:
    """Handler of "dust-heal" jobs: a frame an item; all frames get their marks as one deed at the end."""

    run: Callable[[Any], Any] = staticmethod(heal_dust)

    def __init__(self, library: Library) -> None:
        self.library = library

    def prepare(self, job: jobs.Job, item: jobs.Item) -> HealTask | None:
        frame = frames.frame(self.library.db, item.frame_id or 0)
        if frame is None:
            return None
        known = [d for d in of_shoot(self.library, frame.shoot_id) if d.state == "confirmed"]
        computed, clean = self.library.computed(frame.content), frame.override.clean
        return HealTask(
            InFile(self.library.original(frame.sha256, frame.suffix)),
            frame.file_name,
            frame.sha256,
            frame.raw_base,
            frame.turn,
            tuple(where(self.library, frame, known)),
            clean,
            InFile(computed.cleaned(clean.key() or "none")),
            OutFolder(computed.folder),
            computed.cleaned("{}").name,
        )

    def record(self, job: jobs.Job, item: jobs.Item, result: Any) -> None:
        frame = frames.frame(self.library.db, item.frame_id or 0)
        if frame is None or not result.marks:
            return
        land(result.made, self.library.computed(frame.content).folder)
        DUSTED.keep(self.library, job, frame.id, _MARKS.dump_json(result.marks))

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The frame stays as it is; the item keeps the reason."""

    def finish(self, job: jobs.Job) -> str:
        made = {i: _MARKS.validate_json(data) for i, data in DUSTED.read(self.library, job).items()}
        if job.shoot_id is None or not made:
            return "On no frame a confirmed speck is to be seen."
        count = sum(len(marks) for marks in made.values())
        words = f"healing {count} specks of dust on {len(made)} {'frame' if len(made) == 1 else 'frames'}"
        with deeds.doing(self.library, job.shoot_id, words, list(made)):
            changed = deeds.change_overrides(
                self.library, list(made), lambda f: f.override.with_clean(_with(f.override.clean, made[f.id]))
            )
            queue_stale(self.library, job.shoot_id, changed)
        DUSTED.drop(self.library, job)
        return f"Done: {words}. Undo on the wall takes all of it back."


def _with(clean: CleanUp, marks: Collection[Mark]) -> CleanUp:
    """With those marks that it has not yet: a job that was killed at its end does it again."""
    return clean.with_marks(mark for mark in marks if mark not in clean.done)


def crop(library: Library, frame: FrameRow, dust_id: int) -> bytes:
    """A small JPEG of a speck's place on a frame, with its contrast raised. Raises UserProblem."""
    known = [d for d in of_shoot(library, frame.shoot_id) if d.id == dust_id]
    places = where(library, frame, known)
    if not places:
        raise UserProblem("This speck is no longer known. Reload the page.")
    picture = read_working(basing.working_of(library, frame))
    (x, y, radius), (h, w) = places[0], picture.shape[:2]
    half = max(24, round(4.0 * radius * max(h, w)))
    cx, cy = (min(max(round(at * size), half), size - half) for at, size in ((x, w), (y, h)))
    part = picture[max(0, cy - half) : cy + half, max(0, cx - half) : cx + half]
    middle = np.median(part.reshape(-1, 3), axis=0)
    return preview_jpeg(to_srgb8(np.asarray(np.maximum(middle + RAISED * (part - middle), 0.0), np.float32)), 90)
