"""Strokes that a recipe's brush made for one frame, as repairs of that frame's mask: the recipe need not hold them."""

import numpy as np

from lenskeep.core.problems import UserProblem
from lenskeep.core.regions.algebra import Region
from lenskeep.core.regions.anchor import anchor_long_side, to_pixels
from lenskeep.core.regions.base import Found
from lenskeep.core.regions.kinds.background import Background
from lenskeep.core.regions.kinds.brush import Brush
from lenskeep.core.repairs.models import Painted

NO_MASK = (
    "These strokes repair no mask: their region is not made of one that is found on each frame. Choose “Repair masks” "
    "above the picture instead."
)
LIMIT = (
    "These strokes limit the region, which a repair of its mask can’t do. Combine them by “add” or “take away” first."
)
LEAST_OPACITY = 0.01


def repairs_of(region: Region, brush: Brush, found: Found) -> list[Painted]:
    """The strokes as repairs of the mask that the region is made of. Raises UserProblem where there is no such mask."""
    masks = region.found_masks()
    if not masks:
        raise UserProblem(NO_MASK)
    if brush.combine == "only within" or brush.invert:
        raise UserProblem(LIMIT)
    mask = masks[0]
    [name] = mask.uses()
    turned = region.invert ^ mask.invert ^ isinstance(mask, Background)
    away = (brush.combine == "take away") ^ turned
    h, w = found.shape
    side = anchor_long_side(brush.anchor, found) / found.long_side
    out = []
    for stroke in brush.strokes:
        path = to_pixels(brush.anchor, found, np.array(stroke.points, np.float32)) / np.array([w, h], np.float32)
        points = [(round(float(x), 4), round(float(y), 4)) for x, y in np.clip(path, -0.5, 1.5)]
        out.append(
            Painted(
                mask=name,
                away=away ^ stroke.erase,
                points=points,
                size=min(max(stroke.size * side, 1e-3), 1.0),
                hardness=stroke.hardness,
                opacity=max(stroke.opacity, LEAST_OPACITY),
                edge_aware=stroke.edge_aware,
            )
        )
    return out
