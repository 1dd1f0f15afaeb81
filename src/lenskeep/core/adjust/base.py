"""What every adjustment is: a model that describes itself to the interface, and the operations it compiles to."""

from abc import ABC, abstractmethod
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar, Self

from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.engine.ops import Op
from lenskeep.core.engine.planes import log_luminance
from lenskeep.core.facts import Facts
from lenskeep.core.types import Float, LinearRGB


@dataclass
class Below:
    """The picture below a step, on the frame's proxy, and what was found on the frame."""

    picture: LinearRGB
    facts: Facts
    aspect: float
    """Width over height of the frame."""

    @cached_property
    def lg(self) -> Float:
        """log2 luminance of the picture."""
        return log_luminance(self.picture)


def amount(
    low: float, high: float, *, label: str, unit: str = "", step: float = 1.0, neutral: float = 0.0, scales: bool = True
) -> Any:
    """A number of an adjustment: range, unit, step. ``scales`` says whether strength over 1 grows it."""
    return Field(
        default=neutral,
        ge=low,
        le=high,
        title=label,
        json_schema_extra={"unit": unit, "step": step, "neutral": neutral, "scales": scales},
    )


@dataclass(frozen=True)
class Control:
    """One number of an adjustment as the interface shows it."""

    name: str
    label: str
    unit: str
    low: float
    high: float
    step: float
    neutral: float
    scales: bool


class Adjustment(BaseModel, ABC):
    """Base of all adjustments. Subclasses set ``kind`` (a Literal with a default) and the class variables below."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    label: ClassVar[str]
    group: ClassVar[str]
    help: ClassVar[str]
    needs_picture: ClassVar[bool] = False
    """Whether ``operations`` looks at the picture below (a wide filter)."""

    @abstractmethod
    def operations(self, below: Below) -> list[Op]:
        """The operations that turn the picture below into the adjusted one. Not called when neutral."""

    @classmethod
    def controls(cls) -> list[Control]:
        """The numbers of this adjustment in the order they are shown."""
        out = []
        for name, info in cls.model_fields.items():
            extra = info.json_schema_extra
            if not isinstance(extra, dict) or "neutral" not in extra:
                continue
            bounds = {type(m).__name__: m for m in info.metadata}
            out.append(
                Control(
                    name=name,
                    label=info.title or name,
                    unit=str(extra["unit"]),
                    low=float(bounds["Ge"].ge),
                    high=float(bounds["Le"].le),
                    step=float(str(extra["step"])),
                    neutral=float(str(extra["neutral"])),
                    scales=bool(extra["scales"]),
                )
            )
        return out

    def words(self) -> str:
        """The adjustment and its first number, such as "exposure +0.3 EV"."""
        first = self.controls()[0]
        value = f"{getattr(self, first.name):+g}".replace("-", "−")
        return f"{self.label.lower()} {value}{'' if first.unit == '' else ' ' + first.unit}"

    def is_neutral(self) -> bool:
        """Whether it changes no pixel: every number that scales stands at its neutral value."""
        return all(getattr(self, c.name) == c.neutral for c in self.controls() if c.scales)

    def scaled(self, factor: float) -> Self:
        """The same with its amounts multiplied by ``factor`` and held to their ranges."""
        changes = {}
        for c in self.controls():
            if c.scales:
                value = c.neutral + (getattr(self, c.name) - c.neutral) * factor
                changes[c.name] = min(max(value, c.low), c.high)
        return self.model_copy(update=changes)
