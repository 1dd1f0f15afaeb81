"""The six steps of ``speed`` written plainly in NumPy and OpenCV at full size, as one would without an engine."""

import cv2
import imagecodecs
import numpy as np

from lenskeep.core.adjust.light.contrast import GREY
from lenskeep.core.colour.adapt import warmth_matrix
from lenskeep.core.colour.oklab import from_oklab, to_oklab
from lenskeep.core.colour.spaces import LUMINANCE, REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.core.colour.transfer import decode_srgb, encode_srgb


def ease(x: np.ndarray) -> np.ndarray:
    x = np.clip(x, 0, 1)
    return x * x * (3 - 2 * x)


def log_light(rgb: np.ndarray) -> np.ndarray:
    return np.log2(np.maximum(rgb @ LUMINANCE.astype(np.float32), 2.0**-20))


def box(x: np.ndarray, r: int) -> np.ndarray:
    return cv2.boxFilter(x, cv2.CV_32F, (2 * r + 1, 2 * r + 1), borderType=cv2.BORDER_REFLECT)


def guided(guide: np.ndarray, target: np.ndarray, radius: float, eps: float) -> np.ndarray:
    r = max(1, round(radius * max(guide.shape)))
    mg, mt = box(guide, r), box(target, r)
    a = (box(guide * target, r) - mg * mt) / (np.maximum(box(guide * guide, r) - mg * mg, 0) + eps)
    return box(a, r) * guide + box(mt - a * mg, r)


def mixed(below: np.ndarray, above: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    return below + alpha[..., None] * (above - below)


def toned(rgb: np.ndarray, start: float, full: float, ev: float) -> np.ndarray:
    lg = log_light(rgb)
    return rgb * np.exp2(ev * ease((guided(lg, lg, 0.02, 0.25) - start) / (full - start)))[..., None].astype(np.float32)


def six_steps(data: bytes, subject: np.ndarray, sky: np.ndarray, skyline: float, box_of: tuple[float, ...]) -> bytes:
    """JPEG in, JPEG out; ``subject`` and ``sky`` are proxy masks 0…1."""
    rgb = decode_srgb(imagecodecs.jpeg8_decode(data).astype(np.float32) / 255) @ SRGB_TO_REC2020.T.astype(np.float32)
    h, w = rgb.shape[:2]
    guide = np.cbrt(rgb @ LUMINANCE.astype(np.float32))
    subject, sky = (guided(guide, cv2.resize(m, (w, h)), 0.002, 4e-4).clip(0, 1) for m in (subject, sky))
    y, x = np.mgrid[:h, :w].astype(np.float32) / np.float32([[[h]], [[w]]])
    ramp = ease((skyline - y) / 0.25 + 0.5).astype(np.float32)
    cx, cy, rx, ry = box_of
    pool = ease(1.5 - np.hypot((x - cx) / rx, (y - cy) / ry)).astype(np.float32)
    lifted = (rgb * np.float32(2**0.5)) @ warmth_matrix(8).T.astype(np.float32)
    rgb = mixed(rgb, lifted, subject)
    lg = log_light(rgb)
    d = guided(lg, lg, 0.0025, 0.02) - guided(lg, lg, 0.02, 0.15)
    rgb = mixed(rgb, rgb * np.exp2(0.4 * d / (1 + np.abs(d)))[..., None], subject)
    lab = to_oklab(rgb)
    lab[..., 1:] *= 0.75
    rgb = mixed(rgb, from_oklab(lab) * np.float32(2**-0.4), 1 - subject)
    size = 2 * round(0.0075 * max(h, w)) + 1
    dark = cv2.erode(rgb.min(2), np.ones((size, size), np.uint8))
    light = rgb.reshape(-1, 3)[np.argpartition(dark.ravel(), -dark.size // 1000)[-dark.size // 1000 :]].mean(0)
    share = 1 - 0.95 * np.clip(cv2.erode((rgb / light).min(2), np.ones((size, size), np.uint8)), 0, 1)
    share = guided(log_light(rgb), share.astype(np.float32), 0.03, 0.05).clip(0, 1)
    k = (0.2 * (0.35 + 0.65 * (1 - share)))[..., None]
    rgb = mixed(rgb, rgb + (light - rgb) * k, (1 - subject) * ramp)
    calm = toned(rgb, GREY, 0.0, -0.6)
    s = log_light(calm) - GREY
    calm = calm * np.exp2(s * 0.08 * np.exp(-((s / 3) ** 2)))[..., None]
    rgb = mixed(rgb, calm, sky)
    rgb = mixed(rgb, toned(rgb, GREY, -8.0, 0.375), pool)
    srgb = rgb @ REC2020_TO_SRGB.T.astype(np.float32)
    pixels = np.rint(encode_srgb(srgb) * 255).astype(np.uint8)
    return bytes(imagecodecs.jpeg8_encode(np.ascontiguousarray(pixels), 92, subsampling="444"))
