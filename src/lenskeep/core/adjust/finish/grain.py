"""Film grain: noise in lightness, strongest in the middle tones as in silver, fading towards black and white.

The deviation of OKLab L at full amount is 0.05·√(4 L (1 − L)): where a share u of the film is covered by grains, its
deviation goes as √(u (1 − u)) (Newson, Delon & Galerne 2017, "A Stochastic Film Grain Model for Resolution-Independent
Rendering"). Laid on as gains, so that hue stays. The pattern is made once from a fixed seed, and its grains are a share
of the frame, so that every size looks alike.
"""

from functools import lru_cache
from typing import ClassVar, Literal

import cv2
import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.shared.sheets import LEAST_TILE, halved
from lenskeep.core.engine.ops import Code, Op, Sheet, tone_positions
from lenskeep.core.types import Float

SIDE = 1024
DEVIATION, DARKEST = 0.05, 0.15
SEEDS = (31, 32, 33)


@lru_cache(maxsize=1)
def levels() -> tuple[Float, ...]:
    """Three independent grains (SIDE, SIDE, 4) of mean 0 and deviation 1, which join themselves, at ever smaller
    sizes; where grains are averaged they get weaker, as in a print seen from far.
    """
    plane = np.zeros((SIDE, SIDE, 4), np.float32)
    for channel, seed in enumerate(SEEDS):
        noise = np.random.default_rng(seed).standard_normal((SIDE, SIDE)).astype(np.float32)
        soft = cv2.GaussianBlur(np.pad(noise, 8, mode="wrap"), (0, 0), 0.9)[8:-8, 8:-8]
        plane[..., channel] = (soft - soft.mean()) / soft.std()
    return halved(plane, LEAST_TILE)


def stops() -> Float:
    """The deviation in EV at each of the kernel's tones."""
    light = np.clip(np.cbrt(2.0 ** tone_positions()), 0.0, 1.0)
    lightness = DEVIATION * np.sqrt(4.0 * light * (1.0 - light))
    return np.asarray(3.0 * lightness / (np.maximum(light, DARKEST) * np.log(2.0)), np.float32)


class Grain(Adjustment):
    label: ClassVar[str] = "Film grain"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = "Grain as of film: most in the middle tones. Its size is a share of the frame, as in a print."
    per_pixel: ClassVar[bool] = False
    kind: Literal["grain"] = "grain"
    grain: float = amount(0, 100, label="Film grain", unit="%")
    size: float = amount(20, 200, label="Size", unit="%", neutral=60, scales=False)
    colour: float = amount(0, 100, label="In colour", unit="%", neutral=15, scales=False)

    def operations(self, below: Below) -> list[Op]:
        side = self.size / 100.0  # of the long side; a tile is square in pixels
        across = side * max(1.0, 1.0 / below.aspect)
        sheet = Sheet(levels(), (0.0, 0.0, across, across * below.aspect), tiled=True)
        strong = stops() * np.float32(self.grain / 100.0)
        return [Op(Code.GRAIN, (1.0, self.colour / 100.0), tables=(strong,), sheet=sheet)]
