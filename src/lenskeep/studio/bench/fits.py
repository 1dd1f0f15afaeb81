"""Whether a change that was made on an earlier state of a Bench still means the same on the newest one."""

from lenskeep.core.recipes.change import Change, Ref
from lenskeep.core.recipes.models import Recipe, Step
from lenskeep.core.regions import Region
from lenskeep.studio.problems import ChangedMeanwhile

MEANWHILE = (
    "This Bench was changed in another window meanwhile; it is shown as it is now. Do it once more if it still fits."
)


def check_fits(seen: Recipe | None, now: Recipe, change: Change) -> None:
    """All that a change speaks of must be there still, of the same kind. Raises ChangedMeanwhile."""
    refs = change.refs()
    if refs and seen is None:
        raise ChangedMeanwhile(MEANWHILE)
    for ref in refs:
        found = _built(now, ref)
        if found is None or seen is None or _built(seen, ref) != found:
            raise ChangedMeanwhile(MEANWHILE)


def _built(recipe: Recipe, ref: Ref) -> object:
    """What is meant, as far as a change depends on it; None when it is not there."""
    what, whose, *more = ref
    if what == "region":
        return "shared" if whose in recipe.regions else None
    if what == "group":
        return "group" if whose in recipe.groups else None
    if what == "part of shared":
        return _part(recipe.regions[whose].region, more[0]) if whose in recipe.regions else None
    if what == "part of group":
        return _part(recipe.limit_of_group(recipe.groups[whose]), more[0]) if whose in recipe.groups else None
    step = next((s for s in recipe.steps if s.id == whose), None)
    return None if step is None else _of_step(recipe, step, what, more)


def _of_step(recipe: Recipe, step: Step, what: str, more: list[str]) -> object:
    shared = step.shared.region if step.shared else ""
    if what == "step":
        return ("step", shared)
    if what == "adjustment":
        return next((a.kind for a in step.adjustments if a.id == more[0]), None)
    region = step.region if what == "part of step" else recipe.region_of(step)
    part = _part(region, more[0])
    if part is None:
        return None
    samples = tuple(
        len(getattr(p, "samples", ())) for p in region.parts if p.id == more[0] and what == "part and its samples"
    )
    return (part, shared, samples)


def _part(region: Region, part_id: str) -> str | None:
    return next((p.kind for p in region.parts if p.id == part_id), None)
