"""What the sky head looks at: the backbone's stages brought to 1/8 of a 512 px frame, with colour and height."""

import cv2
import numpy as np

from lenskeep.core.detect.tensors import backbone_input, resized
from lenskeep.core.types import SRGB8, Float, Session

LONG_SIDE = 512
STRIDE = 8


def scene_features(image: SRGB8, backbone: Session, long_side: int = LONG_SIDE) -> Float:
    """(h, w, channels) float32, h and w an eighth of the network's input.

    Channels: every stage of EfficientNet-Lite2 (bilinear), CIE Lab over 50, height 0…2 from the top.
    """
    x = backbone_input(image, long_side)
    h, w = x.shape[2] // STRIDE, x.shape[3] // STRIDE
    parts = []
    for stage in backbone.run(None, {"x": x}):
        planes = stage[0].transpose(1, 2, 0)
        parts.append(_stretched(planes, h, w))
    small = resized(image, h, w).astype(np.float32) / 255.0
    parts.append(np.asarray(cv2.cvtColor(small, cv2.COLOR_RGB2LAB), np.float32) / np.float32(50.0))
    height = np.linspace(0.0, 2.0, h, dtype=np.float32)[:, None, None]
    parts.append(np.broadcast_to(height, (h, w, 1)))
    return np.concatenate(parts, axis=2).astype(np.float32)


def _stretched(planes: Float, h: int, w: int) -> Float:
    # OpenCV resizes at most four channels well at once; slices keep it quick and exact
    slices = [
        cv2.resize(np.ascontiguousarray(planes[:, :, i : i + 4]), (w, h), interpolation=cv2.INTER_LINEAR)
        for i in range(0, planes.shape[2], 4)
    ]
    return np.concatenate([s if s.ndim == 3 else s[:, :, None] for s in slices], axis=2)
