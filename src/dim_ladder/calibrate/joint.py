"""The chance that any of several quantities that go together is above its limit.

The normal integral is taken along one axis after the other (Genz 1992, J. Comp. Graph. Stat. 1:141-149) on the points of
a fixed lattice (Richtmyer's), so the same question has the same answer; with one quantity it is the closed form, with two
or more it is good to about a part in a thousand of the chance that is left.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
POINTS = 2039
PRIMES = (2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43, 47, 53, 59, 61, 67, 71, 73, 79, 83, 89, 97, 101, 103, 107, 109, 113)  # fmt: skip


def chance_any_above(single: Array, corr: Array) -> float:
    """The chance that any of some quantities exceeds its limit. single : (n,), that each does. corr : (n, n), of what is
    normal under them."""
    from scipy.special import ndtr, ndtri  # slow to load, and most questions are asked on threads

    n = len(single)
    z = -ndtri(np.clip(single, 1e-15, 1 - 1e-15))
    order = np.argsort(z)  # the tightest limit first
    z, corr = z[order], corr[np.ix_(order, order)]
    factor = np.linalg.cholesky(corr + 1e-9 * np.eye(n))
    steps = np.sqrt(np.array((PRIMES * (n // len(PRIMES) + 1))[: n - 1], np.float64))
    u = np.abs(2 * np.modf(np.outer(np.arange(1, POINTS + 1), steps))[0] - 1)  # folded: smoother at the edges
    inside = np.ones(POINTS)
    y = np.zeros((POINTS, n))
    for k in range(n):
        reach = (z[k] - y[:, :k] @ factor[k, :k]) / factor[k, k]
        below = ndtr(reach)
        inside *= below
        if k + 1 < n:
            y[:, k] = ndtri(np.clip(u[:, k] * below, 1e-12, 1 - 1e-12))
    found = 1.0 - float(inside.mean())
    return float(min(max(found, single.max()), single.sum(), 1.0))
