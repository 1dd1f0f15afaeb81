"""The Bench: the shoot's draft recipe as lanes, its key frame and witnesses rendered with every change."""

from collections.abc import Mapping
from typing import Annotated, Any, Literal, get_args

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from pydantic import BaseModel, Field

from lenskeep.core import edit
from lenskeep.core.adjust import KINDS, Adjustment
from lenskeep.core.measure.guards import GUARDS, GuardName
from lenskeep.core.recipe import BlendMode, Recipe
from lenskeep.core.regions import PART_KINDS, Part
from lenskeep.core.regions.image import image_text
from lenskeep.core.regions.sentence import part_names
from lenskeep.files.masks import mask_of_upload
from lenskeep.store import frames, recipes, shoots
from lenskeep.studio import bench, guarding, looks, pointing, starters
from lenskeep.studio.brought import picture_fields, table_fields
from lenskeep.studio.stage import KEY_SIDE, WITNESS_SIDE
from lenskeep.web.present import page, swatch
from lenskeep.web.studio_of import InStudio, Studio, shoot_or_404

router = APIRouter()
MOST_FILE_BYTES = 120_000_000
COMBINE = ("add", "take away", "only within")


def _lanes(studio: Studio, shoot_id: int, opened: str | None = None) -> dict[str, Any]:
    draft = bench.draft(studio.library, shoot_id)
    key, witnesses = bench.key_and_witnesses(studio.library, shoot_id)
    saved = recipes.versions(studio.library.db, draft.recipe_id) if draft.recipe_id else []
    return {
        "shoot": shoot_or_404(studio, shoot_id),
        "draft": draft,
        "recipe": draft.recipe,
        "saved": saved[0] if saved else None,
        "unsaved": not saved or saved[0].recipe != draft.recipe,
        "key": key,
        "witnesses": witnesses,
        "kinds": KINDS,
        "parts": _grouped(PART_KINDS),
        "names": part_names,
        "swatch": swatch,
        "users": {rid: draft.recipe.users(rid) for rid in draft.recipe.regions},
        "combine": COMBINE,
        "opened": opened,
        "groups": _described(),
        "used": _used(draft.recipe),
        "modes": get_args(BlendMode),
        "guards": GUARDS,
        "book": recipes.newest_versions(studio.library.db),
        "starters": starters.starters(),
    }


def _grouped(kinds: Mapping[str, type[Part] | type[Adjustment]]) -> dict[str, list[tuple[str, str]]]:
    """(kind, label) by group, in the registry's order."""
    out: dict[str, list[tuple[str, str]]] = {}
    for kind, cls in kinds.items():
        out.setdefault(cls.group, []).append((kind, cls.label))
    return out


def _described() -> dict[str, list[tuple[str, str, str]]]:
    """(kind, label, help) of every adjustment by group."""
    grouped = _grouped(KINDS)
    return {group: [(kind, label, KINDS[kind].help) for kind, label in own] for group, own in grouped.items()}


def _used(recipe: Recipe) -> list[tuple[str, str, str]]:
    """The adjustments in use, in the registry's order."""
    used = {a.kind for step in recipe.steps for a in step.adjustments}
    return [(kind, cls.label, cls.help) for kind, cls in KINDS.items() if kind in used]


@router.get("/shoots/{shoot_id}/bench", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, shoot_id: int, key: int | None = None) -> Response:
    shoot_or_404(studio, shoot_id)
    if key is not None:
        row = frames.frame(studio.library.db, key, "")
        if row is not None and row.shoot_id == shoot_id:
            shoots.set_key_frame(studio.library.db, shoot_id, key)
    return page(request, "bench/bench.html", _lanes(studio, shoot_id))


@router.post("/shoots/{shoot_id}/bench/edit", response_class=HTMLResponse)
async def change(request: Request, studio: InStudio, shoot_id: int) -> HTMLResponse:
    """A change of the recipe's structure; answers with the lanes."""
    form: dict[str, Any] = {k: str(v) for k, v in (await request.form()).items() if isinstance(v, str)}
    op = form.pop("op", "")
    opened: str | None = form.get("step")
    added = None
    if op in ("add-pick", "add-sample", "keep-on-frame"):
        form |= _pointed(studio, op, form)
    if op == "undo":
        bench.undo(studio.library, shoot_id)
    elif op == "redo":
        bench.redo(studio.library, shoot_id)
    else:
        added = bench.change(studio.library, shoot_id, op, form)
        opened = added or opened
    return page(request, "bench/lanes.html", {**_lanes(studio, shoot_id, opened), "added": added})


def _pointed(studio: Studio, op: str, form: dict[str, Any]) -> dict[str, Any]:
    """What a change that points at a place of a frame means, in the recipe's terms."""
    try:
        frame = int(form.get("frame") or 0)
        x, y = (min(max(float(form.get(name, 0)), 0.0), 1.0) for name in ("x", "y"))
    except ValueError as error:
        raise edit.EditProblem("Click the picture once more.") from error
    if op == "keep-on-frame":
        return {"frame": pointing.frame_key(studio.stage, frame) if frame else ""}
    if op == "add-sample":
        return {"colour": pointing.colour_at(studio.stage, frame, x, y)}
    return {"pick": pointing.pick_at(studio.stage, frame, x, y, form.get("away") == "true")}


class OfStep(BaseModel):
    step: str


@router.post("/shoots/{shoot_id}/bench/strokes")
def strokes(studio: InStudio, shoot_id: int, asked: OfStep) -> JSONResponse:
    """The strokes of a step's brushes, as paths in their anchors' coordinates."""
    return JSONResponse({"strokes": bench.strokes(studio.library, shoot_id, asked.step)})


class Point(BaseModel):
    """A place on a frame, 0…1."""

    frame: int
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)


@router.post("/shoots/{shoot_id}/bench/outline")
def outline(studio: InStudio, shoot_id: int, point: Point) -> JSONResponse:
    """The outline of what a click would take."""
    return JSONResponse(pointing.outline_at(studio.stage, point.frame, point.x, point.y))


@router.post("/shoots/{shoot_id}/bench/file", response_class=HTMLResponse)
async def file(
    request: Request,
    studio: InStudio,
    shoot_id: int,
    file: UploadFile,
    step: Annotated[str, Form()],
    index: Annotated[int, Form()],
    kind: Annotated[Literal["table", "picture", "mask"], Form()],
) -> HTMLResponse:
    """A .cube table or a picture for an adjustment, or a grey PNG for an image part; answers with the lanes."""
    name = (file.filename or kind)[-120:]
    data = await file.read(MOST_FILE_BYTES)
    values = {"step": step, "index": index}
    if kind == "mask":
        png = image_text(mask_of_upload(data, name))
        bench.change(studio.library, shoot_id, "set-image", {**values, "name": name, "png": png})
    else:
        fields = table_fields(data, name) if kind == "table" else picture_fields(data, name)
        bench.change(studio.library, shoot_id, "set-file", {**values, "fields": fields})
    return page(request, "bench/lanes.html", _lanes(studio, shoot_id, step))


Given = float | bool | str | list[tuple[float, float]]


class Values(BaseModel):
    """Values by path, as ``core.edit.set_values`` takes them, and what to call the change."""

    values: dict[str, Given] = Field(max_length=40)
    did: str = Field(default="a change", max_length=60)


@router.post("/shoots/{shoot_id}/bench/set")
def set_values(studio: InStudio, shoot_id: int, change: Values) -> JSONResponse:
    """Set values for good; the lanes on screen stay as they are."""
    bench.change(studio.library, shoot_id, "set", change.model_dump())
    draft = bench.draft(studio.library, shoot_id)
    words = {s.id: [draft.recipe.sentence(s), s.does()] for s in draft.recipe.steps}
    return JSONResponse({"undo": draft.undo, "redo": draft.redo, "words": words})


class Wanted(BaseModel):
    """A picture of a frame with the draft and values that are not set for good yet (a slider under the finger)."""

    frame: int
    side: Literal["key", "witness", "thumb"] = "key"
    view: Literal["finished", "original", "tint", "grey"] = "finished"
    step: str | None = None
    draft: bool = False
    guard: GuardName | None = None
    tint: str | None = Field(default=None, pattern="^#[0-9a-fA-F]{6}$")
    values: dict[str, Given] = Field(default={}, max_length=40)


SIDES = {"key": KEY_SIDE, "witness": WITNESS_SIDE, "thumb": WITNESS_SIDE}


def _draft_with(studio: Studio, shoot_id: int, wanted: Wanted) -> Recipe:
    recipe = bench.draft(studio.library, shoot_id).recipe
    if wanted.values:
        recipe = edit.set_values(recipe, wanted.values)
    if wanted.step is not None and all(s.id != wanted.step for s in recipe.steps):
        raise edit.EditProblem("This step is no longer in the recipe.")
    return recipe


@router.post("/shoots/{shoot_id}/bench/picture")
def picture(studio: InStudio, shoot_id: int, wanted: Wanted) -> Response:
    recipe = _draft_with(studio, shoot_id, wanted)
    tint = bytes.fromhex(wanted.tint[1:]) if wanted.tint else None
    colour = (tint[0], tint[1], tint[2]) if tint else None
    side = SIDES[wanted.side]
    if wanted.guard:
        return Response(guarding.shown(studio.stage, wanted.frame, recipe, wanted.guard, side), media_type="image/jpeg")
    data = studio.stage.picture(wanted.frame, recipe, side, wanted.view, wanted.step, wanted.draft, colour)
    return Response(data, media_type="image/jpeg")


@router.post("/shoots/{shoot_id}/bench/measures")
def measures(studio: InStudio, shoot_id: int, wanted: Wanted) -> JSONResponse:
    """Histograms and guards of a frame."""
    recipe = _draft_with(studio, shoot_id, wanted)
    found = guarding.measures(studio.stage, wanted.frame, recipe, wanted.step)
    names = {s.id: s.name for s in recipe.steps}
    for guard in found["guards"]:
        guard["unit"], guard["cause"] = GUARDS[guard["name"]].unit, names.get(guard["step"] or "")
    return JSONResponse(found)


@router.post("/shoots/{shoot_id}/bench/contours")
def contours(studio: InStudio, shoot_id: int, wanted: Wanted) -> JSONResponse:
    recipe = _draft_with(studio, shoot_id, wanted)
    step = wanted.step or ""
    paths = studio.stage.contours(wanted.frame, recipe, SIDES[wanted.side], step)
    lane = [s.id for s in recipe.steps].index(step)
    return JSONResponse({"paths": paths, "lane": lane % 8})


@router.post("/shoots/{shoot_id}/bench/pull")
def pull(studio: InStudio, shoot_id: int, wanted: Wanted) -> JSONResponse:
    before, after = studio.stage.pulls(wanted.frame, _draft_with(studio, shoot_id, wanted))
    return JSONResponse(
        {"before": before.model_dump() if before else None, "after": after.model_dump() if after else None}
    )


@router.post("/shoots/{shoot_id}/bench/save")
def save(
    studio: InStudio,
    shoot_id: int,
    name: Annotated[str, Form()],
    steps: Annotated[list[str] | None, Form()] = None,
    strength: Annotated[float, Form()] = 100.0,
    then: Annotated[str, Form()] = "stay",
) -> Response:
    """Save the ticked steps as a recipe (strength in per cent), and maybe give it to the shoot at once."""
    saved = bench.save(studio.library, shoot_id, name, steps or [], strength / 100.0)
    if then == "apply":
        looks.give_look(studio.library, shoot_id, saved.id, 1.0)
        studio.runner.wake()
        return RedirectResponse(f"/shoots/{shoot_id}", 303)
    return RedirectResponse(f"/shoots/{shoot_id}/bench?saved={saved.version}", 303)


@router.post("/shoots/{shoot_id}/bench/start")
def start(studio: InStudio, shoot_id: int, name: Annotated[str, Form()]) -> Response:
    """Add the steps of a ready starting point."""
    shoot_or_404(studio, shoot_id)
    starters.add_to_bench(studio.library, shoot_id, name)
    return RedirectResponse(f"/shoots/{shoot_id}/bench", 303)


@router.post("/shoots/{shoot_id}/bench/load")
def load(studio: InStudio, shoot_id: int, version_id: Annotated[int, Form()]) -> Response:
    """Put a saved recipe on the Bench."""
    version = recipes.version(studio.library.db, version_id)
    if version is None:
        raise ValueError("This recipe is gone.")
    bench.load(studio.library, shoot_id, version.recipe, version.recipe_id)
    return RedirectResponse(f"/shoots/{shoot_id}/bench", 303)
