import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from lenskeep.core.engine.kernel.rowmath import cbrt_row, exp2_row, log2_row

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
