"""What jobs keep of the moment they were queued in: every scene's look, each frame's own changes."""

from collections.abc import Iterable
from functools import lru_cache
from typing import Any

from pydantic import BaseModel

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import UNCHANGED, FrameOverride
from lenskeep.files.reading.photo import Base
from lenskeep.store import jobs, looks, recipes, scenes
from lenskeep.store.frames import FrameRow
from lenskeep.store.looks import NO_LOOK, Look, LookLayer
from lenskeep.studio.library import Library
from lenskeep.studio.wanting import Wanting, read_override


class Given(BaseModel):
    """What a frame's item keeps. ``scene`` is the one that the frame was in, 0 in jobs of an older library."""

    override: FrameOverride = UNCHANGED
    base: Base = ""
    scene: int = 0
    turn: int = 0


def given_text(override: str, base: Base, scene: int, turn: int) -> str:
    """What an item keeps; most frames change nothing, which needs no reading."""
    own = UNCHANGED if override == "{}" else read_override(override)
    return Given(override=own, base=base, scene=scene, turn=turn).model_dump_json()


def given_of(item: jobs.Item, frame: FrameRow) -> Given:
    """What an item was queued with; of a job of an older library, what the frame has now."""
    if item.given == "{}":
        return Given(override=frame.override, base=frame.raw_base, scene=frame.scene_id, turn=frame.turn)
    return Given.model_validate_json(item.given)


def pinned(library: Library, scene_ids: Iterable[int]) -> dict[str, Any]:
    """The looks of scenes as a job keeps them, among its options."""
    return {"looks": {str(i): _layers(looks.look(library.db, i)) for i in sorted(set(scene_ids))}}


def _layers(look: Look | None) -> list[dict[str, Any]]:
    layers = look.layers if look else ()
    return [{"id": e.id, "version": e.version.id, "strength": e.strength, "on": e.enabled} for e in layers]


def pinned_look(library: Library, job: jobs.Job, scene_id: int) -> Look | None:
    """The look that a job was queued with for the frames of a scene, None without one; of a job of an older library,
    that of the whole shoot. Raises UserProblem when it is gone from the book.
    """
    by_scene, alone = job.options.get("looks"), job.options.get("look")
    if by_scene is not None:
        held = by_scene.get(str(scene_id), [])
    elif alone is not None:
        held = (alone.get("layers") or [alone]) if alone else []  # one layer by itself, before there were several
    else:
        scene = scenes.first_scene(library.db, job.shoot_id or 0)
        return looks.look(library.db, scene.id) if scene else None
    layers = []
    for each in held:
        version = recipes.version(library.db, int(each["version"]))
        if version is None:
            raise UserProblem("The recipe that this was queued with was removed from the book. Start it anew.")
        layers.append(LookLayer(int(each.get("id", 0)), version, float(each["strength"]), bool(each.get("on", True))))
    return Look(tuple(layers)) if layers else None


class JobLooks:
    """The looks that jobs were queued with, each read once for all of its items."""

    def __init__(self, library: Library) -> None:
        @lru_cache(maxsize=32)
        def look(job_id: int, scene_id: int) -> tuple[Look | None, Wanting]:
            job = jobs.job(library.db, job_id)
            found = pinned_look(library, job, scene_id) if job else None
            return found, Wanting(found or NO_LOOK)

        self._look = look

    def of(self, job: jobs.Job, scene_id: int) -> tuple[Look | None, Wanting]:
        """The look of a scene's frames, and what they want by it. Raises UserProblem, UnreadableRecipe."""
        if "looks" not in job.options and "look" not in job.options:  # of an older library: as it is now
            return self._look.__wrapped__(job.id, scene_id)
        return self._look(job.id, scene_id)
