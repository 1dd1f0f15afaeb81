"""The wall of a shoot: its frames as a contact sheet, a page at a time, where it stands, and giving it a look."""

from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Request, Response
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from pydantic import BaseModel, Field

from lenskeep.core.percent import from_percent, to_percent
from lenskeep.store import checks, finished, frames, jobs, looks, recipes, scenes, shoots, walls
from lenskeep.store.frames import FrameSummary
from lenskeep.store.jobs import Job
from lenskeep.store.looks import Look
from lenskeep.store.recipes import RecipeVersion
from lenskeep.store.scenes import Scene
from lenskeep.store.shoots import Refusal, Shoot
from lenskeep.store.walls import Counts, Mark, Place, SceneCounts
from lenskeep.studio import find as finding
from lenskeep.studio import looks as giving
from lenskeep.studio.removing import Goes, what_goes
from lenskeep.studio.standing import Stage, Standing, stages_of, standing_of
from lenskeep.web.present import guard_words, page
from lenskeep.web.studio_of import Id, InStudio, Studio, shoot_or_404

router = APIRouter()
FILTERS: dict[Mark, str] = {
    "all": "All",
    "doubtful": "Doubtful",
    "warned": "Guards warn",
    "changed": "Changed by hand",
    "rejected": "Rejected",
}
PAGE = 60
"""Frames a page of the contact sheet; the first one comes with the wall, the others when they are scrolled to."""


@dataclass(frozen=True)
class Page:
    """Some frames of the contact sheet, those of one mark or all."""

    shoot: Shoot
    frames: list[FrameSummary]
    show: Mark


@dataclass(frozen=True)
class SceneHead:
    """What stands over the frames of a scene. ``before`` is the scene before it, which it can be joined to."""

    scene: Scene
    counts: SceneCounts
    look: Look | None
    key: FrameSummary | None
    before: Scene | None
    warnings: list[str]


@dataclass(frozen=True)
class OneScene(SceneHead):
    """A scene on the contact sheet; ``rest`` says where the pages begin that are not there yet."""

    frames: list[FrameSummary]
    rest: list[Place]


@dataclass(frozen=True)
class Filters:
    """The marks that frames can be shown by, and how many have each."""

    shoot: Shoot
    show: Mark
    filters: dict[Mark, str]
    counts: dict[Mark, int]


@dataclass(frozen=True)
class Tiles(Filters):
    """The contact sheet, scene by scene, with its first page. ``touched`` is the newest change that is shown, from
    which on the page asks what changed since.
    """

    scenes: list[OneScene]
    touched: int
    layout: str


@dataclass(frozen=True)
class Header:
    """Where the shoot stands. ``job`` is under way, ``last`` was the one before."""

    shoot: Shoot
    standing: Standing
    job: Job | None
    last: Job | None
    look: Look | None
    looks: int
    refusals: list[Refusal]
    delivered: bool
    recipes: list[RecipeVersion]
    raws: int
    trouble: str
    preparing: str
    stages: list[Stage]
    look_strength: int
    in_question: int


@dataclass(frozen=True)
class Wall(Header, Tiles):
    """The whole page."""


def marked(show: str) -> Mark:
    """A mark by the name that an address gives; every frame for one that is not known."""
    return show if show in FILTERS else "all"  # type: ignore[return-value]


def _tiles(studio: Studio, shoot: Shoot, show: Mark) -> Tiles:
    db = studio.library.db
    counts = walls.counts(db, shoot.id)  # before the frames are read, so that no change falls between
    out: list[OneScene] = []
    room = PAGE  # the first page may be made of several scenes
    for head in heads(studio, shoot.id):
        pages = walls.pages(db, shoot.id, show, PAGE, head.scene.id)
        here = bool(pages) and room >= pages[0].count
        frames_here = walls.page(db, shoot.id, show, "", 0, PAGE, head.scene.id) if here else []
        room -= len(frames_here) if here else room
        if pages or show == "all":
            out.append(OneScene(**vars(head), frames=frames_here, rest=pages[1:] if here else pages))
    layout = layout_of(studio, shoot.id)
    return Tiles(**vars(filters(studio, shoot, show, counts)), scenes=out, touched=counts.touched, layout=layout)


def filters(studio: Studio, shoot: Shoot, show: Mark, counts: Counts) -> Filters:
    """How many frames of a shoot there are by each mark, of which one is shown."""
    db = studio.library.db
    by_mark: dict[Mark, int] = {
        "all": counts.frames,
        "doubtful": counts.doubtful,
        "changed": counts.changed,
        "warned": walls.marked(db, shoot.id, "warned"),
        "rejected": walls.marked(db, shoot.id, "rejected"),
    }
    return Filters(shoot, show, FILTERS, by_mark)


def layout_of(studio: Studio, shoot_id: int) -> str:
    """Which scenes a wall shows, and how many frames in each: with another one the page has to be drawn anew."""
    counts = walls.scene_counts(studio.library.db, shoot_id)
    return " ".join(f"{s.id}:{counts[s.id].frames}" for s in scenes.shown(studio.library.db, shoot_id))


def heads(studio: Studio, shoot_id: int) -> list[SceneHead]:
    """What stands over each scene of a shoot, in order."""
    db = studio.library.db
    counts, shown = walls.scene_counts(db, shoot_id), scenes.shown(db, shoot_id)
    keys = {f.id: f for f in frames.some(db, [s.key_frame_id for s in shown if s.key_frame_id])}
    return [
        SceneHead(
            scene,
            counts[scene.id],
            looks.look(db, scene.id),
            keys.get(scene.key_frame_id or 0),
            before,
            [f"{guard_words(name)} on {n}" for name, n in finished.warnings(db, scene.id).items()],
        )
        for before, scene in zip([None, *shown], shown, strict=False)
    ]


def header(studio: Studio, shoot: Shoot) -> Header:
    db = studio.library.db
    own = [looks.look(db, s.id) for s in scenes.shown(db, shoot.id)]
    look, job = next((each for each in own if each), None), jobs.active_job(db, shoot.id)
    question = checks.counts(db, shoot.id)[0]
    standing, delivered = standing_of(walls.counts(db, shoot.id), look), jobs.has_done(db, shoot.id, "export")
    return Header(
        shoot=shoot,
        standing=standing,
        job=job,
        last=jobs.newest_job(db, shoot.id),
        look=look,
        looks=len({each and tuple((e.version.id, e.strength) for e in each.layers) for each in own}),
        refusals=shoots.refusals(db, shoot.id),
        delivered=delivered,
        recipes=recipes.newest_versions(db),
        raws=frames.count_raws(db, shoot.id),
        trouble=studio.runner.trouble,
        preparing=studio.preparation.words,
        stages=stages_of(standing, look, job.kind if job else "", delivered, question),
        look_strength=to_percent(look.strength) if look else 100,
        in_question=question,
    )


@router.get("/shoots/{shoot_id}.json")
def wall_json(studio: InStudio, shoot_id: Id) -> JSONResponse:
    shoot = shoot_or_404(studio, shoot_id)
    out = [
        {
            "id": f.id, "file": f.file_name, "taken": f.taken_at, "state": f.state, "problem": f.problem,
            "render_problem": f.render_problem,
            "trust": f.trust if f.found_by else None, "reason": f.reason,
            "doubtful": f.doubtful, "changed": f.changed, "result": f.result_key or None,
        }
        for f in frames.summaries(studio.library.db, shoot_id)
    ]  # fmt: skip
    return JSONResponse({"id": shoot.id, "name": shoot.name, "frames": out})


@router.get("/shoots/{shoot_id}", response_class=HTMLResponse)
def wall(request: Request, studio: InStudio, shoot_id: Id, show: str = "all") -> HTMLResponse:
    shoot = shoot_or_404(studio, shoot_id)
    view = Wall(**(vars(_tiles(studio, shoot, marked(show))) | vars(header(studio, shoot))))
    return page(request, "wall/wall.html", view)


@dataclass(frozen=True)
class Going:
    """What removing the shoot takes."""

    goes: Goes


@router.get("/shoots/{shoot_id}/goes", response_class=HTMLResponse)
def goes(request: Request, studio: InStudio, shoot_id: Id) -> HTMLResponse:
    """What removing the shoot takes, in words; every frame is looked at, so it is said when somebody asks."""
    return page(request, "wall/goes.html", Going(what_goes(studio.library, shoot_or_404(studio, shoot_id).id)))


@router.get("/shoots/{shoot_id}/tiles", response_class=HTMLResponse)
def tiles(
    request: Request, studio: InStudio, shoot_id: Id, show: str = "all", place: str = "", frame: int = 0, scene: int = 0
) -> HTMLResponse:
    """A page of the contact sheet, from a frame on."""
    mark = marked(show)
    frame = min(max(frame, 0), 2**63 - 1)
    within = min(scene, 2**63 - 1) if scene > 0 else None
    found = walls.page(studio.library.db, shoot_id, mark, place[:400], frame, PAGE, within)
    return page(request, "wall/page.html", Page(shoot_or_404(studio, shoot_id), found, mark))


class OnScreen(BaseModel):
    """Frames that somebody sees."""

    frames: list[Annotated[int, Field(ge=1, le=2**63 - 1)]] = Field(max_length=400)


@router.post("/shoots/{shoot_id}/on-screen")
def on_screen(studio: InStudio, shoot_id: Id, seen: OnScreen) -> Response:
    """Somebody works on the shoot; what waits for these frames is done before the rest."""
    shoot_or_404(studio, shoot_id)
    shoots.note_opened(studio.library.db, shoot_id)
    jobs.bring_forward(studio.library.db, shoot_id, seen.frames)
    return Response(status_code=204)


def _back(studio: Studio, shoot_id: int) -> Response:
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{shoot_id}", 303)


@router.post("/shoots/{shoot_id}/look")
def give_look(
    studio: InStudio, shoot_id: Id, version_id: Annotated[int, Form()], strength: Annotated[float, Form()] = 100.0
) -> Response:
    """Give the shoot a recipe at a strength in per cent, and start rendering every frame."""
    shoot_or_404(studio, shoot_id)
    giving.give_look(studio.library, shoot_id, version_id, from_percent(strength))
    return _back(studio, shoot_id)


@router.post("/shoots/{shoot_id}/raw-base")
def raw_base(studio: InStudio, shoot_id: Id, base: Annotated[Literal["soft", "neutral"], Form()]) -> Response:
    """Bring the shoot's raw files to pictures in another way; masks and look follow."""
    shoot_or_404(studio, shoot_id)
    finding.set_raw_base(studio.library, shoot_id, base)
    return _back(studio, shoot_id)


@router.post("/shoots/{shoot_id}/refusals/clear")
def clear_refusals(studio: InStudio, shoot_id: Id) -> Response:
    shoots.clear_refusals(studio.library.db, shoot_id)
    return RedirectResponse(f"/shoots/{shoot_id}", 303)


@router.post("/shoots/{shoot_id}/find-again")
def find_again(studio: InStudio, shoot_id: Id) -> Response:
    """Find the masks of every frame anew."""
    shoot_or_404(studio, shoot_id)
    finding.queue_finding(studio.library, shoot_id, everything=True)
    return _back(studio, shoot_id)


@router.post("/shoots/{shoot_id}/try-again")
def try_again(studio: InStudio, shoot_id: Id) -> Response:
    """Try once more what failed on single frames, and find masks whose files are gone."""
    shoot_or_404(studio, shoot_id)
    finding.try_again(studio.library, shoot_id)
    return _back(studio, shoot_id)
