"""The Bench: the shoot's draft recipe as lanes, changed, undone, saved. Its pictures are in ``bench_pictures``."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal, get_args

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.adjust import KINDS, Adjustment
from lenskeep.core.measure.guards import GUARDS, Guard, GuardName
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.models import BlendMode, Recipe, Step
from lenskeep.core.regions import PART_KINDS, Part
from lenskeep.core.regions.sentence import part_names
from lenskeep.store import drafts, recipes, shoots
from lenskeep.store.drafts import Draft
from lenskeep.store.frames import FrameRow
from lenskeep.store.recipes import RecipeVersion
from lenskeep.store.shoots import Shoot
from lenskeep.studio import looks, untrusted
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench import pointing
from lenskeep.studio.book import starters
from lenskeep.web.present import page, swatch
from lenskeep.web.studio_of import Id, InFields, InStudio, Studio, frame_or_404, received, shoot_or_404

router = APIRouter()
MOST_BYTES = {"table": 90_000_000, "picture": 60_000_000, "mask": 40_000_000}
COMBINE = ("add", "take away", "only within")
Choices = dict[str, list[tuple[str, str]]]
Described = dict[str, list[tuple[str, str, str]]]


@dataclass(frozen=True)
class Lanes:
    """The steps and what can be done to them. ``saved`` is the newest version of the recipe that the draft belongs to;
    ``groups`` and ``parts`` are choices by group, ``used`` the adjustments in use; ``users`` are the steps that use a
    shared region.
    """

    shoot: Shoot
    draft: Draft
    recipe: Recipe
    saved: RecipeVersion | None
    unsaved: bool
    parts: Choices
    groups: Described
    used: list[tuple[str, str, str]]
    users: dict[str, list[Step]]
    book: list[RecipeVersion]
    starters: tuple[Recipe, ...]
    opened: str | None = None
    added: str | None = None
    kinds: Mapping[str, type[Adjustment]] = field(default_factory=lambda: KINDS)
    combine: tuple[str, ...] = COMBINE
    modes: tuple[str, ...] = get_args(BlendMode)
    names: Any = part_names
    swatch: Any = swatch


@dataclass(frozen=True)
class Bench(Lanes):
    """The whole page."""

    key: FrameRow | None = None
    witnesses: tuple[FrameRow, ...] = ()
    guards: Mapping[GuardName, Guard] | None = None


@dataclass(frozen=True)
class Unreadable:
    """A Bench whose present state can't be read."""

    shoot: Shoot
    draft: Draft
    book: list[RecipeVersion]


def _lanes(studio: Studio, shoot_id: int, opened: str | None = None, added: str | None = None) -> Lanes:
    db = studio.library.db
    draft = bench.draft(studio.library, shoot_id)
    saved = recipes.versions(db, draft.recipe_id) if draft.recipe_id else []
    recipe = draft.recipe
    return Lanes(
        shoot=shoot_or_404(studio, shoot_id),
        draft=draft,
        recipe=recipe,
        saved=saved[0] if saved else None,
        unsaved=not saved or bool(saved[0].unreadable) or saved[0].recipe != recipe,
        parts=_grouped(PART_KINDS),
        groups=_described(),
        used=_used(recipe),
        users={rid: recipe.users(rid) for rid in recipe.regions},
        book=recipes.newest_versions(db),
        starters=starters.starters(),
        opened=opened,
        added=added,
    )


def _grouped(kinds: Mapping[str, type[Part] | type[Adjustment]]) -> Choices:
    """(kind, label) by group, in the registry's order."""
    out: Choices = {}
    for kind, cls in kinds.items():
        out.setdefault(cls.group, []).append((kind, cls.label))
    return out


def _described() -> Described:
    """(kind, label, help) of every adjustment by group."""
    grouped = _grouped(KINDS)
    return {group: [(kind, label, KINDS[kind].help) for kind, label in own] for group, own in grouped.items()}


def _used(recipe: Recipe) -> list[tuple[str, str, str]]:
    """The adjustments in use, in the registry's order."""
    used = {a.kind for step in recipe.steps for a in step.adjustments}
    return [(kind, cls.label, cls.help) for kind, cls in KINDS.items() if kind in used]


@router.get("/shoots/{shoot_id}/bench", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, shoot_id: Id) -> Response:
    shoot = shoot_or_404(studio, shoot_id)
    draft = bench.draft(studio.library, shoot_id)
    if draft.unreadable:
        view = Unreadable(shoot, draft, recipes.newest_versions(studio.library.db))
        return page(request, "bench/unreadable.html", view)
    key, witnesses = bench.key_and_witnesses(studio.library, shoot_id)
    lanes = _lanes(studio, shoot_id)
    return page(request, "bench/bench.html", Bench(**vars(lanes), key=key, witnesses=tuple(witnesses), guards=GUARDS))


@router.get("/shoots/{shoot_id}/bench/lanes", response_class=HTMLResponse)
def lanes(request: Request, studio: InStudio, shoot_id: Id, opened: str | None = None) -> HTMLResponse:
    """The steps as they are now."""
    shoot_or_404(studio, shoot_id)
    return page(request, "bench/lanes.html", _lanes(studio, shoot_id, opened))


@router.get("/shoots/{shoot_id}/bench/state")
def state(studio: InStudio, shoot_id: Id) -> JSONResponse:
    """The number of the present state, by which another window is noticed."""
    shoot_or_404(studio, shoot_id)
    return JSONResponse({"state": drafts.state_number(studio.library.db, shoot_id)})


@router.post("/shoots/{shoot_id}/bench/key")
def choose_key(studio: InStudio, shoot_id: Id, frame: Annotated[int, Form()]) -> Response:
    """Make a frame the key frame."""
    row = frame_or_404(studio, frame)
    if row.shoot_id != shoot_id:
        raise UserProblem("This frame belongs to another shoot.")
    shoots.set_key_frame(studio.library.db, shoot_id, row.id)
    return RedirectResponse(f"/shoots/{shoot_id}/bench", 303)


@router.post("/shoots/{shoot_id}/bench/edit", response_class=HTMLResponse)
def change(request: Request, studio: InStudio, shoot_id: Id, fields: InFields) -> HTMLResponse:
    """A change of the recipe's structure; answers with the lanes."""
    shoot_or_404(studio, shoot_id)
    form: dict[str, Any] = dict(fields)
    op, opened, on = form.pop("op", ""), form.get("step"), _number(form.pop("on", ""))
    added = None
    if op in ("add-pick", "add-sample", "keep-on-frame"):
        form |= _pointed(studio, op, form)
    if op == "undo":
        bench.undo(studio.library, shoot_id, on)
    elif op == "redo":
        bench.redo(studio.library, shoot_id, on)
    else:
        added = bench.change(studio.library, shoot_id, op, form, on).added
        opened = added or opened
    return page(request, "bench/lanes.html", _lanes(studio, shoot_id, opened, added))


def _number(text: str) -> int | None:
    return int(text) if text.isdigit() and len(text) < 19 else None


def _pointed(studio: Studio, op: str, form: dict[str, Any]) -> dict[str, Any]:
    """What a change that points at a place of a frame means, in the recipe's terms."""
    frame = _number(str(form.get("frame") or "0"))
    try:
        places = [float(form.get(name, 0)) for name in ("x", "y")]
    except ValueError:
        places = [math.nan]
    if frame is None or not all(map(math.isfinite, places)):
        raise edit.EditProblem("Click the picture once more.")
    x, y = (min(max(place, 0.0), 1.0) for place in places)
    if op == "keep-on-frame":
        return {"frame": pointing.frame_key(studio.stage, frame) if frame else ""}
    if op == "add-sample":
        return {"colour": pointing.colour_at(studio.stage, frame, x, y)}
    return {"pick": pointing.pick_at(studio.stage, frame, x, y, form.get("away") == "true")}


@router.post("/shoots/{shoot_id}/bench/file", response_class=HTMLResponse)
def file(
    request: Request,
    studio: InStudio,
    shoot_id: Id,
    file: UploadFile,
    step: Annotated[str, Form()],
    index: Annotated[int, Form()],
    kind: Annotated[Literal["table", "picture", "mask"], Form()],
    on: Annotated[int | None, Form()] = None,
) -> HTMLResponse:
    """A .cube table or a picture for an adjustment, or a grey PNG for an image part; answers with the lanes."""
    shoot_or_404(studio, shoot_id)
    name = (file.filename or kind)[-120:]
    values = {"step": step, "index": index}
    with received(studio, file, MOST_BYTES[kind]) as path:
        if kind == "mask":
            op, more = "set-image", dict[str, Any](name=name, png=untrusted.mask_png(path, name))
        else:
            fields = (untrusted.table_fields if kind == "table" else untrusted.overlay_fields)(path, name)
            op, more = "set-file", {"fields": fields}
    bench.change(studio.library, shoot_id, op, values | more, on)
    return page(request, "bench/lanes.html", _lanes(studio, shoot_id, step))


Given = float | bool | str | list[tuple[float, float]]


class Values(BaseModel):
    """Values by path, as ``core.edit.set_values`` takes them, what to call the change, and the state it is made on."""

    model_config = ConfigDict(allow_inf_nan=False)
    values: dict[str, Given] = Field(max_length=40)
    did: str = Field(default="a change", max_length=60)
    on: int | None = None


@router.post("/shoots/{shoot_id}/bench/set")
def set_values(studio: InStudio, shoot_id: Id, change: Values) -> JSONResponse:
    """Set values for good; the lanes on screen stay as they are, unless they were ``late``."""
    shoot_or_404(studio, shoot_id)
    done = bench.change(studio.library, shoot_id, "set", change.model_dump(exclude={"on"}), change.on)
    draft = bench.draft(studio.library, shoot_id)
    words = {s.id: [draft.recipe.sentence(s), s.does()] for s in draft.recipe.steps}
    told = {"undo": draft.undo, "redo": draft.redo, "words": words, "state": done.state, "late": done.late}
    return JSONResponse(told)


@router.post("/shoots/{shoot_id}/bench/back")
def back(studio: InStudio, shoot_id: Id) -> Response:
    """Go back from a state that can't be read to the last one that can."""
    shoot_or_404(studio, shoot_id)
    if not bench.back_to_readable(studio.library, shoot_id):
        raise UserProblem("No earlier state can be read either. Take a recipe from the book instead.")
    return RedirectResponse(f"/shoots/{shoot_id}/bench", 303)


@router.post("/shoots/{shoot_id}/bench/save")
def save(
    studio: InStudio,
    shoot_id: Id,
    name: Annotated[str, Form()],
    steps: Annotated[list[str] | None, Form()] = None,
    strength: Annotated[float, Form()] = 100.0,
    then: Annotated[str, Form()] = "stay",
    on: Annotated[int | None, Form()] = None,
) -> Response:
    """Save the ticked steps as a recipe (strength in per cent), and maybe give it to the shoot at once."""
    shoot_or_404(studio, shoot_id)
    saved = bench.save(studio.library, shoot_id, name, steps or [], strength / 100.0, on)
    if then == "apply":
        looks.give_look(studio.library, shoot_id, saved.id, 1.0)
        studio.runner.wake()
        return RedirectResponse(f"/shoots/{shoot_id}", 303)
    return RedirectResponse(f"/shoots/{shoot_id}/bench?saved={saved.version}", 303)


@router.post("/shoots/{shoot_id}/bench/start")
def start(studio: InStudio, shoot_id: Id, name: Annotated[str, Form()]) -> Response:
    """Add the steps of a ready starting point."""
    shoot_or_404(studio, shoot_id)
    starters.add_to_bench(studio.library, shoot_id, name)
    return RedirectResponse(f"/shoots/{shoot_id}/bench", 303)


@router.post("/shoots/{shoot_id}/bench/load")
def load(studio: InStudio, shoot_id: Id, version_id: Annotated[int, Form()]) -> Response:
    """Put a saved recipe on the Bench."""
    shoot_or_404(studio, shoot_id)
    version = recipes.version(studio.library.db, version_id)
    if version is None:
        raise UserProblem("This recipe is gone.")
    bench.load(studio.library, shoot_id, version.recipe, version.recipe_id)
    return RedirectResponse(f"/shoots/{shoot_id}/bench", 303)
