"""The Bench of a shoot: its draft recipe, changes with undo, key frame and witnesses, saving."""

import secrets
from dataclasses import dataclass
from typing import Any

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.names import shown_name
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions.kinds.brush import Brush
from lenskeep.store import drafts, frames, recipes, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.store.recipes import RecipeVersion
from lenskeep.studio.bench import changes
from lenskeep.studio.library import Library
from lenskeep.studio.problems import ChangedMeanwhile

WITNESSES = 6


def draft(library: Library, shoot_id: int) -> drafts.Draft:
    """The shoot's draft; before the first change, its look's recipe or an empty one, which is not written down yet."""
    found = drafts.draft(library.db, shoot_id)
    if found is not None:
        return found
    look = recipes.look(library.db, shoot_id)
    if look is not None and not look.version.unreadable:
        start, recipe_id = look.version.recipe, look.version.recipe_id
    else:
        start, recipe_id = Recipe(name=_free_name(library)), None
    return drafts.Draft(start.model_dump_json(), state=0, position=-1, undo=None, redo=None, recipe_id=recipe_id)


def _free_name(library: Library) -> str:
    taken = {v.name for v in recipes.newest_versions(library.db)}
    names = ["New look", *(f"New look {n}" for n in range(2, 1000))]
    return next((name for name in names if name not in taken), "New look")


@dataclass(frozen=True)
class Changed:
    """``state`` is the number of the new state; ``late`` says that it was made on an older one than was there;
    ``added`` is the id of a step that was added.
    """

    state: int
    late: bool
    added: str | None = None


def change(library: Library, shoot_id: int, op: str, values: dict[str, Any], on: int | None = None) -> Changed:
    """Do one change to the draft and remember it for undo.

    ``on`` is the state that it was made on, as far as it is known. When there is a newer one, the change is made on
    that if it still means the same there. Raises ChangedMeanwhile when it does not, EditProblem for what can't be done.
    """
    added = f"s{secrets.token_hex(4)}" if op == "add-step" else None
    fresh = {"id": f"r{secrets.token_hex(4)}"} if op == "share" else {}

    def changed(recipe: Recipe) -> tuple[Recipe, str]:
        if added is None:
            return changes.changed(recipe, op, values | fresh)
        where, what = str(values.get("where", "")), str(values.get("what", ""))
        return edit.add_step(recipe, where, what, added), "adding a step"

    with library.db.writing():
        now = draft(library, shoot_id)
        if on is not None and on != now.state:
            changes.check_fits(_seen(library, shoot_id, on), now.recipe, op, values)
        recipe, did = changed(now.recipe)
        if recipe != now.recipe:
            _push(library, shoot_id, now, recipe, did)
        return Changed(drafts.state_number(library.db, shoot_id), on is not None and on != now.state, added)


def _seen(library: Library, shoot_id: int, state: int) -> Recipe | None:
    """The recipe as it was in a state that somebody has before him; None when that is forgotten."""
    if state == 0:  # nothing was written down then
        look = recipes.look(library.db, shoot_id)
        return look.version.recipe if look and not look.version.unreadable else Recipe()
    kept = drafts.earlier(library.db, shoot_id, state)
    return kept.recipe if kept and not kept.unreadable else None


def _push(library: Library, shoot_id: int, now: drafts.Draft, recipe: Recipe, did: str) -> None:
    """A new state; the first time, the one that everything starts from is written down before it."""
    if now.state == 0:
        drafts.push(library.db, shoot_id, now.recipe, "start")
        if now.recipe_id is not None:
            drafts.set_recipe(library.db, shoot_id, now.recipe_id)
    drafts.push(library.db, shoot_id, recipe, did)


def undo(library: Library, shoot_id: int, on: int | None = None) -> bool:
    return _move(library, shoot_id, -1, on)


def redo(library: Library, shoot_id: int, on: int | None = None) -> bool:
    return _move(library, shoot_id, 1, on)


def _move(library: Library, shoot_id: int, by: int, on: int | None) -> bool:
    """Raises ChangedMeanwhile when ``on`` is not the state any more: it would take back what somebody else did."""
    with library.db.writing():
        _check_state(library, shoot_id, on)
        return drafts.move(library.db, shoot_id, by)


def back_to_readable(library: Library, shoot_id: int) -> bool:
    """Go back, state by state, until one can be read; False, and nothing changed, when none can."""
    with library.db.writing() as write:
        write.execute("SAVEPOINT going_back")
        while drafts.move(library.db, shoot_id, -1):
            if not draft(library, shoot_id).unreadable:
                return True
        write.execute("ROLLBACK TO going_back")
        return False


def _check_state(library: Library, shoot_id: int, on: int | None) -> None:
    if on is not None and on != drafts.state_number(library.db, shoot_id):
        raise ChangedMeanwhile(changes.MEANWHILE)


def go_on_from(library: Library, shoot_id: int, recipe: Recipe, did: str, recipe_id: int | None = None) -> None:
    """Put a recipe on the Bench; what was there before can be had back by undo."""
    with library.db.writing():
        found = drafts.draft(library.db, shoot_id)
        if found is None:
            found = draft(library, shoot_id)
            drafts.push(library.db, shoot_id, found.recipe, "start")
        drafts.push(library.db, shoot_id, recipe, did[:60])
        if recipe_id is not None:
            drafts.set_recipe(library.db, shoot_id, recipe_id)


def load(library: Library, shoot_id: int, recipe: Recipe, recipe_id: int | None = None) -> None:
    """Put a saved recipe on the Bench."""
    go_on_from(library, shoot_id, recipe, f"loading {recipe.name}", recipe_id)


def save(
    library: Library, shoot_id: int, name: str, step_ids: list[str], strength: float, on: int | None = None
) -> RecipeVersion:
    """Save the ticked steps as a recipe: a new one, or the next version of the one of that name.

    Raises EditProblem without a step or with a bad name; ChangedMeanwhile when ``on`` is not the state any more.
    """
    with library.db.writing():
        _check_state(library, shoot_id, on)
        now = draft(library, shoot_id)
        recipe = now.recipe
        kept = [step for step in recipe.steps if step.id in step_ids]
        if not kept:
            raise edit.EditProblem("Tick at least one step to save.")
        used = {step.shared.region for step in kept if step.shared}
        data = recipe.model_dump(mode="json") | {
            "regions": {rid: r.model_dump(mode="json") for rid, r in recipe.regions.items() if rid in used},
            "name": shown_name(name),
            "strength": strength,
            "steps": [step.model_dump(mode="json") for step in kept],
        }
        saved = recipes.save_recipe(library.db, edit.checked_recipe(data))
        named = edit.set_values(recipe, {"name": saved.name, "strength": strength})
        if named != recipe or now.state == 0:
            _push(library, shoot_id, now, named, "naming the recipe")
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
