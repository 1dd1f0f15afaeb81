"""Doing something to many frames at once, and undoing it in one step."""

from collections.abc import Callable, Collection, Iterator, Mapping
from contextlib import contextmanager

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.store import deeds, frames
from lenskeep.store.deeds import Step
from lenskeep.studio import repairing, turning
from lenskeep.studio.applying import frame_there, queue_stale
from lenskeep.studio.following import follow
from lenskeep.studio.library import Library
from lenskeep.studio.wanting import Wants


@contextmanager
def doing(library: Library, shoot_id: int, words: str, frame_ids: Collection[int]) -> Iterator[None]:
    """One deed, in one transaction: what is changed of these frames within can be undone in one step."""
    with library.db.writing():
        before = deeds.states(library.db, frame_ids)
        yield
        deeds.keep(library.db, shoot_id, words, before)


def change_overrides(
    library: Library, frame_ids: Collection[int], to: Callable[[frames.FrameRow], FrameOverride]
) -> list[int]:
    """Change what frames change of themselves; returns those that want another picture by now. Within a deed. ``to``
    gets frames without their facts.
    """
    changed, wants = [], Wants(library.db)
    with library.db.writing():
        for frame in frames.with_overrides(library.db, frame_ids):
            if (override := to(frame)) == frame.override:
                continue
            wanted = wants.key(frame, override)
            frames.set_override(library.db, frame.id, override, wanted)
            changed += [frame.id] if wanted != frame.wanted_key else []
    return changed


def change_one(library: Library, frame_id: int, what: str, to: Callable[[frames.FrameRow], FrameOverride]) -> None:
    """Change what one frame changes of itself, as a deed; ``what`` of it is said in words. Raises UserProblem."""
    with library.db.writing():
        frame = frame_there(library, frame_id)
        with doing(library, frame.shoot_id, f"{what} of {frame.file_name}", [frame_id]):
            change_overrides(library, [frame_id], to)


def change_repaired(
    library: Library,
    shoot_id: int,
    frame_ids: Collection[int],
    words: str,
    to: Callable[[frames.FrameRow], FrameOverride],
) -> None:
    """Change what frames change of themselves as a deed, repairs of their masks among it, which are done at once."""
    repaired = []

    def noted(frame: frames.FrameRow) -> FrameOverride:
        override = to(frame)
        if override.repairs != frame.override.repairs:
            repaired.append(frame.id)
        return override

    pairs = ((f, to(f).repairs) for f in frames.with_overrides(library.db, frame_ids))
    foreseen = repairing.foresee(library, {f.id: mine for f, mine in pairs if mine != f.override.repairs})
    with doing(library, shoot_id, words, frame_ids):
        changed = change_overrides(library, frame_ids, noted)
        for frame_id in repaired:
            repairing.follow(library, frame_id, foreseen)
        queue_stale(library, shoot_id, changed)


def undo(library: Library, shoot_id: int) -> str:
    """Take back what was done last to frames of a shoot; says what. Raises UserProblem when there is nothing."""
    deed = deeds.last_done(library.db, shoot_id)
    if deed is None:
        raise UserProblem("There is nothing to undo on this shoot.")
    return _go(library, shoot_id, deed, back=True)


def redo(library: Library, shoot_id: int) -> str:
    """Do again what was undone last. Raises UserProblem when there is nothing."""
    deed = deeds.last_undone(library.db, shoot_id)
    if deed is None:
        raise UserProblem("There is nothing to do again on this shoot.")
    return _go(library, shoot_id, deed, back=False)


def _go(library: Library, shoot_id: int, deed: deeds.Deed, back: bool) -> str:
    ahead = {s.frame_id: s for s in deeds.steps(library.db, deed.id, back)[0] if "repairs" in s.wanted_override}
    rows = frames.with_overrides(library.db, ahead)
    foreseen = repairing.foresee(library, {f.id: _merged(f, ahead[f.id]).repairs for f in rows})
    with library.db.writing():
        steps, stays = deeds.steps(library.db, deed.id, back)
        turned = turning.turn(
            library, shoot_id, {s.frame_id: int(s.wanted["turn"]) for s in steps if "turn" in s.wanted}
        )
        entered = _set_columns(library, steps)
        stale = _set_overrides(library, {s.frame_id: s for s in steps if s.wanted_override}, foreseen)
        if entered:
            follow(library, shoot_id, entered, {int(s.found["scene_id"]) for s in steps if "scene_id" in s.wanted})
        deeds.mark(library.db, deed.id, undone=back)
        queue_stale(library, shoot_id, {*stale, *(s.frame_id for s in steps if "scene_id" in s.wanted)})
    turning.turn_thumbs(library, turned)
    words = f"Undone: {deed.words}." if back else f"Done again: {deed.words}."
    later = f" {stays} {'frame was' if stays == 1 else 'frames were'} changed since and stay as they are."
    return words + (later if stays else "")


def _set_columns(library: Library, steps: list[Step]) -> set[int]:
    """Returns the scenes that frames went to."""
    by_value: dict[tuple[str, int | str], list[int]] = {}
    for step in steps:
        for name, value in step.wanted.items():
            if name in deeds.PLAIN:
                by_value.setdefault((name, value), []).append(step.frame_id)
    for (name, value), ids in by_value.items():
        deeds.set_column(library.db, name, value, ids)
    return {int(value) for name, value in by_value if name == "scene_id"}


def _merged(frame: frames.FrameRow, step: Step) -> FrameOverride:
    """What a frame changes, with those parts of it as a step wants them."""
    return FrameOverride.model_validate(frame.override.model_dump(mode="json") | step.wanted_override)


def _set_overrides(library: Library, steps: Mapping[int, Step], foreseen: repairing.Foreseen) -> list[int]:
    """Returns the frames that are there."""
    wants, out = Wants(library.db), []
    for frame in frames.with_overrides(library.db, steps):
        override = _merged(frame, steps[frame.id])
        frames.set_override(library.db, frame.id, override, wants.key(frame, override))
        if override.repairs != frame.override.repairs:
            repairing.follow(library, frame.id, foreseen)
        out.append(frame.id)
    return out
