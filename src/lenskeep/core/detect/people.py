"""People: the selfie segmentation network (Apache-2.0) on crops around faces, near for the head, far for the body."""

import cv2
import numpy as np

from lenskeep.core.facts import Face
from lenskeep.core.types import SRGB8, Alpha, GraphNetwork

SIDE = 256
NEAR, FAR = 4.5, 9.0
"""Sides of the two crops in face sizes."""
DOWN = (0.9, 2.7)
"""How far below the face's middle their middles lie."""
LARGE_FACE, PORTRAIT = 0.1, 0.55
HALF_SEEN, AGREE = 0.35, 0.7
MOST_PIECES, LEAST_PIECE = 6, 0.001
RIM = 0.06
"""Share of a crop's side over which it fades out, so that its border leaves no line."""


def in_square(image: SRGB8, network: GraphNetwork, cy: float, cx: float, side: float) -> tuple[Alpha, Alpha]:
    """(person, weight), each (h, w): the network's answer on a square of the picture, and how much it counts there.

    The square is moved into the frame where it can be; what is still outside is left away.
    """
    h, w = image.shape[:2]
    y0, y1 = _span(cy, side, h)
    x0, x1 = _span(cx, side, w)
    person, weight = np.zeros((h, w), np.float32), np.zeros((h, w), np.float32)
    person[y0:y1, x0:x1] = seen_on(image[y0:y1, x0:x1], network)
    across = _taper(x1 - x0, x0 > 0, x1 < w)
    weight[y0:y1, x0:x1] = _taper(y1 - y0, y0 > 0, y1 < h)[:, None] * across[None, :]
    return person, weight


def seen_on(cut: SRGB8, network: GraphNetwork, mirrored: bool = False) -> Alpha:
    """Whoever the network sees on a picture (h, w, 3) stretched to its square, or on its mirror image; (h, w) 0…1."""
    shown = np.ascontiguousarray(cut[:, ::-1]) if mirrored else cut
    fed = cv2.resize(shown, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float32) / np.float32(255)
    out = network.run({"square": fed[None]})[0].reshape(SIDE, SIDE, -1)[..., 0]
    out = np.ascontiguousarray(out[:, ::-1]) if mirrored else out
    return np.asarray(np.clip(cv2.resize(out, cut.shape[1::-1], interpolation=cv2.INTER_LINEAR), 0, 1), np.float32)


def _span(middle: float, side: float, length: int) -> tuple[int, int]:
    side = min(side, float(length))
    first = min(max(middle - side / 2, 0.0), length - side)
    return round(first), max(round(first) + 2, round(first + side))


def _taper(count: int, at_start: bool, at_end: bool) -> Alpha:
    x = (np.arange(count, dtype=np.float32) + 0.5) / count
    rise = np.clip(x / RIM, 0, 1) if at_start else np.ones_like(x)
    fall = np.clip((1 - x) / RIM, 0, 1) if at_end else np.ones_like(x)
    return np.asarray(np.minimum(rise, fall), np.float32)


def find_people(image: SRGB8, faces: list[Face], network: GraphNetwork) -> Alpha:
    """The people whose faces were found, (h, w) 0…1. The near look counts where both looked."""
    h, w = image.shape[:2]
    total = np.zeros((h, w), np.float32)
    for face in faces:
        x, y = face.box.middle
        size = max(face.box.width * w, face.box.height * h)
        own = np.zeros((h, w), np.float32)
        for reach, down in ((FAR, DOWN[1]), (NEAR, DOWN[0])):
            person, weight = in_square(image, network, y * h + down * size, x * w, reach * size)
            own = own * (1.0 - weight) + person * weight
        total = np.maximum(total, own)
    return total


def portrayed(image: SRGB8, guess: Alpha, faces: list[Face], network: GraphNetwork) -> Alpha:
    """The guess with what the network sees near large faces, which it was made for and outlines best."""
    h, w = image.shape[:2]
    out = guess
    for face in faces:
        x, y = face.box.middle
        size = max(face.box.width * w, face.box.height * h)
        if size < LARGE_FACE * max(h, w):
            continue
        person, weight = in_square(image, network, y * h + DOWN[0] * size, x * w, NEAR * size)
        weight = PORTRAIT * weight
        out = np.asarray(out * (1.0 - weight) + person * weight, np.float32)
    return out


def figure_apart(image: SRGB8, mask: Alpha, network: GraphNetwork) -> float:
    """1 - intersection over union of a subject's mask with the network's figure on a crop around it."""
    ys, xs = np.nonzero(mask > 0.5)
    if len(ys) == 0:
        return 1.0
    side = 1.25 * max(float(np.ptp(ys)), float(np.ptp(xs)), 8.0)
    person, weight = in_square(image, network, float(ys.min() + ys.max()) / 2, float(xs.min() + xs.max()) / 2, side)
    a, b = (mask > 0.5) & (weight > 0), (person > 0.5) & (weight > 0)
    return 1.0 - float((a & b).sum()) / max(float((a | b).sum()), 1.0)


def confirmed(image: SRGB8, guess: Alpha, network: GraphNetwork) -> Alpha:
    """A guess at the subject made firmer where the network sees the same figure on a crop around one piece of it.

    The network was made for people but knows animals by their outline just as well. What the guess left open inside a
    figure both agree on is taken; nothing beyond the guess is.
    """
    count, labels, stats, _ = cv2.connectedComponentsWithStats((guess > HALF_SEEN).astype(np.uint8), connectivity=8)
    order = sorted(range(1, count), key=lambda k: -stats[k, cv2.CC_STAT_AREA])[:MOST_PIECES]
    out = guess
    for k in order:
        x, y, bw, bh, area = stats[k]
        if area < LEAST_PIECE * guess.size:
            continue
        person, weight = in_square(image, network, y + bh / 2, x + bw / 2, 1.25 * max(bw, bh))
        own = (labels == k) & (weight > 0)
        figure = (person > 0.5) & (weight > 0)
        if (own & figure).sum() < AGREE * max((own | figure).sum(), 1):
            continue
        open_part = np.clip((guess - 0.2) / 0.3, 0, 1) * (labels == k)
        out = np.asarray(out + (1.0 - out) * person * weight * open_part, np.float32)
    return out
