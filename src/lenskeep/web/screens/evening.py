"""How even a scene is, as a chart, and evening it out: proposals before and after, accepted as one likes."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.base.models import FrameBase
from lenskeep.core.even.judged import STILL
from lenskeep.core.problems import UserProblem
from lenskeep.store import deeds as kept
from lenskeep.store import jobs, shoots
from lenskeep.store.frames import FrameSummary
from lenskeep.store.jobs import Job
from lenskeep.store.scenes import Scene
from lenskeep.store.shoots import Shoot
from lenskeep.studio import basing, deeds, evening, proposing
from lenskeep.studio.bench import trying
from lenskeep.studio.proposing import Standing
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InForm, InStudio, Studio, frame_or_404, scene_or_404, shoot_or_404

router = APIRouter()
WIDE, TALL = 1200.0, 64.0
MOST_PULL = 40.0
MOST = (1.5, 45.0)
"""EV and mired at the edges of the chart."""


@dataclass(frozen=True)
class Point:
    """A frame in the chart: where it stands in light and in colour, now and with what is proposed."""

    standing: Standing
    x: float
    light: float
    colour: float
    light_then: float
    colour_then: float
    pull: float | None
    size: float
    words: str


@dataclass(frozen=True)
class Chart:
    """``band`` are half the heights of what is even, in light and in colour; ``pulls``: those of subjects are known."""

    points: list[Point]
    band: tuple[float, float]
    pulls: bool = False
    wide: float = WIDE
    tall: float = TALL


@dataclass(frozen=True)
class Evenness:
    """What is known of a scene. ``measured`` of its frames stand in the chart, ``off`` of them outside of the band."""

    scene: Scene
    chart: Chart
    measured: int
    of: int
    off: int
    job: Job | None


@dataclass(frozen=True)
class EveningPage(Evenness):
    """The page: proposals, first those that are sure. ``undo`` is what was done last."""

    shoot: Shoot
    proposed: list[Standing]
    sure: int
    doubted: int
    undo: str
    said: str
    names: tuple[tuple[str, str, str, float], ...] = (
        ("ev", "Light", "EV", 0.05),
        ("mired", "Warmth", "mired", 1.0),
        ("duv", "Tint", "mDuv", 0.5),
    )


def chart_of(standings: list[Standing]) -> Chart:
    """Frames along the scene, each at its place in order; bright and warm are up."""
    step = WIDE / max(len(standings), 1)
    key = next((s.frame for s in standings if s.is_key), None)
    points = []
    for at, one in enumerate(standings):
        if one.off is None:
            continue
        then = (0.0, 0.0, 0.0) if one.proposed else one.off
        size = 4.5 if one.sure or one.is_key else 2.8
        words = f"{one.frame.file_name}: {one.words}{'' if one.sure or one.is_key else ' (not sure)'}"
        (light, colour), (light_then, colour_then) = _heights(one.off), _heights(then)
        pulled = _pull(one.frame, key)
        x = round((at + 0.5) * step, 1)
        points.append(Point(one, x, light, colour, light_then, colour_then, pulled, size, words))
    bands = (TALL / 2 * STILL[0] / MOST[0], TALL / 2 * STILL[1] / MOST[1])
    return Chart(points, bands, any(p.pull is not None for p in points))


def _pull(frame: FrameSummary, key: FrameSummary | None) -> float | None:
    """How much more its subject draws by brightness than that of the key frame, from the top; None where it is not
    known.
    """
    if key is None or not frame.pull or not key.pull:
        return None
    more = float(frame.pull.split()[0]) - float(key.pull.split()[0])
    return round(TALL / 2 * (1.0 - min(max(more / MOST_PULL, -1.0), 1.0)), 1)


def _heights(off: tuple[float, float, float]) -> tuple[float, float]:
    """Of light and of warmth, from the top."""
    light, warmth = (
        round(TALL / 2 * (1.0 - min(max(value / most, -1.0), 1.0)), 1) for value, most in zip(off, MOST, strict=False)
    )
    return light, warmth


def _job(studio: Studio, scene: Scene) -> Job | None:
    """The measuring of this scene that is under way."""
    for kind in (evening.CAMERA, evening.DESCRIBING, evening.EVENING):
        for job in jobs.active_jobs(studio.library.db, scene.shoot_id, kind):
            if scene.id in job.options.get("scenes", []):
                return job
    return None


def evenness_of(studio: Studio, scene: Scene) -> tuple[Evenness, list[Standing]]:
    found = proposing.standings(studio.library, scene)
    measured = sum(s.off is not None for s in found)
    off = sum(map(proposing.is_off, found))
    return Evenness(scene, chart_of(found), measured, len(found), off, _job(studio, scene)), found


@router.get("/scenes/{scene_id}/evenness", response_class=HTMLResponse)
def evenness(request: Request, studio: InStudio, scene_id: Id) -> HTMLResponse:
    """What stands under a scene's head on the wall."""
    return page(request, "evening/chart.html", evenness_of(studio, scene_or_404(studio, scene_id))[0])


@router.post("/scenes/{scene_id}/measure", response_class=HTMLResponse)
def measure(request: Request, studio: InStudio, scene_id: Id) -> HTMLResponse:
    """Measure how even a scene is."""
    scene = scene_or_404(studio, scene_id)
    evening.measure(studio.library, scene.shoot_id, [scene_id])
    studio.runner.wake()
    return page(request, "evening/chart.html", evenness_of(studio, scene)[0])


def _page(studio: Studio, scene: Scene, only: list[int], said: str = "") -> EveningPage:
    whole, found = evenness_of(studio, scene)
    proposed = [s for s in found if s.proposed and (not only or s.frame.id in only)]
    proposed.sort(key=lambda s: not s.ticked)  # in order of time among each
    last = kept.last_done(studio.library.db, scene.shoot_id)
    return EveningPage(
        **vars(whole),
        shoot=shoot_or_404(studio, scene.shoot_id),
        proposed=proposed,
        sure=sum(s.ticked for s in proposed),
        doubted=sum(s.ticked and s.doubted for s in proposed),
        undo=last.words if last else "",
        said=said,
    )


@router.get("/scenes/{scene_id}/even", response_class=HTMLResponse)
def show(
    request: Request, studio: InStudio, scene_id: Id, frame: Annotated[list[int] | None, Query()] = None
) -> HTMLResponse:
    """What would make a scene even, for all of its frames or some."""
    scene = scene_or_404(studio, scene_id)
    return page(request, "evening/evening.html", _page(studio, scene, frame or []))


@router.get("/scenes/{scene_id}/even/rows", response_class=HTMLResponse)
def rows(request: Request, studio: InStudio, scene_id: Id) -> HTMLResponse:
    """The same without what is around it, asked for while the scene is measured."""
    return page(request, "evening/rows.html", _page(studio, scene_or_404(studio, scene_id), []))


@router.post("/scenes/{scene_id}/even", response_class=HTMLResponse)
def accept(studio: InStudio, scene_id: Id, form: InForm) -> Response:
    """Give the ticked frames the values that are ticked."""
    scene = scene_or_404(studio, scene_id)
    shoots.note_opened(studio.library.db, scene.shoot_id)
    bases: dict[int, FrameBase] = {}
    for text in form.getlist("frame"):
        frame = frame_or_404(studio, int(str(text)) if str(text).isdigit() else 0)
        values = {}
        for name in ("ev", "mired", "duv"):
            if f"use-{name}-{frame.id}" in form:
                values[name] = _number(form.get(f"{name}-{frame.id}"))
        bases[frame.id] = _based(frame.own_base, values)
    proposing.accept(studio.library, scene, bases)
    studio.runner.wake()
    return RedirectResponse(f"/scenes/{scene_id}/even", 303)


def _number(given: object) -> float:
    try:
        return float(str(given))
    except ValueError as error:
        raise UserProblem("A value of a base is a number.") from error


def _based(base: FrameBase, values: dict[str, float]) -> FrameBase:
    try:
        return FrameBase.model_validate(base.model_dump() | values)
    except ValueError as error:
        raise UserProblem(
            "Light goes from −4 to 4 EV, warmth from −100 to 100 mired, tint from −30 to 30 mDuv."
        ) from error


@router.post("/scenes/{scene_id}/even/undo")
def undo(studio: InStudio, scene_id: Id) -> Response:
    scene = scene_or_404(studio, scene_id)
    deeds.undo(studio.library, scene.shoot_id)
    studio.runner.wake()
    return RedirectResponse(f"/scenes/{scene_id}/even", 303)


class Amounts(BaseModel):
    """The amounts of a base."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    ev: float = Field(default=0.0, ge=-4, le=4)
    mired: float = Field(default=0.0, ge=-100, le=100)
    duv: float = Field(default=0.0, ge=-30, le=30)
    highlights: float = Field(default=0.0, ge=-100, le=100)
    shadows: float = Field(default=0.0, ge=-100, le=100)


@router.get("/frames/{frame_id}/even.jpg")
def then(studio: InStudio, frame_id: Id, fields: Annotated[Amounts, Query()]) -> Response:
    """A frame with its look and another base, small."""
    frame = frame_or_404(studio, frame_id)
    base = basing.with_curve(studio.library, frame, FrameBase(**fields.model_dump()))
    made = trying.picture(studio.library, studio.stage, frame, base, draft=True)
    return Response(made, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=600"})
