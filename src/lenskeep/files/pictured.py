"""Pictures that recipes refer to: their size read off the header before anything is decoded.

PNG (ISO/IEC 15948, 11.2.2) and JPEG (ITU-T T.81, B.2.2).
"""

import cv2
import numpy as np
from numpy.typing import NDArray

MOST_SIDE = 4096
_PNG, _JPEG = b"\x89PNG\r\n\x1a\n", b"\xff\xd8"
_FRAME_STARTS = {*range(0xC0, 0xD0)} - {0xC4, 0xC8, 0xCC}
_BARE = {0x01, *range(0xD0, 0xD9)}


def header_size(data: bytes) -> tuple[int, int] | None:
    """(width, height) that a PNG or JPEG claims; None for anything else."""
    if data[:8] == _PNG and len(data) >= 24:
        return int.from_bytes(data[16:20]), int.from_bytes(data[20:24])
    if data[:2] != _JPEG:
        return None
    at = 2
    while at + 9 <= len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if marker in _FRAME_STARTS:
            return int.from_bytes(data[at + 7 : at + 9]), int.from_bytes(data[at + 5 : at + 7])
        if marker == 0xFF:
            at += 1
        else:
            at += 2 if marker in _BARE else 2 + int.from_bytes(data[at + 2 : at + 4])
    return None


def decoded(data: bytes, how: int, kinds: tuple[str, ...] = ("PNG", "JPEG")) -> NDArray[np.uint8] | None:
    """The pixels as OpenCV reads them with the flag ``how``; None when it is no such picture, or larger than
    ``MOST_SIDE``.
    """
    size = header_size(data)
    kind = "PNG" if data[:8] == _PNG else "JPEG"
    if size is None or kind not in kinds or min(size) < 1 or max(size) > MOST_SIDE:
        return None
    try:
        pixels = cv2.imdecode(np.frombuffer(data, np.uint8), how)
    except cv2.error:
        return None
    return None if pixels is None or pixels.dtype != np.uint8 else np.asarray(pixels, np.uint8)
