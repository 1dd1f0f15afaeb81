import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from lenskeep.core.engine.kernel.rowmath import cbrt_row, exp2_row, log2_row, lookup_row

positive = arrays(np.float32, st.integers(1, 70), elements=st.floats(2.0**-19, 60.0, width=32))
signed = arrays(np.float32, st.integers(1, 70), elements=st.floats(-20.0, 20.0, width=32))


@given(positive)
def test_log2_agrees_with_numpy(x):
    out = np.empty_like(x)
    log2_row(x, out, len(x))
    np.testing.assert_allclose(out, np.log2(x), atol=4e-6)


@given(signed)
def test_exp2_agrees_with_numpy_in_place(x):
    expected = np.exp2(x)
    exp2_row(x, len(x))
    np.testing.assert_allclose(x, expected, rtol=1e-6)


@given(signed)
def test_cube_root_agrees_with_numpy_and_keeps_the_sign(x):
    out = np.empty_like(x)
    cbrt_row(x, out, len(x))
    np.testing.assert_allclose(out, np.cbrt(x), rtol=1e-6, atol=1e-6)


def test_cube_root_is_right_over_the_whole_range_and_nothing_stays_nothing():
    x = np.concatenate([np.geomspace(1e-30, 1e30, 20_000), [0.0, -0.0, 8.0, -27.0]]).astype(np.float32)
    out = np.empty_like(x)
    cbrt_row(x, out, len(x))
    np.testing.assert_allclose(out, np.cbrt(x.astype(np.float64)), rtol=1e-6)
    assert (out[-4:-2] == 0).all()


@given(signed, st.integers(2, 40), st.integers(0, 1000))
def test_a_table_is_read_linearly_and_held_to_its_ends(x, entries, seed):
    table = np.random.default_rng(seed).uniform(-1, 1, entries).astype(np.float32)
    out = np.empty_like(x)
    lookup_row(table, x, np.float32(-8.0), np.float32((entries - 1) / 16), out, len(x))
    wanted = np.interp(x, np.linspace(-8.0, 8.0, entries), table)
    assert out == pytest.approx(wanted, abs=2e-3)  # its last thousandth of a place is never reached
