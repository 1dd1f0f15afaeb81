"""Ground covers: greenery, water, ground, rock and buildings, by a linear head over the scene backbone's stages."""

from collections.abc import Mapping

import cv2
import numpy as np

from lenskeep.core.detect.edges import colour_guided
from lenskeep.core.detect.tensors import resized
from lenskeep.core.facts import COVERS
from lenskeep.core.types import SRGB8, Alpha, Float

CLASSES = (*COVERS, "other")
LEAST_AREA = 0.004
SHARPNESS = 1.6
"""Logits are multiplied by this before the shares: the head was fitted with half of its inputs missing."""
EDGE_RADIUS, EDGE_EPS = 0.012, 2e-3


def colour_features(image: SRGB8, height: int, width: int) -> Float:
    """(9, height, width): CIELAB and its products, roughly -1…1, as the head's last input."""
    small = cv2.resize(image, (width, height), interpolation=cv2.INTER_AREA).astype(np.float32) / np.float32(255)
    lab = cv2.cvtColor(small, cv2.COLOR_RGB2LAB) / np.float32(50.0)
    light, a, b = lab[..., 0] - 1.0, lab[..., 1], lab[..., 2]
    return np.ascontiguousarray(
        np.stack([light, a, b, light * light, a * a, b * b, light * a, light * b, a * b]), np.float32
    )


def cover_shares(image: SRGB8, stages: Mapping[str, Float], head: Mapping[str, Float]) -> Float:
    """(6, h, w) shares that add up to one, at an eighth of the backbone's input size; the last is "none of these"."""
    names = sorted(stages, key=lambda n: int(n[1:]))
    first = stages[names[0]]
    h, w = first.shape[2] // 2, first.shape[3] // 2
    total = np.zeros((len(CLASSES), h, w), np.float32)
    inputs = [stages[n][0] for n in names] + [colour_features(image, h, w)]
    for k, stage in enumerate(inputs):
        weight, bias = np.asarray(head[f"w{k}"], np.float32), np.asarray(head[f"b{k}"], np.float32)
        logit = np.tensordot(weight, stage, 1) + bias[:, None, None]
        for c in range(len(CLASSES)):
            total[c] += cv2.resize(logit[c], (w, h), interpolation=cv2.INTER_LINEAR)
    total = np.exp(SHARPNESS * (total - total.max(0)))
    return np.asarray(total / total.sum(0), np.float32)


def cover_fields(image: SRGB8, stages: Mapping[str, Float], head: Mapping[str, Float]) -> dict[str, Alpha]:
    """Where each cover would be if there were no subject and no sky, 0…1 at half the picture's size."""
    h, w = image.shape[:2]
    shares = cover_shares(image, stages, head)
    half = (max(1, w // 2), max(1, h // 2))
    guide = resized(image, half[1], half[0])
    radius = max(2, round(EDGE_RADIUS * max(half)))
    out = {}
    for k, name in enumerate(COVERS):
        share = cv2.resize(shares[k], half, interpolation=cv2.INTER_CUBIC)
        if float((share > 0.5).mean()) >= LEAST_AREA:
            fine = colour_guided(guide, np.clip(share, 0, 1), radius, EDGE_EPS)
            out[name] = np.asarray(np.clip(1.5 * fine - 0.25, 0.0, 1.0), np.float32)
    return out


def find_covers(fields: dict[str, Alpha], subject: Alpha, sky: Alpha) -> dict[str, Alpha]:
    """Each cover's mask (h, w) 0…1; what belongs to the subject or the sky is no cover. Small ones are left away."""
    h, w = subject.shape
    rest = np.asarray((1.0 - subject) * (1.0 - sky), np.float32)
    out = {}
    for name, field in fields.items():
        mask = np.asarray(cv2.resize(field, (w, h), interpolation=cv2.INTER_LINEAR) * rest, np.float32)
        if float((mask > 0.5).mean()) >= LEAST_AREA:
            out[name] = mask
    total = np.maximum(sum(out.values(), np.zeros_like(rest)), np.float32(1.0))
    return {name: np.asarray(mask / total, np.float32) for name, mask in out.items()}
