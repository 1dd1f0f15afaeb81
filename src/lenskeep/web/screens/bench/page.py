"""The Bench: the draft recipe as lanes, saved and loaded. Changes are in ``edits``, pictures in ``pictures``."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, get_args

from fastapi import APIRouter, Form, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from lenskeep.core.adjust import KINDS, Adjustment
from lenskeep.core.facts import Box, Facts
from lenskeep.core.measure.guards import GUARDS, Guard, GuardName
from lenskeep.core.percent import from_percent
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.group_changes import LIMITS
from lenskeep.core.recipes.models import BlendMode, Group, Recipe, Step
from lenskeep.core.regions import PART_KINDS, Part
from lenskeep.core.regions.sentence import part_names
from lenskeep.store import frames, jobs, recipes, scenes
from lenskeep.store.drafts import Draft
from lenskeep.store.frames import FrameSummary
from lenskeep.store.recipes import RecipeVersion
from lenskeep.store.scenes import Scene
from lenskeep.store.shoots import Shoot
from lenskeep.studio import looks, repairing
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench.witnesses import key_and_witnesses
from lenskeep.studio.book import starters
from lenskeep.web.present import page, swatch
from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404, scene_or_404, shoot_or_404

router = APIRouter()
COMBINE = ("add", "take away", "only within")
Described = dict[str, list[tuple[str, str, str]]]


@dataclass(frozen=True)
class Lanes:
    """The steps and what can be done to them. ``saved`` is the newest version of the recipe that the draft belongs to;
    ``groups`` and ``parts`` are choices by group, ``used`` the adjustments in use; ``users`` are the steps that use a
    shared region; ``several``: the shoot has more scenes than this. ``added`` is a step, ``fresh`` a part or an
    adjustment, that was added just now.
    """

    shoot: Shoot
    scene: Scene
    several: bool
    draft: Draft
    recipe: Recipe
    saved: RecipeVersion | None
    unsaved: bool
    parts: Described
    groups: Described
    used: list[tuple[str, str, str]]
    users: dict[str, list[Step | Group]]
    book: list[RecipeVersion]
    starters: tuple[tuple[str, Recipe], ...]
    opened: str | None = None
    added: str | None = None
    fresh: str | None = None
    kinds: Mapping[str, type[Adjustment]] = field(default_factory=lambda: KINDS)
    combine: tuple[str, ...] = COMBINE
    limits: tuple[str, ...] = tuple(LIMITS)
    modes: tuple[str, ...] = get_args(BlendMode)
    names_of: Any = part_names
    swatch: Any = swatch


@dataclass(frozen=True)
class Bench(Lanes):
    """The whole page."""

    key: FrameSummary | None = None
    face: Box | None = None
    repairable: tuple[str, ...] = ()
    witnesses: tuple[FrameSummary, ...] = ()
    guards: Mapping[GuardName, Guard] | None = None
    middles: str = ""
    own_middles: Mapping[int, str] = field(default_factory=dict)
    shown: str = ""
    finding: bool = False
    newer: bool = False


@dataclass(frozen=True)
class Newer:
    """Whether a Bench that shows the frames ``shown`` would show others by now, and whether that may yet change."""

    scene: Scene
    shown: str
    finding: bool
    newer: bool


@dataclass(frozen=True)
class Unreadable:
    """A Bench whose present state can't be read."""

    shoot: Shoot
    scene: Scene
    draft: Draft
    book: list[RecipeVersion]


def lanes_of(
    studio: Studio, scene_id: int, opened: str | None = None, added: str | None = None, fresh: str | None = None
) -> Lanes:
    db = studio.library.db
    scene = scene_or_404(studio, scene_id)
    draft = bench.draft(studio.library, scene_id)
    saved = recipes.versions(db, draft.recipe_id) if draft.recipe_id else []
    recipe = draft.recipe
    return Lanes(
        shoot=shoot_or_404(studio, scene.shoot_id),
        scene=scene,
        several=len(scenes.shown(db, scene.shoot_id)) > 1,
        draft=draft,
        recipe=recipe,
        saved=saved[0] if saved else None,
        unsaved=not saved or bool(saved[0].unreadable) or saved[0].recipe != recipe,
        parts=_described(PART_KINDS),
        groups=_described(KINDS),
        used=_used(recipe),
        users={rid: recipe.users(rid) for rid in recipe.regions},
        book=recipes.newest_versions(db),
        starters=starters.in_sets(),
        opened=opened,
        added=added,
        fresh=fresh,
    )


def _described(kinds: Mapping[str, type[Part] | type[Adjustment]]) -> Described:
    """(kind, label, help) by group, in the registry's order."""
    out: Described = {}
    for kind, cls in kinds.items():
        out.setdefault(cls.group, []).append((kind, cls.label, cls.help))
    return out


def _used(recipe: Recipe) -> list[tuple[str, str, str]]:
    """The adjustments in use, in the registry's order."""
    used = {a.kind for step in recipe.steps for a in step.adjustments}
    return [(kind, cls.label, cls.help) for kind, cls in KINDS.items() if kind in used]


@router.get("/scenes/{scene_id}/bench", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, scene_id: Id) -> Response:
    scene = scene_or_404(studio, scene_id)
    shoot = shoot_or_404(studio, scene.shoot_id)
    draft = bench.draft(studio.library, scene_id)
    if draft.unreadable:
        words = Unreadable(shoot, scene, draft, recipes.newest_versions(studio.library.db))
        return page(request, "bench/unreadable.html", words)
    finding = _finding(studio, scene)  # asked first: what is found after it is told by the page's next question
    key, witnesses = key_and_witnesses(studio.library, scene_id)
    lanes = lanes_of(studio, scene_id)
    whole = frames.frame(studio.library.db, key.id) if key else None
    facts = whole.facts if whole else None
    view = Bench(
        **vars(lanes),
        key=key,
        face=facts.largest_face if facts else None,
        repairable=tuple(repairing.repairable(facts)) if facts else (),
        witnesses=tuple(witnesses),
        guards=GUARDS,
        middles=middles_of(facts),
        own_middles={w.id: middles_of(_facts(studio, w.id)).partition(";")[0] for w in witnesses},
        shown=_ids(key, witnesses),
        finding=finding,
    )
    return page(request, "bench/bench.html", view)


@router.get("/scenes/{scene_id}/bench/newer", response_class=HTMLResponse)
def newer(request: Request, studio: InStudio, scene_id: Id, shown: str = "") -> Response:
    """Tell a Bench that was opened while masks were being found that its scene has other frames by now."""
    scene = scene_or_404(studio, scene_id)
    finding = _finding(studio, scene)
    now = _ids(*key_and_witnesses(studio.library, scene_id))
    if now and not shown:
        return Response(headers={"HX-Refresh": "true"})  # nothing stands there yet that could be lost
    return page(request, "bench/newer.html", Newer(scene, shown, finding, now != shown))


def _finding(studio: Studio, scene: Scene) -> bool:
    return jobs.active_job(studio.library.db, scene.shoot_id, "find") is not None


def _ids(key: FrameSummary | None, witnesses: list[FrameSummary]) -> str:
    return ",".join(str(frame.id) for frame in (key, *witnesses) if frame)


def middles_of(facts: Facts | None) -> str:
    """Where a frame is looked at first, as x,y;x,y in 0…1."""
    return ";".join(f"{x:.4f},{y:.4f}" for x, y in facts.middles) if facts else ""


def _facts(studio: Studio, frame_id: int) -> Facts | None:
    frame = frames.frame(studio.library.db, frame_id)
    return frame.facts if frame else None


@router.get("/scenes/{scene_id}/bench/lanes", response_class=HTMLResponse)
def lanes(request: Request, studio: InStudio, scene_id: Id, opened: str | None = None) -> HTMLResponse:
    """The steps as they are now."""
    scene_or_404(studio, scene_id)
    return page(request, "bench/lanes.html", lanes_of(studio, scene_id, opened))


@router.get("/scenes/{scene_id}/bench/state")
def state(studio: InStudio, scene_id: Id) -> JSONResponse:
    """The number of the present state, by which another window is noticed."""
    scene_or_404(studio, scene_id)
    return JSONResponse({"state": bench.state_now(studio.library, scene_id)})


@router.post("/scenes/{scene_id}/bench/key")
def choose_key(studio: InStudio, scene_id: Id, frame: Annotated[int, Form()]) -> Response:
    """Make a frame the key frame."""
    row = frame_or_404(studio, frame)
    if row.scene_id != scene_id:
        raise UserProblem("This frame belongs to another scene.")
    scenes.set_key_frame(studio.library.db, row.scene_id, row.id)
    return RedirectResponse(f"/scenes/{scene_id}/bench", 303)


@router.post("/scenes/{scene_id}/bench/back")
def back(studio: InStudio, scene_id: Id) -> Response:
    """Go back from a state that can't be read to the last one that can."""
    scene_or_404(studio, scene_id)
    if not bench.back_to_readable(studio.library, scene_id):
        raise UserProblem("No earlier state can be read either. Take a recipe from the book instead.")
    return RedirectResponse(f"/scenes/{scene_id}/bench", 303)


@router.post("/scenes/{scene_id}/bench/save")
def save(
    studio: InStudio,
    scene_id: Id,
    name: Annotated[str, Form()],
    steps: Annotated[list[str] | None, Form()] = None,
    strength: Annotated[float, Form()] = 100.0,
    then: Annotated[str, Form()] = "stay",
    on: Annotated[int | None, Form()] = None,
) -> Response:
    """Save the ticked steps as a recipe (strength in per cent), and maybe give it to the scene or the shoot at once."""
    scene = scene_or_404(studio, scene_id)
    saved = bench.save(studio.library, scene_id, name, steps or [], from_percent(strength), on)
    if then in ("apply", "apply to all"):
        own = None if then == "apply to all" else [scene_id]
        looks.apply_saved(studio.library, scene.shoot_id, saved.id, own)
        studio.runner.wake()
        return RedirectResponse(f"/shoots/{scene.shoot_id}", 303)
    return RedirectResponse(f"/scenes/{scene_id}/bench?saved={saved.version}", 303)


@router.post("/scenes/{scene_id}/bench/load")
def load(studio: InStudio, scene_id: Id, version_id: Annotated[int, Form()]) -> Response:
    """Put a saved recipe on the Bench."""
    scene_or_404(studio, scene_id)
    version = recipes.version(studio.library.db, version_id)
    if version is None:
        raise UserProblem("This recipe is gone.")
    bench.load(studio.library, scene_id, version.recipe, version.recipe_id)
    return RedirectResponse(f"/scenes/{scene_id}/bench", 303)
