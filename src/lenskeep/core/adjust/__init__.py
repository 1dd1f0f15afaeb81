"""Adjustments, one file each. To add one: write its file and put it into a group here; nothing else changes."""

from typing import Annotated, get_args

from pydantic import Field

from lenskeep.core.adjust.base import Adjustment, Below, Control, Extra
from lenskeep.core.adjust.colour.channel_mix import ChannelMix
from lenskeep.core.adjust.colour.colour_bands import ColourBands
from lenskeep.core.adjust.colour.colour_table import ColourTable
from lenskeep.core.adjust.colour.colour_wash import ColourWash
from lenskeep.core.adjust.colour.fringes import Fringes
from lenskeep.core.adjust.colour.hue_turn import HueTurn
from lenskeep.core.adjust.colour.monochrome import Monochrome
from lenskeep.core.adjust.colour.muted_colours import MutedColours
from lenskeep.core.adjust.colour.saturation import Saturation
from lenskeep.core.adjust.colour.split_toning import SplitToning
from lenskeep.core.adjust.colour.tint import Tint
from lenskeep.core.adjust.colour.warmth import Warmth
from lenskeep.core.adjust.detail.broad_detail import BroadDetail
from lenskeep.core.adjust.detail.denoise import Denoise
from lenskeep.core.adjust.detail.fine_detail import FineDetail
from lenskeep.core.adjust.detail.glow import Glow
from lenskeep.core.adjust.detail.haze import Haze
from lenskeep.core.adjust.detail.medium_detail import MediumDetail
from lenskeep.core.adjust.detail.sharpen import Sharpen
from lenskeep.core.adjust.detail.soften import Soften
from lenskeep.core.adjust.finish.fill import Fill
from lenskeep.core.adjust.finish.grain import Grain
from lenskeep.core.adjust.finish.overlay import Overlay
from lenskeep.core.adjust.finish.painterly import Painterly
from lenskeep.core.adjust.finish.posterise import Posterise
from lenskeep.core.adjust.finish.surface import Surface
from lenskeep.core.adjust.finish.text_mark import TextMark
from lenskeep.core.adjust.finish.vignette import Vignette
from lenskeep.core.adjust.light.balance import Balance
from lenskeep.core.adjust.light.black_point import BlackPoint
from lenskeep.core.adjust.light.contrast import Contrast
from lenskeep.core.adjust.light.curve import Curve
from lenskeep.core.adjust.light.exposure import Exposure
from lenskeep.core.adjust.light.highlights import Highlights
from lenskeep.core.adjust.light.shadows import Shadows
from lenskeep.core.adjust.light.white_point import WhitePoint
from lenskeep.core.adjust.light.zone_contrast import ZoneContrast

__all__ = ["KINDS", "Adjustment", "AnyAdjustment", "Below", "Control", "Extra", "adjustment_class"]

# in the order the interface lists them, by group
_Light = Exposure | Balance | Contrast | Highlights | Shadows | WhitePoint | BlackPoint | Curve | ZoneContrast
_Colour = Warmth | Tint | Saturation | MutedColours | HueTurn | ColourBands | ChannelMix | SplitToning
_Toned = ColourWash | Monochrome | ColourTable | Fringes
_Detail = FineDetail | MediumDetail | BroadDetail | Haze | Sharpen | Denoise | Soften | Glow
_Finish = Vignette | Fill | Surface | Grain | Overlay | Painterly | Posterise | TextMark
_All = _Light | _Colour | _Toned | _Detail | _Finish
AnyAdjustment = Annotated[_All, Field(discriminator="kind")]
KINDS: dict[str, type[Adjustment]] = {cls.model_fields["kind"].default: cls for cls in get_args(_All)}
"""Every adjustment by its kind, in the order the interface lists them."""


def adjustment_class(kind: str) -> type[Adjustment]:
    """The class of a kind. Raises KeyError for an unknown one."""
    return KINDS[kind]
