"""What a step is called until somebody names it: where it works, and what it does there."""

from lenskeep.core.recipes.models import Recipe, Step
from lenskeep.core.regions import Region

LONGEST = 80


def name_of(region: Region, labels: list[str]) -> str:
    """Such as "Whole frame – exposure, warmth"."""
    place = region.sentence()
    words = f"{place[:1].upper()}{place[1:]}"
    name = f"{words} – {', '.join(label.lower() for label in labels)}" if labels else words
    return name if len(name) <= LONGEST else f"{name[: LONGEST - 1].rstrip(' ,–')}…"


def automatic(recipe: Recipe, step: Step) -> str:
    """The name of a step of a recipe as it is now."""
    return name_of(recipe.region_of(step), list(dict.fromkeys(a.label for a in step.adjustments)))


def follow(before: Recipe, after: Recipe) -> Recipe:
    """After a change: steps that were called by what they did are called by what they do. A name that somebody typed,
    or that came with a recipe, stays.
    """
    known = {step.id: step for step in before.steps}
    steps = [_followed(before, known.get(step.id), after, step) for step in after.steps]
    return after if steps == after.steps else after.model_copy(update={"steps": steps})


def _followed(before: Recipe, was: Step | None, after: Recipe, now: Step) -> Step:
    if was is None or now.name != was.name or was.name != automatic(before, was):
        return now
    return now.model_copy(update={"name": automatic(after, now)})
