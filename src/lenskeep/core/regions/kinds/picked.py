"""Picked object: what lies under a click; on other frames the thing most like it, and without one, nothing."""

from typing import Any, ClassVar, Literal, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.facts import Piece
from lenskeep.core.regions.base import FOUND, Found, Part
from lenskeep.core.regions.pieces import most_like, piece_alpha, piece_at
from lenskeep.core.types import Alpha


class Pick(BaseModel):
    """A click: on which frame, where (0…1), what lay there, and whether it adds or takes away."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    frame: str = Field(default="", max_length=80)
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    away: bool = False
    piece: Piece


class Picked(Part):
    label: ClassVar[str] = "Picked object"
    group: ClassVar[str] = FOUND
    help: ClassVar[str] = "Click an object on the key frame. Other frames take the one most like it."
    kind: Literal["picked"] = "picked"
    editor: ClassVar[str] = "pick"
    later: ClassVar[tuple[str, ...]] = ("else_subject",)
    picks: list[Pick] = Field(default=[], max_length=40)
    else_subject: bool = Field(default=True, title="Else take the subject")
    """What frames without its like do; picks that are made anew are lost there instead."""

    @classmethod
    def fresh(cls, **values: Any) -> Self:
        return cls.model_validate({"else_subject": False} | values)

    def _piece(self, pick: Pick, found: Found) -> Piece | None:
        if found.key and pick.frame == found.key:
            here = piece_at(found, pick.x, pick.y)
            if here is not None:
                return here
        return most_like(pick.piece, found.facts.pieces)

    def _falls_back(self, pick: Pick) -> bool:
        return self.else_subject and pick.piece.is_object and not pick.away

    def alpha(self, found: Found) -> Alpha:
        total = np.zeros(found.shape, np.float32)
        for pick in self.picks:
            piece = self._piece(pick, found)
            if piece is None:
                own = found.subject if self._falls_back(pick) else np.zeros_like(total)
            else:
                own = piece_alpha(found, piece)
            total = total * (1.0 - own) if pick.away else np.maximum(total, own)
        return np.asarray(total, np.float32)

    def lost(self, found: Found) -> str | None:
        adding = [p for p in self.picks if not p.away]
        subject = found.facts.subject_box is not None
        got = any(self._piece(p, found) or (subject and self._falls_back(p)) for p in adding)
        return None if got or not adding else "picked object"

    def uses(self) -> frozenset[str]:
        return frozenset({"subject"} if any(pick.piece.is_object for pick in self.picks) else ())

    def words(self) -> str:
        return "picked object" if sum(not p.away for p in self.picks) < 2 else "picked objects"
