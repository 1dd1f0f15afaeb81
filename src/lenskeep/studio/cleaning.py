"""Cleaning up one frame: marks made, taken back, filled from elsewhere."""

from collections.abc import Callable, Sequence

from lenskeep.core.clean.models import MOST_MARKS, MOST_OTHERS, CleanUp, Cloned, Healed, Mark
from lenskeep.core.problems import UserProblem
from lenskeep.store import frames
from lenskeep.store.frames import FrameRow
from lenskeep.studio import deeds
from lenskeep.studio.applying import frame_there
from lenskeep.studio.cleaned import Opened, ensure, prune
from lenskeep.studio.library import Library
from lenskeep.studio.problems import ChangedMeanwhile


def mark(library: Library, frame_id: int, marks: Sequence[Mark], open_: Opened | None = None) -> FrameRow:
    """Clean up marks on a frame. Raises UserProblem."""
    own = frame_there(library, frame_id).override.clean
    if len(own.done) + len(marks) > MOST_MARKS:
        raise UserProblem(f"A frame holds {MOST_MARKS} marks at most. Take some back first.")
    for one in marks:
        _check(library, frame_id, one)
    return change(library, frame_id, lambda clean: clean.with_marks(marks), open_)


def _check(library: Library, frame_id: int, one: Mark) -> None:
    if isinstance(one, Cloned):
        if one.frame:
            shoot = frame_there(library, frame_id).shoot_id
            if frames.with_content(library.db, shoot, one.frame) is None:
                raise UserProblem("The frame to take it from is no longer in this shoot. Choose another one.")
        elif one.across == 0.0 and one.down == 0.0 and one.turn == 0.0 and one.scale == 1.0:
            raise UserProblem("Say first where to take it from: hold Alt and click there.")


def undo(library: Library, frame_id: int, open_: Opened | None = None) -> FrameRow:
    return change(library, frame_id, CleanUp.undo, open_)


def redo(library: Library, frame_id: int, open_: Opened | None = None) -> FrameRow:
    return change(library, frame_id, CleanUp.redo, open_)


def other_source(library: Library, frame_id: int, open_: Opened | None = None) -> FrameRow:
    """Fill the mark that was made last from another place. Raises UserProblem when there is none to fill."""

    def to(one: Mark) -> Mark:
        if not isinstance(one, Healed):
            raise UserProblem("Only what was healed can be filled from another place.")
        return one.model_copy(update={"other": (one.other + 1) % (MOST_OTHERS + 1)})

    if not frame_there(library, frame_id).override.clean.done:
        raise UserProblem("Paint over a mark first.")
    return change(library, frame_id, lambda clean: clean.with_last(to), open_)


def change(library: Library, frame_id: int, to: Callable[[CleanUp], CleanUp], open_: Opened | None = None) -> FrameRow:
    """Change a frame's clean-up, and what follows from it. Raises UserProblem, ChangedMeanwhile."""
    frame = frame_there(library, frame_id)
    before = frame.override.clean
    clean = to(before)
    ensure(library, frame, clean, open_)  # outside of the transaction, which others wait for
    with library.db.writing():
        now = frame_there(library, frame_id)
        if now.override.clean != before or now.content != frame.content:
            raise ChangedMeanwhile("This frame was changed meanwhile. Look again, then clean it up.")
        deeds.change_overrides(library, [frame_id], lambda row: row.override.with_clean(clean))
        now = frame_there(library, frame_id)
    prune(library, now, clean)
    return now
