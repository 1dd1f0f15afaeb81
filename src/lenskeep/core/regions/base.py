"""What every part of a region is, and what it may look at to draw its alpha."""

from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, ClassVar, Literal, Self, get_args

import numpy as np
from pydantic import ConfigDict, Field

from lenskeep.core.assets import NO_ASSETS, Assets
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.facts import Facts
from lenskeep.core.ids import HasId
from lenskeep.core.types import Alpha, AlphaAtSize, LinearRGB, Mask8, OKLab

Combine = Literal["add", "take away", "only within"]


@dataclass
class Found:
    """A frame as parts see it, at proxy size (h, w): its untouched picture, masks by name, facts.

    Masks are 0…1 and may be read when they are first asked for; one that is not there counts as empty. ``pieces`` is
    the map of piece numbers, 0 where nothing was told apart. ``key`` names the frame, for what belongs to it alone.
    ``missing`` collects what steps asked for in vain, in words.
    """

    picture: LinearRGB
    masks: Mapping[str, Alpha]
    facts: Facts
    pieces: Mask8 | None = None
    key: str = ""
    missing: set[str] = field(default_factory=set)
    assets: Assets = NO_ASSETS

    @property
    def shape(self) -> tuple[int, int]:
        return self.picture.shape[0], self.picture.shape[1]

    @property
    def long_side(self) -> int:
        return max(self.shape)

    def mask(self, name: str) -> Alpha:
        """A mask by name, all nothing where it was not found."""
        found = self.masks.get(name)
        return np.zeros(self.shape, np.float32) if found is None else found

    @property
    def subject(self) -> Alpha:
        return self.mask("subject")

    @property
    def sky(self) -> Alpha:
        return self.mask("sky")

    @cached_property
    def lab(self) -> OKLab:
        """The untouched picture in OKLab, (h, w, 3)."""
        return to_oklab(self.picture)


def position(label: str, default: float, low: float = -1.0, high: float = 2.0) -> Any:
    """A coordinate or length of a drawn part, in units of its anchor."""
    return measure(label, default, low, high, step=0.01)


def measure(
    label: str, default: float, low: float, high: float, step: float, unit: str = "", shown: float = 1.0
) -> Any:
    """A number of a part. It is shown multiplied by ``shown``, in steps of ``step`` as shown."""
    extra: dict[str, Any] = {"step": step, "unit": unit, "shown": shown}
    return Field(default=default, ge=low, le=high, title=label, json_schema_extra=extra)


@dataclass(frozen=True)
class PartField:
    """One thing that can be set on a part: a number in a range, a choice of options, or a tick."""

    name: str
    label: str
    form: Literal["number", "choice", "tick"]
    low: float = 0.0
    high: float = 1.0
    step: float = 0.01
    unit: str = ""
    shown: float = 1.0
    default: Any = None
    options: tuple[str, ...] = ()


FOUND = "Found on each frame"
"""The group of parts that a frame's own masks make up."""


class Part(HasId, ABC):
    """Base of all parts. Subclasses set ``kind`` (a Literal with a default), ``label``, ``group`` and ``help``."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    label: ClassVar[str]
    group: ClassVar[str]
    help: ClassVar[str]
    editor: ClassVar[str] = ""
    """What the picture offers while the part is edited: handles of a "ramp", "band" or "pool", strokes of a "brush",
    a click to "pick" an object or to take a "sample" of colour, or an "image" to bring in."""
    asset_fields: ClassVar[tuple[str, ...]] = ()
    """Fields that hold the key of an asset."""
    drawn_as: ClassVar[int] = 0
    """A number that changes when the same part comes out otherwise, so that pictures with it are made anew, and no
    others."""
    drawn: ClassVar[bool] = False
    """Whether it is drawn by hand, and so has a number in the region's sentence."""
    combine: Combine = Field(default="add", title="Combined by")
    invert: bool = Field(default=False, title="Inverted")

    @classmethod
    def fresh(cls, **values: Any) -> Self:
        """A part as it is added by hand; old recipes may have been made with other defaults."""
        return cls.model_validate(values)

    @abstractmethod
    def alpha(self, found: Found) -> Alpha:
        """The part's alpha at proxy size, before ``invert``."""

    def at_size(self, found: Found) -> AlphaAtSize | None:
        """What draws the part at the size rendered, before ``invert``; None where the proxy is fine enough."""
        return None

    def lost(self, found: Found) -> str | None:
        """What this part needs and this frame lacks, such as "sky"; None when all is there."""
        return None

    def uses(self) -> frozenset[str]:
        """The found masks that it depends on, by name."""
        return frozenset()

    def asset_keys(self) -> tuple[str, ...]:
        return tuple(getattr(self, name) for name in self.asset_fields)

    def words(self) -> str:
        """The part in the region's sentence."""
        return self.label.lower()

    @classmethod
    def fields(cls) -> list[PartField]:
        """What one can set, in the order it is shown; not how it is combined."""
        return [made for name, info in cls.model_fields.items() if (made := _field(name, info)) is not None]


def _field(name: str, info: Any) -> PartField | None:
    if name in ("id", "kind", "combine", "invert") or info.title is None:
        return None
    if info.annotation is bool:
        return PartField(name, info.title, "tick", default=info.default)
    if get_args(info.annotation):
        return PartField(name, info.title, "choice", options=get_args(info.annotation), default=info.default)
    bounds = {type(m).__name__: m for m in info.metadata}
    extra = info.json_schema_extra or {}
    low, high = float(bounds["Ge"].ge), float(bounds["Le"].le)
    return PartField(
        name, info.title, "number", low, high, extra["step"], extra["unit"], extra["shown"], default=info.default
    )
