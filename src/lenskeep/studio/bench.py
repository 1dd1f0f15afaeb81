"""The Bench of a shoot: its draft recipe, changes with undo, key frame and witnesses, saving."""

import secrets
from typing import Any

from lenskeep.core import edit
from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.recipe import Recipe
from lenskeep.core.regions.brush import Brush
from lenskeep.store import drafts, frames, recipes, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.store.recipes import RecipeVersion
from lenskeep.studio import changes
from lenskeep.studio.library import Library

WITNESSES = 6


def draft(library: Library, shoot_id: int) -> drafts.Draft:
    """The shoot's draft; at first its look's recipe, or an empty one."""
    found = drafts.draft(library.db, shoot_id)
    if found is not None:
        return found
    look = recipes.look(library.db, shoot_id)
    start = look.version.recipe if look else Recipe(name=_free_name(library))
    drafts.push(library.db, shoot_id, start, "start")
    if look:
        drafts.set_recipe(library.db, shoot_id, look.version.recipe_id)
    return draft(library, shoot_id)


def _free_name(library: Library) -> str:
    taken = {v.name for v in recipes.newest_versions(library.db)}
    names = ["New look", *(f"New look {n}" for n in range(2, 1000))]
    return next(name for name in names if name not in taken)


def change(library: Library, shoot_id: int, op: str, values: dict[str, Any]) -> str | None:
    """Do one change to the draft and remember it for undo. Returns the id of a step that was added.

    Raises EditProblem for a change that can't be done.
    """
    recipe = draft(library, shoot_id).recipe
    added = None
    if op == "add-step":
        added = f"s{secrets.token_hex(4)}"
        recipe = edit.add_step(recipe, str(values.get("where", "")), str(values.get("what", "")), added)
        did = "adding a step"
    else:
        fresh = {"id": f"r{secrets.token_hex(4)}"} if op == "share" else {}
        recipe, did = changes.changed(recipe, op, values | fresh)
    if recipe != draft(library, shoot_id).recipe:
        drafts.push(library.db, shoot_id, recipe, did)
    return added


def undo(library: Library, shoot_id: int) -> bool:
    return drafts.move(library.db, shoot_id, -1)


def redo(library: Library, shoot_id: int) -> bool:
    return drafts.move(library.db, shoot_id, 1)


def load(library: Library, shoot_id: int, recipe: Recipe, recipe_id: int | None = None) -> None:
    """Put a recipe on the Bench; the one before can be had back by undo."""
    draft(library, shoot_id)
    drafts.push(library.db, shoot_id, recipe, f"loading {recipe.name}")
    if recipe_id is not None:
        drafts.set_recipe(library.db, shoot_id, recipe_id)


def save(library: Library, shoot_id: int, name: str, step_ids: list[str], strength: float) -> RecipeVersion:
    """Save the ticked steps as a recipe: a new one, or the next version of the one of that name.

    Raises EditProblem without a step or with a bad name.
    """
    recipe = draft(library, shoot_id).recipe
    kept = [step for step in recipe.steps if step.id in step_ids]
    if not kept:
        raise edit.EditProblem("Tick at least one step to save.")
    used = {step.shared.region for step in kept if step.shared}
    data = recipe.model_dump(mode="json") | {
        "regions": {rid: r.model_dump(mode="json") for rid, r in recipe.regions.items() if rid in used},
        "name": " ".join(name.split()),
        "strength": strength,
        "steps": [step.model_dump(mode="json") for step in kept],
    }
    saved = recipes.save_recipe(library.db, edit.checked_recipe(data))
    named = edit.set_values(recipe, {"name": saved.name, "strength": strength})
    if named != recipe:
        drafts.push(library.db, shoot_id, named, "naming the recipe")
    drafts.set_recipe(library.db, shoot_id, saved.recipe_id)
    return saved


def strokes(library: Library, shoot_id: int, step_id: str) -> list[dict[str, Any]]:
    """What was painted with the brushes of a step. Raises EditProblem when the step is gone."""
    recipe = draft(library, shoot_id).recipe
    step = recipe.steps[edit.index_of(recipe, step_id)]
    brushes = [part for part in recipe.region_of(step).parts if isinstance(part, Brush)]
    return [{"anchor": b.anchor, **stroke.model_dump()} for b in brushes for stroke in b.strokes]


def key_and_witnesses(library: Library, shoot_id: int) -> tuple[FrameRow | None, list[FrameRow]]:
    """The key frame, and up to six other frames that differ from it and from each other as much as possible."""
    ready = [f for f in frames.frames(library.db, shoot_id, DETECTOR) if f.facts is not None]
    if not ready:
        return None, []
    shoot = shoots.shoot(library.db, shoot_id)
    key = next((f for f in ready if shoot and f.id == shoot.key_frame_id), ready[0])
    traits = {f.id: _traits(f, i / max(len(ready) - 1, 1)) for i, f in enumerate(ready)}
    chosen: list[FrameRow] = []
    rest = [f for f in ready if f.id != key.id]
    while rest and len(chosen) < WITNESSES:
        seen = [key, *chosen]
        far = max(rest, key=lambda f: min(_distance(traits[f.id], traits[s.id]) for s in seen))
        chosen.append(far)
        rest.remove(far)
    order = {f.id: i for i, f in enumerate(ready)}
    return key, sorted(chosen, key=lambda f: order[f.id])


def _traits(frame: FrameRow, when: float) -> tuple[float, ...]:
    facts = frame.facts
    assert facts is not None
    box = facts.subject_box
    centre = ((box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2) if box else (0.5, 0.5)
    upright = 1.0 if frame.height > frame.width else 0.0
    return (2 * facts.subject.area, 1.5 * facts.sky.area, *centre, 1 - facts.trust, when, upright)


def _distance(a: tuple[float, ...], b: tuple[float, ...]) -> float:
    return sum((x - y) ** 2 for x, y in zip(a, b, strict=True))
