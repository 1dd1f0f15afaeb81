"""The check: frames that need an eye, what would be seen first in the delivery before the rest, and what is done."""

import json
from collections.abc import Iterator
from dataclasses import dataclass

from lenskeep.core.base.models import FrameBase
from lenskeep.core.measure.guards import GUARDS
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Step
from lenskeep.core.recipes.overrides import StepOverride, qualified
from lenskeep.core.regions import Region
from lenskeep.store import checks, deeds, evenness, frames, looks, scenes
from lenskeep.store.frames import FrameRow, FrameSummary
from lenskeep.store.looks import Look
from lenskeep.studio import deeds as doing
from lenskeep.studio.library import Library

WEAKER = 0.7
"""What each press leaves of the strength of the step to blame."""
REGIONS = ("subject", "background", "sky", "whole frame", "all but its own")
DOUBT_COUNTS, OFF_COUNTS, UNSURE = 1.0, 0.25, 0.3
MOST_OVER = 4.0


@dataclass(frozen=True)
class Fault:
    """Something that may be wrong: in words, how much of it would be seen, the step it comes from, if any, and the mask
    that it lies in where one is in doubt.
    """

    kind: str
    words: str
    weight: float
    step: str = ""
    mask: str = ""


@dataclass(frozen=True)
class Blamed:
    """The step that is dealt with: its name in the frame's own changes, how strong it is here, and whether it runs."""

    id: str
    name: str
    strength: float
    on: bool


@dataclass(frozen=True)
class Entry:
    """A frame to be looked at, with what is to be looked at first, and the steps that it comes from in that order,
    before those that the frame changed already.
    """

    frame: FrameSummary
    faults: tuple[Fault, ...]
    steps: tuple[Blamed, ...]

    @property
    def blamed(self) -> Blamed | None:
        return self.steps[0] if self.steps else None

    @property
    def weight(self) -> float:
        return sum(fault.weight for fault in self.faults)


def entries(library: Library, shoot_id: int) -> list[Entry]:
    """Every frame that needs an eye and has not had one, the worst first; alike ones in order of time."""
    own = checks.in_question(library.db, shoot_id)
    by_scene = {scene_id: _Scene(library, scene_id) for scene_id in {f.scene_id for f in own}}
    out = [_entry(library, f, by_scene[f.scene_id]) for f in own]
    return sorted(out, key=lambda e: -round(e.weight, 3))


def entry(library: Library, frame_id: int) -> Entry:
    """One frame as it is now. Raises UserProblem when it is gone."""
    frame = frames.summary(library.db, frame_id)
    if frame is None:
        raise UserProblem("This frame is no longer in the library.")
    return _entry(library, frame, _Scene(library, frame.scene_id))


class _Scene:
    """What entries of one scene share: its look, and what its frames need to be even."""

    def __init__(self, library: Library, scene_id: int) -> None:
        self.look = looks.look(library.db, scene_id)
        self.needs = evenness.needs(library.db, scene_id)
        scene = scenes.scene(library.db, scene_id)
        key = frames.summary(library.db, scene.key_frame_id) if scene and scene.key_frame_id else None
        self.key_base = key.own_base if key else FrameBase()
        self.used = scene.masks_used if scene else frozenset[str]()


def _entry(library: Library, frame: FrameSummary, scene: _Scene) -> Entry:
    whole = frames.frame(library.db, frame.id)
    faults = tuple(sorted(_faults(frame, whole, scene), key=lambda f: -f.weight))
    return Entry(frame, faults, tuple(_blamed(whole, faults, scene.look)) if whole else ())


def _faults(frame: FrameSummary, whole: FrameRow | None, scene: _Scene) -> Iterator[Fault]:
    """How much a fault is seen: its size, times the share of the frame it is on, times how sure it is."""
    if frame.render_problem or frame.state == "failed":
        yield Fault("failed", frame.render_problem or frame.problem, 10.0)
    if frame.doubtful and whole is not None and whole.facts is not None:
        for name, one in whole.facts.doubts().items():
            if name in scene.used:
                area = max(whole.facts.area(name), 0.05)
                for words in one.reasons[:1]:
                    weight = DOUBT_COUNTS * (1.0 - one.trust) * area**0.5
                    yield Fault("doubt", words, weight, _user_of(name, scene.look), name)
    if whole is not None:
        for words in whole.missing:
            yield Fault("missing", words, 0.15)
    for guard, figure, step, name in json.loads(frame.guards or "[]"):  # of the picture that is seen, stale or not
        known = GUARDS.get(guard)
        limit, unit = (known.limit, known.unit) if known else (1.0, "")
        over = min(figure / limit, MOST_OVER)
        share = figure / 100.0 if unit == "%" else 0.2
        by = f"“{name}”" if step else "the base"
        yield Fault(guard, f"{figure:.1f} {unit} by {by}", 0.25 * over * max(share, 0.02) ** 0.5, step)
    need = scene.needs.get(frame.id)
    if need is not None and any(need.values):
        off = frame.own_base.ev - scene.key_base.ev - need.ev
        if abs(off) >= 0.3:
            sure = 1.0 if need.sure else UNSURE
            side = "over" if off > 0 else "under"
            yield Fault("uneven", f"{abs(off):.1f} EV {side} beside its scene", OFF_COUNTS * abs(off) * sure)


def _steps(look: Look | None) -> Iterator[tuple[str, Step, Region]]:
    """(name in a frame's own changes, step, its region) of a look, the first step first."""
    if look is None or look.unreadable:
        return
    several = len(look.layers) > 1
    for layer in look.layers:
        recipe = layer.version.recipe
        for step in recipe.steps:
            yield (qualified(layer.name, step.id) if several else step.id), step, recipe.region_of(step)


def _user_of(mask: str, look: Look | None) -> str:
    """The first step that works in a mask."""
    return next((name for name, step, region in _steps(look) if step.enabled and mask in region.uses()), "")


def _blamed(whole: FrameRow, faults: tuple[Fault, ...], look: Look | None) -> Iterator[Blamed]:
    """The steps that faults come from, the worst fault's first, as the frame has them; then those it changed."""
    steps = {name: step for name, step, _ in _steps(look)}
    bare = {name.split(".")[-1]: name for name in steps}
    named = [fault.step if fault.step in steps else bare.get(fault.step.split(".")[-1], "") for fault in faults]
    for name in dict.fromkeys([*named, *whole.override.steps]):
        if name in steps:
            step, own = steps[name], whole.override.steps.get(name, StepOverride())
            on = step.enabled if own.enabled is None else own.enabled
            yield Blamed(name, step.name, step.strength if own.strength is None else own.strength, on)


def weaken(library: Library, frame_id: int, step: str = "") -> Entry:
    """Lower the strength of a step on this frame, by default of the one to blame. Raises UserProblem where none is."""
    blamed = _to_blame(library, frame_id, step)
    return _own_step(library, frame_id, blamed, {"strength": round(blamed.strength * WEAKER, 3)}, "weakening")


def leave_out(library: Library, frame_id: int, step: str = "") -> Entry:
    """Leave a step out on this frame, or let it run again."""
    blamed = _to_blame(library, frame_id, step)
    return _own_step(library, frame_id, blamed, {"enabled": not blamed.on}, "leaving out" if blamed.on else "using")


def other_region(library: Library, frame_id: int, region: str, step: str = "") -> Entry:
    """Let a step work elsewhere on this frame: one of ``REGIONS``. Raises UserProblem."""
    blamed = _to_blame(library, frame_id, step)
    frame = frames.frame(library.db, frame_id)
    look = looks.look(library.db, frame.scene_id) if frame else None
    own = next((region for name, _, region in _steps(look) if name == blamed.id), Region())
    if region == "all but its own":
        wanted = own.model_copy(update={"invert": not own.invert})
    elif region == "whole frame":
        wanted = Region()
    elif region in REGIONS:
        wanted = Region.model_validate({"parts": [{"kind": region}]})
    else:
        raise UserProblem(f"A step can work in the {', the '.join(REGIONS[:4])}, or {REGIONS[4]}.")
    return _own_step(library, frame_id, blamed, {"region": wanted}, "another region for")


def _to_blame(library: Library, frame_id: int, step: str) -> Blamed:
    found = entry(library, frame_id).steps
    chosen = next((one for one in found if one.id == step), found[0] if found and not step else None)
    if chosen is None:
        raise UserProblem("No step is to blame for what is wrong here. Repair the mask, or change the base.")
    return chosen


def _own_step(library: Library, frame_id: int, blamed: Blamed, update: dict[str, object], words: str) -> Entry:
    frame = frames.frame(library.db, frame_id)
    assert frame is not None

    def changed(row: FrameRow) -> object:
        own = row.override.steps.get(blamed.id, StepOverride()).model_copy(update=update)
        return row.override.model_copy(update={"steps": {**row.override.steps, blamed.id: own}})

    with doing.doing(library, frame.shoot_id, f"{words} “{blamed.name}” on {frame.file_name}", [frame_id]):
        doing.change_overrides(library, [frame_id], changed)  # type: ignore[arg-type]
    return entry(library, frame_id)


def accept(library: Library, frame_id: int) -> None:
    """Say that a frame is good as it is: what is doubted of its masks is accepted, and what guards warn of was seen."""
    found = entry(library, frame_id)
    frame = found.frame
    with doing.doing(library, frame.shoot_id, f"accepting {frame.file_name}", [frame_id]):
        if frame.doubtful:
            deeds.set_column(library.db, "accepted", 1, [frame_id])
        changed = frames.frame(library.db, frame_id)
        by_hand = changed is not None and changed.changed
        checks.note(library.db, frame_id, "corrected" if by_hand else "accepted")


def back(library: Library, frame_id: int) -> None:
    """Look at a frame again."""
    frame = entry(library, frame_id).frame
    with doing.doing(library, frame.shoot_id, f"looking at {frame.file_name} again", [frame_id]):
        checks.forget(library.db, frame_id)
        deeds.set_column(library.db, "accepted", 0, [frame_id])
