"""Compile every kernel once; Numba keeps the machine code on disk, beside the modules."""

import numpy as np

from lenskeep.core.clean.applied import cleaned
from lenskeep.core.clean.models import Healed
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.detect.edges import colour_guided
from lenskeep.core.engine.encode.srgb8 import averaged_rows, decode_rows
from lenskeep.studio.warm import load_kernels

load_kernels()
picture = np.full((16, 24, 3), 0.2, np.float32)
decode_rows(np.zeros((2, 2, 3), np.uint8), DECODE8, np.empty((2, 2, 3), np.float32))
averaged_rows(np.zeros((2, 2, 3), np.uint8), DECODE8, 2, np.empty((1, 1, 3), np.float32))
colour_guided(picture, picture[..., 0].copy(), 2, 1e-3)
cleaned(np.zeros((400, 600, 3), np.uint8), [Healed(points=((0.5, 0.5),), size=0.3)])
