"""From finished rows to numbers of an output space, one file a kind. To add one: write its file and list it here."""

from lenskeep.core.engine.encode.base import Encoder
from lenskeep.core.engine.encode.deep16 import SIXTEEN_BITS
from lenskeep.core.engine.encode.linear16 import LINEAR_BITS
from lenskeep.core.engine.encode.srgb8 import EIGHT_BITS

ENCODERS: dict[str, Encoder] = {encoder.name: encoder for encoder in (EIGHT_BITS, SIXTEEN_BITS, LINEAR_BITS)}

__all__ = ["EIGHT_BITS", "ENCODERS", "LINEAR_BITS", "SIXTEEN_BITS", "Encoder"]
