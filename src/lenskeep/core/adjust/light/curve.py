"""Curve: a monotone cubic through points (Fritsch & Carlson 1980), on lightness or on one channel.

Lightness is OKLab L; a channel is the cube root of its linear Rec. 2020 value, which spreads tones alike. Beyond white
the curve goes on in parallel to the diagonal.
"""

from itertools import pairwise
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field, field_validator

from lenskeep.core.adjust.base import Adjustment, Below, extra
from lenskeep.core.adjust.shared.lightness import lightness_ops
from lenskeep.core.engine.ops import Code, Op, light_positions
from lenskeep.core.types import Float

Share = Annotated[float, Field(ge=0.0, le=1.0)]
LEAST_APART = 0.01


def monotone_cubic(points: list[tuple[float, float]], at: Float) -> Float:
    """The curve through points of growing x, at ``at`` (any shape); level beyond its ends."""
    x, y = np.array(points, np.float64).T
    h, delta = np.diff(x), np.diff(y) / np.diff(x)
    slopes = np.concatenate([delta[:1], (delta[:-1] + delta[1:]) / 2.0, delta[-1:]])
    for j, d in enumerate(delta):
        if abs(d) < 1e-9:
            slopes[j] = slopes[j + 1] = 0.0
            continue
        a, b = max(slopes[j] / d, 0.0), max(slopes[j + 1] / d, 0.0)
        held = 3.0 / max(float(np.hypot(a, b)), 3.0)
        slopes[j], slopes[j + 1] = held * a * d, held * b * d
    place = np.clip(np.asarray(at, np.float64), x[0], x[-1])
    k = np.clip(np.searchsorted(x, place, side="right") - 1, 0, len(h) - 1)
    t = (place - x[k]) / h[k]
    h00, h10 = (1 + 2 * t) * (1 - t) ** 2, t * (1 - t) ** 2
    h01, h11 = t * t * (3 - 2 * t), t * t * (t - 1)
    return np.asarray(h00 * y[k] + h10 * h[k] * slopes[k] + h01 * y[k + 1] + h11 * h[k] * slopes[k + 1], np.float32)


class Curve(Adjustment):
    label: ClassVar[str] = "Curve"
    group: ClassVar[str] = "Light"
    help: ClassVar[str] = "Bends tones through points of your own; click the line for a point, drag it off to lose it."
    kind: Literal["curve"] = "curve"
    channel: Literal["lightness", "red", "green", "blue"] = extra("lightness", "Works on", "choice")
    points: list[tuple[Share, Share]] = extra([(0.0, 0.0), (1.0, 1.0)], "Curve", "curve", minItems=2, maxItems=12)

    @field_validator("points")
    @classmethod
    def _grow(cls, points: list[tuple[float, float]]) -> list[tuple[float, float]]:
        if not 2 <= len(points) <= 12:
            raise ValueError("a curve has 2 to 12 points")
        if any(b[0] - a[0] < LEAST_APART - 1e-9 for a, b in pairwise(points)):
            raise ValueError("a curve's points go from left to right, at least 0.01 apart")
        return points

    def is_neutral(self) -> bool:
        ends = self.points[0][0] == 0.0 and self.points[-1][0] == 1.0
        return ends and all(x == y for x, y in self.points)

    def scaled(self, factor: float) -> Self:
        points = [(x, min(max(x + (y - x) * factor, 0.0), 1.0)) for x, y in self.points]
        return self.model_copy(update={"points": points})

    def words(self) -> str:
        what = "curve" if self.channel == "lightness" else f"{self.channel} curve"
        return f"{what} of {len(self.points)} points"

    def sampled(self, count: int = 101) -> list[float]:
        """The curve at so many places from 0 to 1, held to 0…1, as the interface draws it."""
        at = np.linspace(0.0, 1.0, count, dtype=np.float32)
        return [round(float(v), 4) for v in np.clip(monotone_cubic(self.points, at), 0.0, 1.0)]

    def operations(self, below: Below) -> list[Op]:
        light = light_positions()
        table = monotone_cubic(self.points, np.minimum(light, 1.0)) + np.maximum(light - 1.0, 0.0)
        if self.channel == "lightness":
            return lightness_ops(table)
        plain = light_positions()
        tables = tuple(table if name == self.channel else plain for name in ("red", "green", "blue"))
        return [Op(Code.CHANNELS, tables=tables)]
