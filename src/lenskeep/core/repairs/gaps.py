"""Holes in a mask and islands beside it: what one click fills, or takes away, whatever the picture shows there.

A hole need not be quite closed: it is what the mask, with its narrow gaps bridged (closing, Serra 1982), shuts off from
the edges of the frame.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.facts import pixel_at
from lenskeep.core.types import Alpha

BRIDGED = 0.012
"""How wide a gap in a mask's own border still shuts a hole, half of it, as a share of the long side."""
MOST_OF_MASK = 0.35
"""A hole or an island larger than this share of the mask is no mistake in it."""
SEAM = 0.004
"""How near to a mask what is added by a click lies against it, as a share of the long side."""
SOFT = 0.002
"""How far what is filled reaches into the mask around, as a share of the long side, so that no seam stays."""


def hole_at(mask: Alpha, x: float, y: float) -> Alpha | None:
    """What would fill the hole under a place, 0…1 of width and height, as alpha (h, w); None where there is none."""
    hard = mask > 0.5
    place = pixel_at(x, y, mask.shape)
    if hard[place]:
        return None
    reach = max(1, round(BRIDGED * max(mask.shape)))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    # the frame's own edges bridge nothing
    wide = cv2.copyMakeBorder(hard.astype(np.uint8), reach, reach, reach, reach, cv2.BORDER_CONSTANT, value=0)
    bridged = cv2.morphologyEx(wide, cv2.MORPH_CLOSE, disc)[reach:-reach, reach:-reach] > 0
    own = _piece(~bridged, place) if not bridged[place] else _piece(bridged & ~hard, place)
    if _meets_edge(own):
        return None
    near = cv2.dilate(own.astype(np.uint8), disc) > 0  # up to the mask, into the gaps that were bridged
    own = own | (bridged & ~hard & near)
    return _soft(own, hard) if own.sum() <= MOST_OF_MASK * hard.sum() else None


def island_at(mask: Alpha, x: float, y: float) -> Alpha | None:
    """What would take away the piece of a mask under a place that hangs together with nothing else of it."""
    hard = mask > 0.5
    place = pixel_at(x, y, mask.shape)
    if not hard[place]:
        return None
    own = _piece(hard, place)
    return _soft(own, ~hard) if own.sum() <= MOST_OF_MASK * hard.sum() else None


def without_seam(mask: Alpha, own: Alpha) -> Alpha:
    """A mask with a piece laid beside it, without the fine line that two soft borders leave between them."""
    out = np.maximum(mask, own)
    reach = max(1, round(SEAM * max(mask.shape)))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    near = [cv2.dilate((each > 0.5).astype(np.uint8), disc) > 0 for each in (mask, own)]
    between = near[0] & near[1] & (cv2.morphologyEx((out > 0.5).astype(np.uint8), cv2.MORPH_CLOSE, disc) > 0)
    return np.asarray(np.where(between, np.maximum(out, _soft(between, out > 0.5)), out), np.float32)


def _piece(inside: NDArray[np.bool_], place: tuple[int, int]) -> NDArray[np.bool_]:
    """The connected piece at a place."""
    _, labels = cv2.connectedComponents(inside.astype(np.uint8), connectivity=4)
    return np.asarray(labels == labels[place])


def _meets_edge(own: NDArray[np.bool_]) -> bool:
    return bool(own[[0, -1]].any() or own[:, [0, -1]].any())


def _soft(own: NDArray[np.bool_], around: NDArray[np.bool_]) -> Alpha:
    """Alpha of a piece with the soft border between it and what it meets ``around``."""
    reach = max(1, round(SOFT * max(own.shape)))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (4 * reach + 1, 4 * reach + 1))
    grown = own | ((cv2.dilate(own.astype(np.uint8), disc) > 0) & around)
    return np.maximum(own, cv2.GaussianBlur(grown.astype(np.float32), (0, 0), 0.5 * reach)).astype(np.float32)
