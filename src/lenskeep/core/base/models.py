"""A frame's base as numbers."""

from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.base.curve import USUAL, Curve
from lenskeep.core.recipes.keys import content_key

DRAWN_AS = 1
"""Changes when the same base comes out otherwise, so that pictures with one are made anew, and no others."""


def _amount(most: float, label: str, unit: str, step: float) -> float:
    return Field(default=0.0, ge=-most, le=most, title=label, json_schema_extra={"unit": unit, "step": step})  # type: ignore[no-any-return]


class FrameBase(BaseModel):
    """Exposure in EV, warmth in mired (positive is warmer), tint in thousandths of Duv (positive is magenta),
    highlights and shadows in per cent of what the adjustments of these names do; 0 changes nothing. ``curve`` is the
    camera's, which the first three go under where the picture was not developed from a raw file.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    ev: float = _amount(4.0, "Exposure", "EV", 0.05)
    mired: float = _amount(100.0, "Warmth", "mired", 1.0)
    duv: float = _amount(30.0, "Tint", "mDuv", 0.5)
    highlights: float = _amount(100.0, "Highlights", "%", 1.0)
    shadows: float = _amount(100.0, "Shadows", "%", 1.0)
    curve: Curve = USUAL

    @property
    def is_neutral(self) -> bool:
        return not any(getattr(self, name) for name in AMOUNTS)

    def amounts(self) -> dict[str, float]:
        return {name: getattr(self, name) for name in AMOUNTS}

    def key(self) -> str:
        """A hash of all that shows; "" where it changes nothing, so that such frames keep their keys."""
        return "" if self.is_neutral else content_key(DRAWN_AS, self)

    def words(self) -> str:
        """Such as "exposure +0.3 EV, warmth −4 mired"; "as it came" where it changes nothing."""
        own = [_said(name, value) for name in AMOUNTS if (value := getattr(self, name))]
        return ", ".join(own) or "as it came"

    def held(self) -> "FrameBase":
        """Rounded to what can be set by hand, and within the limits."""
        return FrameBase(curve=self.curve, **{name: held(name, getattr(self, name)) for name in AMOUNTS})


AMOUNTS = ("ev", "mired", "duv", "highlights", "shadows")
_PLACES = {"ev": 2, "mired": 0, "duv": 1, "highlights": 0, "shadows": 0}
_MOST = {"ev": 4.0, "mired": 100.0, "duv": 30.0, "highlights": 100.0, "shadows": 100.0}
AS_IT_CAME = FrameBase()


def held(name: str, value: float) -> float:
    """A value of a base, rounded and within its limits."""
    most = _MOST[name]
    return round(min(max(value, -most), most), _PLACES[name]) + 0.0


def _said(name: str, value: float) -> str:
    field = FrameBase.model_fields[name]
    unit = field.json_schema_extra["unit"] if isinstance(field.json_schema_extra, dict) else ""
    return f"{(field.title or name).lower()} {value:+.{_PLACES[name]}f} {unit}".replace("-", "−")
