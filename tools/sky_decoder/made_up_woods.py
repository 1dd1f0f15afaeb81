"""Woods as a path tracer sees them (``tools/photos/scenes/woods.py``), sharp or far out of focus, before made-up skies.

A crown out of focus is no blurred outline: every gap between its leaves becomes a disc of light. What stands before the
sky is known by itself, since the traced sky has one colour; another is put behind it, in linear light, as a lens does.
"""

from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np

from lenskeep.core.detect.skycolour import around
from tools.photos.camera import filmic
from tools.photos.shoots import load_render
from tools.sky_decoder.made_up_rooms import stood_before
from tools.sky_decoder.made_up_skies import encoded, linear, sky

SIDE = 768
LEAST_SKY, LEAST_SHARE = 0.98, 0.002
EVERY, KEPT = 9, 4
"""Of so many woods one, of that number, is kept aside: another kind each time."""


class Plate(NamedTuple):
    """What stands before the sky: its light as it reaches the lens (h, w, 3), how bright the sky was that lit it, its
    depth in metres and the sky's share, both (h, w).
    """

    light: np.ndarray
    sky: float
    depth: np.ndarray
    share: np.ndarray


def plates(renders: Path, aside: bool = False) -> list[Plate]:
    """Every rendered wood to learn from that shows some sky, in the order of their names; or those kept ``aside``."""
    out = []
    for path in sorted(renders.glob("woods-*.npz")):
        if (int(path.stem.rsplit("-", 1)[1]) % EVERY == KEPT) is not aside:
            continue
        picture, depth, covers = load_render(path)
        scale = SIDE / max(picture.shape[:2])
        size = (round(picture.shape[1] * scale), round(picture.shape[0] * scale))
        picture, depth, share = (
            cv2.resize(x, size, interpolation=cv2.INTER_AREA if x.shape[1] > size[0] else cv2.INTER_LINEAR)
            for x in (picture, depth, covers["sky"])
        )
        whole = share > LEAST_SKY
        if whole.mean() < LEAST_SHARE:
            continue
        # the traced sky's light changes slowly from place to place
        behind, _ = around(picture, whole.astype(np.float32), SIDE / 10)
        light = np.maximum(picture - share[..., None] * behind, 0)
        out.append(Plate(light.astype(np.float32), float(behind.mean()), depth, share))
    return out


def made_wood(plate: Plate, subject, random):
    """(image (h, w, 3) in 0…1, share of sky (h, w)): a wood under another sky, hazy or not, exposed for either."""
    h, w = plate.share.shape
    above = linear(sky(h, w, random)).astype(np.float32)
    above = cv2.GaussianBlur(above, (0, 0), random.uniform(1, 10))
    above *= plate.sky / max(float(above.mean()), 1e-3) * 2 ** random.uniform(-1.5, 0.7)
    light, share = plate.light, plate.share.copy()
    if random.random() < 0.5:
        # depth is the mean of all rays, of which those to the sky count 0
        away = plate.depth / np.maximum(1 - share, 0.05)
        veiled = (1 - np.exp(-away / 10 ** random.uniform(1.5, 3.2)))[..., None]
        veil = above.mean((0, 1)) * random.uniform(0.3, 0.9)
        light = light * (1 - veiled) + veil * veiled * (1 - share)[..., None]
    out = light + above * share[..., None]
    ground = np.median(out[share < 0.1]) if (share < 0.1).any() else out.mean()
    out = out * (2 ** random.uniform(-4.5, -1.7) / max(float(ground), 1e-4))
    if random.random() < 0.6:
        out = linear(filmic(np.maximum(out, 0), random.uniform(0.9, 1.3)))
    out = np.clip(out, 0, 1).astype(np.float32)
    if subject is not None:
        out = stood_before(out, share, subject, random)
    noise = random.normal(0, random.uniform(0, 0.015), out.shape)
    return np.clip(encoded(out) + noise, 0, 1).astype(np.float32), share
