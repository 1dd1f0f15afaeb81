"""What every part of a region is, and what it may look at to draw its alpha."""

from abc import ABC, abstractmethod
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.facts import Facts
from lenskeep.core.types import Alpha, Float

Combine = Literal["add", "take away", "only within"]


@dataclass
class Found:
    """What was found on a frame, at proxy size: masks (h, w) 0…1 and facts. ``missing`` collects lost anchors."""

    subject: Alpha
    sky: Alpha
    facts: Facts
    missing: set[str] = field(default_factory=set)

    @property
    def shape(self) -> tuple[int, int]:
        return self.subject.shape[0], self.subject.shape[1]


def position(label: str, default: float, low: float = -1.0, high: float = 2.0) -> Any:
    """A coordinate or length of a drawn part, in units of its anchor."""
    return Field(default=default, ge=low, le=high, title=label)


class Part(BaseModel, ABC):
    """Base of all parts. Subclasses set ``kind`` (a Literal with a default), ``label`` and ``help``."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    label: ClassVar[str]
    help: ClassVar[str]
    combine: Combine = Field(default="add", title="Combined by")
    invert: bool = Field(default=False, title="Inverted")

    @abstractmethod
    def alpha(self, found: Found) -> Alpha:
        """The part's alpha at proxy size, before ``invert``."""

    def words(self) -> str:
        """The part in the region's sentence."""
        return self.label.lower()

    @classmethod
    def numbers(cls) -> list[tuple[str, str, float, float]]:
        """(name, label, low, high) of the numbers one can set."""
        out = []
        for name, info in cls.model_fields.items():
            bounds = {type(m).__name__: m for m in info.metadata}
            if "Ge" in bounds and "Le" in bounds:
                out.append((name, info.title or name, float(bounds["Ge"].ge), float(bounds["Le"].le)))
        return out


def ease(x: Float) -> Alpha:
    """Smooth step 0…1."""
    x = np.clip(x, 0.0, 1.0)
    return np.asarray(x * x * (3.0 - 2.0 * x), np.float32)
