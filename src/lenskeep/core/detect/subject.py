"""The subject: saliency, then the picture's own edges, and the box around what was found."""

import cv2
import numpy as np

from lenskeep.core.detect.edges import colour_guided, grab
from lenskeep.core.detect.saliency import subject_guess
from lenskeep.core.facts import Box
from lenskeep.core.types import SRGB8, Alpha, Session

LEAST_AREA, MOST_AREA = 0.0008, 0.97
LEAST_CERTAINTY = 0.6


def find_subject(image: SRGB8, session: Session) -> tuple[Alpha, Alpha, Alpha]:
    """(mask, saliency, two-valued mask by colour), each (h, w) 0…1; the mask is empty where no subject is found."""
    guess = subject_guess(image, session)
    inside = guess > 0.5
    area = float(inside.mean())
    if not LEAST_AREA <= area <= MOST_AREA or float(guess[inside].mean()) < LEAST_CERTAINTY:
        empty = np.zeros_like(guess)
        return empty, guess, empty
    by_colour = grab(image, guess, sure_in=0.85, sure_out=0.08)
    both = np.asarray(0.5 * guess + 0.5 * by_colour, np.float32)
    return colour_guided(image, both, radius=6, eps=1e-4), guess, by_colour


def box_around(mask: Alpha) -> Box | None:
    """The box around every piece of at least a tenth of the largest one's area; None for an empty mask."""
    hard = (mask > 0.5).astype(np.uint8)
    count, _, stats, _ = cv2.connectedComponentsWithStats(hard, connectivity=8)
    if count < 2:
        return None
    pieces = stats[1:]
    kept = pieces[pieces[:, cv2.CC_STAT_AREA] >= 0.1 * pieces[:, cv2.CC_STAT_AREA].max()]
    h, w = mask.shape
    x0, y0 = kept[:, cv2.CC_STAT_LEFT].min() / w, kept[:, cv2.CC_STAT_TOP].min() / h
    x1 = (kept[:, cv2.CC_STAT_LEFT] + kept[:, cv2.CC_STAT_WIDTH]).max() / w
    y1 = (kept[:, cv2.CC_STAT_TOP] + kept[:, cv2.CC_STAT_HEIGHT]).max() / h
    return Box(x0=float(x0), y0=float(y0), x1=float(x1), y1=float(y1))
