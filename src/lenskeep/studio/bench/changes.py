"""What can be changed at the Bench, by name: each a function from recipe and values to a recipe, and its words."""

import json
from collections.abc import Callable
from typing import Any

from lenskeep.core.recipes import edit
from lenskeep.core.recipes import edit_regions as regions
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions import Region
from lenskeep.studio.problems import ChangedMeanwhile

Values = dict[str, Any]


def _step(values: Values) -> str:
    return str(values.get("step", ""))


def _index(values: Values) -> int:
    try:
        return int(values["index"])
    except (KeyError, ValueError, TypeError) as error:
        raise edit.EditProblem(regions.PART_GONE) from error


def _by(values: Values, name: str = "by") -> int:
    try:
        return min(max(int(values[name]), -1000), 1000)
    except (ValueError, TypeError) as error:
        raise edit.EditProblem("Say by how many places.") from error


def _ticked(values: Values, name: str) -> bool:
    return str(values.get(name, "")).lower() in ("true", "on", "1")


def _plain(values: Values, name: str) -> dict[str, Any]:
    value = values.get(name)
    try:
        found = json.loads(value) if isinstance(value, str) else value
    except (ValueError, RecursionError) as error:
        raise edit.EditProblem(f"The {name} is not complete.") from error
    if not isinstance(found, dict):
        raise edit.EditProblem(f"The {name} is not complete.")
    return found


CHANGES: dict[str, tuple[str, Callable[[Recipe, Values], Recipe]]] = {
    "remove-step": ("removing a step", lambda r, v: edit.remove_step(r, _step(v))),
    "move-step": ("moving a step", lambda r, v: edit.move_step(r, _step(v), _by(v))),
    "add-adjustment": ("adding an adjustment", lambda r, v: edit.add_adjustment(r, _step(v), str(v["kind"]))),
    "remove-adjustment": ("removing an adjustment", lambda r, v: edit.remove_adjustment(r, _step(v), _index(v))),
    "add-part": (
        "adding a part",
        lambda r, v: regions.add_part(r, _step(v), str(v["kind"]), str(v.get("combine", "add"))),
    ),
    "remove-part": ("removing a part", lambda r, v: regions.remove_part(r, _step(v), _index(v))),
    "move-part": ("moving a part", lambda r, v: regions.move_part(r, _step(v), _index(v), _by(v))),
    "stroke": ("a stroke", lambda r, v: regions.add_stroke(r, _step(v), _index(v), _plain(v, "stroke"))),
    "clear-strokes": ("clearing the brush", lambda r, v: regions.clear_strokes(r, _step(v), _index(v))),
    "keep-on-frame": (
        "where the brush works",
        lambda r, v: regions.keep_on_frame(r, _step(v), _index(v), str(v.get("frame", ""))),
    ),
    "add-sample": ("a colour sample", lambda r, v: regions.add_sample(r, _step(v), _index(v), tuple(v["colour"]))),
    "remove-sample": (
        "removing a sample",
        lambda r, v: regions.remove_sample(r, _step(v), _index(v), _by(v, "sample")),
    ),
    "add-pick": (
        "picking an object",
        lambda r, v: regions.add_pick(r, _step(v), _index(v), _plain(v, "pick"), bool(v.get("alone"))),
    ),
    "clear-picks": ("clearing the picks", lambda r, v: regions.clear_picks(r, _step(v), _index(v))),
    "set-image": (
        "bringing in an image",
        lambda r, v: regions.set_image(r, _step(v), _index(v), str(v["name"]), str(v["png"])),
    ),
    "set-file": ("bringing in a file", lambda r, v: edit.set_fields(r, _step(v), _index(v), _plain(v, "fields"))),
    "share": ("sharing a region", lambda r, v: regions.share_region(r, _step(v), str(v.get("name", "")), str(v["id"]))),
    "use-shared": (
        "using a shared region",
        lambda r, v: regions.use_shared(r, _step(v), str(v["region"]), _ticked(v, "invert")),
    ),
    "own-copy": ("a copy of its own", lambda r, v: regions.own_copy(r, _step(v))),
    "share-again": ("sharing again", lambda r, v: regions.share_again(r, _step(v))),
    "copy-region": (
        "copying a region",
        lambda r, v: regions.copy_region(r, _step(v), str(v["source"]), _ticked(v, "invert")),
    ),
    "delete-shared": (
        "deleting a shared region",
        lambda r, v: regions.delete_shared(r, str(v["region"]), "off" if v.get("then") == "off" else "copies"),
    ),
    "set": ("a change", lambda r, v: edit.set_values(r, dict(v["values"]))),
}
"""``values`` name the step by "step" and a part or adjustment by "index"; forms send them as text."""


def changed(recipe: Recipe, op: str, values: Values) -> tuple[Recipe, str]:
    """The recipe after a change and what to call it in the list of undo. Raises EditProblem."""
    if op not in CHANGES:
        raise edit.EditProblem("This change is unknown.")
    words, change = CHANGES[op]
    try:
        return change(recipe, values), str(values.get("did") or words)[:60]
    except KeyError as error:
        raise edit.EditProblem(f"Something is missing for this: {error.args[0]}.") from error


MEANWHILE = (
    "This Bench was changed in another window meanwhile; it is shown as it is now. Do it once more if it still fits."
)
ANYWHERE = ("add-step",)
"""Changes that mean the same whatever else was changed."""


def check_fits(seen: Recipe | None, now: Recipe, op: str, values: Values) -> None:
    """Whether a change made on ``seen`` still means the same on ``now``: the steps and regions it speaks of are built
    of the same parts and adjustments. Raises ChangedMeanwhile.
    """
    if op in ANYWHERE:
        return
    if seen is None:
        raise ChangedMeanwhile(MEANWHILE)
    if op == "set":
        ways = [str(path).split("/") for path in values.get("values", {})]
        spoken = {way[1] for way in ways if len(way) > 1}
    else:
        spoken = {str(values[name]) for name in ("step", "region", "source") if values.get(name)}
    if any(_built(seen, name) != _built(now, name) or _built(now, name) is None for name in spoken):
        raise ChangedMeanwhile(MEANWHILE)


def _built(recipe: Recipe, name: str) -> object:
    """What a step or a shared region of this id is made of; None when there is none."""
    if name in recipe.regions:
        return _parts(recipe.regions[name].region)
    for step in recipe.steps:
        if step.id == name:
            return (
                [a.kind for a in step.adjustments],
                step.shared and step.shared.region,
                _parts(recipe.region_of(step)),
            )
    return None


def _parts(region: Region) -> list[tuple[str, int]]:
    return [(part.kind, len(getattr(part, "samples", ()))) for part in region.parts]
