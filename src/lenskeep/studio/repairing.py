"""Repairing one frame's masks by hand, and keeping what follows from it in step with what is found."""

from collections.abc import Callable, Mapping

import numpy as np

from lenskeep.core.detect.find import to_mask8
from lenskeep.core.engine.planes import PROXY_SIDE, smaller
from lenskeep.core.facts import MAIN_MASKS, SUBJECT_KINDS, Facts
from lenskeep.core.problems import UserProblem
from lenskeep.core.regions.base import Found
from lenskeep.core.regions.contours import contour_paths
from lenskeep.core.repairs.applied import gap_in, repaired
from lenskeep.core.repairs.models import MOST, NONE, Clicked, Gap, Repair, Repairs, Swept
from lenskeep.core.types import Alpha
from lenskeep.files.masks import mask_bytes, read_mask
from lenskeep.files.working import read_working
from lenskeep.store import findings, frames
from lenskeep.store.frames import FrameRow
from lenskeep.studio.applying import frame_there
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.library import Library
from lenskeep.studio.problems import ChangedMeanwhile
from lenskeep.studio.tasks.frame_files import files_of
from lenskeep.studio.wanting import wanted_by

_ready: ReadyFrames[Found] = ReadyFrames(200_000_000)
"""While one frame is repaired its mask, outlines and panel are asked for again and again."""

CROSSED = 0.3
"""How long a dragged click must lie in a piece to mean it, in thicknesses of the piece."""


def found_on(library: Library, frame: FrameRow, repairs: Repairs) -> Found:
    """A frame's masks and facts at proxy size with these repairs. Raises UserProblem when its masks are not there."""
    computed = library.computed(frame.content, frame.found_by)
    facts = frame.found_facts
    if facts is None or not computed.holds(facts):
        raise UserProblem(f"{frame.file_name} has no masks yet, or some of their files are gone. Find its masks again.")

    def ready() -> Found:
        proxy = smaller(read_working(computed.working), PROXY_SIDE)
        return files_of(computed, frame.content, facts, {}).ready(proxy).found

    plain = (str(library.home), frame.content, frame.found_by, frame.found_at, facts.out_of_line)
    found = _ready.get(plain, ready)
    return found if not repairs.done else _ready.get((*plain, repairs.key()), lambda: repaired(found, repairs))


def repairable(facts: Facts) -> list[str]:
    """The masks that can be repaired on a frame: subject and sky always, the others where they were found."""
    kinds = [name for name in SUBJECT_KINDS if name in facts.areas]
    return [*MAIN_MASKS, *kinds, *(name for name in facts.areas if name not in kinds and name != "face")]


def repair(library: Library, frame_id: int, one: Repair) -> FrameRow:
    """Add a repair to a frame. Raises UserProblem."""
    frame = frame_there(library, frame_id)
    if len(frame.override.repairs.done) >= MOST:
        raise UserProblem("This frame has as many repairs as it can hold. Take some back, or outline the mask anew.")
    known = [*MAIN_MASKS, *SUBJECT_KINDS, *(frame.facts.areas if frame.facts else ())]
    if one.mask not in known:
        raise UserProblem(f"There is no mask called “{one.mask}” on this frame.")
    return change(library, frame, lambda r: r.with_one(_meant(library, frame, one)))


def _meant(library: Library, frame: FrameRow, one: Repair) -> Repair:
    """A click into a hole of the mask means the hole, whatever was told apart there; away on an island, the island. A
    click dragged along a leg does not mean the beach that it crosses between two.
    """
    if isinstance(one, Clicked) and not one.alone and gap_in(_alpha(library, frame, one.mask), one) is not None:
        return Gap(mask=one.mask, away=one.away, x=one.x, y=one.y)
    if isinstance(one, Swept):
        return one.model_copy(update={"least": CROSSED})
    return one


def gap_outline(library: Library, frame: FrameRow, one: Clicked) -> str:
    """SVG path data of the hole or island that a click would mean, "" where there is none. Raises UserProblem."""
    own = gap_in(_alpha(library, frame, one.mask), one)
    return "" if own is None else contour_paths(own)["50"]


def undo(library: Library, frame_id: int) -> FrameRow:
    return change(library, frame_there(library, frame_id), Repairs.undo)


def redo(library: Library, frame_id: int) -> FrameRow:
    return change(library, frame_there(library, frame_id), Repairs.redo)


def as_found(library: Library, frame_id: int, mask: str) -> FrameRow:
    """Take back every repair of one mask."""
    return change(library, frame_there(library, frame_id), lambda r: r.without(mask))


def change(library: Library, frame: FrameRow, to: Callable[[Repairs], Repairs]) -> FrameRow:
    """Change a frame's repairs, and what follows from them. Raises UserProblem, ChangedMeanwhile."""
    before = frame.override.repairs
    repairs = to(before)
    facts = found_on(library, frame, repairs).facts  # outside of the transaction, which others wait for
    with library.db.writing():
        now = frame_there(library, frame.id)
        if now.override.repairs != before or now.found_facts != frame.found_facts:
            raise ChangedMeanwhile("This frame's masks were changed meanwhile. Look again, then repair them.")
        override = now.override.model_copy(update={"repairs": repairs})
        frames.set_override(library.db, frame.id, override, wanted_by(library.db, now, override))
        findings.keep_own_facts(library.db, frame.id, facts, bool(repairs.done))
        return frame_there(library, frame.id)


Foreseen = dict[tuple[int, str, str, str], Facts]
"""What is known of frames with repairs that they are about to have."""


def foresee(library: Library, wanted: Mapping[int, Repairs]) -> Foreseen:
    """Work out what is known of frames with these repairs, by their ids, before the transaction in which they get them:
    that takes long, and others wait for a transaction.
    """
    rows = (frames.frame(library.db, frame_id) for frame_id in wanted)
    return {k: v for row in rows if row for k, v in foresee_one(library, row, wanted[row.id]).items()}


def foresee_one(library: Library, frame: FrameRow, repairs: Repairs) -> Foreseen:
    """The same of one frame, as it will be."""
    if frame.found_facts is None or not library.computed(frame.content, frame.found_by).holds(frame.found_facts):
        return {}
    return {_foreseen_as(frame, repairs): found_on(library, frame, repairs).facts}


def _foreseen_as(frame: FrameRow, repairs: Repairs) -> tuple[int, str, str, str]:
    told = frame.found_facts.out_of_line if frame.found_facts else ""
    return frame.id, f"{frame.content} {frame.found_by}", told, repairs.key()


def follow(library: Library, frame_id: int, foreseen: Foreseen | None = None) -> None:
    """After a frame's masks were found again: its repairs are done once more, on what was found now."""
    frame = frames.frame(library.db, frame_id)
    if frame is None or frame.found_facts is None:
        return
    if frame.override.repairs == NONE and frame.facts == frame.found_facts:
        return
    if not library.computed(frame.content, frame.found_by).holds(frame.found_facts):
        return
    facts = (foreseen or {}).get(_foreseen_as(frame, frame.override.repairs))
    facts = facts or found_on(library, frame, frame.override.repairs).facts
    findings.keep_own_facts(library.db, frame_id, facts, bool(frame.override.repairs.done))


def mask_now(library: Library, frame: FrameRow, name: str) -> bytes:
    """One mask of a frame with its repairs, as a grey PNG at proxy size. Raises UserProblem."""
    return mask_bytes(to_mask8(_alpha(library, frame, name)))


def outline_now(library: Library, frame: FrameRow, name: str) -> dict[str, str]:
    """SVG path data of a mask's contours by level, with the frame's repairs. Raises UserProblem."""
    return contour_paths(_alpha(library, frame, name))


def _alpha(library: Library, frame: FrameRow, name: str) -> Alpha:
    """One mask with its repairs; without any its file says all, and the picture need not be read."""
    facts = frame.found_facts
    if facts is not None and not frame.override.repairs.done and name in (*MAIN_MASKS, *facts.areas):
        mask = read_mask(library.computed(frame.content, frame.found_by).mask(name))
        return np.asarray(mask / np.float32(255.0), np.float32)
    return found_on(library, frame, frame.override.repairs).mask(name)
