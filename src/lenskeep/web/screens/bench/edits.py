"""Changes at the Bench: of its recipe's structure, of single values, by files, and back and forth."""

import json
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import HTMLResponse, JSONResponse
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from lenskeep.core.ids import Identifier
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.changes import SetValues
from lenskeep.core.recipes.edit import checked_by
from lenskeep.core.recipes.models import Recipe, Step
from lenskeep.core.recipes.settings import Setting
from lenskeep.files.assets import asset_key
from lenskeep.store import assets, shoots
from lenskeep.studio import applying, untrusted
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench import holding, pointing, to_frame
from lenskeep.web.present import page
from lenskeep.web.screens.bench.page import lanes_of
from lenskeep.web.studio_of import Id, InStudio, Studio, received, scene_or_404

router = APIRouter()
MOST_BYTES = {"table": 90_000_000, "picture": 60_000_000, "mask": 40_000_000}
UNFINISHED = "This change is not complete. Do it once more."


async def _asked(request: Request) -> dict[str, Any]:
    """What a page sends, as JSON or as a form."""
    if request.headers.get("content-type", "").startswith("application/json"):
        try:
            data = json.loads(await request.body())
        except (ValueError, RecursionError) as error:
            raise UserProblem(UNFINISHED) from error
        if not isinstance(data, dict):
            raise UserProblem(UNFINISHED)
        return data
    return {name: value for name, value in (await request.form()).items() if isinstance(value, str)}


class Moved(BaseModel):
    """A brush whose strokes go to a frame as repairs."""

    model_config = ConfigDict(extra="ignore")
    step: Identifier
    part: Identifier
    frame: int = Field(ge=1, le=2**63 - 1)


class Held(BaseModel):
    """A balance that is to be held to a frame as it is below that balance."""

    model_config = ConfigDict(extra="ignore")
    step: Identifier
    adjustment: Identifier
    frame: int = Field(ge=1, le=2**63 - 1)


_MOVED: TypeAdapter[Moved] = TypeAdapter(Moved)
_HELD: TypeAdapter[Held] = TypeAdapter(Held)


@router.post("/scenes/{scene_id}/bench/edit", response_class=HTMLResponse)
async def change(request: Request, studio: InStudio, scene_id: Id) -> HTMLResponse:
    """A change of the recipe's structure; answers with the lanes."""
    return await run_in_threadpool(_change, request, studio, scene_id, await _asked(request))


def _change(request: Request, studio: Studio, scene_id: int, asked: dict[str, Any]) -> HTMLResponse:
    scene = scene_or_404(studio, scene_id)
    shoots.note_opened(studio.library.db, scene.shoot_id)
    on = _number(str(asked.pop("on", "")))
    opened, added, fresh = asked.get("step"), None, None
    if asked.get("op") == "undo":
        bench.undo(studio.library, scene_id, on)
    elif asked.get("op") == "redo":
        bench.redo(studio.library, scene_id, on)
    elif asked.get("op") == "move-to-frame":
        moved: Moved = checked_by(_MOVED, asked, UNFINISHED)
        changed = to_frame.move_to_frame(studio.library, scene_id, moved.step, moved.part, moved.frame, on)
        applying.queue_now(studio.library, changed.id)
        studio.runner.wake()
    else:
        if asked.get("op") == "hold-balance":
            held: Held = checked_by(_HELD, asked, UNFINISHED)
            meant = holding.hold_to(studio.library, studio.stage, scene_id, held.step, held.adjustment, held.frame)
        else:
            meant = pointing.change_of(studio.stage, asked)
        done = bench.change(studio.library, scene_id, meant, on)
        added, fresh = done.added, done.fresh
    opened = added or (str(opened) if opened else None)
    return page(request, "bench/lanes.html", lanes_of(studio, scene_id, opened, added, fresh))


def _number(text: str) -> int | None:
    return int(text) if text.isdigit() and len(text) < 19 else None


@router.post("/scenes/{scene_id}/bench/file", response_class=HTMLResponse)
def file(
    request: Request,
    studio: InStudio,
    scene_id: Id,
    file: UploadFile,
    step: Annotated[str, Form()],
    of: Annotated[str, Form()],
    kind: Annotated[Literal["table", "picture", "mask"], Form()],
    on: Annotated[int | None, Form()] = None,
) -> HTMLResponse:
    """A .cube table or a picture for an adjustment, or a grey PNG for an image part; answers with the lanes."""
    scene_or_404(studio, scene_id)
    name = (file.filename or kind)[-120:]
    with received(studio, file, MOST_BYTES[kind]) as path:
        if kind == "mask":
            data = untrusted.mask_asset(path, name)
            made: Any = {"op": "set-image", "step": step, "part": of, "name": name, "picture": asset_key(data)}
        else:
            fields, data = (untrusted.table_fields if kind == "table" else untrusted.overlay_fields)(path, name)
            made = {"op": "set-asset", "step": step, "adjustment": of, "fields": fields}
    assets.keep_assets(studio.library.db, {asset_key(data): data})
    bench.change(studio.library, scene_id, pointing.change_of(studio.stage, made), on)
    return page(request, "bench/lanes.html", lanes_of(studio, scene_id, step))


class Set(BaseModel):
    """Values set together, what to call the change, and the state it is made on."""

    model_config = ConfigDict(allow_inf_nan=False)
    values: list[Setting] = Field(max_length=40)
    did: str = Field(default="a change", max_length=60)
    on: int | None = None


@router.post("/scenes/{scene_id}/bench/set")
def set_values(studio: InStudio, scene_id: Id, asked: Set) -> JSONResponse:
    """Set values for good; the lanes on screen stay as they are, unless they were ``late``."""
    scene_or_404(studio, scene_id)
    done = bench.change(studio.library, scene_id, SetValues(values=asked.values, said=asked.did), asked.on)
    draft = bench.draft(studio.library, scene_id)
    recipe = draft.recipe
    words = {s.id: _in_words(recipe, s) for s in recipe.steps}
    told = {"undo": draft.undo, "redo": draft.redo, "words": words, "state": done.state, "late": done.late}
    return JSONResponse(told)


def _in_words(recipe: Recipe, step: Step) -> dict[str, Any]:
    """A step as its lane tells it: the sentence, its parts, what is done to its edges, what it does."""
    region = recipe.regions[step.shared.region].region if step.shared else step.region
    return {
        "name": step.name,
        "where": recipe.sentence(step),
        "what": step.does(),
        "parts": region.in_words(),
        "edges": region.edges_in_words(),
        "all_but": region.invert,
        "adjustments": {a.id: a.words() for a in step.adjustments},
    }
