"""What every adjustment is: a model that describes itself to the interface, and the operations it compiles to."""

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, ClassVar, Self, get_args

from pydantic import ConfigDict, Field

from lenskeep.core.assets import NO_ASSETS, Assets
from lenskeep.core.engine.ops import Op
from lenskeep.core.engine.planes import log_luminance
from lenskeep.core.facts import Facts
from lenskeep.core.ids import HasId
from lenskeep.core.types import Alpha, Float, LinearRGB

CHOICES = ("choice", "held")
Letters = Callable[[str, str, int], Alpha]
"""(text, face, height in pixels) -> its coverage (height, width) 0…1; drawn by whoever has fonts."""


@dataclass
class Below:
    """The picture below a step, on the frame's proxy, and what was found on the frame."""

    picture: LinearRGB
    facts: Facts
    aspect: float
    """Width over height of the frame."""
    region: Callable[[], Alpha]
    """Where the step works, at the proxy's size."""
    untouched: LinearRGB
    """The frame's proxy as it came in."""
    mask: Callable[[str], Alpha]
    """A found mask by name, empty where it was not found."""
    missed: Callable[[str], None]
    """Says in words what was asked for in vain."""
    letters: Letters | None = None
    assets: Assets = NO_ASSETS

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


def extra(default: Any, label: str, editor: str, **more: Any) -> Any:
    """Something else than a number; ``editor`` is choice, held (a choice, and a button that takes the key frame), tick,
    colour, curve, text, table or picture.
    """
    return Field(default=default, title=label, json_schema_extra={"editor": editor, **more})


Colour = Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")]
"""An sRGB colour as #rrggbb."""


@dataclass(frozen=True)
class Extra:
    """What is set otherwise than by a number, as the interface shows it."""

    name: str
    label: str
    editor: str
    options: tuple[str, ...]


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


class Adjustment(HasId, ABC):
    """Base of all adjustments. Subclasses set ``kind`` (a Literal with a default) and the class variables below."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    enabled: bool = True
    strength: float = Field(default=1.0, ge=0.0, le=2.0)
    """Multiplied into its amounts, within their ranges, along with the step's strength where that is over 1."""
    label: ClassVar[str]
    group: ClassVar[str]
    help: ClassVar[str]
    needs_picture: ClassVar[bool] = False
    """Whether ``operations`` looks at the picture below (a wide filter)."""
    per_pixel: ClassVar[bool] = True
    """Whether it depends on a pixel's colour alone, so that a colour table can hold it."""
    needs_region: ClassVar[bool] = False
    """Whether it looks at where the step works, too."""
    asset_fields: ClassVar[tuple[str, ...]] = ()
    """Fields that hold the key of an asset."""
    shown_at: ClassVar[dict[str, float]] = {}
    """What a file that is brought in sets where that is still 0, so that the file is seen."""
    leads: ClassVar[str] = ""
    """The number that says how much it does, which its line on the Bench moves; "" for the first that scales."""
    tabs: ClassVar[tuple[str, ...]] = ()
    """Endings of field names that the Bench shows on a tab each, where there are too many numbers for one list."""

    @abstractmethod
    def operations(self, below: Below) -> list[Op]:
        """The operations that turn the picture below into the adjusted one. Not called when neutral."""

    @classmethod
    def controls(cls) -> list[Control]:
        """The numbers of this adjustment in the order they are shown, the leading one first."""
        out: list[Control] = []
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
        lead = next((c for c in out if c.name == cls.leads or (not cls.leads and c.scales)), None)
        return out if lead is None else [lead, *(c for c in out if c is not lead)]

    @classmethod
    def extras(cls) -> list[Extra]:
        """What else can be set, in order."""
        out = []
        for name, info in cls.model_fields.items():
            more = info.json_schema_extra
            if isinstance(more, dict) and "editor" in more:
                options = tuple(str(o) for o in get_args(info.annotation)) if more["editor"] in CHOICES else ()
                out.append(Extra(name, info.title or name, str(more["editor"]), options))
        return out

    def uses(self) -> frozenset[str]:
        """The found masks that it depends on, by name, beside those of its step's region."""
        return frozenset()

    def looks_around(self) -> bool:
        """Whether, as it is set, it takes something from elsewhere on the frame, which no colour table can hold."""
        return False

    def asset_keys(self) -> tuple[str, ...]:
        return tuple(getattr(self, name) for name in self.asset_fields)

    def words(self) -> str:
        """The adjustment and the first number that is not neutral, such as "exposure +0.3 EV"; the leading one where it
        does nothing.
        """
        every = self.controls()
        moved = [c for c in every if getattr(self, c.name) != c.neutral and (c.scales or not self.is_neutral())]
        first = (moved or every)[0]
        value = f"{getattr(self, first.name):+g}".replace("-", "−")
        name = self.label.lower() if first.label == self.label else f"{self.label.lower()}, {first.label.lower()}"
        return f"{name} {value}{'' if first.unit == '' else ' ' + first.unit}"

    def unshown(self) -> set[str]:
        """What a plan's key leaves out: a plan holds adjustments that are on, with their strength in their amounts."""
        return super().unshown() | {"enabled", "strength"}

    def at_strength(self, more: float = 1.0) -> Self:
        """The same with its own strength, times ``more``, in its amounts."""
        factor = self.strength * more
        return self if factor == 1.0 else self.scaled(factor).model_copy(update={"strength": 1.0})

    def is_neutral(self) -> bool:
        """Whether it changes no pixel: every number that scales stands at its neutral value."""
        return all(getattr(self, c.name) == c.neutral for c in self.controls() if c.scales)

    def opposite(self) -> Self:
        """The same turned round: every amount that goes both ways from its neutral value is mirrored about it, and held
        to its range. One that goes only one way stays.
        """
        changes = {}
        for c in self.controls():
            if c.scales and c.low < c.neutral < c.high:
                changes[c.name] = min(max(2.0 * c.neutral - getattr(self, c.name), c.low), c.high)
        return self.model_copy(update=changes)

    def scaled(self, factor: float) -> Self:
        """The same with its amounts multiplied by ``factor`` and held to their ranges."""
        changes = {}
        for c in self.controls():
            if c.scales:
                value = c.neutral + (getattr(self, c.name) - c.neutral) * factor
                changes[c.name] = min(max(value, c.low), c.high)
        return self.model_copy(update=changes)
