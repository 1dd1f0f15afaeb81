"""What a form in which frames leave is."""

from collections.abc import Callable
from dataclasses import dataclass

from PIL import Image

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode import Encoder
from lenskeep.core.engine.encode.base import Numbers

Write = Callable[[Numbers, int, Image.Exif | None, OutputSpace, bytes], bytes]
"""(pixels, quality 40…100, EXIF to keep, the space of the pixels, an XMP packet or b"") -> a file's bytes."""


@dataclass(frozen=True)
class Form:
    """``label`` is what people choose by; ``bytes_a_pixel`` says about how much the largest quality takes;
    ``layered`` ones hold every step as a layer.
    """

    name: str
    label: str
    suffix: str
    encoder: Encoder
    write: Write
    bytes_a_pixel: float
    layered: bool = False
