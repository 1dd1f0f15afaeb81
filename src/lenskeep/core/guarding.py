"""What guards find on one frame under a plan, and which step each fault comes from: at screen size, on the Bench and
when a look is applied.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from lenskeep.core.colour.oklab import measured_oklab
from lenskeep.core.engine.planes import area_mean
from lenskeep.core.engine.run import guides_of
from lenskeep.core.measure.guards import GUARDS, Faults, GuardName, faults
from lenskeep.core.measure.pixelwise import PIXELWISE
from lenskeep.core.plan import Plan
from lenskeep.core.render import Compiled, Fitted, Frame, alpha_at, alpha_of, render_rows
from lenskeep.core.types import Alpha, Float, LinearRGB, OKLab

LEAST_GROWTH = 0.1
"""As a share of its limit, how much a figure must have grown by the look before its guard warns."""
ALONG_BORDERS: tuple[GuardName, ...] = ("glow", "seam")
CAUSES_EVERY = 2
"""Which step a fault grew by most is told on every second row and column, unless little is to be seen."""
FEW_SKIN = 500
"""Of so few pixels of skin all are looked at."""
BASE = ""
"""Stands for a frame's own base among the steps that may be to blame."""


@dataclass
class Looked:
    """A frame to be judged at one size: its picture as it came and as its base leaves it, what masks follow, where skin
    is, its steps, and where each works (None for the whole frame).
    """

    untouched: LinearRGB
    based: LinearRGB
    guides: Float
    skin: Alpha
    compiled: Compiled
    region: Callable[[str], Alpha | None]
    known: dict[str, Alpha | None] = field(default_factory=dict)

    def regions(self, count: int | None = None) -> list[Alpha]:
        """Of the first so many steps, all by default, those that do not cover the whole frame."""
        ids = self.compiled.ids[:count]
        for step in ids:
            if step not in self.known:
                self.known[step] = self.region(step)
        return [region for step in ids if (region := self.known[step]) is not None]

    def finished(self) -> LinearRGB:
        return render_rows(self.compiled.stages(), self.based.copy(), self.guides)


@dataclass(frozen=True)
class Verdict:
    """Every guard's figure with and without what was done to the frame, and to the step that each warning comes from
    (``BASE`` for the frame's base).
    """

    figures: dict[str, float]
    before: dict[str, float]
    causes: dict[GuardName, str]

    @property
    def warned(self) -> list[GuardName]:
        return list(self.causes)


def looked_at(frame: Frame, picture: LinearRGB, compiled: Compiled, plan: Plan) -> Looked:
    """A frame with ``picture``, its untouched one at the size it is judged at."""
    guides = guides_of(picture)
    h, w = picture.shape[:2]
    base = Compiled(steps=[list(frame.base)])
    if max(h, w) < max(frame.proxy.shape[:2]):  # planes no larger than what is looked at: less to be read for it
        fitted = Fitted(h, w)
        compiled, base = compiled.at_size(fitted), base.at_size(fitted)
    blends = {step: ops[-1] for step, ops in zip(compiled.ids, compiled.steps, strict=True)}
    by_id = {step.id: step for step in plan.steps}
    known: dict[tuple[int, ...], Alpha] = {}

    def region(step: str) -> Alpha | None:
        planes = blends[step].planes
        if not planes:
            return None
        key = tuple(map(id, planes))  # steps of one region share them
        if key not in known:
            drawn = blends[step].fine is not None or planes[0].shape != (h, w)
            known[key] = (
                alpha_at(frame, guides, *by_id[step].regions) if drawn else alpha_of(planes[0], planes[1], guides)
            )
        return known[key]

    after_base = render_rows(base.stages(), picture.copy(), guides) if frame.base else picture
    skin = frame.found.masks.get("skin")
    seen = np.zeros((h, w), np.float32) if skin is None else area_mean(skin, (h, w))
    return Looked(picture, after_base, guides, seen, compiled, region)


def judge(looked: Looked, finished: LinearRGB | None = None) -> Verdict:
    """The verdict on a frame; ``finished`` is its picture where that was rendered already."""
    done = looked.finished() if finished is None else finished
    raw = faults(looked.untouched, looked.untouched, looked.skin, [], PIXELWISE).figures
    before: dict[str, float] = dict.fromkeys(GUARDS, 0.0) | raw
    labs = measured_oklab(looked.based), measured_oklab(done)
    all_found = faults(looked.based, done, looked.skin, looked.regions(), labs=labs)
    found = all_found.figures
    warned: list[GuardName] = [
        name
        for name, guard in GUARDS.items()
        if found[name] > guard.limit and found[name] - before[name] > LEAST_GROWTH * guard.limit
    ]
    return Verdict(found, before, _causes(looked, all_found, warned, labs) if warned else {})


def _causes(looked: Looked, found: Faults, warned: list[GuardName], labs: tuple[OKLab, OKLab]) -> dict[GuardName, str]:
    """What each guard's figure grew by most: the base, or a step. What lies along a border comes from the step that
    works within it.
    """
    out: dict[GuardName, str] = {}
    for name in warned:
        if name in ALONG_BORDERS:
            own = [(r, step) for step in looked.compiled.ids if (r := looked.known.get(step)) is not None]
            out[name] = max((found.of_region(name, region), step) for region, step in own)[1]
    rest = [name for name in warned if name not in ALONG_BORDERS]
    if not rest:
        return out
    every = 1 if np.count_nonzero(looked.skin > 0.5) < FEW_SKIN and "skin" in rest else CAUSES_EVERY
    untouched, based, guides, skin, old = (
        np.ascontiguousarray(plane[::every, ::every])
        for plane in (looked.untouched, looked.based, looked.guides, looked.skin, labs[0])
    )
    picture, pixelwise = based.copy(), [name for name in rest if name in PIXELWISE]
    last = dict.fromkeys(rest, 0.0) | faults(untouched, untouched, skin, [], pixelwise).figures
    grown: dict[GuardName, dict[str, float]] = {name: {} for name in rest}
    if looked.based is not looked.untouched:
        now = faults(untouched, based, skin, [], pixelwise).figures
        for name in pixelwise:
            grown[name][BASE] = now[name] - last[name]
        last |= now
    small = looked.compiled.at_size(Fitted(looked.based.shape[0], looked.based.shape[1], every))
    for count, step in enumerate(small.ids):
        picture = render_rows(small.stages(count, count + 1), picture, guides)
        now = faults(based, picture, skin, [], rest, (old, None)).figures
        for name in rest:
            grown[name][step] = now[name] - last[name]
        last = now
    return out | {name: max(by_step, key=lambda step: by_step[step]) for name, by_step in grown.items() if by_step}
