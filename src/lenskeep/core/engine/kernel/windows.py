"""Lines fitted within windows, from the means that boxes gave: one pass where NumPy would take eight."""

from typing import Any

from numba import njit

from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.types import Float


@njit(nogil=True, cache=True, error_model="numpy")
def solve_windows(mean_g: Float, squares: Float, mean_t: Float, products: Float, eps: Any, a: Float, b: Float) -> None:
    """a, b (h, w) of the line that follows a target t over a guide g in each window, from the windows' means of g, g²,
    t and g·t; ``eps`` is added to the variance of g (He, Sun & Tang 2013, equations 5 and 6).
    """
    for y in range(a.shape[0]):
        for x in range(a.shape[1]):
            variance = squares[y, x] - mean_g[y, x] * mean_g[y, x]
            covariance = products[y, x] - mean_g[y, x] * mean_t[y, x]
            slope = covariance / (max(variance, F(0.0)) + eps)
            a[y, x] = slope
            b[y, x] = mean_t[y, x] - slope * mean_g[y, x]
