"""Renders as they were on the day that recipes of format 1 ended: recipes, what they are rendered on, what came out.

``kept.json`` was written by the version before, and is not meant to be written again; but for the three cases with a
brush, whose strokes are drawn at the size rendered now (block means moved by at most .11 of a step), and on a grid
that makes a cut the same as the whole (one case, whose means did not move); and when rows came to be worked on in
vectors throughout (43 cases, of whose values at most one in 18,000 moved, by one code).
"""

import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.render import Frame, compile_plan, render
from lenskeep.files.assets import in_memory
from lenskeep.files.recipes import recipe_from_json
from tests.core.parts import found
from tools.made_up import frame_of, scene

HERE = Path(__file__).parent
KEPT = HERE / "kept.json"
RECIPES = HERE / "recipes-1.json"
CONTENT = "5" * 64
BLOCKS = (12, 8)
OVERRIDE = {"strength": 0.7, "steps": {"subject": {"strength": 1.4}, "sky": {"enabled": False}}}


@dataclass(frozen=True)
class Case:
    """One recipe (format 1, as a file holds it) at a strength with a frame's own changes, on screen or in full."""

    name: str
    recipe: dict[str, Any]
    strength: float = 1.0
    override: dict[str, Any] | None = None
    full: bool = False


@lru_cache(maxsize=1)
def kept_recipes() -> dict[str, dict[str, Any]]:
    return dict(json.loads(RECIPES.read_text("utf-8")))


def cases() -> Iterator[Case]:
    """Every recipe as it is; some at other strengths, with changes, and larger than their proxy."""
    for name, recipe in kept_recipes().items():
        yield Case(name, recipe)
    for name in (
        "look",
        "every part",
        "Evening glow",
        "Fur detail",
        "blend luminosity",
        "kind sharpen",
        "kind overlay",
    ):
        yield Case(f"{name}, at 150 %", kept_recipes()[name], 1.5)
        yield Case(f"{name}, in full", kept_recipes()[name], full=True)
    yield Case("look, changed on the frame", kept_recipes()["look"], 1.2, OVERRIDE)


def linear_scene(height: int, width: int) -> np.ndarray:
    """A made-up frame in linear light with a patch over white, as raw files have it."""
    out = (scene(height, width, seed=7).astype(np.float32) / np.float32(255.0)) ** np.float32(2.2)
    out[: height // 5, : width // 5] *= np.float32(1.7)
    return np.ascontiguousarray(out, np.float32)


@lru_cache(maxsize=1)
def full_picture() -> np.ndarray:
    return linear_scene(480, 720)


def a_frame() -> Frame:
    small = np.asarray(cv2.resize(full_picture(), (360, 240), interpolation=cv2.INTER_AREA), np.float32)
    frame = frame_of(small)
    more = found(240, 360)
    return Frame(small, type(more)(small, more.masks, more.facts, more.pieces, "made-up"), 480, 720, frame.letters)


def rendered(case: Case) -> np.ndarray:
    """The case's picture, (h, w, 3) uint8, by the way every picture goes."""
    file = recipe_from_json(json.dumps(case.recipe), case.name)
    override = FrameOverride.model_validate(case.override) if case.override else None
    frame = a_frame()
    frame.found.assets = in_memory(file.assets)
    program = compile_plan(make_plan(file.recipe, case.strength, override), frame)
    rows = full_picture() if case.full else frame.proxy
    return render(program, lambda a, b: rows[a:b].copy(), *rows.shape[:2])


def summary(pixels: np.ndarray) -> dict[str, Any]:
    """The pixels' hash, and means of blocks for processors that round in other ways."""
    means = cv2.resize(pixels.astype(np.float32), BLOCKS, interpolation=cv2.INTER_AREA)
    return {
        "sha256": hashlib.sha256(pixels.tobytes()).hexdigest(),
        "means": [round(float(v), 3) for v in means.ravel()],
    }


def probe() -> str:
    """A hash of how this processor rounds: floating-point work of the kinds that rendering does."""
    x = np.linspace(0.001, 3.0, 4096, dtype=np.float32).reshape(64, 64)
    y = np.cbrt(x) * np.log2(x + 1) + np.exp2(x)
    z = cv2.GaussianBlur(y, (0, 0), 1.7) + cv2.boxFilter(y, cv2.CV_32F, (7, 7)) @ x
    from lenskeep.core.engine.kernel.rowmath import cbrt_row, exp2_row, log2_row

    row, out = np.ascontiguousarray(np.abs(z).ravel()), np.empty(4096, np.float32)
    parts = [z.tobytes()]
    log2_row(row, out, 4096)
    parts.append(out.tobytes())
    out[:] = row
    exp2_row(out, 4096)
    parts.append(out.tobytes())
    cbrt_row(row, out, 4096)
    parts.append(out.tobytes())
    return hashlib.sha256(b"".join(parts)).hexdigest()
