"""The fit: what all rows together say, at every point of the grid (calibrate/grid.py).

calibrate/expected.py says the model. At each grid point the rest is a Laplace approximation at the mode, found by Gauss-Newton
(Tierney & Kadane 1986, JASA 81:82-86; Rue, Martino & Chopin 2009, JRSS B 71:319-392).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.expected import COUNT_LOG, Layout, layout_of, own_of
from dim_ladder.calibrate.grid import FAR, Grid, grid
from dim_ladder.calibrate.normal import Before, Normal, before, density, newton, normal
from dim_ladder.calibrate.observe import Data
from dim_ladder.calibrate.prior import Array, Prior

MOST_STEPS, LARGEST, RESTING = 40, 0.7, 1e-4
# After two steps a point of the grid with so little of the weight (its logarithm) is left out.
LOOK, HOPELESS = 2, 9.0
# Standard deviations, on average over what ties bear on, within which the shape is as right as usual.
FORESEEN = 1.0
Bools = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Fit:
    """By grid point: log_weight (g,), mean (g, n) and cov (g, n, n) of the shared parameters, tie (g, ties, own) tension
    on cord and on length, and log of an unknown count; sat (g, sittings, 2), what sittings have of that in common, sat_cov
    (g, sittings, 2, 2) and sat_cross (g, sittings, n, 2) its covariances with itself and the shared. settled : (g,) whether
    the mode was found."""

    grid: Grid
    log_weight: Array
    mean: Array
    cov: Array
    tie: Array
    sat: Array
    sat_cov: Array
    sat_cross: Array
    settled: Bools


def solve(prior: Prior, data: Data) -> Fit:
    """The fit over the whole grid; with no row at all, the prior."""
    at = layout_of(prior, data)
    near = grid(1.0)
    if not len(data.value):
        every = near.beside(grid(FAR))
        b = before(prior, data, every, 2)
        none = np.zeros((len(every.tau), 0, 2))
        return Fit(
            every, every.log_weight, np.tile(b.mean, (len(every.tau), 1)), np.asarray(np.linalg.inv(b.precision), np.float64), none, none,
            np.zeros((len(every.tau), 0, 2, 2)), np.zeros((len(every.tau), 0, at.size, 2)), np.ones(len(every.tau), np.bool_),
        )  # fmt: skip
    many = own_of(data)
    start = np.zeros((1, data.ties, many))
    start[..., 2:] = COUNT_LOG
    # From the middle of the grid, where the mode is nearly that of every other point.
    middle = near.of(np.array([len(near.tau) // 2]))
    b = before(prior, data, middle, many)
    theta, z, *_ = _mode(at, data, b, b.mean[None], start, middle.unit)
    found = _over(prior, at, data, near, theta, z)
    # Only where the shape did not foresee the ties can it matter how far it may be wrong.
    best = int(np.argmax(found.log_weight))
    if _surprise(found.mean[best] - b.mean, found.cov[best], b.precision[0]) > FORESEEN:
        wide = middle.of(np.array([0]))
        wide = Grid(wide.tau, wide.sitting, wide.unit, np.array([FAR]), wide.log_weight)
        b = before(prior, data, wide, many)
        theta, z, *_ = _mode(at, data, b, found.mean[best][None], found.tie[best][None], wide.unit)
        found = _beside(found, _over(prior, at, data, grid(FAR), theta, z))
    return found


def _surprise(off: Array, cov: Array, precision: Array) -> float:
    """How far the ties moved what was assumed, in standard deviations by direction in which they say something."""
    said = np.trace(np.eye(len(off)) - precision @ cov)
    return float(np.sqrt(off @ precision @ off / max(said, 1.0)))


def _over(prior: Prior, at: Layout, data: Data, g: Grid, theta: Array, z: Array) -> Fit:
    many = own_of(data)
    theta, z = np.repeat(theta, len(g.tau), 0), np.repeat(z, len(g.tau), 0)
    b = before(prior, data, g, many)
    theta, z, evidence, *_ = _mode(at, data, b, theta, z, g.unit, LOOK)
    weight = g.log_weight + evidence
    kept = np.flatnonzero(weight > weight.max() - HOPELESS)
    g, b = g.of(kept), b.of(kept)
    theta, z, evidence, m, settled = _mode(at, data, b, theta[kept], z[kept], g.unit)
    s = m.system
    cov = np.asarray(np.linalg.inv(s.reduced), np.float64)
    drawn = np.swapaxes(s.sat_inner @ np.swapaxes(s.sat_cross, 2, 3), 2, 3)  # (g, sittings, n, 2)
    sat_cross = -cov[:, None] @ drawn
    sat_cov = s.sat_inner - np.swapaxes(drawn, 2, 3) @ sat_cross
    return Fit(g, g.log_weight + evidence, theta, cov, z, m.sat, sat_cov, sat_cross, settled)


def _beside(a: Fit, b: Fit) -> Fit:
    def both(x: Array, y: Array) -> Array:
        return np.concatenate([x, y])

    return Fit(
        a.grid.beside(b.grid), both(a.log_weight, b.log_weight), both(a.mean, b.mean), both(a.cov, b.cov), both(a.tie, b.tie),
        both(a.sat, b.sat), both(a.sat_cov, b.sat_cov), both(a.sat_cross, b.sat_cross),
        np.concatenate([a.settled, b.settled]),
    )  # fmt: skip


def _climb(
    at: Layout, data: Data, b: Before, theta: Array, z: Array, unit: Array, most: int
) -> tuple[Array, Array, Normal, Bools]:
    """At most so many steps of Gauss-Newton, until there is no way to go: where they lead, the normal equations last used, and
    whether they rest (g,)."""
    rest = np.zeros(len(theta), np.bool_)
    log = np.ones(at.size, np.bool_)
    log[at.f] = False
    for _ in range(most):
        m = normal(at, data, theta, z, unit, b)
        step, own = newton(m.system, m.gradient, m.pull)
        size = np.maximum(np.abs(step[:, log]).max(1), np.abs(own).max((1, 2), initial=0.0))
        short = np.minimum(1.0, LARGEST / np.maximum(size, 1e-300))
        rest = size < RESTING
        if rest.all():
            break  # what is left to go does not count
        theta = theta + step * short[:, None]
        z = z + own * short[:, None, None]
    return theta, z, m, rest


def _mode(
    at: Layout, data: Data, b: Before, theta: Array, z: Array, unit: Array, most: int = MOST_STEPS
) -> tuple[Array, Array, Array, Normal, Bools]:
    """Mode, log evidence up to a constant, and the normal equations there, for each of (g,) spreads at once."""
    theta, z, m, rest = _climb(at, data, b, theta, z, unit, most)
    return theta, z, density(data, b, theta, m) - 0.5 * m.system.log_det(), m, rest
