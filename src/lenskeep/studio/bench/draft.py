"""The Bench of a scene: its draft recipe, changes with undo, saving."""

import secrets
from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock
from typing import Any

from lenskeep.core.names import shown_name
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.change import Change
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.naming import follow
from lenskeep.core.regions.kinds.brush import Brush
from lenskeep.store import drafts, looks, recipes
from lenskeep.store.recipes import RecipeVersion
from lenskeep.studio.bench.fits import MEANWHILE, check_fits
from lenskeep.studio.library import Library
from lenskeep.studio.problems import ChangedMeanwhile

_KEPT_STATES = 32


def draft(library: Library, scene_id: int) -> drafts.Draft:
    """The scene's draft; before the first change, its look's recipe or an empty one, which is not written down yet."""
    found = drafts.draft(library.db, scene_id)
    if found is not None:
        return found
    start, recipe_id = _start(library, scene_id)
    return drafts.Draft(start.model_dump_json(), state=0, position=-1, undo=None, redo=None, recipe_id=recipe_id)


def _start(library: Library, scene_id: int) -> tuple[Recipe, int | None]:
    look = looks.look(library.db, scene_id)
    if look is not None and not look.version.unreadable:
        return look.version.recipe, look.version.recipe_id
    return Recipe(name=_free_name(library)), None


class _Read:
    """Recipes of states that were read last, so that a moving slider reads none anew. A state never changes."""

    def __init__(self) -> None:
        self._held: OrderedDict[tuple[str, int], Recipe] = OrderedDict()
        self._lock = Lock()

    def get(self, library: Library, scene_id: int, state: int) -> Recipe | None:
        key = (str(library.home), state)
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]
        kept = drafts.earlier(library.db, scene_id, state)
        if kept is None:
            return None
        recipe = kept.recipe
        with self._lock:
            self._held[key] = recipe
            while len(self._held) > _KEPT_STATES:
                self._held.popitem(last=False)
        return recipe


_read = _Read()


def recipe_now(library: Library, scene_id: int) -> Recipe:
    """The recipe on the Bench, without anything else of its state. Raises UnreadableRecipe."""
    state = drafts.state_number(library.db, scene_id)
    found = _read.get(library, scene_id, state) if state else None
    return found if found is not None else draft(library, scene_id).recipe


def state_now(library: Library, scene_id: int) -> int:
    """The number of the present state; 0 before the first change."""
    return drafts.state_number(library.db, scene_id)


def _free_name(library: Library) -> str:
    taken = recipes.names(library.db)
    names = ["New look", *(f"New look {n}" for n in range(2, 1000))]
    return next((name for name in names if name not in taken), "New look")


@dataclass(frozen=True)
class Changed:
    """``state`` is the number of the new state; ``late`` says that it was made on an older one than was there;
    ``added`` is the id of a step that was added, ``fresh`` that of a part or an adjustment.
    """

    state: int
    late: bool
    added: str | None = None
    fresh: str | None = None


def change(library: Library, scene_id: int, change: Change, on: int | None = None) -> Changed:
    """Do one change to the draft and remember it for undo.

    ``on`` is the state that it was made on, as far as it is known. When there is a newer one, the change is made on
    that if it still means the same there. Raises ChangedMeanwhile when it does not, EditProblem for what can't be done.
    """
    if change.fresh and not getattr(change, "id", "x"):
        change = change.model_copy(update={"id": f"{change.fresh}{secrets.token_hex(4)}"})
    with library.db.writing():
        now = draft(library, scene_id)
        late = on is not None and on != now.state
        if late and on is not None:
            check_fits(_seen(library, scene_id, on), now.recipe, change)
        recipe = follow(now.recipe, change.on(now.recipe))
        if recipe != now.recipe:
            _push(library, scene_id, now, recipe, change.did()[:60])
        added = getattr(change, "id", "") if change.fresh == "s" else ""
        if change.fresh == "g":  # a group: its first step, if it is a new one
            before = {s.id for s in now.recipe.steps}
            added = next((s.id for s in recipe.steps if s.id not in before), "")
        fresh = getattr(change, "id", "") if change.fresh in ("p", "a") else None
        return Changed(drafts.state_number(library.db, scene_id), late, added or None, fresh or None)


def _seen(library: Library, scene_id: int, state: int) -> Recipe | None:
    """The recipe as it was in a state that somebody has before him; None when that is forgotten."""
    if state == 0:  # nothing was written down then
        return _start(library, scene_id)[0]
    kept = drafts.earlier(library.db, scene_id, state)
    return kept.recipe if kept and not kept.unreadable else None


def _push(library: Library, scene_id: int, now: drafts.Draft, recipe: Recipe, did: str) -> None:
    """A new state; the first time, the one that everything starts from is written down before it."""
    if now.state == 0:
        drafts.push(library.db, scene_id, now.recipe, "start")
        if now.recipe_id is not None:
            drafts.set_recipe(library.db, scene_id, now.recipe_id)
    drafts.push(library.db, scene_id, recipe, did)


def undo(library: Library, scene_id: int, on: int | None = None) -> bool:
    return _move(library, scene_id, -1, on)


def redo(library: Library, scene_id: int, on: int | None = None) -> bool:
    return _move(library, scene_id, 1, on)


def _move(library: Library, scene_id: int, by: int, on: int | None) -> bool:
    """Raises ChangedMeanwhile when ``on`` is not the state any more: it would take back what somebody else did."""
    with library.db.writing():
        check_state(library, scene_id, on)
        return drafts.move(library.db, scene_id, by)


def back_to_readable(library: Library, scene_id: int) -> bool:
    """Go back, state by state, until one can be read; False, and nothing changed, when none can."""
    with library.db.writing() as write:
        write.execute("SAVEPOINT going_back")
        while drafts.move(library.db, scene_id, -1):
            if not draft(library, scene_id).unreadable:
                return True
        write.execute("ROLLBACK TO going_back")
        return False


def check_state(library: Library, scene_id: int, on: int | None) -> None:
    """Raises ChangedMeanwhile when ``on`` is not the present state any more."""
    if on is not None and on != state_now(library, scene_id):
        raise ChangedMeanwhile(MEANWHILE)


def go_on_from(library: Library, scene_id: int, recipe: Recipe, did: str, recipe_id: int | None = None) -> None:
    """Put a recipe on the Bench; what was there before can be had back by undo."""
    with library.db.writing():
        if drafts.draft(library.db, scene_id) is None:
            drafts.push(library.db, scene_id, _start(library, scene_id)[0], "start")
        drafts.push(library.db, scene_id, recipe, did[:60])
        if recipe_id is not None:
            drafts.set_recipe(library.db, scene_id, recipe_id)


def load(library: Library, scene_id: int, recipe: Recipe, recipe_id: int | None = None) -> None:
    """Put a saved recipe on the Bench."""
    go_on_from(library, scene_id, recipe, f"loading {recipe.name}", recipe_id)


def save(
    library: Library, scene_id: int, name: str, step_ids: list[str], strength: float, on: int | None = None
) -> RecipeVersion:
    """Save the ticked steps as a recipe: a new one, or the next version of the one of that name.

    Raises EditProblem without a step or with a bad name; ChangedMeanwhile when ``on`` is not the state any more.
    """
    with library.db.writing():
        check_state(library, scene_id, on)
        now = draft(library, scene_id)
        recipe = now.recipe
        kept = [step for step in recipe.steps if step.id in step_ids]
        if not kept:
            raise edit.EditProblem("Tick at least one step to save.")
        whole = edit.with_steps(recipe, kept)
        used = {rid for rid in whole.regions if whole.users(rid)}
        regions = {rid: r for rid, r in whole.regions.items() if rid in used}
        whole = edit.changed(whole, name=shown_name(name), strength=strength, regions=regions)
        saved = recipes.save_recipe(library.db, whole)
        named = edit.changed(recipe, name=saved.name, strength=strength)
        if named != recipe or now.state == 0:
            _push(library, scene_id, now, named, "naming the recipe")
        drafts.set_recipe(library.db, scene_id, saved.recipe_id)
        return saved


def strokes(library: Library, scene_id: int, step_id: str) -> list[dict[str, Any]]:
    """What was painted with the brushes of a step. Raises EditProblem when the step is gone."""
    recipe = draft(library, scene_id).recipe
    step = edit.step_of(recipe, step_id)
    brushes = [part for part in recipe.region_of(step).parts if isinstance(part, Brush)]
    return [{"anchor": b.anchor, **stroke.model_dump()} for b in brushes for stroke in b.strokes]
