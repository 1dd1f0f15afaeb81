"""Finding masks on every frame of a shoot: the job, and how it is queued."""

import json
import os
from collections import deque
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.detect.neighbours import Seen, out_of_line
from lenskeep.core.problems import UserProblem
from lenskeep.files.reading.photo import Base
from lenskeep.store import findings, finished, frames, jobs, scenes
from lenskeep.store.frames import FrameSummary
from lenskeep.studio import applying, placing, repairing
from lenskeep.studio.applying import frame_there
from lenskeep.studio.cameras import learn_cameras
from lenskeep.studio.cleaned import clean_files
from lenskeep.studio.library import Library
from lenskeep.studio.space import FOUND_BYTES, check_room
from lenskeep.studio.tasks.clean_files import CleanFiles
from lenskeep.studio.tasks.find import FindResult, FindTask, find_on_frame
from lenskeep.studio.times import seconds_of
from lenskeep.studio.wanting import settle_scene, wanted_by
from lenskeep.work.engines.carried import InFile, OutFolder, land

KIND = "find"
ANEW = '{"anew":true}'
"""What an item keeps whose frame is to be looked at whether or not its masks are there."""
ON_CLEANED = "on-cleaned"
BURST_SECONDS = 12.0
"""Frames this near in time show the same thing; a subject that jumps between them was found wrongly."""


def wants_finding(library: Library, frame: FrameSummary) -> bool:
    """Whether its masks are not found, or some of their files are gone from the disk."""
    return not frame.found or not library.computed(frame.content, frame.found_by).holds_masks(frame.areas.split())


def queue_finding(library: Library, shoot_id: int, everything: bool = False) -> int | None:
    """Queue the frames that still need their masks, or ``everything`` anew; None when there are none or it is under way
    already. Raises UserProblem when the disk has no room for it.
    """
    with library.db.writing():
        rows = frames.summaries(library.db, shoot_id)
        todo = [f.id for f in rows if everything or wants_finding(library, f)]
        if not todo:
            return None
        check_room(library.home, len(todo) * FOUND_BYTES, "finding masks")
        for job in jobs.active_jobs(library.db, shoot_id, KIND):
            if job.state == "queued":
                jobs.cancel(library.db, job.id)  # a longer list takes its place
        if everything:
            findings.forget_facts(library.db, todo)
            if any(f.found_by not in ("", DETECTOR) for f in rows):  # today's will be others than those it was kept by
                for scene in scenes.scenes(library.db, shoot_id):
                    settle_scene(library.db, scene.id)
        given = dict.fromkeys(todo, ANEW) if everything else _as_found_before(library, rows)
        return jobs.add_job(library.db, KIND, shoot_id, todo, given=given)


def _as_found_before(library: Library, rows: list[FrameSummary]) -> dict[int, str]:
    """What items keep of frames whose masks were found on their cleaned picture, and are to be found there again."""
    ids = [f.id for f in rows if "+" in f.found_by]
    own = [(f.id, f.found_by, f.override.clean.key()) for f in frames.with_overrides(library.db, ids)]
    return {i: json.dumps({ON_CLEANED: key}) for i, by, key in own if key and by.endswith(f"+{key[:12]}")}


def queue_new(library: Library, shoot_id: int, frame_ids: list[int]) -> None:
    """Queue frames that have just come in, behind those of the same shoot that are being found already."""
    with library.db.writing():
        open_jobs = [j for j in jobs.active_jobs(library.db, shoot_id, KIND) if j.state != "cancelling"]
        if open_jobs:
            jobs.add_items(library.db, open_jobs[-1].id, frame_ids)
        else:
            jobs.add_job(library.db, KIND, shoot_id, frame_ids)


def detector_on_cleaned(key: str) -> str:
    """What finds masks on a picture that was cleaned up: today's detectors, by the key of its marks."""
    return f"{DETECTOR}+{key[:12]}"


def queue_on_cleaned(library: Library, frame_id: int) -> int:
    """Find a frame's masks anew on its cleaned picture, before everything else; returns the job. Raises UserProblem
    where nothing but dust was cleaned up on it.
    """
    frame = frame_there(library, frame_id)
    if not frame.override.clean.without_dust().done:
        raise UserProblem("Nothing but dust was cleaned up here, which masks do not mind.")
    given = json.dumps({ON_CLEANED: frame.override.clean.key()})
    return jobs.add_job(library.db, KIND, frame.shoot_id, [frame_id], given={frame_id: given}, lane=jobs.NOW)


def try_again(library: Library, shoot_id: int) -> None:
    """Try everything once more that failed on a shoot's frames: finding, and rendering the look."""
    queue_finding(library, shoot_id)
    rows = frames.summaries(library.db, shoot_id)
    failed = [f.id for f in rows if f.render_problem or f.state == "failed"]
    if any(f.wanted_key for f in rows) and failed:
        applying.queue_frames(library, shoot_id, failed, also_failed=True)


def set_raw_base(library: Library, shoot_id: int, base: Base) -> None:
    """Bring the raw files of a shoot to pictures in another way: find their masks again, then render its look again."""
    with library.db.writing():
        findings.set_raw_base(library.db, shoot_id, base)
        finished.drop_results(library.db, shoot_id)
        queue_finding(library, shoot_id)
        for scene in scenes.scenes(library.db, shoot_id):
            settle_scene(library.db, scene.id)
        wanting = [f.id for f in frames.summaries(library.db, shoot_id) if f.wanted_key]
        if wanting:
            applying.queue_frames(library, shoot_id, wanting)


def compare_neighbours(library: Library, shoot_id: int) -> None:
    """Note on each frame whether its subject is out of line with those of the frames taken just before and after: a
    window of ``BURST_SECONDS`` to either side slides over the shoot's summaries.
    """
    rows = [
        (t, f) for f in frames.summaries(library.db, shoot_id) if f.found and (t := seconds_of(f.taken_at)) is not None
    ]
    rows.sort(key=lambda row: row[0])
    window: deque[tuple[float, FrameSummary, Seen]] = deque()
    ahead = 0
    for when, frame in rows:
        while ahead < len(rows) and rows[ahead][0] <= when + BURST_SECONDS:
            window.append((*rows[ahead], _seen(rows[ahead][1])))
            ahead += 1
        while window[0][0] < when - BURST_SECONDS:
            window.popleft()
        words = out_of_line(_seen(frame), [seen for _, other, seen in window if other.id != frame.id])
        _note_out_of_line(library, frame, words)


def _seen(frame: FrameSummary) -> Seen:
    return Seen(frame.height > frame.width, frame.box, frame.subject_area)


def _note_out_of_line(library: Library, frame: FrameSummary, words: str) -> None:
    """Facts are read and written only where something changes; without words most frames have none to lose."""
    if not words and not frame.doubt:
        return
    known = findings.facts_of(library.db, frame.content, frame.found_by)
    if known is not None and known[0].out_of_line != words:
        changed = known[0].model_copy(update={"out_of_line": words})
        findings.keep_facts(library.db, frame.content, changed)
        for repaired in findings.repaired_frames(library.db, frame.content):
            repairing.follow(library, repaired)


def choose_key_frames(library: Library, shoot_id: int) -> None:
    """Every scene without a key frame gets its first one with masks."""
    first: dict[int, int] = {}
    for frame in frames.summaries(library.db, shoot_id):
        if frame.found:
            first.setdefault(frame.scene_id, frame.id)
    for scene_id, frame_id in first.items():
        scenes.set_key_frame(library.db, scene_id, frame_id, only_first=True)


class Finding:
    """Handler of "find" jobs."""

    run: Callable[[Any], Any] = staticmethod(find_on_frame)

    def __init__(self, library: Library) -> None:
        self.library = library
        self._foreseen: dict[int, repairing.Foreseen] = {}

    def prepare(self, job: jobs.Job, item: jobs.Item) -> FindTask | None:
        frame = frames.summary(self.library.db, item.frame_id or 0)
        if frame is None:
            return None
        key = str(json.loads(item.given).get(ON_CLEANED, ""))
        detector = detector_on_cleaned(key) if key else DETECTOR
        computed = self.library.computed(frame.content, detector)  # as today's detectors name what they find
        known = findings.facts_of(self.library.db, frame.content, detector)
        if known is not None and item.given != ANEW and computed.holds(known[0]):
            with self.library.db.writing():
                findings.mark_ready(self.library.db, frame.id, *known)
                self._settle(frame.id)
            repairing.follow(self.library, frame.id)
            return None
        original = InFile(self.library.original(frame.sha256, frame.suffix))
        clean = self._cleaned(frame.id, key) if key else None
        out = OutFolder(computed.folder)
        waiting = job.total - job.done - job.failed
        return FindTask(
            original,
            frame.file_name,
            frame.sha256,
            frame.raw_base,
            out,
            frame.turn,
            clean,
            detector,
            in_turn=waiting >= (os.cpu_count() or 2),
        )

    def _cleaned(self, frame_id: int, key: str) -> CleanFiles | None:
        """What the marks of a frame made of it. Raises UserProblem when they are others by now."""
        frame = frame_there(self.library, frame_id)
        if frame.override.clean.key() != key:
            raise UserProblem("This frame was cleaned up further meanwhile. Find its masks on that picture instead.")
        return clean_files(self.library, frame, frame.override.clean)

    def receive(self, job: jobs.Job, item: jobs.Item, result: FindResult) -> None:
        frame = frames.frame(self.library.db, item.frame_id or 0)
        if frame is None:
            return
        land(result.made, self.library.computed(frame.content).folder)
        foreseen: repairing.Foreseen = {}
        for frame_id in {frame.id, *findings.repaired_frames(self.library.db, frame.content)}:
            row = frames.frame(self.library.db, frame_id)
            if row is not None and row.override.repairs.done:
                by, at = result.facts.detector, f"by item {item.id}"
                then = replace(row, found_facts=result.facts, found_by=by, found_at=at)
                foreseen |= repairing.foresee_one(self.library, then, row.override.repairs)
        self._foreseen[item.id] = foreseen

    def record(self, job: jobs.Job, item: jobs.Item, result: FindResult) -> None:
        frame = frames.summary(self.library.db, item.frame_id or 0)
        foreseen = self._foreseen.pop(item.id, {})
        if frame is None:
            return
        with self.library.db.writing():
            findings.keep_facts(self.library.db, frame.content, result.facts, frame.id)
            sight = result.sight
            findings.keep_sight(
                self.library.db, frame.content, result.facts.detector, sight.signature, sight.sharp, sight.stops
            )
            self._settle(frame.id)
            for repaired in {frame.id, *findings.repaired_frames(self.library.db, frame.content)}:
                repairing.follow(self.library, repaired, foreseen)

    def _settle(self, frame_id: int) -> None:
        """Which picture a frame wants by now: its masks may come from other detectors than before."""
        frame = frames.frame(self.library.db, frame_id)
        if frame is not None and frame.wanted_key:
            finished.set_wanted(self.library.db, {frame_id: wanted_by(self.library.db, frame, frame.override)})

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        if item.frame_id is not None:
            findings.mark_failed(self.library.db, item.frame_id, message)

    def finish(self, job: jobs.Job) -> str:
        if job.shoot_id is not None:
            compare_neighbours(self.library, job.shoot_id)
            placing.place(self.library, job.shoot_id)
            choose_key_frames(self.library, job.shoot_id)
            learn_cameras(self.library, job.shoot_id)
            again = [i.frame_id for i, _ in jobs.items(self.library.db, job.id) if ON_CLEANED in i.given and i.frame_id]
            if again:  # their pictures follow at once: somebody is looking at them
                applying.queue_stale(self.library, job.shoot_id, again, lane=jobs.NOW)
        return f"Masks found on {job.done} of {job.total} frames."
