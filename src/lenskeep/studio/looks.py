"""The looks of a shoot's scenes: giving them, and what single frames change of theirs."""

from collections.abc import Collection, Sequence
from typing import Literal

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import FrameOverride, GroupOverride, StepOverride
from lenskeep.store import jobs, recipes, scenes
from lenskeep.store import looks as kept
from lenskeep.store.frames import FrameRow
from lenskeep.store.looks import NO_LOOK, Look
from lenskeep.store.scenes import Scene
from lenskeep.studio import deeds
from lenskeep.studio.applying import KIND, frame_there, queue_frames
from lenskeep.studio.library import Library
from lenskeep.studio.problems import ChangedMeanwhile
from lenskeep.studio.wanting import settle_scene


def look_of_shoot(library: Library, shoot_id: int) -> Look | None:
    """The look of a shoot's first scene."""
    scene = scenes.first_scene(library.db, shoot_id)
    return kept.look(library.db, scene.id) if scene else None


def give_look(
    library: Library,
    shoot_id: int,
    version_id: int,
    strength: float,
    frame_ids: Collection[int] | None = None,
    scene_ids: Collection[int] | None = None,
) -> int:
    """Give every scene of a shoot, or only some, a recipe's version at a strength 0…2 and queue their frames, or only
    some; returns the job. Raises UserProblem.
    """
    return give_layers(library, shoot_id, [(version_id, strength)], frame_ids, scene_ids)


def give_layers(
    library: Library,
    shoot_id: int,
    layers: Sequence[tuple[int, float] | tuple[int, float, bool]],
    frame_ids: Collection[int] | None = None,
    scene_ids: Collection[int] | None = None,
) -> int:
    """The same with several layers of (version, strength, maybe whether it is on), the bottom first; without any, the
    look is taken away. Raises UserProblem.
    """
    for version_id, strength, *_ in layers:
        version = recipes.version(library.db, version_id)
        if version is None:
            raise UserProblem("This version of the recipe is gone. Choose another one.")
        if not 0.0 <= strength <= 2.0:
            raise UserProblem("The strength of a look goes from 0 to 200 %.")
        _ = version.recipe  # an unreadable one is refused here
    with library.db.writing():
        own = [s.id for s in scenes.scenes(library.db, shoot_id) if scene_ids is None or s.id in scene_ids]
        for scene_id in own:
            kept.give_look(library.db, scene_id, layers)
            settle_scene(library.db, scene_id)
        if scene_ids is None:
            _cancel_applying(library, shoot_id)
        elif frame_ids is None:
            frame_ids = scenes.frame_ids(library.db, own)
        return queue_frames(library, shoot_id, frame_ids)


def apply_saved(library: Library, shoot_id: int, version_id: int, scene_ids: Collection[int] | None = None) -> int:
    """Give scenes a version that was saved on the Bench: where one of several layers is of the same recipe, that is
    moved on to it and the others stay; else it is the whole look. Returns the job.
    """
    saved = recipes.version(library.db, version_id)
    own = [s.id for s in scenes.scenes(library.db, shoot_id) if scene_ids is None or s.id in scene_ids]
    with library.db.writing():
        for scene_id in own:
            look = kept.look(library.db, scene_id) or NO_LOOK
            layers = look.given
            place = next(
                (i for i, e in enumerate(look.layers) if saved and e.version.recipe_id == saved.recipe_id), None
            )
            if place is None or len(layers) == 1:
                layers = [(version_id, 1.0, True)]
            else:
                layers[place] = (version_id, layers[place][1], True)
            kept.give_look(library.db, scene_id, layers)
            settle_scene(library.db, scene_id)
        if scene_ids is None:
            _cancel_applying(library, shoot_id)
        return queue_frames(library, shoot_id, scenes.frame_ids(library.db, own))


def give_same(library: Library, scene: Scene, like: Scene) -> int:
    """Give a scene the look of another of its shoot; returns the job. Raises UserProblem where that has none."""
    look = kept.look(library.db, like.id)
    if look is None or like.shoot_id != scene.shoot_id:
        raise UserProblem(f"{like.name} has no look to take over.")
    return give_layers(library, scene.shoot_id, look.given, scene_ids=[scene.id])


def _cancel_applying(library: Library, shoot_id: int) -> None:
    for job in jobs.jobs(library.db, shoot_id):
        if job.kind == KIND and job.active:
            jobs.cancel(library.db, job.id)


def change_part(
    library: Library, frame_id: int, kind: Literal["layers", "groups"], name: str, own: GroupOverride
) -> None:
    """Change a layer or a group of its look on one frame; what is as the look has it is forgotten."""

    def changed(frame: FrameRow) -> FrameOverride:
        held = {**getattr(frame.override, kind), name: own}
        return frame.override.model_copy(update={kind: {k: v for k, v in held.items() if v != GroupOverride()}})

    deeds.change_one(library, frame_id, "the look", changed)


def change_frame(
    library: Library,
    frame_id: int,
    *,
    strength: float | None = None,
    step_id: str | None = None,
    step: StepOverride | None = None,
    reset: bool = False,
    seen: StepOverride | None = None,
) -> FrameRow:
    """Change one frame's strength, or one step on it; it wants another picture from then on.

    ``seen`` is what the step had on this frame where the change was made. Raises UserProblem; ChangedMeanwhile when the
    step has something else by now.
    """

    def changed(frame: FrameRow) -> FrameOverride:
        override = frame.override.with_look_kept() if reset else frame.override
        if strength is not None:
            override = override.model_copy(update={"strength": FrameOverride(strength=strength).strength})
        if step_id is not None and step is not None:
            if seen is not None and override.of_step("", step_id) != seen:
                raise ChangedMeanwhile("This step was changed on this frame meanwhile. Look again, then change it.")
            steps = {k: v for k, v in {**override.steps, step_id: step}.items() if v != StepOverride()}
            override = override.model_copy(update={"steps": steps})
        return override

    deeds.change_one(library, frame_id, "the look", changed)
    return frame_there(library, frame_id)
