"""The sRGB transfer curve, IEC 61966-2-1, as tables: 8 or 16 bits in, linear float32 out, and back to 8 bits."""

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.types import Float


def decode_srgb(encoded: Float) -> Float:
    """sRGB encoded 0…1 to linear 0…1, any shape."""
    x = np.asarray(encoded, np.float64)
    return np.where(x <= 0.04045, x / 12.92, ((np.maximum(x, 0.0) + 0.055) / 1.055) ** 2.4).astype(np.float32)


def encode_srgb(linear: Float) -> Float:
    """Linear 0…1 to sRGB encoded 0…1, any shape; values outside are clipped."""
    x = np.clip(np.asarray(linear, np.float64), 0.0, 1.0)
    return np.where(x <= 0.0031308, x * 12.92, 1.055 * x ** (1 / 2.4) - 0.055).astype(np.float32)


DECODE8: Float = decode_srgb(np.arange(256, dtype=np.float32) / 255.0)
"""256 linear values for the 8-bit codes."""
ENCODE_STEPS = 65535
ENCODE8: NDArray[np.uint8] = np.rint(
    encode_srgb(np.linspace(0.0, 1.0, ENCODE_STEPS + 1, dtype=np.float32)) * 255.0
).astype(np.uint8)
"""8-bit codes for linear values in steps of 1/65535."""
