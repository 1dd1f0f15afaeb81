"""What lies under a point of a frame on the Bench: a piece that a click would take, or a colour."""

from typing import Any

import numpy as np

from lenskeep.core.facts import pixel_at
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.regions.contours import contour_paths
from lenskeep.core.regions.kinds.picked import Pick
from lenskeep.core.regions.pieces import piece_alpha, piece_at
from lenskeep.studio.bench.stage import KEY_SIDE, Stage

COLOUR_REACH = 0.004
"""A sample is the median of the colours within this fraction of the long side."""


def outline_at(stage: Stage, frame_id: int, x: float, y: float) -> dict[str, Any]:
    """{"kind", "path"} of the piece that a click at (x, y), 0…1, would take; both empty where there is none."""
    with stage.at_work(frame_id, KEY_SIDE) as staged:
        found = staged.frame.found
        piece = piece_at(found, x, y)
        if piece is None:
            return {"kind": "", "path": "", "label": 0}
        return {"kind": piece.kind, "path": contour_paths(piece_alpha(found, piece))["50"], "label": piece.label}


def pick_at(stage: Stage, frame_id: int, x: float, y: float, away: bool) -> dict[str, Any]:
    """A click as a picked object keeps it. Raises EditProblem where nothing can be told apart."""
    found = stage.ready(frame_id, KEY_SIDE).frame.found
    piece = piece_at(found, x, y)
    if piece is None:
        raise EditProblem("Nothing was told apart here. Click another place, or use a brush.")
    return Pick(frame=found.key, x=x, y=y, away=away, piece=piece).model_dump(mode="json")


def colour_at(stage: Stage, frame_id: int, x: float, y: float) -> tuple[float, float, float]:
    """The untouched picture's colour around (x, y), 0…1, in OKLab."""
    found = stage.ready(frame_id, KEY_SIDE).frame.found
    reach = max(1, round(COLOUR_REACH * found.long_side))
    cy, cx = pixel_at(x, y, found.shape)
    near = found.lab[max(0, cy - reach) : cy + reach + 1, max(0, cx - reach) : cx + reach + 1].reshape(-1, 3)
    middle = np.median(near, axis=0)
    return round(float(middle[0]), 4), round(float(middle[1]), 4), round(float(middle[2]), 4)


def frame_key(stage: Stage, frame_id: int) -> str:
    """What names a frame in a recipe that keeps something for it alone."""
    return stage.ready(frame_id, KEY_SIDE).frame.found.key
