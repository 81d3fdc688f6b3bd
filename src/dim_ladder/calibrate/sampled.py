"""What a piece takes where much of it is knots whose length is hardly known: then how often the rest is tied is no smooth function of
anything, and neither a Gaussian nor a value that is held will do.

The shared parameters are taken at the points of a fixed lattice (Richtmyer's, folded), drawn out as far as is believed: the same
question has the same answer.
"""

from __future__ import annotations

import numpy as np

from dim_ladder.calibrate.asked import Asked
from dim_ladder.calibrate.belief import Fitted, Marginal

POINTS = 128  # of every grid point
NEAR = 0.08  # of the way from 2 to 98 in a hundred
LEAST = 0.6  # of the way from 50 to either, that is still believed
EDGE = 1e-4  # of chance, beyond which no point lies


def sampled(f: Fitted, asked: Asked) -> Marginal:
    """As `marginals`."""
    from scipy.special import ndtri  # slow to load, and most questions are asked on threads

    at, b = f.layout, f.belief
    _, slope = asked.log(at, b.mean)
    bears = np.flatnonzero((np.abs(slope) > 0).any(axis=0))
    step = np.sqrt(np.array(_primes(len(bears)), np.float64))
    u = np.abs(2 * np.modf(np.outer(np.arange(POINTS) + 0.5, step))[0] - 1)
    normal = ndtri(np.clip(u, EDGE, 1 - EDGE))
    some = b.cov[:, bears][:, :, bears]
    factor = np.linalg.cholesky(some + 1e-12 * np.eye(len(bears)))
    theta = np.repeat(b.mean[:, None], POINTS, axis=1)
    theta[:, :, bears] += normal @ np.swapaxes(factor, 1, 2)
    value = asked.log(at, theta.reshape(-1, at.size))[0].reshape(len(b.weight), POINTS)
    return Marginal(np.repeat(b.weight[:, None] / POINTS, POINTS, axis=1), np.asarray(value))


def credible(held: Marginal | None, f: Fitted, asked: Asked) -> Marginal:
    """What was found by holding values, where it is no further out than the lattice has it; else the lattice's. Where units are
    tied until a length is met, there may be no way from one value to the next, and what is held leads astray. Inside of it,
    it knows better what ends of a cord take that were only measured together."""
    if held is not None and asked.size is None:
        return held
    drawn = sampled(f, asked)
    if held is None:
        return drawn
    (low, middle, high), (a, b, c) = (_at(m) for m in (drawn, held))
    near = NEAR * (high - low)
    inside = abs(b - middle) < near and a > low - near and c < high + near
    return held if inside and b - a > LEAST * (middle - low) and c - b > LEAST * (high - middle) else drawn


def _at(m: Marginal) -> tuple[float, float, float]:
    """Logarithms that 2, 50 and 98 in a hundred lie below."""
    order = np.argsort(m.value.ravel())
    below = np.cumsum(m.weight.ravel()[order])
    found = np.interp([0.02, 0.5, 0.98], below / below[-1], m.value.ravel()[order])
    return float(found[0]), float(found[1]), float(found[2])


def _primes(many: int) -> list[int]:
    out: list[int] = []
    n = 2
    while len(out) < many:
        if all(n % p for p in out):
            out.append(n)
        n += 1
    return out
