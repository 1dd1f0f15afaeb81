"""How long the stages of a large shoot took, frame by frame, beside how fast the machine was meanwhile."""

from itertools import pairwise
from typing import NamedTuple

import numpy as np


class Stage(NamedTuple):
    """What one stage took: ``frames`` holds (seconds since its start, frames done), ``probes`` how many seconds of a
    core the same small piece of work took, and when. ``whole`` is over when what follows the last frame is, too.
    """

    name: str
    whole: float
    frames: list[tuple[float, int]]
    probes: list[tuple[float, float]]

    def parts(self, count: int) -> list[tuple[float, float]]:
        """(seconds a frame, seconds of the probe) in each of ``count`` equal parts of the frames."""
        times, done = np.array(self.frames, np.float64).T
        ends = np.interp(np.linspace(0.0, done[-1], count + 1), done, times)
        when, took = np.array(self.probes, np.float64).T
        return [
            ((end - start) / (done[-1] / count), float(took[(when >= start) & (when <= end)].mean()))
            for start, end in pairwise(ends)
        ]

    def growth(self) -> tuple[float, float]:
        """(how many times longer the second half of the frames took, how many times slower the machine was then)."""
        (first, before), (second, later) = self.parts(2)
        return second / first, later / before
