"""Adjustments, one file each. To add one: write its file and put it into a group here; nothing else changes."""

from typing import Annotated, get_args

from pydantic import Field

from lenskeep.core.adjust.base import Adjustment, Below, Control, Extra
from lenskeep.core.adjust.black_point import BlackPoint
from lenskeep.core.adjust.broad_detail import BroadDetail
from lenskeep.core.adjust.channel_mix import ChannelMix
from lenskeep.core.adjust.colour_bands import ColourBands
from lenskeep.core.adjust.colour_table import ColourTable
from lenskeep.core.adjust.colour_wash import ColourWash
from lenskeep.core.adjust.contrast import Contrast
from lenskeep.core.adjust.curve import Curve
from lenskeep.core.adjust.denoise import Denoise
from lenskeep.core.adjust.exposure import Exposure
from lenskeep.core.adjust.fill import Fill
from lenskeep.core.adjust.fine_detail import FineDetail
from lenskeep.core.adjust.glow import Glow
from lenskeep.core.adjust.haze import Haze
from lenskeep.core.adjust.highlights import Highlights
from lenskeep.core.adjust.hue_turn import HueTurn
from lenskeep.core.adjust.medium_detail import MediumDetail
from lenskeep.core.adjust.monochrome import Monochrome
from lenskeep.core.adjust.muted_colours import MutedColours
from lenskeep.core.adjust.overlay import Overlay
from lenskeep.core.adjust.painterly import Painterly
from lenskeep.core.adjust.posterise import Posterise
from lenskeep.core.adjust.saturation import Saturation
from lenskeep.core.adjust.shadows import Shadows
from lenskeep.core.adjust.sharpen import Sharpen
from lenskeep.core.adjust.soften import Soften
from lenskeep.core.adjust.split_toning import SplitToning
from lenskeep.core.adjust.surface import Surface
from lenskeep.core.adjust.text_mark import TextMark
from lenskeep.core.adjust.tint import Tint
from lenskeep.core.adjust.vignette import Vignette
from lenskeep.core.adjust.warmth import Warmth
from lenskeep.core.adjust.white_point import WhitePoint
from lenskeep.core.adjust.zone_contrast import ZoneContrast

__all__ = ["KINDS", "Adjustment", "AnyAdjustment", "Below", "Control", "Extra", "adjustment_class"]

# in the order the interface lists them, by group
_Light = Exposure | Contrast | Highlights | Shadows | WhitePoint | BlackPoint | Curve | ZoneContrast
_Colour = Warmth | Tint | Saturation | MutedColours | HueTurn | ColourBands | ChannelMix | SplitToning
_Toned = ColourWash | Monochrome | ColourTable
_Detail = FineDetail | MediumDetail | BroadDetail | Haze | Sharpen | Denoise | Soften | Glow
_Finish = Vignette | Fill | Surface | Overlay | Painterly | Posterise | TextMark
_All = _Light | _Colour | _Toned | _Detail | _Finish
AnyAdjustment = Annotated[_All, Field(discriminator="kind")]
KINDS: dict[str, type[Adjustment]] = {cls.model_fields["kind"].default: cls for cls in get_args(_All)}
"""Every adjustment by its kind, in the order the interface lists them."""


def adjustment_class(kind: str) -> type[Adjustment]:
    """The class of a kind. Raises KeyError for an unknown one."""
    return KINDS[kind]
