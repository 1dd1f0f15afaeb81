"""One frame: finished beside the original, why its masks are doubted, and what it alone changes of the look."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Form, HTTPException, Query, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from pydantic import ValidationError

from lenskeep.core.base.models import AMOUNTS, FrameBase, held
from lenskeep.core.facts import Facts, Finding
from lenskeep.core.percent import from_percent
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Step
from lenskeep.core.recipes.overrides import (
    NO_GROUP,
    NO_STEP,
    FrameOverride,
    GroupOverride,
    StepOverride,
    qualified,
)
from lenskeep.store import deeds, frames, looks, recipes, scenes, walls
from lenskeep.store.frames import FrameRow
from lenskeep.store.looks import Look
from lenskeep.store.recipes import RecipeVersion
from lenskeep.store.shoots import Shoot
from lenskeep.store.walls import Mark
from lenskeep.studio import applying, carrying, many, removing, repairing
from lenskeep.studio import looks as changing
from lenskeep.studio.bench.lane_colours import colour_of, hexed
from lenskeep.web.present import page
from lenskeep.web.screens.bench.page import middles_of
from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404, shoot_or_404

router = APIRouter()


@dataclass(frozen=True)
class OwnStep:
    """A step of the look as this frame has it; ``name`` is how the frame's own changes speak of it."""

    name: str
    step: Step
    sentence: str
    own: StepOverride
    on: bool
    strength: float


@dataclass(frozen=True)
class OwnPart:
    """A layer of the look, where it has several, or a group of a layer, as this frame has it."""

    kind: Literal["layers", "groups"]
    name: str
    title: str
    on: bool
    strength: float
    own: bool
    plain_on: bool
    plain_strength: float


@dataclass(frozen=True)
class ShownMask:
    """One mask as the page lists it: what is known of it, and whether the look uses it."""

    name: str
    finding: Finding
    used: bool


@dataclass(frozen=True)
class BaseAmount:
    """One value of the frame's base, as its slider shows it."""

    name: str
    label: str
    value: float
    most: float
    step: float
    unit: str


@dataclass(frozen=True)
class OneFrame:
    """A frame among those that are walked through: it is number ``at`` of ``of``, between ``before`` and ``after``."""

    frame: FrameRow
    shoot: Shoot
    look: Look | None
    steps: list[OwnStep]
    parts: list[OwnPart]
    before: int | None
    after: int | None
    at: int
    of: int
    only: str
    neutral_step: StepOverride = NO_STEP
    repairable: tuple[str, ...] = ()
    burst: int = 0
    of_burst: tuple[tuple[str, str], ...] = ()
    masks: tuple[ShownMask, ...] = ()
    came_from: str = ""
    reasons: tuple[str, ...] = ()
    middles: str = ""
    undo: str = ""
    redo: str = ""
    said: str = ""
    base_amounts: tuple[BaseAmount, ...] = ()
    book: tuple[RecipeVersion, ...] = ()


def view_of(studio: Studio, frame_id: int, only: str) -> OneFrame:
    """All that the page of a frame shows."""
    frame = frame_or_404(studio, frame_id)
    look = looks.look(studio.library.db, frame.scene_id)
    mark: Mark = "doubtful" if only == "doubtful" else "all"
    where = walls.neighbours(studio.library.db, frame, mark)
    scene = scenes.scene(studio.library.db, frame.scene_id)
    near = [f for f, _ in carrying.burst(studio.library, frame)] if frame.facts else []
    used = scene.masks_used if scene else frozenset[str]()
    return OneFrame(
        frame=frame,
        shoot=shoot_or_404(studio, frame.shoot_id),
        look=look,
        steps=[] if look is None or look.unreadable else _steps(look, frame.override),
        parts=list(parts_of(look, frame.override)),
        before=where.before,
        after=where.after,
        at=where.at,
        of=where.of,
        only=only,
        repairable=tuple(repairing.repairable(frame.facts)) if frame.facts else (),
        middles=middles_of(frame.facts),
        burst=len(near),
        of_burst=tuple((f.content, f.file_name) for f in near),
        masks=tuple(_masks(frame.facts, used)) if frame.facts else (),
        reasons=tuple(frame.facts.reasons_for(used)) if frame.facts else (),
        undo=last.words if (last := deeds.last_done(studio.library.db, frame.shoot_id)) else "",
        redo=back.words if (back := deeds.last_undone(studio.library.db, frame.shoot_id)) else "",
        base_amounts=tuple(_amounts(frame.override.base)),
        book=tuple(v for v in recipes.newest_versions(studio.library.db) if not v.unreadable),
    )


def _amounts(base: FrameBase) -> Iterator[BaseAmount]:
    for name in AMOUNTS:
        info = FrameBase.model_fields[name]
        extra: Any = info.json_schema_extra
        value = getattr(base, name)
        yield BaseAmount(name, info.title or name, value, held(name, 1e9), extra["step"], extra["unit"])


def _masks(facts: Facts, used: frozenset[str]) -> Iterator[ShownMask]:
    """Subject and sky, and of the others those that the look uses or somebody repaired."""
    for name in ("subject", "sky", *facts.others):
        finding = facts.finding(name)
        if finding and (name in ("subject", "sky") or name in used or finding.by_hand):
            yield ShownMask(name, finding, name in used)


def parts_of(look: Look | None, override: FrameOverride) -> Iterator[OwnPart]:
    """Layers and groups of a look as a frame has them; none of one that can't be read."""
    if look is None or look.unreadable:
        return
    several = len(look.layers) > 1
    for each in look.layers:
        if several:
            own = override.layers.get(each.name, NO_GROUP)
            yield _part("layers", each.name, each.version.name, own, each.enabled, each.strength)
        for name, group in each.version.recipe.groups.items():
            own = override.of_group(each.name, name)
            whole = qualified(each.name, name) if several else name
            yield _part("groups", whole, f"Group “{group.name}”", own, group.enabled, group.strength)


def _part(
    kind: Literal["layers", "groups"], name: str, title: str, own: GroupOverride, on: bool, strength: float
) -> OwnPart:
    now = on if own.enabled is None else own.enabled
    held = strength if own.strength is None else own.strength
    return OwnPart(kind, name, title, now, held, own != NO_GROUP, on, strength)


def _steps(look: Look, override: FrameOverride) -> list[OwnStep]:
    out = []
    for each in look.layers:
        recipe = each.version.recipe
        for step in recipe.steps:
            own = override.of_step(each.name, step.id)
            out.append(
                OwnStep(
                    qualified(each.name, step.id) if len(look.layers) > 1 else step.id,
                    step,
                    recipe.sentence(step),
                    own,
                    step.enabled if own.enabled is None else own.enabled,
                    step.strength if own.strength is None else own.strength,
                )
            )
    return out


@router.get("/frames/{frame_id}", response_class=HTMLResponse)
def show(
    request: Request,
    studio: InStudio,
    frame_id: Id,
    only: str = "all",
    came_from: Annotated[str, Query(alias="from")] = "",
) -> HTMLResponse:
    known = came_from if came_from in ("check", "bench") else ""
    return page(request, "frame/frame.html", replace(view_of(studio, frame_id, only), came_from=known))


@router.get("/frames/{frame_id}/outline/{mask}")
def outline(studio: InStudio, frame_id: Id, mask: str) -> JSONResponse:
    """The contours of one mask that was found on the frame."""
    frame = frame_or_404(studio, frame_id)
    known = {"subject": 0, "sky": 1, **dict.fromkeys(frame.facts.areas if frame.facts else {}, 2)}
    if frame.facts is None or mask not in known:
        raise HTTPException(404, "This mask was not found on the frame.")
    paths = repairing.outline_now(studio.library, frame, mask)
    return JSONResponse({"paths": paths, "colour": hexed(colour_of(known[mask]).line)})


def _changed(studio: Studio, frame_id: int, **change: Any) -> None:
    """Change a frame, and have its new picture made before everything else; the page asks for it."""
    changing.change_frame(studio.library, frame_id, **change)
    applying.have_made(studio.library, studio.runner, frame_id)


@router.post("/frames/{frame_id}/fresh", response_class=HTMLResponse)
def fresh(request: Request, studio: InStudio, frame_id: Id, only: str = "all") -> HTMLResponse:
    """The panel beside the picture, whose picture is made now if it is not up to date."""
    frame_or_404(studio, frame_id)
    applying.have_made(studio.library, studio.runner, frame_id)
    return panel(request, studio, frame_id, only)


def panel(request: Request, studio: Studio, frame_id: int, only: str, said: str = "") -> HTMLResponse:
    """What stands beside the picture; ``said`` is what was just done."""
    return page(request, "frame/panel.html", replace(view_of(studio, frame_id, only), said=said))


@router.post("/frames/{frame_id}/strength", response_class=HTMLResponse)
def set_strength(
    request: Request,
    studio: InStudio,
    frame_id: Id,
    strength: Annotated[float, Form(ge=0, le=200)],
    only: str = "all",
) -> HTMLResponse:
    """The frame's own strength in per cent."""
    frame_or_404(studio, frame_id)
    _changed(studio, frame_id, strength=from_percent(strength))
    return panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/steps/{step_id}", response_class=HTMLResponse)
def set_step(
    request: Request,
    studio: InStudio,
    frame_id: Id,
    step_id: str,
    state: Annotated[str, Form()] = "on",
    strength: Annotated[float | None, Form(ge=0, le=200)] = None,
    seen: Annotated[str, Form(max_length=200)] = "",
    only: str = "all",
) -> HTMLResponse:
    """One step on this frame: left out, or at a strength in per cent of its own. ``seen`` is what the page showed."""
    frame = frame_or_404(studio, frame_id)
    look = looks.look(studio.library.db, frame.scene_id)
    if look is None:
        raise UserProblem("This shoot has no look yet.")
    found = next((each.step for each in _steps(look, frame.override) if each.name == step_id), None)
    if found is None:
        raise UserProblem("This step is no longer in the look. Reload the page.")
    own = found
    given = None if strength is None else from_percent(strength)
    enabled = state == "on"
    changed = StepOverride(
        enabled=None if enabled == own.enabled else enabled,
        strength=None if given is None or abs(given - own.strength) < 1e-6 else given,
    )
    _changed(studio, frame_id, step_id=step_id, step=changed, seen=_seen(seen))
    return panel(request, studio, frame_id, only)


def _seen(text: str) -> StepOverride | None:
    try:
        return StepOverride.model_validate_json(text) if text else None
    except ValidationError as error:
        raise UserProblem("This page is out of date. Reload it and try again.") from error


@router.post("/frames/{frame_id}/reset", response_class=HTMLResponse)
def reset(request: Request, studio: InStudio, frame_id: Id, only: str = "all") -> HTMLResponse:
    frame_or_404(studio, frame_id)
    _changed(studio, frame_id, reset=True)
    return panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/accept", response_class=HTMLResponse)
def accept(
    request: Request, studio: InStudio, frame_id: Id, accepted: Annotated[bool, Form()] = True, only: str = "all"
) -> HTMLResponse:
    """Say that the masks are good enough (or doubt them again)."""
    frame_or_404(studio, frame_id)
    frames.set_accepted(studio.library.db, frame_id, accepted)
    return panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/turn")
def turn(
    studio: InStudio, frame_id: Id, way: Annotated[Literal["left", "right"], Form()], only: str = "all"
) -> Response:
    """Stand a frame upright; its masks are found anew."""
    frame = frame_or_404(studio, frame_id)
    many.do(studio.library, frame.shoot_id, [frame_id], many.Turn(what="turn", by=1 if way == "right" else -1))
    studio.runner.wake()
    return RedirectResponse(f"/frames/{frame_id}?only={only}", 303)


@router.post("/frames/{frame_id}/key")
def make_key(studio: InStudio, frame_id: Id) -> Response:
    """Make this the shoot's key frame and go to the Bench."""
    frame = frame_or_404(studio, frame_id)
    scenes.set_key_frame(studio.library.db, frame.scene_id, frame_id)
    return RedirectResponse(f"/scenes/{frame.scene_id}/bench", 303)


@router.post("/frames/{frame_id}/remove")
def remove(studio: InStudio, frame_id: Id) -> Response:
    """Take the frame out of the shoot; the file it came from is not touched."""
    frame = frame_or_404(studio, frame_id)
    removing.remove_frame(studio.library, frame_id)
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{frame.shoot_id}", 303)
