"""An estimate of the curve that a camera laid over the light it measured, and the way back under it.

A camera's JPEG is light bent by a curve with a toe and a shoulder, so a gain on the file is not what a longer exposure
would have given: shadows would have grown more, and what nears white less. The curve is a rational one in a power of
light, as Naka & Rushton 1966 found of eyes and Reinhard & Devlin 2005 use for pictures. Where frames of a shoot tell
more, its two numbers are estimated from them (``core.even.camera``); else they are what cameras commonly do.
"""

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.core.engine.ops import LIGHT_TO, light_positions
from lenskeep.core.types import Float, LinearRGB


class Curve(BaseModel):
    """Of light, white being 1: its ``power``, and ``half``, in that power, where half of what can be is reached."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    power: float = Field(default=1.35, ge=0.5, le=3.0)
    half: float = Field(default=0.13, ge=0.001, le=10.0)


USUAL = Curve()
"""Middle grey lying some three and a third stops under white."""


def bent(light: Float, curve: Curve = USUAL) -> Float:
    """What a camera makes of light, linear, 1 being what it draws white; more is white as well."""
    powered = np.minimum(np.asarray(light, np.float64), 1.0) ** curve.power
    return np.asarray(powered * (1.0 + curve.half) / (powered + curve.half), np.float32)


def unbent(drawn: Float, curve: Curve = USUAL) -> Float:
    """The light that a camera draws like this; over white it goes on evenly."""
    y = np.asarray(drawn, np.float64)
    inside = np.minimum(y, 1.0)
    powered = inside * curve.half / (1.0 + curve.half - inside)
    steep = (1.0 + curve.half) / curve.half / curve.power
    return np.asarray(powered ** (1.0 / curve.power) + np.maximum(y - 1.0, 0.0) * steep, np.float32)


def light_under(picture: LinearRGB, curve: Curve = USUAL) -> LinearRGB:
    """The light of a picture, linear Rec. 2020 (h, w, 3), each of sRGB's channels by itself, as cameras bend them."""
    drawn = np.clip(picture @ REC2020_TO_SRGB.T.astype(np.float32), 0.0, 1.0)
    return np.asarray(unbent(drawn, curve) @ SRGB_TO_REC2020.T.astype(np.float32), np.float32)


def _table(values: Float) -> Float:
    return np.asarray(np.cbrt(np.minimum(values, LIGHT_TO**3)), np.float32)


def unbending(gain: float, curve: Curve) -> Float:
    """A table of a channel's cube root, from what is drawn to ``gain`` times its light; far over white it is held."""
    return _table(unbent(light_positions() ** 3, curve) * gain)


def bending(curve: Curve) -> Float:
    """A table that goes from light to what is drawn."""
    return _table(bent(light_positions() ** 3, curve))


def through(gain: float, curve: Curve) -> Float:
    """A table that multiplies the light by ``gain`` and goes back, in one."""
    return _table(bent(unbent(light_positions() ** 3, curve) * gain, curve))
