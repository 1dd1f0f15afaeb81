"""Whether a stage takes longer with every frame is told apart from a machine that became slower."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tools.running.stage_times import Stage


def stage(seconds_a_frame, probe_seconds):
    """A stage whose n-th frame took so long, on a machine whose probe took so long at that moment."""
    ends = np.cumsum(seconds_a_frame)
    frames = [(0.0, 0), *((float(end), n + 1) for n, end in enumerate(ends))]
    return Stage(
        "made up", float(ends[-1]) + 3.0, frames, [(float(e), p) for e, p in zip(ends, probe_seconds, strict=True)]
    )


@given(first=st.floats(0.2, 5.0), slower=st.floats(0.5, 2.0))
def test_a_machine_that_slows_down_is_no_growth(first, slower):
    speed = np.repeat([1.0, slower], 100)
    grown, machine = stage(first * speed, 0.001 * speed).growth()
    assert grown == pytest.approx(slower, rel=0.02) and machine == pytest.approx(slower, rel=0.02)


def test_a_stage_that_takes_longer_with_every_frame_is():
    grown, machine = stage(np.linspace(1.0, 2.0, 200), np.full(200, 0.001)).growth()
    assert grown == pytest.approx(1.75 / 1.25, rel=0.02) and machine == pytest.approx(1.0)


def test_quarters_leave_out_what_follows_the_last_frame():
    quarters = stage(np.full(80, 0.5), np.full(80, 0.001)).parts(4)
    assert [round(seconds, 3) for seconds, _ in quarters] == [0.5] * 4
