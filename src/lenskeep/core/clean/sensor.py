"""From places on an upright frame to those on the sensor and back, and pictures likewise (CIPA DC-008, Orientation)."""

import numpy as np

from lenskeep.core.types import Float

Place = tuple[float, float]


def stored(picture: Float, orientation: int, turn: int) -> Float:
    """An upright picture as the sensor saw it; ``turn`` are quarters clockwise that it was turned by hand."""
    out = np.rot90(picture, turn)
    if orientation in (2, 3, 6, 7):
        out = out[:, ::-1]
    if orientation in (3, 4, 7, 8):
        out = out[::-1]
    if orientation in (5, 6, 7, 8):
        out = out.transpose(1, 0, *range(2, out.ndim))
    return np.ascontiguousarray(out)


def to_frame(place: Place, orientation: int, turn: int) -> Place:
    """Where a place of the sensor, 0…1, lies on the upright frame."""
    x, y = place
    if orientation in (5, 6, 7, 8):
        x, y = y, x
    if orientation in (3, 4, 7, 8):
        y = 1.0 - y
    if orientation in (2, 3, 6, 7):
        x = 1.0 - x
    for _ in range(turn % 4):
        x, y = 1.0 - y, x
    return x, y


def to_sensor(place: Place, orientation: int, turn: int) -> Place:
    """The other way."""
    x, y = place
    for _ in range(turn % 4):
        x, y = y, 1.0 - x
    if orientation in (2, 3, 6, 7):
        x = 1.0 - x
    if orientation in (3, 4, 7, 8):
        y = 1.0 - y
    if orientation in (5, 6, 7, 8):
        x, y = y, x
    return x, y
