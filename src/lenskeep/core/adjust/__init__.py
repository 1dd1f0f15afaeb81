"""Adjustments, one file each. To add one: write its file and put it into ``KINDS`` here; nothing else changes."""

from typing import Annotated

from pydantic import Field

from lenskeep.core.adjust.base import Adjustment, Below, Control
from lenskeep.core.adjust.contrast import Contrast
from lenskeep.core.adjust.exposure import Exposure
from lenskeep.core.adjust.haze import Haze
from lenskeep.core.adjust.highlights import Highlights
from lenskeep.core.adjust.medium_detail import MediumDetail
from lenskeep.core.adjust.saturation import Saturation
from lenskeep.core.adjust.shadows import Shadows
from lenskeep.core.adjust.tint import Tint
from lenskeep.core.adjust.vignette import Vignette
from lenskeep.core.adjust.warmth import Warmth

__all__ = ["KINDS", "Adjustment", "AnyAdjustment", "Below", "Control", "adjustment_class"]

AnyAdjustment = Annotated[
    Exposure | Contrast | Highlights | Shadows | Warmth | Tint | Saturation | MediumDetail | Haze | Vignette,
    Field(discriminator="kind"),
]
KINDS: dict[str, type[Adjustment]] = {
    cls.model_fields["kind"].default: cls
    for cls in (
        Exposure,
        Contrast,
        Highlights,
        Shadows,
        Warmth,
        Tint,
        Saturation,
        MediumDetail,
        Haze,
        Vignette,
    )
}
"""Every adjustment by its kind, in the order the interface lists them."""


def adjustment_class(kind: str) -> type[Adjustment]:
    """The class of a kind. Raises KeyError for an unknown one."""
    return KINDS[kind]
