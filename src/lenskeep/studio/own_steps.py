"""The steps of one frame alone, after its look: recipes of the book as they were when they were given to it."""

from collections.abc import Callable

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import MOST_OWN, FrameOverride, OwnSteps
from lenskeep.store import recipes
from lenskeep.store.frames import FrameRow
from lenskeep.studio import deeds
from lenskeep.studio.applying import frame_there
from lenskeep.studio.library import Library

GONE = "This is no longer among the frame’s own steps. Reload the page."


def add(library: Library, frame_id: int, version_id: int, strength: float = 1.0) -> None:
    """Let a version of a recipe work on a frame after its look. Raises UserProblem, UnreadableRecipe."""
    version = recipes.version(library.db, version_id)
    if version is None:
        raise UserProblem("This recipe is no longer in the book. Choose another one.")
    mine = OwnSteps(recipe=version.recipe, strength=strength)
    if len(frame_there(library, frame_id).override.own) >= MOST_OWN:
        raise UserProblem(f"At most {MOST_OWN} recipes work on one frame alone. Take one away first.")
    _change(library, frame_id, lambda own: (*own, mine))


def change(library: Library, frame_id: int, place: int, enabled: bool, strength: float) -> None:
    """Switch or weaken those at ``place``. Raises UserProblem when they are gone."""

    def changed(own: tuple[OwnSteps, ...]) -> tuple[OwnSteps, ...]:
        mine = _at(own, place).model_copy(update={"enabled": enabled, "strength": strength})
        return (*own[:place], mine, *own[place + 1 :])

    _change(library, frame_id, changed)


def remove(library: Library, frame_id: int, place: int) -> None:
    """Raises UserProblem when they are gone."""

    def changed(own: tuple[OwnSteps, ...]) -> tuple[OwnSteps, ...]:
        _at(own, place)
        return (*own[:place], *own[place + 1 :])

    _change(library, frame_id, changed, place)


def _at(own: tuple[OwnSteps, ...], place: int) -> OwnSteps:
    if not 0 <= place < len(own):
        raise UserProblem(GONE)
    return own[place]


def _change(
    library: Library,
    frame_id: int,
    to: Callable[[tuple[OwnSteps, ...]], tuple[OwnSteps, ...]],
    removed: int | None = None,
) -> None:
    def changed(frame: FrameRow) -> FrameOverride:
        override = frame.override
        steps = override.steps if removed is None else _without(override, removed)
        return FrameOverride.model_validate(override.model_copy(update={"own": to(override.own), "steps": steps}))

    deeds.change_one(library, frame_id, "the own steps", changed)


def _without(override: FrameOverride, removed: int) -> dict[str, object]:
    """What was changed of single steps, where those at one place go and those behind it move up."""
    out: dict[str, object] = {}
    for name, value in override.steps.items():
        layer, _, step = name.partition(".")
        place = int(layer[3:]) if step and layer.startswith("own") and layer[3:].isdigit() else -1
        if place != removed:
            out[f"own{place - 1}.{step}" if place > removed else name] = value
    return out
