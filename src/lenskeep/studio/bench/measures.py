"""Guards and histograms of a frame on the Bench: figures, which step causes a fault, faults shown on the picture."""

from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.guarding import BASE, Looked, judge
from lenskeep.core.measure.guards import GUARDS, GuardName, faults
from lenskeep.core.measure.histogram import histograms
from lenskeep.core.measure.pixelwise import PIXELWISE
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import Compiled, Cut, compile_steps, render_rows
from lenskeep.core.types import SRGB8, Alpha, LinearRGB
from lenskeep.files.reading.photo import to_srgb8
from lenskeep.files.writing.jpeg import preview_jpeg
from lenskeep.studio.bench.stage import KEY_SIDE, QUALITY, WITNESS_SIDE, Stage, Staged, step_alpha

MOST_PLACES, APART = 12, 0.12
"""Places of faults that one can go to, and how far apart they are as a share of the long side."""
STRIPE = 5
MARK, BETWEEN = np.array((255, 176, 0), np.uint8), np.array((32, 34, 32), np.uint8)


@dataclass(frozen=True)
class Guarded:
    """A guard's figure with and without the recipe, and the step that causes it when it warns."""

    name: GuardName
    figure: float
    before: float
    warns: bool
    step: str | None
    unit: str
    cause: str | None


@dataclass(frozen=True)
class Measures:
    """Histograms by channel, of the frame and of a step's region, and every guard."""

    histogram: dict[str, list[float]]
    region: dict[str, list[float]] | None
    guards: list[Guarded]


def _regions(staged: Staged, recipe: Recipe, ids: list[str]) -> list[Alpha]:
    """Where the steps that do not cover the whole frame work."""
    steps = [recipe.step(i) for i in ids]
    own = [s.id for s in steps if not (recipe.region_of(s).is_whole and recipe.limit_of(s).is_whole)]
    return [staged.sized(step_alpha(staged.frame, recipe, i)) for i in own]


def _finished(staged: Staged, compiled: Compiled) -> LinearRGB:
    return render_rows(compiled.stages(), staged.based.copy(), staged.guides)


def measures(stage: Stage, frame_id: int, recipe: Recipe, step_id: str | None) -> Measures:
    """Histograms of the finished frame and of one step's region, and every guard with the step that causes it."""
    with stage.at_work(frame_id, WITNESS_SIDE) as staged:
        return _measures(staged, recipe, step_id)


def _measures(staged: Staged, recipe: Recipe, step_id: str | None) -> Measures:
    compiled = compile_steps(make_plan(recipe), staged.frame)
    finished = _finished(staged, compiled)
    pixels = to_srgb8(finished)
    region = None
    if step_id and any(s.id == step_id for s in recipe.steps):
        region = histograms(pixels, staged.sized(step_alpha(staged.frame, recipe, step_id)))
    skin = staged.sized(staged.frame.found.mask("skin"))

    def works(step: str) -> Alpha | None:
        own = recipe.step(step)
        if recipe.region_of(own).is_whole and recipe.limit_of(own).is_whole:
            return None
        return staged.sized(step_alpha(staged.frame, recipe, step))

    looked = Looked(staged.picture, staged.based, staged.guides, skin, compiled, works)
    said = judge(looked, finished)
    names = {s.id: s.name for s in recipe.steps} | {BASE: "this frame’s base"}
    guards = [
        Guarded(name, said.figures[name], said.before[name], name in said.causes, step := said.causes.get(name),
                GUARDS[name].unit, None if step is None else names.get(step))
        for name in GUARDS
    ]  # fmt: skip
    return Measures(histograms(pixels), region, guards)


def shown(stage: Stage, frame_id: int, recipe: Recipe, guard: GuardName, side: int = KEY_SIDE) -> bytes:
    """A JPEG of the finished frame with a guard's faults striped."""
    with stage.at_work(frame_id, side) as staged:
        finished, where = _faults_of(stage, staged, frame_id, recipe, guard)
        return preview_jpeg(striped(to_srgb8(finished), staged.sized(where)), QUALITY)


def _faults_of(
    stage: Stage, staged: Staged, frame_id: int, recipe: Recipe, guard: GuardName
) -> tuple[LinearRGB, Alpha]:
    """The finished picture, and where one guard finds fault with it, 0…1 at a size of its own."""
    compiled = compile_steps(make_plan(recipe), staged.frame)
    finished = _finished(staged, compiled)
    seen, after = staged, finished
    if guard not in PIXELWISE:  # what follows borders is found at a witness's size, many times faster
        seen = stage.ready(frame_id, WITNESS_SIDE)
        h, w = seen.picture.shape[:2]
        after = np.asarray(cv2.resize(finished, (w, h), interpolation=cv2.INTER_AREA), np.float32)
    skin = seen.sized(seen.frame.found.mask("skin"))
    found = faults(seen.based, after, skin, _regions(seen, recipe, compiled.ids), frozenset((guard,)))
    return finished, found.maps[guard]


def places(stage: Stage, frame_id: int, recipe: Recipe, guard: GuardName) -> list[tuple[float, float]]:
    """Where a guard finds most fault, x and y in 0…1, the worst place first; at most ``MOST_PLACES``."""
    with stage.at_work(frame_id, WITNESS_SIDE) as staged:
        where = _faults_of(stage, staged, frame_id, recipe, guard)[1]
    heat = cv2.GaussianBlur(np.asarray(where, np.float32), (0, 0), 0.02 * max(where.shape))
    y, x = np.mgrid[: heat.shape[0], : heat.shape[1]]
    out: list[tuple[float, float]] = []
    least = 0.15 * float(heat.max())
    while len(out) < MOST_PLACES and float(heat.max()) > max(least, 1e-4):
        row, column = np.unravel_index(int(heat.argmax()), heat.shape)
        out.append((float((column + 0.5) / heat.shape[1]), float((row + 0.5) / heat.shape[0])))
        heat[np.hypot(y - row, x - column) < APART * max(heat.shape)] = 0.0
    return out


def striped_cut(stage: Stage, frame_id: int, recipe: Recipe, guard: GuardName, pixels: SRGB8, cut: Cut) -> SRGB8:
    """A cut of the finished frame with a guard's faults striped; the stripes of neighbouring cuts go on."""
    with stage.at_work(frame_id, KEY_SIDE) as staged:
        where = _faults_of(stage, staged, frame_id, recipe, guard)[1]
        facts = staged.frame.found.facts
    h, w = where.shape
    across, down = w / facts.width, h / facts.height
    place = np.array([[across, 0.0, (cut.x + 0.5) * across - 0.5], [0.0, down, (cut.y + 0.5) * down - 0.5]])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    there = cv2.warpAffine(
        np.asarray(where, np.float32), place, (cut.width, cut.height), flags=flags, borderMode=cv2.BORDER_REPLICATE
    )
    return striped(pixels, np.asarray(there, np.float32), cut.x + cut.y)


def striped(pixels: SRGB8, where: Alpha, start: int = 0) -> SRGB8:
    """The picture with diagonal stripes over it, which stand out on bright and on dark ground."""
    over = stripes(pixels.shape[0], pixels.shape[1], start).astype(np.float32)
    share = np.clip(where * 1.5, 0.0, 0.9)[..., None]
    return np.asarray(np.rint(pixels + share * (over - pixels)), np.uint8)


def stripes(height: int, width: int, start: int = 0) -> SRGB8:
    """Diagonal stripes (height, width, 3), as those of neighbouring cuts go on from ``start``."""
    y, x = np.ogrid[:height, :width]
    return np.asarray(np.where((((x + y + start) // STRIPE) % 2 == 0)[..., None], MARK, BETWEEN), np.uint8)
