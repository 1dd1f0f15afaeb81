"""Photographs spoilt in ways that lead finders astray, with their known masks kept in step."""

from collections.abc import Iterator

import cv2
import numpy as np

Masks = dict[str, np.ndarray]


def spoilt(image: np.ndarray, masks: Masks, seed: int) -> Iterator[tuple[str, np.ndarray, Masks]]:
    """(what was done, picture uint8 (h, w, 3), masks uint8) for each of six ways."""
    random = np.random.default_rng(seed)
    h, w = image.shape[:2]
    light = image.astype(np.float32) / 255.0

    def picture(x: np.ndarray) -> np.ndarray:
        return np.ascontiguousarray(np.rint(np.clip(x, 0, 1) * 255).astype(np.uint8))

    dark = (light**2.2 * 0.09) ** (1 / 2.2)
    yield "dark and grainy", picture(dark + random.normal(0, 0.03, light.shape)), masks
    yield "out of focus", picture(cv2.GaussianBlur(light, (0, 0), 5 * max(h, w) / 800)), masks
    yield "flat", picture(0.55 + 0.18 * (light - 0.5) + random.normal(0, 0.012, light.shape)), masks
    y, x = int(random.integers(0, h // 3)), int(random.integers(0, w // 3))
    cut = slice(y, y + h * 6 // 10), slice(x, x + w * 6 // 10)
    yield "cut", picture(light[cut]), {k: m[cut] for k, m in masks.items()}
    yield "burnt", picture(light * 2.0), masks
    tiny = cv2.resize(light, None, fx=0.16, fy=0.16, interpolation=cv2.INTER_AREA)
    yield "tiny", picture(cv2.resize(tiny, (w, h))), masks
