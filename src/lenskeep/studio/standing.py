"""Where a shoot stands: how many frames are found, doubtful, failed and finished as the look wants them now."""

from dataclasses import dataclass

from lenskeep.store.bodies import UnreadableRecipe
from lenskeep.store.frames import FrameRow
from lenskeep.store.recipes import Look
from lenskeep.studio import looks


@dataclass(frozen=True)
class Standing:
    """In numbers of frames, and the ids of those that are ``doubtful``, or ``stale``: with masks, but not finished as
    the look wants them. ``broken`` says why the look can't be read.
    """

    frames: int
    found: int
    failed: int
    finished: int
    doubtful: frozenset[int]
    stale: frozenset[int]
    broken: str = ""


def is_doubtful(frame: FrameRow) -> bool:
    """Whether somebody should look at the frame's masks."""
    lost = bool(frame.missing)
    return not frame.accepted and (
        frame.state == "failed" or (frame.facts is not None and (frame.facts.doubtful or lost))
    )


def standing_of(rows: list[FrameRow], look: Look | None) -> Standing:
    """Of a shoot's frames under its look."""
    found = [f for f in rows if f.state == "ready" and f.facts is not None]
    finished: set[int] = set()
    broken = ""
    if look is not None:
        try:
            want = looks.wanting(look)
            finished = {f.id for f in found if f.result_key and f.result_key == want.key(f.content, f.override)}
        except UnreadableRecipe as problem:
            broken = str(problem)
    return Standing(
        frames=len(rows),
        found=len(found),
        failed=sum(f.state == "failed" or bool(f.render_problem) for f in rows),
        finished=len(finished),
        doubtful=frozenset(f.id for f in rows if is_doubtful(f)),
        stale=frozenset(f.id for f in found if f.id not in finished) if look else frozenset(),
        broken=broken,
    )
