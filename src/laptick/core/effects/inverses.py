"""The inverse of a covariance or a precision: symmetric, positive definite, some hundred rows at most.

Worked out by halves (the Schur complement; Boyd & Vandenberghe, Convex Optimization, appendix A.5.5, from memory), so
that nearly all of the work is products of matrices, which are the quickest thing there is to work out: twice as quick
as the inverse of a general matrix, and as exact where no half is singular, as none is here.
"""

from __future__ import annotations

import numpy as np

from laptick.core.effects.noise import Floats

#: Up to so many rows the general inverse is as quick.
SMALL = 48


def inverse(matrix: Floats) -> Floats:
    """``matrix``: rows × rows, symmetric and positive definite; only what is on and below the diagonal blocks is
    read."""
    if len(matrix) <= SMALL:
        return np.asarray(np.linalg.inv(matrix), dtype=np.float64)
    half = len(matrix) // 2
    first = inverse(matrix[:half, :half])
    carried = matrix[half:, :half] @ first
    last = inverse(matrix[half:, half:] - carried @ matrix[half:, :half].T)
    across = last @ carried
    whole: Floats = np.empty_like(matrix)
    whole[:half, :half] = first + carried.T @ across
    whole[half:, :half] = -across
    whole[:half, half:] = -across.T
    whole[half:, half:] = last
    return whole
