"""What lies under a point of a frame on the Bench: a piece that a click would take, or a colour."""

from typing import Any, Literal, TypeAlias

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from lenskeep.core.facts import pixel_at
from lenskeep.core.ids import Identifier
from lenskeep.core.measure.needs import BURNT, LIT, neutralising
from lenskeep.core.recipes.change import Change
from lenskeep.core.recipes.changes import CHANGE, UNKNOWN, AddStepOf
from lenskeep.core.recipes.edit import EditProblem, checked_by
from lenskeep.core.recipes.ready_changes import NeutralStep
from lenskeep.core.recipes.region_changes import AddParts, AddPick, AddSample, KeepOnFrame
from lenskeep.core.regions import Region
from lenskeep.core.regions.contours import contour_paths
from lenskeep.core.regions.kinds.picked import Pick
from lenskeep.core.regions.pieces import piece_alpha, piece_at
from lenskeep.studio.bench.stage import KEY_SIDE, Stage
from lenskeep.studio.bench.under import parts_of

COLOUR_REACH = 0.004
"""A sample is the median of the colours within this fraction of the long side."""


def outline_at(stage: Stage, frame_id: int, x: float, y: float) -> dict[str, Any]:
    """{"kind", "path"} of the piece that a click at (x, y), 0…1, would take; both empty where there is none."""
    with stage.at_work(frame_id, KEY_SIDE) as staged:
        found = staged.frame.found
        piece = piece_at(found, x, y)
        if piece is None:
            return {"kind": "", "path": "", "label": 0}
        return {"kind": piece.kind, "path": contour_paths(piece_alpha(found, piece))["50"], "label": piece.label}


def pick_at(stage: Stage, frame_id: int, x: float, y: float, away: bool) -> Pick:
    """A click as a picked object keeps it. Raises EditProblem where nothing can be told apart."""
    found = stage.ready(frame_id, KEY_SIDE).frame.found
    piece = piece_at(found, x, y)
    if piece is None:
        raise EditProblem("Nothing was told apart here. Click another place, or use a brush.")
    return Pick(frame=found.key, x=x, y=y, away=away, piece=piece)


def light_at(stage: Stage, frame_id: int, x: float, y: float) -> tuple[float, float, float]:
    """The untouched picture's colour around (x, y), 0…1, in linear Rec. 2020: the mean of what a fingertip covers."""
    found = stage.ready(frame_id, KEY_SIDE).frame.found
    reach = max(1, round(COLOUR_REACH * found.long_side))
    cy, cx = pixel_at(x, y, found.shape)
    near = found.picture[max(0, cy - reach) : cy + reach + 1, max(0, cx - reach) : cx + reach + 1].reshape(-1, 3)
    red, green, blue = (float(v) for v in near.mean(axis=0))
    return red, green, blue


def colour_at(stage: Stage, frame_id: int, x: float, y: float) -> tuple[float, float, float]:
    """The untouched picture's colour around (x, y), 0…1, in OKLab."""
    found = stage.ready(frame_id, KEY_SIDE).frame.found
    reach = max(1, round(COLOUR_REACH * found.long_side))
    cy, cx = pixel_at(x, y, found.shape)
    near = found.lab[max(0, cy - reach) : cy + reach + 1, max(0, cx - reach) : cx + reach + 1].reshape(-1, 3)
    middle = np.median(near, axis=0)
    return round(float(middle[0]), 4), round(float(middle[1]), 4), round(float(middle[2]), 4)


class Pointed(BaseModel):
    """A change that points at a place, 0…1, of a frame; ``meant`` says it in the recipe's terms."""

    model_config = ConfigDict(extra="ignore", frozen=True, allow_inf_nan=False)
    op: Literal["add-pick", "add-sample"]
    step: Identifier
    part: Identifier
    frame: int = Field(default=0, ge=0, le=2**63 - 1)
    x: float = Field(default=0.0, ge=0, le=1)
    y: float = Field(default=0.0, ge=0, le=1)
    away: bool = False
    alone: bool = False

    def meant(self, stage: Stage) -> Change:
        """Raises EditProblem, Gone."""
        if self.op == "add-sample":
            colour = colour_at(stage, self.frame, self.x, self.y)
            return AddSample(step=self.step, part=self.part, colour=colour)
        pick = pick_at(stage, self.frame, self.x, self.y, self.away)
        return AddPick(step=self.step, part=self.part, pick=pick, alone=self.alone)


class Place(BaseModel):
    """A point, 0…1, that means one thing or its whole kind, and whether that is taken away."""

    model_config = ConfigDict(extra="ignore", frozen=True, allow_inf_nan=False)
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    one: bool
    away: bool = False


class Gathered(BaseModel):
    """Places of a frame that were pointed at one after another: a new step's region, or parts for a step."""

    model_config = ConfigDict(extra="ignore", frozen=True, allow_inf_nan=False)
    op: Literal["gather"]
    frame: int = Field(ge=1, le=2**63 - 1)
    places: list[Place] = Field(min_length=1, max_length=24)
    step: Identifier | None = None
    what: str = Field(default="", max_length=40)

    def meant(self, stage: Stage) -> Change:
        """Raises EditProblem, Gone."""
        region = Region(parts=parts_of(stage, self.frame, [(p.x, p.y, p.one, p.away) for p in self.places]))  # type: ignore[arg-type]
        return AddParts(step=self.step, region=region) if self.step else AddStepOf(region=region, what=self.what)


class NeutralAt(BaseModel):
    """A place of a frame, 0…1, that should be neutral there."""

    model_config = ConfigDict(extra="ignore", frozen=True, allow_inf_nan=False)
    op: Literal["neutral"]
    frame: int = Field(ge=1, le=2**63 - 1)
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)

    def meant(self, stage: Stage) -> Change:
        """Raises EditProblem where there is no colour to tell a cast by."""
        colour = light_at(stage, self.frame, self.x, self.y)
        if max(colour) > BURNT:
            raise EditProblem("It is burnt out here, so its colour is lost. Click something grey that is darker.")
        if max(colour) < LIT:
            raise EditProblem("It is too dark here to tell its colour. Click something grey that is brighter.")
        mired, duv = neutralising(colour)
        return NeutralStep(mired=mired, duv=duv)


class OnlyHere(BaseModel):
    """A brush that is to work on one frame alone."""

    model_config = ConfigDict(extra="ignore", frozen=True)
    op: Literal["only-here"]
    step: Identifier
    part: Identifier
    frame: int = Field(ge=1, le=2**63 - 1)

    def meant(self, stage: Stage) -> Change:
        """Raises Gone."""
        key = stage.ready(self.frame, KEY_SIDE).frame.found.key
        return KeepOnFrame(step=self.step, part=self.part, only_on=key)


POINTED = ("add-pick", "add-sample", "gather", "neutral", "only-here")
_Places: TypeAlias = Pointed | Gathered | NeutralAt | OnlyHere
_POINTED: TypeAdapter[_Places] = TypeAdapter(_Places)


def change_of(stage: Stage, data: dict[str, Any]) -> Change:
    """What a page asks for, from JSON or a form, as a change. Raises EditProblem."""
    if data.get("op") not in POINTED:
        found: Change = checked_by(CHANGE, data, UNKNOWN)
        return found
    pointed: _Places = checked_by(_POINTED, data, UNKNOWN)
    return pointed.meant(stage)
