"""Glow: bright light spread by a Gaussian and added, as in a lens with bloom; warmth by CAT16 (Li et al. 2017).

Under 0 the dark spreads instead: the picture is mixed with its dark parts, spread, so that light is dimmed and what is
dark already stays as it is.
"""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.shared.blurred import blurred
from lenskeep.core.colour.adapt import warmth_matrix
from lenskeep.core.easing import ease
from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.engine.planes import luminance

BRIGHT_FROM, BRIGHT_TO = 0.2, 0.9
MOST, MOST_DARK = 0.6, 0.5


class Glow(Adjustment):
    label: ClassVar[str] = "Glow"
    group: ClassVar[str] = "Detail"
    help: ClassVar[str] = "Lets lights and bright skies bloom around them; under 0, the dark spread into the light."
    needs_picture: ClassVar[bool] = True
    per_pixel: ClassVar[bool] = False
    kind: Literal["glow"] = "glow"
    glow: float = amount(-100, 100, label="Glow", unit="%")
    radius: float = amount(0.5, 8, label="Radius", unit="% of side", neutral=2, scales=False, step=0.1)
    warmth: float = amount(-60, 60, label="Warmth", unit="mired", neutral=15, scales=False)

    def operations(self, below: Below) -> list[Op]:
        y = luminance(below.picture)
        lit = ease((y - BRIGHT_FROM) / (BRIGHT_TO - BRIGHT_FROM))[..., None]
        if self.glow < 0:
            dark = blurred(np.asarray(below.picture * (1.0 - lit), np.float32), self.radius / 100.0)
            share = -self.glow / 100.0 * MOST_DARK
            return [Op(Code.LIGHT, (1.0 - share, share, 1.0, 1.0, 1.0), planes=tuple(dark))]
        bright = below.picture * lit
        bright = np.asarray(np.minimum(bright, 1.5) @ warmth_matrix(self.warmth).T.astype(np.float32), np.float32)
        planes = blurred(bright, self.radius / 100.0)
        return [Op(Code.LIGHT, (1.0, self.glow / 100.0 * MOST, 1.0, 1.0, 1.0), planes=tuple(planes))]
