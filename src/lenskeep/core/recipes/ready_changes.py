"""Steps ready to hand: brushes, a neutral that was clicked, a balance that is measured on each frame."""

from typing import Any, ClassVar, Literal

from pydantic import Field

from lenskeep.core.ids import OwnId
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.change import Change, OnAdjustment
from lenskeep.core.recipes.models import Recipe, Step

PAINTED_EV = 0.7
"""What a brush ready to hand changes where it is laid on fully."""
NEUTRAL, BALANCED = "Neutral", "Balance"
"""What their steps are called, and by what they are known again."""


class PaintStep(Change):
    """A step that is painted by hand from its first stroke on: lighter or darker where the brush goes."""

    op: Literal["paint-step"] = "paint-step"
    words: ClassVar[str] = "a brush of its own"
    fresh: ClassVar[str] = "s"
    id: OwnId = ""
    way: Literal["lighter", "darker"]

    def on(self, recipe: Recipe) -> Recipe:
        ev = PAINTED_EV if self.way == "lighter" else -PAINTED_EV
        step = {
            "id": self.id,
            "name": f"Painted {self.way}",
            "region": {"parts": [{"kind": "brush"}]},
            "adjustments": [{"kind": "exposure", "ev": ev}],
        }
        return edit.changed(recipe, steps=[*recipe.steps, edit.checked(Step, step)])


class NeutralStep(Change):
    """Warmth and tint that make a colour neutral, in a step before all others; a later click changes that step."""

    op: Literal["neutral-step"] = "neutral-step"
    words: ClassVar[str] = "a click on something neutral"
    fresh: ClassVar[str] = "s"
    id: OwnId = ""
    mired: float
    duv: float

    def on(self, recipe: Recipe) -> Recipe:
        adjustments = [
            {"kind": "warmth", "mired": round(self.mired, 2)},
            {"kind": "tint", "duv": round(self.duv, 2)},
        ]
        own = next((s for s in recipe.steps if s.name == NEUTRAL and _kinds(s) == ["warmth", "tint"]), None)
        if own is not None:
            whole = edit.checked(Step, {"id": own.id, "adjustments": adjustments}).adjustments
            return edit.change_step(recipe, own.id, adjustments=whole, enabled=True)
        return _first(recipe, {"id": self.id, "name": NEUTRAL, "adjustments": adjustments})


class BalanceStep(Change):
    """A balance of the whole frame, measured on each; one is enough."""

    op: Literal["balance-step"] = "balance-step"
    words: ClassVar[str] = "balancing by measure"
    fresh: ClassVar[str] = "s"
    id: OwnId = ""

    def on(self, recipe: Recipe) -> Recipe:
        if any(s.name == BALANCED and _kinds(s) == ["balance"] for s in recipe.steps):
            return recipe
        return _first(recipe, {"id": self.id, "name": BALANCED, "adjustments": [{"kind": "balance", "balance": 100}]})


class HoldBalance(OnAdjustment):
    """The needs that were measured on one frame: it stays as it is, and others are brought to it."""

    op: Literal["hold-to"] = "hold-to"
    words: ClassVar[str] = "holding the balance to a frame"
    ev: float = Field(ge=-14, le=14)
    mired: float
    duv: float

    def on(self, recipe: Recipe) -> Recipe:
        values = {
            "to": "a frame it is held to",
            "held_ev": round(min(max(self.ev, -6.0), 6.0), 3),
            "held_mired": round(self.mired, 2),
            "held_duv": round(self.duv, 2),
        }

        def change(own: Any) -> Any:
            if own.kind != "balance":
                raise edit.EditProblem("Only a balance can be held to a frame.")
            return edit.changed(own, **values)

        return edit.change_adjustment(recipe, self.step, self.adjustment, change)


def _kinds(step: Step) -> list[str]:
    return [a.kind for a in step.adjustments]


def _first(recipe: Recipe, step: dict[str, Any]) -> Recipe:
    return edit.changed(recipe, steps=[edit.checked(Step, step), *recipe.steps])
