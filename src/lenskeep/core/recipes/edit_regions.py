"""Changes to where steps work: parts, strokes, samples, clicks, and the regions that steps share."""

from collections.abc import Callable
from typing import Any, Literal

from lenskeep.core.names import shown_name
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe, Share, SharedRegion
from lenskeep.core.regions import PART_KINDS, Combine, Part, Region
from lenskeep.core.regions.kinds.brush import Stroke
from lenskeep.core.regions.kinds.picked import Pick


def add_part(recipe: Recipe, step_id: str, kind: str, combine: Combine, part_id: str = "") -> Recipe:
    """Add a part of a kind at the end of a step's region."""
    if kind not in PART_KINDS:
        raise EditProblem("Choose a part.")
    part = PART_KINDS[kind].fresh(id=part_id, combine=combine)
    return edit.change_region(recipe, step_id, lambda region: edit.changed(region, parts=[*region.parts, part]))


def remove_part(recipe: Recipe, step_id: str, part_id: str) -> Recipe:
    def change(region: Region) -> Region:
        gone = edit.found(region.parts, part_id, edit.PART_GONE)
        return edit.changed(region, parts=[p for p in region.parts if p.id != gone.id])

    return edit.change_region(recipe, step_id, change)


def move_part(recipe: Recipe, step_id: str, part_id: str, by: int) -> Recipe:
    """Move a part ``by`` places, held to the list's ends."""

    def change(region: Region) -> Region:
        return edit.changed(region, parts=edit.moved(region.parts, part_id, by, edit.PART_GONE))

    return edit.change_region(recipe, step_id, change)


def _change_part(recipe: Recipe, step_id: str, part_id: str, kind: str, change: Callable[[Any], Part]) -> Recipe:
    return edit.change_region(recipe, step_id, lambda region: edit.change_part(region, part_id, change, kind))


def add_stroke(recipe: Recipe, step_id: str, part_id: str, stroke: Stroke) -> Recipe:
    """Paint one stroke with a brush."""
    return _change_part(recipe, step_id, part_id, "brush", lambda p: edit.changed(p, strokes=[*p.strokes, stroke]))


def clear_strokes(recipe: Recipe, step_id: str, part_id: str) -> Recipe:
    return _change_part(recipe, step_id, part_id, "brush", lambda p: edit.changed(p, strokes=[]))


def keep_on_frame(recipe: Recipe, step_id: str, part_id: str, frame: str) -> Recipe:
    """Make a brush a repair on one frame alone; "" lets it work on every frame again."""
    return _change_part(recipe, step_id, part_id, "brush", lambda p: edit.changed(p, only_on=frame))


def add_sample(recipe: Recipe, step_id: str, part_id: str, colour: tuple[float, float, float]) -> Recipe:
    """Add a colour (OKLab) to a colour match."""
    return _change_part(
        recipe, step_id, part_id, "colour_match", lambda p: edit.changed(p, samples=[*p.samples, colour])
    )


def remove_sample(recipe: Recipe, step_id: str, part_id: str, sample: int) -> Recipe:
    def change(part: Any) -> Part:
        if not 0 <= sample < len(part.samples):
            raise EditProblem("This sample is no longer there.")
        return edit.changed(part, samples=[s for i, s in enumerate(part.samples) if i != sample])  # type: ignore[no-any-return]

    return _change_part(recipe, step_id, part_id, "colour_match", change)


def add_pick(recipe: Recipe, step_id: str, part_id: str, pick: Pick, alone: bool) -> Recipe:
    """Add a click to a picked object, or let it be the only one."""

    def change(part: Any) -> Part:
        return edit.changed(part, picks=[pick] if alone else [*part.picks, pick])  # type: ignore[no-any-return]

    return _change_part(recipe, step_id, part_id, "picked", change)


def clear_picks(recipe: Recipe, step_id: str, part_id: str) -> Recipe:
    return _change_part(recipe, step_id, part_id, "picked", lambda p: edit.changed(p, picks=[]))


def set_image(recipe: Recipe, step_id: str, part_id: str, name: str, picture: str) -> Recipe:
    """Give an image part its picture, by the key of the asset."""
    return _change_part(recipe, step_id, part_id, "image", lambda p: edit.changed(p, name=name, picture=picture))


def share_region(recipe: Recipe, step_id: str, name: str, region_id: str) -> Recipe:
    """Name a step's own region, so that other steps can use it; the step uses it from now on."""
    step, name = edit.step_of(recipe, step_id), shown_name(name)
    if step.shared:
        raise EditProblem("This step's region is shared already.")
    if not step.region.parts:
        raise EditProblem("Add a part first; the whole frame needs no name.")
    if not name:
        raise EditProblem("Give the shared region a name.")
    if any(shared.name == name for shared in recipe.regions.values()):
        raise EditProblem(f"Another shared region is called “{name}”. Choose another name.")
    shared = edit.checked(SharedRegion, {"name": name, "region": step.region})
    known = edit.changed(recipe, regions=recipe.regions | {region_id: shared})
    return edit.change_step(known, step_id, region=Region(), shared=Share(region=region_id), copied_from=None)


def use_shared(recipe: Recipe, step_id: str, region_id: str, invert: bool = False) -> Recipe:
    """Let a step work where a shared region is; what it had of its own is given up."""
    edit.shared_of(recipe, region_id)
    share = Share(region=region_id, invert=invert)
    return edit.change_step(recipe, step_id, region=Region(), shared=share, copied_from=None)


def own_copy(recipe: Recipe, step_id: str) -> Recipe:
    """Give a step a copy of the shared region it uses, for itself; the copy remembers where it came from."""
    step = edit.step_of(recipe, step_id)
    if step.shared is None:
        raise EditProblem("This step's region is its own already.")
    return edit.change_step(recipe, step_id, region=recipe.region_of(step), shared=None, copied_from=step.shared.region)


def share_again(recipe: Recipe, step_id: str) -> Recipe:
    """Give up a step's copy and let it use the shared region it came from."""
    step = edit.step_of(recipe, step_id)
    if step.copied_from is None or step.copied_from not in recipe.regions:
        raise EditProblem("The shared region this copy came from is gone. Share it under a name instead.")
    # a copy of the opposite goes back to being the opposite
    inverted = step.region.invert != recipe.regions[step.copied_from].region.invert
    return use_shared(recipe, step_id, step.copied_from, inverted)


def copy_region(recipe: Recipe, step_id: str, source_id: str, invert: bool) -> Recipe:
    """Give a step a copy of another step's region, or of its opposite."""
    source = recipe.region_of(edit.step_of(recipe, source_id))
    region = source.inverted() if invert else source
    return edit.change_step(recipe, step_id, region=region, shared=None, copied_from=None)


def delete_shared(recipe: Recipe, region_id: str, then: Literal["copies", "off"]) -> Recipe:
    """Delete a shared region. Steps and groups that used it get a copy of their own, or lose it and are switched off,
    since without a region they would work on the whole frame.
    """
    edit.shared_of(recipe, region_id)
    gone = recipe.regions[region_id].region
    groups = {}
    for group_id, group in recipe.groups.items():
        if group.shared is not None and group.shared.region == region_id:
            limit = (gone.inverted() if group.shared.invert else gone) if then == "copies" else Region()
            on = group.enabled and then == "copies"
            group = edit.changed(group, limit=limit, shared=None, enabled=on)
        groups[group_id] = group
    users = {step.id for step in recipe.steps if step.shared is not None and step.shared.region == region_id}
    steps = []
    for step in recipe.steps:
        values: dict[str, Any] = {"copied_from": None} if step.copied_from == region_id else {}
        if step.id in users:
            region = recipe.region_of(step) if then == "copies" else Region()
            values |= {"region": region, "shared": None, "enabled": step.enabled and then == "copies"}
        steps.append(edit.changed(step, **values) if values else step)
    left = {name: shared for name, shared in recipe.regions.items() if name != region_id}
    return edit.changed(recipe, steps=steps, groups=groups, regions=left)
