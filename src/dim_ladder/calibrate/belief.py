"""What is believed of the shared parameters: Gaussians side by side, one for each grid point; and what cord some ends take,
where a Gaussian over logarithms would not do.

What start and finish take is uncertain by a factor, and where the ends of a cord were only ever measured together, what one
of them takes the other does not: that ridge is bent, and a Gaussian sticks out over its ends. So the cord of the ends asked
for is held at values across its range, everything else is fitted anew at each, and how well that goes weighs the value (the
Laplace approximation of a marginal: Tierney & Kadane 1986, JASA 81:82-86; Rue, Martino & Chopin 2009, JRSS B 71:319-392,
section 3.2.3).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dim_ladder.calibrate.asked import Asked
from dim_ladder.calibrate.expected import Layout, layout_of, predict
from dim_ladder.calibrate.fit import Fit, solve
from dim_ladder.calibrate.grid import TAU_GRID, Grid, Rows
from dim_ladder.calibrate.held import Target, held
from dim_ladder.calibrate.normal import before
from dim_ladder.calibrate.observe import NOTHING, Data, Known, collect
from dim_ladder.calibrate.prior import Array, Prior
from dim_ladder.calibrate.ties import Tie

SIDE = (0.9, 1.8, 2.7, 3.8, 5.2, 7.0)  # standard deviations from the mode to the values, either way
VALUES = np.array([-v for v in reversed(SIDE)] + [0.0, *SIDE])
BELL = 2.7  # so far the weight falls about like a Gaussian's; what is lopsided falls more slowly further out
FIRM = 0.05  # standard deviations, about, within which the cord is held
FAINT = 1e-2  # grid points of less weight stay Gaussian
LEAST = 1e-4  # and of less than that are left out
LOG_ROOT = 0.5 * float(np.log(2 * np.pi))
NEVER = -1e3  # logarithm of no weight
GONE = -8.0  # log of the weight against that of the middle, from which a side is left


@dataclass(frozen=True, slots=True)
class Belief:
    """Grid points side by side: weight (c,), grid, mean (c, n), cov (c, n, n) of the shared parameters."""

    weight: Array
    grid: Grid
    mean: Array
    cov: Array


@dataclass(frozen=True)
class Fitted:
    """One fit of some ties. belief : of the grid points that count; kept : which they are of the fit."""

    prior: Prior
    ties: tuple[Tie, ...]
    data: Data
    fit: Fit
    belief: Belief
    kept: Rows

    @cached_property
    def layout(self) -> Layout:
        return layout_of(self.prior, self.data)

    @property
    def known(self) -> Known:
        """To collect others alike."""
        return Known(self.data.kinds, self.data.names)

    @cached_property
    def evidence(self) -> float:
        """Logarithm of how likely what was read is, all in all."""
        top = float(self.fit.log_weight.max())
        return top + float(np.log(np.exp(self.fit.log_weight - top).sum())) - LOG_ROOT * len(self.data.value)

    @property
    def torn(self) -> float:
        """How much of the belief says that ties differ by as much as the grid holds."""
        return float(self.belief.weight[self.belief.grid.tau >= TAU_GRID[-1]].sum())

    @property
    def unsettled(self) -> float:
        """How much of the belief is where no best answer was found."""
        return float(self.belief.weight[~self.fit.settled[self.kept]].sum())

    @cached_property
    def bearing(self) -> tuple[Array, Array, Array, Array]:
        """What is expected of every row, as `predict` says it, at the means."""
        return predict(
            self.layout, self.data, self.belief.mean, self.fit.tie[self.kept], self.belief.grid.unit
        )


def fitted(prior: Prior, ties: Sequence[Tie], known: Known = NOTHING) -> Fitted:
    """The fit of some ties, of their grid points those that count."""
    data = collect(prior, ties, known)
    fit = solve(prior, data)
    finite = np.where(np.isfinite(fit.log_weight), fit.log_weight, -np.inf)
    weights = np.exp(finite - finite.max())
    kept = np.flatnonzero(weights > LEAST * weights.max())
    share = weights[kept] / weights[kept].sum()
    b = Belief(np.asarray(share, np.float64), fit.grid.of(kept), fit.mean[kept], fit.cov[kept])
    return Fitted(prior, tuple(ties), data, fit, b, kept)


@dataclass(frozen=True, slots=True)
class Marginal:
    """What cord is expected to be: weights (c, values), which sum to 1, and logarithms (c, values)."""

    weight: Array
    value: Array


def side_by_side(weights: Sequence[float], of: Sequence[Marginal]) -> Marginal:
    """What several fits say, with their weights; what has fewer values than another is filled up with values of no weight."""
    wide = max(m.weight.shape[1] for m in of)
    fill = [((0, 0), (0, wide - m.weight.shape[1])) for m in of]
    return Marginal(
        np.concatenate([w * np.pad(m.weight, f) for w, m, f in zip(weights, of, fill, strict=True)]),
        np.concatenate([np.pad(m.value, f, mode="edge") for m, f in zip(of, fill, strict=True)]),
    )


def marginals(f: Fitted, asked: Sequence[Asked]) -> list[Marginal]:
    """Of everything that is asked for, side by side."""
    at, data, b, own = f.layout, f.data, f.belief, f.fit.tie[f.kept]
    c, many = len(b.weight), len(asked)
    before_any = before(f.prior, data, b.grid, own.shape[2])
    which, grid = np.repeat(np.arange(many), c), np.tile(np.arange(c), many)
    centre, slope = Target(tuple(asked), which, np.zeros(0), np.zeros(0)).log(at, b.mean[grid])
    along = (b.cov[grid] @ slope[..., None])[..., 0]
    sd = np.sqrt((slope * along).sum(1))
    log, x = np.tile(-0.5 * VALUES**2, (len(sd), 1)), np.tile(VALUES, (len(sd), 1))
    # One row for every question and grid point; without ties, those that are as uncertain say the same.
    kept = np.flatnonzero(b.weight > FAINT)
    same = {f: np.flatnonzero(b.grid.far == f) for f in np.unique(b.grid.far).tolist()}
    if not data.ties:
        kept = np.array([rows[0] for rows in same.values()])
    some = np.flatnonzero(np.isin(grid, kept))
    # Down and up side by side, from value to value, so that each is begun near its mode.
    row, way = np.tile(some, 2), np.repeat([-1, 1], len(some))
    theta, z = b.mean[grid[row]], own[grid[row]]
    move, turn, middle = np.zeros_like(theta), np.zeros_like(z), np.zeros(len(row))
    log[some] = NEVER
    last = SIDE[0]
    for k, step in enumerate(np.append(np.diff([0.0, *SIDE]), 0.0).tolist()):
        column = len(SIDE) + way * k
        target = Target(tuple(asked), which[row], centre[row] + VALUES[column] * sd[row], FIRM * sd[row])
        about = before_any.of(grid[row])
        new, tied, found, evidence = held(
            at, data, about, theta + move, z + turn, b.grid.unit[grid[row]], target
        )
        if k == 0:
            middle, move = evidence, way[:, None] * along[row] / sd[row, None] * step
        else:
            # As far again, in proportion.
            move, turn = (new - theta) * (step / last), (tied - z) * (step / last)
        theta, z, last = new, tied, step
        # What leads out of numbers is as good as impossible.
        sound = np.isfinite(evidence - middle) & np.isfinite(found)
        less = np.where(sound, evidence - middle, NEVER)
        log[row, column] = less
        x[row[sound], column[sound]] = ((found - centre[row]) / sd[row])[sound]
        on = np.flatnonzero(less > GONE)
        if not len(on):
            break
        theta, z, move, turn, middle = theta[on], z[on], move[on], turn[on], middle[on]
        row, way = row[on], way[on]
    if not data.ties:
        for rows in same.values():
            for k in range(many):
                log[k * c + rows], x[k * c + rows] = log[k * c + rows[0]], x[k * c + rows[0]]
    # Twice as fine: what differs from a bell goes straight from one to the next.
    x = np.maximum.accumulate(x, axis=1)  # what did not come to rest may lie out of order
    fine = np.insert(x, np.arange(1, len(VALUES)), (x[:, 1:] + x[:, :-1]) / 2, axis=1)
    log = np.array([np.interp(f, v, one) for f, v, one in zip(fine, x, log + _bell(x), strict=True)])
    log += np.log(np.maximum(np.gradient(fine, axis=1), 1e-12)) - _bell(fine)
    weight = np.exp(log - log.max(1, keepdims=True))
    weight /= weight.sum(1, keepdims=True)
    value = centre[:, None] + fine * sd[:, None]
    asked_of = [np.flatnonzero(which == k) for k in range(many)]
    share = b.weight[:, None]
    return [
        Marginal(share * weight[r], np.broadcast_to(value[r], (len(share), fine.shape[1]))) for r in asked_of
    ]


def _bell(x: Array) -> Array:
    """Half a square, and straight on where the weight no longer falls so fast."""
    far = np.abs(x)
    return np.where(far < BELL, 0.5 * x**2, BELL * far - 0.5 * BELL**2)
