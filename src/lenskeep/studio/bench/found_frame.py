"""A frame that can be worked with: its masks are found, and their files are there."""

from lenskeep.core.facts import Facts
from lenskeep.core.problems import UserProblem
from lenskeep.store import findings, frames
from lenskeep.store.frames import FrameRow
from lenskeep.studio.cleaned import ensure
from lenskeep.studio.library import Computed, Library


def found_frame(library: Library, frame_id: int) -> tuple[FrameRow, Facts, Computed]:
    """The frame, what was found on it, and what was computed from it. Raises UserProblem where that is not there; where
    only its files are gone, they are waited for again, and what was cleaned up is made again.
    """
    row = frames.frame(library.db, frame_id)
    if row is None or row.found_facts is None:
        raise UserProblem("This frame is not ready yet.")
    computed = library.computed(row.content, row.found_by)
    if not computed.holds(row.found_facts):
        findings.mark_waiting(library.db, frame_id)
        raise UserProblem(f"Masks of {row.file_name} are gone from the library. Find them again on the wall.")
    ensure(library, row, row.override.clean)
    return row, row.found_facts, computed
