"""A base as operations, and a frame with its base."""

from dataclasses import replace

import numpy as np

from lenskeep.core.adjust.base import Below
from lenskeep.core.adjust.light.highlights import Highlights
from lenskeep.core.adjust.light.shadows import Shadows
from lenskeep.core.base import curve
from lenskeep.core.base.models import FrameBase
from lenskeep.core.colour.adapt import balance_matrix
from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.core.engine.ops import Code, Op, fuse, matrix_op
from lenskeep.core.engine.program import staged
from lenskeep.core.engine.run import run_stages
from lenskeep.core.render import Frame
from lenskeep.core.types import LinearRGB, Window


def light_ops(base: FrameBase, curved: bool) -> list[Op]:
    """Exposure, warmth and tint. ``curved`` pictures are brought under a camera's curve first and back afterwards."""
    coloured = base.mired != 0.0 or base.duv != 0.0
    if base.ev == 0.0 and not coloured:
        return []
    if not curved:
        return [matrix_op(balance_matrix(base.ev, base.mired, base.duv))]
    gain = 2.0**base.ev
    there, here = (matrix_op(np.asarray(m, np.float64)) for m in (REC2020_TO_SRGB, SRGB_TO_REC2020))  # as cameras bend
    if not coloured:
        table = curve.through(gain, base.curve)
        return [there, Op(Code.CHANNELS, tables=(table,) * 3), here]
    under, back = curve.unbending(gain, base.curve), curve.bending(base.curve)
    turned = REC2020_TO_SRGB @ balance_matrix(0.0, base.mired, base.duv) @ SRGB_TO_REC2020
    balance = matrix_op(np.asarray(turned, np.float64))
    return [there, Op(Code.CHANNELS, tables=(under,) * 3), balance, Op(Code.CHANNELS, tables=(back,) * 3), here]


def with_base(frame: Frame, base: FrameBase, curved: bool) -> Frame:
    """A frame that every step sees as its base leaves it: its proxy, and what regions look at. Masks follow the edges
    of the untouched picture.
    """
    if base.is_neutral:
        return frame
    ops, picture = light_ops(base, curved), frame.proxy
    for tone in (Highlights(highlights=base.highlights), Shadows(shadows=base.shadows)):
        if not tone.is_neutral():
            picture = _run(ops, frame)
            ops = ops + tone.operations(_below(frame, picture))
    picture = _run(ops, frame)
    found = replace(frame.found, picture=picture)
    return Frame(picture, found, frame.height, frame.width, frame.letters, base=tuple(ops), untouched=frame.proxy)


def _run(ops: list[Op], frame: Frame) -> LinearRGB:
    out = np.ascontiguousarray(frame.proxy, np.float32).copy()
    return run_stages(staged(fuse(ops)), out, Window(0, 0, *out.shape[:2]), frame.guide)


def _below(frame: Frame, picture: LinearRGB) -> Below:
    return Below(
        picture,
        frame.found.facts,
        frame.width / frame.height,
        lambda: np.ones(picture.shape[:2], np.float32),
        frame.proxy,
        frame.found.mask,
        frame.found.missing.add,
    )


def rebased(frame: Frame, base: FrameBase, curved: bool) -> Frame:
    """The same frame with another base in place of its own."""
    plain = frame.proxy if frame.untouched is None else frame.untouched
    found = replace(frame.found, picture=plain)
    return with_base(Frame(plain, found, frame.height, frame.width, frame.letters), base, curved)
