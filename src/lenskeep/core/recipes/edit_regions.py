"""Changes to where steps work: parts, strokes, samples, clicks, and the regions that steps share."""

from collections.abc import Callable
from typing import Any, Literal

from lenskeep.core.recipes.edit import EditProblem, checked_recipe, index_of
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions import PART_KINDS

PART_GONE = "This part is no longer in the region."


def _change(recipe: Recipe, step_id: str, change: Callable[[dict[str, Any]], None]) -> Recipe:
    """Change the region a step works in, as plain data: its own, or the shared one that it uses."""
    data = recipe.model_dump(mode="json")
    step = data["steps"][index_of(recipe, step_id)]
    change(data["regions"][step["shared"]["region"]]["region"] if step["shared"] else step["region"])
    return checked_recipe(data)


def _change_part(
    recipe: Recipe, step_id: str, index: int, kind: str, change: Callable[[dict[str, Any]], None]
) -> Recipe:
    def inside(region: dict[str, Any]) -> None:
        if not 0 <= index < len(region["parts"]) or (kind and region["parts"][index]["kind"] != kind):
            raise EditProblem(PART_GONE)
        change(region["parts"][index])

    return _change(recipe, step_id, inside)


def add_part(recipe: Recipe, step_id: str, kind: str, combine: str) -> Recipe:
    """Add a part of a kind at the end of a step's region."""
    if kind not in PART_KINDS:
        raise EditProblem("Choose a part.")
    return _change(recipe, step_id, lambda region: region["parts"].append({"kind": kind, "combine": combine}))


def remove_part(recipe: Recipe, step_id: str, index: int) -> Recipe:
    def change(region: dict[str, Any]) -> None:
        if not 0 <= index < len(region["parts"]):
            raise EditProblem(PART_GONE)
        region["parts"].pop(index)

    return _change(recipe, step_id, change)


def move_part(recipe: Recipe, step_id: str, index: int, by: int) -> Recipe:
    """Move a part ``by`` places, held to the list's ends."""

    def change(region: dict[str, Any]) -> None:
        parts = region["parts"]
        if not 0 <= index < len(parts):
            raise EditProblem(PART_GONE)
        parts.insert(min(max(index + by, 0), len(parts) - 1), parts.pop(index))

    return _change(recipe, step_id, change)


def add_stroke(recipe: Recipe, step_id: str, index: int, stroke: dict[str, Any]) -> Recipe:
    """Paint one stroke (see ``regions.brush.Stroke``) with the brush part at ``index``."""
    return _change_part(recipe, step_id, index, "brush", lambda part: part["strokes"].append(stroke))


def clear_strokes(recipe: Recipe, step_id: str, index: int) -> Recipe:
    return _change_part(recipe, step_id, index, "brush", lambda part: part["strokes"].clear())


def add_sample(recipe: Recipe, step_id: str, index: int, colour: tuple[float, float, float]) -> Recipe:
    """Add a colour (OKLab) to the colour match at ``index``."""
    return _change_part(recipe, step_id, index, "colour_match", lambda part: part["samples"].append(list(colour)))


def remove_sample(recipe: Recipe, step_id: str, index: int, sample: int) -> Recipe:
    def change(part: dict[str, Any]) -> None:
        if not 0 <= sample < len(part["samples"]):
            raise EditProblem("This sample is no longer there.")
        part["samples"].pop(sample)

    return _change_part(recipe, step_id, index, "colour_match", change)


def add_pick(recipe: Recipe, step_id: str, index: int, pick: dict[str, Any], alone: bool) -> Recipe:
    """Add a click (see ``regions.picked.Pick``) to the picked object at ``index``, or let it be the only one."""

    def change(part: dict[str, Any]) -> None:
        if alone:
            part["picks"].clear()
        part["picks"].append(pick)

    return _change_part(recipe, step_id, index, "picked", change)


def clear_picks(recipe: Recipe, step_id: str, index: int) -> Recipe:
    return _change_part(recipe, step_id, index, "picked", lambda part: part["picks"].clear())


def set_image(recipe: Recipe, step_id: str, index: int, name: str, png: str) -> Recipe:
    """Give the image part at ``index`` its picture, a grey PNG in base64."""
    return _change_part(recipe, step_id, index, "image", lambda part: part.update(name=name, png=png))


def keep_on_frame(recipe: Recipe, step_id: str, index: int, frame: str) -> Recipe:
    """Make the brush at ``index`` a repair on one frame alone; "" lets it work on every frame again."""
    return _change_part(recipe, step_id, index, "brush", lambda part: part.update(only_on=frame))


def share_region(recipe: Recipe, step_id: str, name: str, region_id: str) -> Recipe:
    """Name a step's own region, so that other steps can use it; the step uses it from now on."""
    data = recipe.model_dump(mode="json")
    step = data["steps"][index_of(recipe, step_id)]
    name = " ".join(name.split())
    if step["shared"]:
        raise EditProblem("This step's region is shared already.")
    if not step["region"]["parts"]:
        raise EditProblem("Add a part first; the whole frame needs no name.")
    if not name:
        raise EditProblem("Give the shared region a name.")
    if any(shared["name"] == name for shared in data["regions"].values()):
        raise EditProblem(f"Another shared region is called “{name}”. Choose another name.")
    data["regions"][region_id] = {"name": name, "region": step["region"]}
    step.update(region={}, shared={"region": region_id}, copied_from=None)
    return checked_recipe(data)


def use_shared(recipe: Recipe, step_id: str, region_id: str, invert: bool = False) -> Recipe:
    """Let a step work where a shared region is; what it had of its own is given up."""
    if region_id not in recipe.regions:
        raise EditProblem("This shared region is no longer in the recipe.")
    data = recipe.model_dump(mode="json")
    step = data["steps"][index_of(recipe, step_id)]
    step.update(region={}, shared={"region": region_id, "invert": invert}, copied_from=None)
    return checked_recipe(data)


def own_copy(recipe: Recipe, step_id: str) -> Recipe:
    """Give a step a copy of the shared region it uses, for itself; the copy remembers where it came from."""
    step = recipe.step(step_id)
    if step.shared is None:
        raise EditProblem("This step's region is its own already.")
    data = recipe.model_dump(mode="json")
    region = recipe.region_of(step).model_dump(mode="json")
    data["steps"][index_of(recipe, step_id)].update(region=region, shared=None, copied_from=step.shared.region)
    return checked_recipe(data)


def share_again(recipe: Recipe, step_id: str) -> Recipe:
    """Give up a step's copy and let it use the shared region it came from."""
    step = recipe.steps[index_of(recipe, step_id)]
    if step.copied_from is None or step.copied_from not in recipe.regions:
        raise EditProblem("The shared region this copy came from is gone. Share it under a name instead.")
    # a copy of the opposite goes back to being the opposite
    inverted = step.region.invert != recipe.regions[step.copied_from].region.invert
    return use_shared(recipe, step_id, step.copied_from, inverted)


def copy_region(recipe: Recipe, step_id: str, source_id: str, invert: bool) -> Recipe:
    """Give a step a copy of another step's region, or of its opposite."""
    source = recipe.region_of(recipe.steps[index_of(recipe, source_id)])
    data = recipe.model_dump(mode="json")
    region = (source.inverted() if invert else source).model_dump(mode="json")
    data["steps"][index_of(recipe, step_id)].update(region=region, shared=None, copied_from=None)
    return checked_recipe(data)


def delete_shared(recipe: Recipe, region_id: str, then: Literal["copies", "off"]) -> Recipe:
    """Delete a shared region. Steps that used it get a copy of their own, or lose it and are switched off, since
    without a region they would work on the whole frame.
    """
    users = {step.id for step in recipe.users(region_id)}
    if region_id not in recipe.regions:
        raise EditProblem("This shared region is no longer in the recipe.")
    data = recipe.model_dump(mode="json")
    for step, plain in zip(recipe.steps, data["steps"], strict=True):
        if step.copied_from == region_id:
            plain["copied_from"] = None
        if step.id in users:
            region = recipe.region_of(step).model_dump(mode="json") if then == "copies" else {}
            plain.update(region=region, shared=None, enabled=plain["enabled"] and then == "copies")
    del data["regions"][region_id]
    return checked_recipe(data)
