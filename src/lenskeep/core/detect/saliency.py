"""First guess at the subject: U²-Net "p" (Qin et al. 2020, Apache-2.0), a glance at the frame and a look at a crop.

The second look is at a padded crop around what the first found; small subjects gain most from it.
"""

import cv2
import numpy as np

from lenskeep.core.detect.tensors import saliency_input
from lenskeep.core.types import SRGB8, Alpha, GraphNetwork

SIDE, GLANCE_SIDE = 320, 224
"""What the network was made for, and what is enough to see where to look: half the time, and no worse."""
PADDING = 0.18
CLOSE = 0.6
"""A crop over this share of the frame would show hardly more than the first look did."""


def saliency(image: SRGB8, network: GraphNetwork, side: int = SIDE) -> Alpha:
    """Saliency (h, w) in 0…1, stretched to fill the range as the network's authors do; ``side`` is the network's."""
    out = network.run({"picture": saliency_input(image, side)})[0][0, 0]
    low, high = float(out.min()), float(out.max())
    size = (image.shape[1], image.shape[0])
    x = cv2.resize((out - low) / max(high - low, 1e-6), size, interpolation=cv2.INTER_LINEAR)
    return np.asarray(np.clip(x, 0, 1), np.float32)


def crop_around(mask: Alpha, level: float = 0.35) -> tuple[int, int, int, int] | None:
    """(y0, y1, x0, x1) of a padded box around the mask, or None when empty or when the box is nearly the frame."""
    ys, xs = np.nonzero(mask > level)
    if len(ys) == 0:
        return None
    h, w = mask.shape
    # a few stray pixels must not widen the box
    y0, y1 = (int(v) for v in np.percentile(ys, (0.5, 99.5)))
    x0, x1 = (int(v) for v in np.percentile(xs, (0.5, 99.5)))
    pad = int(PADDING * max(y1 - y0, x1 - x0)) + 4
    y0, y1, x0, x1 = max(0, y0 - pad), min(h, y1 + pad + 1), max(0, x0 - pad), min(w, x1 + pad + 1)
    return None if (y1 - y0) * (x1 - x0) > CLOSE * h * w else (y0, y1, x0, x1)


def subject_guess(image: SRGB8, network: GraphNetwork, glance: GraphNetwork) -> tuple[Alpha, Alpha]:
    """(saliency from both looks, from the first), (h, w) 0…1. The first is a ``glance`` at the frame; the second looks
    at what that found, and where both looked the mean counts. Where a crop would be nearly the frame, the second look
    at the frame counts alone.
    """
    first = saliency(image, glance, GLANCE_SIDE)
    crop = crop_around(first)
    if crop is None:
        return saliency(image, network), first
    y0, y1, x0, x1 = crop
    closer = saliency(np.ascontiguousarray(image[y0:y1, x0:x1]), network)
    out = first.copy()
    out[y0:y1, x0:x1] = 0.4 * first[y0:y1, x0:x1] + 0.6 * closer
    return out, first
