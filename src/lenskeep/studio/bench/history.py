"""Going through what was done at a Bench: back to any state, states with names, and a new beginning."""

from dataclasses import dataclass

from lenskeep.core.names import shown_name
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.store import drafts, history
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench.draft import check_state
from lenskeep.studio.library import Library
from lenskeep.studio.problems import Gone

FORGOTTEN = "This state is forgotten: it lies too far back."
MOST_NAMED, MOST_NAME = 40, 60


@dataclass(frozen=True)
class History:
    """All that was done, the newest first, and the states with names."""

    done: list[history.Done]
    named: list[history.Named]


def history_of(library: Library, scene_id: int) -> History:
    return History(history.done(library.db, scene_id), history.named(library.db, scene_id))


def go(library: Library, scene_id: int, state: int, on: int | None = None) -> None:
    """Make a state the present one; what was done after it stays to be done again. Raises Gone, ChangedMeanwhile."""
    with library.db.writing():
        check_state(library, scene_id, on)
        if not history.go(library.db, scene_id, state):
            raise Gone(FORGOTTEN)


def name(library: Library, scene_id: int, words: str) -> None:
    """Give the present state a name. Raises EditProblem."""
    shown = shown_name(words)[:MOST_NAME].strip()
    if not shown:
        raise EditProblem("Give the state a name first.")
    taken = {one.name for one in history.named(library.db, scene_id)}
    if shown not in taken and len(taken) >= MOST_NAMED:
        raise EditProblem(f"A Bench keeps at most {MOST_NAMED} named states. Forget one first.")
    history.name_state(library.db, scene_id, shown, bench.recipe_now(library, scene_id))


def come_back(library: Library, scene_id: int, named_id: int, on: int | None = None) -> None:
    """Put a named state on the Bench, as a change like any other. Raises Gone, ChangedMeanwhile, UnreadableRecipe."""
    one = named_state(library, scene_id, named_id)
    with library.db.writing():
        check_state(library, scene_id, on)
        bench.go_on_from(library, scene_id, one.recipe, f"coming back to {one.name}")


def begin_anew(library: Library, scene_id: int, on: int | None = None) -> None:
    """Start from nothing; undo brings back what was there. Raises ChangedMeanwhile."""
    with library.db.writing():
        check_state(library, scene_id, on)
        now = bench.recipe_now(library, scene_id)
        bench.go_on_from(library, scene_id, Recipe(name=now.name), "starting from nothing")


def forget(library: Library, scene_id: int, named_id: int) -> None:
    history.forget(library.db, scene_id, named_id)


def named_state(library: Library, scene_id: int, named_id: int) -> history.Named:
    """Raises Gone."""
    found = [one for one in history.named(library.db, scene_id) if one.id == named_id]
    if not found:
        raise Gone("This named state is no longer there.")
    return found[0]


def recipe_of(library: Library, scene_id: int, pinned: str) -> Recipe:
    """The recipe of a state that is held against the present one: a number, or "named" and an id. Raises Gone."""
    kind, _, number = pinned.rpartition(" ")
    if not number.isdecimal():
        raise Gone(FORGOTTEN)
    if kind == "named":
        return named_state(library, scene_id, int(number)).recipe
    kept = drafts.earlier(library.db, scene_id, int(number))
    if kept is None:
        raise Gone(FORGOTTEN)
    return kept.recipe
