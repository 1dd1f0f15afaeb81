"""What a frame's own picture asks for in exposure, warmth and tint: a plain function from a task to its result."""

from dataclasses import dataclass

import numpy as np

from lenskeep.core.base.curve import Curve, light_under, unbent
from lenskeep.core.base.models import held
from lenskeep.core.engine.planes import smaller
from lenskeep.core.measure.needs import needs
from lenskeep.core.types import LinearRGB
from lenskeep.files.working import read_working
from lenskeep.work.engines.carried import InFile

SIDE = 512
MOST_EV, MOST_MIRED, MOST_DUV = 1.0, 20.0, 5.0
"""What a balance by measure changes at most."""


@dataclass(frozen=True)
class BalanceTask:
    """The working copy, and the camera's curve, None where a raw file was developed here."""

    working: InFile
    curve: Curve | None


def balance_frame(task: BalanceTask) -> dict[str, float]:
    """The values of the base that bring the frame to a middle, as far as that is sure."""
    with task.working.on_disk() as path:
        return balanced(smaller(read_working(path), SIDE), task.curve)


def balanced(drawn: LinearRGB, curve: Curve | None) -> dict[str, float]:
    """The same of a small untouched picture."""
    light = needs(drawn)
    cast = needs(light_under(drawn, curve)) if curve else light
    wanted = light.ev * light.sure_light
    if curve:  # measured on what the camera drew, set in the light that it drew from
        middle = np.float32(2.0**light.middle)
        ends = unbent(np.clip(np.array([middle, middle * 2.0**wanted], np.float32), 1e-5, 1.0), curve)
        wanted = float(np.log2(ends[1] / ends[0]))
    asked = (
        ("ev", wanted, MOST_EV),
        ("mired", cast.mired * cast.sure_cast, MOST_MIRED),
        ("duv", cast.duv * cast.sure_cast, MOST_DUV),
    )
    return {name: held(name, min(max(value, -most), most)) for name, value, most in asked}
