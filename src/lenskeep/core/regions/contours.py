"""Contour lines of a region at 10, 50 and 90 %, so that softness shows as spacing; and tint and grey views."""

import cv2
import numpy as np

from lenskeep.core.types import SRGB8, Alpha

LEVELS = (0.1, 0.5, 0.9)
WIDTH = 1100


def contour_paths(alpha: Alpha) -> dict[str, str]:
    """SVG path data by level ("10", "50", "90") in a box 1000 wide and 1000·h/w high."""
    h, w = alpha.shape
    scale = WIDTH / w
    large = cv2.resize(alpha, (WIDTH, max(1, round(h * scale))), interpolation=cv2.INTER_LINEAR)
    large = cv2.GaussianBlur(large, (0, 0), 1.2)
    # a rim of nothing closes the lines that run along the frame's edge, one pixel outside the picture
    padded = cv2.copyMakeBorder(large, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0.0)
    out = {}
    for level in LEVELS:
        hard = (padded >= level).astype(np.uint8)
        lines, _ = cv2.findContours(hard, cv2.RETR_LIST, cv2.CHAIN_APPROX_TC89_L1)
        pieces = []
        for line in lines:
            if len(line) < 4 or cv2.arcLength(line, True) < 24:
                continue
            points = (line[:, 0].astype(np.float32) - 0.5) * (1000.0 / WIDTH)
            pieces.append("M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points) + "Z")
        out[str(round(level * 100))] = "".join(pieces)
    return out


def tinted(picture: SRGB8, alpha: Alpha, colour: tuple[int, int, int]) -> SRGB8:
    """The picture (h, w, 3) with the region washed in a colour (0…255 each)."""
    a = cv2.resize(alpha, (picture.shape[1], picture.shape[0]), interpolation=cv2.INTER_LINEAR)[..., None] * 0.62
    return np.asarray(picture * (1.0 - a) + np.array(colour, np.float32) * a, np.uint8)


def grey(alpha: Alpha, height: int, width: int) -> SRGB8:
    """The region as a grey picture (height, width, 3), white inside."""
    a = cv2.resize(alpha, (width, height), interpolation=cv2.INTER_LINEAR)
    return np.repeat(np.rint(np.clip(a, 0, 1) * 255.0).astype(np.uint8)[..., None], 3, axis=2)
