"""Measuring how even scenes are, as jobs; and what would make them even, proposed and accepted.

Every frame is described once, each by itself; then the frames of a scene are held against each other, a long scene in
parts that share its key frame. What was described lies in the library until that is done.
"""

import shutil
from collections.abc import Callable, Collection, Sequence
from itertools import pairwise
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from lenskeep.core.even.camera import LEAST_EV, MOST_EV
from lenskeep.core.even.described import PARTS
from lenskeep.core.problems import UserProblem
from lenskeep.store import evenness, findings, frames, jobs, scenes, shoots
from lenskeep.store.evenness import Need
from lenskeep.store.frames import FrameSummary
from lenskeep.studio import basing
from lenskeep.studio.library import Library
from lenskeep.studio.space import check_room
from lenskeep.studio.tasks.even import (
    CameraResult,
    CameraTask,
    DescribeResult,
    DescribeTask,
    EvenResult,
    EvenTask,
    describe_frame,
    estimate_curve,
    hold_together,
)
from lenskeep.studio.times import seconds_of
from lenskeep.work.engines.carried import InFile, OutFolder, land

CAMERA, DESCRIBING, EVENING = "camera", "describe", "even"
AT_ONCE = 160
"""Frames that are held against each other at once, beside the key frame."""
DESCRIBED_BYTES = 1_100_000
SOON_SECONDS, LEAST_TELLING, MOST_TELLING = 120.0, 4, 24
NOTHING = "No frame with masks is in this scene. Let the finding end first."


class Part(BaseModel):
    """What an item keeps: frames of a scene, in order, and its key frame, which is among them."""

    scene: int
    key: int
    frames: tuple[int, ...]


def described_path(library: Library, frame: FrameSummary) -> Path:
    """Where a frame's description lies while it is needed."""
    return library.home / "described" / f"{frame.content}.{frame.found_by}.npz"


def measure(library: Library, shoot_id: int, scene_ids: Collection[int]) -> int:
    """Queue measuring scenes of a shoot; returns the job. Raises UserProblem where no frame has masks."""
    with library.db.writing():
        own = [f for i in scene_ids for f in frames.some(library.db, scenes.frame_ids(library.db, [i])) if f.found]
        if not own:
            raise UserProblem(NOTHING)
        check_room(library.home, len(own) * DESCRIBED_BYTES, "measuring how even the frames are")
        for job in [
            *jobs.active_jobs(library.db, shoot_id, DESCRIBING),
            *jobs.active_jobs(library.db, shoot_id, EVENING),
        ]:
            if set(job.options.get("scenes", [])) <= set(scene_ids):
                jobs.cancel(library.db, job.id)
        for scene_id in scene_ids:
            scenes.mend_key_frame(library.db, scene_id)
        options = {"scenes": sorted(scene_ids)}
        if telling := _telling(library, shoot_id, own):
            given = [Telling(frames=telling).model_dump_json()]
            return jobs.add_job(library.db, CAMERA, shoot_id, [None], options, given, jobs.NEXT)
        return jobs.add_job(library.db, DESCRIBING, shoot_id, [f.id for f in own], options, lane=jobs.NEXT)


def under_way(library: Library, shoot_id: int) -> int | None:
    """The job that measures scenes of a shoot; None when there is none, or none any more."""
    for kind in (CAMERA, DESCRIBING, EVENING):
        for job in jobs.active_jobs(library.db, shoot_id, kind):
            return job.id
    return None


class Telling(BaseModel):
    """What an item keeps: frames that may tell the camera's curve."""

    frames: tuple[int, ...]


def _telling(library: Library, shoot_id: int, own: Sequence[FrameSummary]) -> tuple[int, ...]:
    """Frames taken soon after another that was exposed otherwise, with that one: they may show the same place. None
    where the curve is known, or pictures are developed from raw files.
    """
    if shoots.curve(library.db, shoot_id):
        return ()
    stops = findings.stops(library.db, shoot_id)
    known = [(f, t) for f in own if not f.raw_base and f.id in stops and (t := seconds_of(f.taken_at)) is not None]
    chosen: dict[int, None] = {}
    for (a, at), (b, bt) in pairwise(sorted(known, key=lambda one: one[1])):
        if bt - at <= SOON_SECONDS and LEAST_EV <= abs(stops[a.id] - stops[b.id]) <= MOST_EV:
            chosen |= {a.id: None, b.id: None}
    return tuple(list(chosen)[:MOST_TELLING]) if len(chosen) >= LEAST_TELLING else ()


def parts_of(scene_id: int, key: int, ids: Sequence[int]) -> list[Part]:
    """A scene's frames in parts that can be held together, each with the key frame."""
    count = -(-len(ids) // AT_ONCE)
    size = -(-len(ids) // count) if count else 0
    out = []
    for first in range(0, len(ids), max(size, 1)):
        own = list(ids[first : first + size])
        out.append(Part(scene=scene_id, key=key, frames=tuple(own if key in own else [key, *own])))
    return out


class Camera:
    """Handler of "camera" jobs, which have one item; then the frames are described."""

    run: Callable[[Any], Any] = staticmethod(estimate_curve)

    def __init__(self, library: Library) -> None:
        self.library = library

    def prepare(self, job: jobs.Job, item: jobs.Item) -> CameraTask | None:
        stops = findings.stops(self.library.db, job.shoot_id or 0)
        own = [f for f in frames.some(self.library.db, Telling.model_validate_json(item.given).frames) if f.id in stops]
        files = [(self.library.computed(f.content, f.found_by).working, stops[f.id]) for f in own if f.found]
        there = [(InFile(path), s) for path, s in files if path.is_file()]
        return CameraTask(tuple(f for f, _ in there), tuple(s for _, s in there)) if there else None

    def record(self, job: jobs.Job, item: jobs.Item, result: CameraResult) -> None:
        if result.curve is not None and job.shoot_id is not None:
            shoots.set_curve(self.library.db, job.shoot_id, result.curve.model_dump_json())

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The usual curve is taken."""

    def finish(self, job: jobs.Job) -> str:
        db, own = self.library.db, job.options.get("scenes", [])
        found = [f.id for i in own for f in frames.some(db, scenes.frame_ids(db, [int(i)])) if f.found]
        jobs.add_job(db, DESCRIBING, job.shoot_id, found, {"scenes": own}, lane=jobs.NEXT)
        told = shoots.curve(db, job.shoot_id or 0)
        return "The camera's curve is known." if told else "The camera's curve is taken for a usual one."


class Describing:
    """Handler of "describe" jobs: a frame an item; then the scenes are queued."""

    run: Callable[[Any], Any] = staticmethod(describe_frame)

    def __init__(self, library: Library) -> None:
        self.library = library

    def prepare(self, job: jobs.Job, item: jobs.Item) -> DescribeTask | None:
        frame = frames.summary(self.library.db, item.frame_id or 0)
        if frame is None or not frame.found:
            return None
        path, computed = described_path(self.library, frame), self.library.computed(frame.content, frame.found_by)
        if path.is_file():
            return None
        if not computed.holds_masks(frame.areas.split()):
            raise UserProblem(f"{frame.file_name} has no masks, or some of their files are gone. Find them again.")
        names = [name for name in ("sky", *frame.areas.split()) if name in PARTS]
        masks = {name: InFile(computed.mask(name)) for name in names}
        curve = basing.camera_curve(self.library, frame)
        return DescribeTask(InFile(computed.working), masks, curve, OutFolder(path.parent), path.name)

    def record(self, job: jobs.Job, item: jobs.Item, result: DescribeResult) -> None:
        land(result.made, self.library.home / "described")

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The frame stays out of what is measured; the item keeps the reason."""

    def finish(self, job: jobs.Job) -> str:
        db = self.library.db
        parts: list[Part] = []
        for scene_id in job.options.get("scenes", []):
            scene = scenes.scene(db, int(scene_id))
            own = [f for f in frames.some(db, scenes.frame_ids(db, [int(scene_id)])) if f.found]
            ids = [f.id for f in own if described_path(self.library, f).is_file()]
            if scene is not None and scene.key_frame_id in ids:
                parts += parts_of(scene.id, scene.key_frame_id, ids)
        given = [part.model_dump_json() for part in parts]
        options = {"scenes": job.options.get("scenes", [])}
        jobs.add_job(db, EVENING, job.shoot_id, [None] * len(given), options, given, jobs.NEXT)
        return f"{job.done} of {job.total} frames looked at."


class Evening:
    """Handler of "even" jobs: a scene, or a part of a long one, an item."""

    run: Callable[[Any], Any] = staticmethod(hold_together)

    def __init__(self, library: Library) -> None:
        self.library = library

    def _there(self, item: jobs.Item) -> tuple[Part, list[FrameSummary]]:
        """What is held together, without frames that are gone by now."""
        part = Part.model_validate_json(item.given)
        by_id = {f.id: f for f in frames.some(self.library.db, part.frames) if f.found}
        return part, [by_id[i] for i in part.frames if i in by_id and described_path(self.library, by_id[i]).is_file()]

    def prepare(self, job: jobs.Job, item: jobs.Item) -> EvenTask | None:
        part, own = self._there(item)
        ids = [f.id for f in own]
        if part.key not in ids:
            return None
        return EvenTask(tuple(InFile(described_path(self.library, f)) for f in own), ids.index(part.key))

    def record(self, job: jobs.Job, item: jobs.Item, result: EvenResult) -> None:
        part, own = self._there(item)
        if len(own) != len(result.needs):
            return  # a frame went meanwhile; measured again it is right
        kept = [Need(f.id, j.ev, j.mired, j.duv, j.sure, j.left_over) for f, j in zip(own, result.needs, strict=True)]
        evenness.keep(self.library.db, part.scene, part.key, kept)

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The item keeps the reason."""

    def finish(self, job: jobs.Job) -> str:
        sweep_described(self.library, but=job.id)
        told = [evenness.needs(self.library.db, int(i)) for i in job.options.get("scenes", [])]
        off = sum(any(n.values) for needs in told for n in needs.values())
        return f"{off} of {sum(map(len, told))} frames stand off from their key frame."


def sweep_described(library: Library, but: int = 0) -> None:
    """Remove what was described, unless a job still needs it."""
    going = [j for j in jobs.jobs(library.db) if j.active and j.kind in (CAMERA, DESCRIBING, EVENING) and j.id != but]
    if not going:
        shutil.rmtree(library.home / "described", ignore_errors=True)
