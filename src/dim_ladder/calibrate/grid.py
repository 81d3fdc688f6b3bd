"""What is integrated over by quadrature: how far ties lie apart, sittings, and units, and how far the shape may be wrong.

Each has a half-normal prior. How far the shape may be wrong has two values: as far as shapes usually are, or several times
that, rarely: work that the shape did not foresee moves the answer instead of being refused (a scale mixture, which has heavy
tails and one mode for each of its parts; Andrews & Mallows 1974, JRSS B 36:99-102).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.prior import Array

Rows = NDArray[np.intp]

TAU_GRID = (0.004, 0.012, 0.025, 0.045, 0.08, 0.13)  # from tie to tie, relative
TAU_SCALE = 0.025
SITTING_GRID = (
    0.016,
    0.028,
    0.058,
)  # from sitting to sitting, relative: nobody is evener than that from day to day
SITTING_SCALE = 0.025
UNIT_GRID = (0.015, 0.05)  # from unit to unit, relative
UNIT_SCALE = 0.03
# So many times as far as usual, and the chance of that. At 1 in 100 it alone would take a third of a chance of 1 in 50.
FAR, SELDOM = 4.0, 0.004
TENSION_CORRELATION = 0.5  # a tight tie is shorter and eats less


@dataclass(frozen=True, slots=True)
class Grid:
    """tau, sitting, unit : (g,) standard deviations; far : (g,), how many times the prior's spread counts. log_weight : (g,)."""

    tau: Array
    sitting: Array
    unit: Array
    far: Array
    log_weight: Array

    def of(self, rows: Rows) -> Grid:
        return Grid(
            self.tau[rows], self.sitting[rows], self.unit[rows], self.far[rows], self.log_weight[rows]
        )

    def beside(self, other: Grid) -> Grid:
        def both(a: Array, b: Array) -> Array:
            return np.concatenate([a, b])

        return Grid(
            both(self.tau, other.tau), both(self.sitting, other.sitting), both(self.unit, other.unit),
            both(self.far, other.far), both(self.log_weight, other.log_weight),
        )  # fmt: skip


def grid(far: float) -> Grid:
    """Every point of one value of far."""
    axes = [
        (TAU_GRID, TAU_SCALE),
        (SITTING_GRID, SITTING_SCALE),
        (UNIT_GRID, UNIT_SCALE),
    ]
    points = np.array(np.meshgrid(*(x for x, _ in axes), indexing="ij")).reshape(3, -1)
    weight = np.array(np.meshgrid(*(_cells(x) for x, _ in axes), indexing="ij")).reshape(3, -1).prod(0)
    log = np.log(weight) - 0.5 * ((points / np.array([s for _, s in axes])[:, None]) ** 2).sum(0)
    log -= np.log(np.exp(log).sum())
    log += np.log(SELDOM if far > 1 else 1 - SELDOM)
    return Grid(points[0], points[1], points[2], np.full(points.shape[1], far), log)


def tension_cov(tau: Array, own: int, count_sd: float) -> Array:
    """(g, own, own) of a tie's own unknowns: its tension on cord and on length, and its count where some are not known."""
    out = np.zeros((len(tau), own, own))
    out[:, :2, :2] = correlated(tau)
    out[:, 2:, 2:] = count_sd**2
    return out


def correlated(sd: Array) -> Array:
    """(g, 2, 2): what moves cord and length together."""
    return np.asarray(sd[:, None, None] ** 2 * np.array([[1, TENSION_CORRELATION], [TENSION_CORRELATION, 1]]))


def _cells(values: tuple[float, ...]) -> Array:
    """Width of the cell round every grid point, so that an uneven grid still integrates the prior."""
    x = np.array(values)
    edges = np.concatenate([[0.0], (x[1:] + x[:-1]) / 2, [x[-1] + (x[-1] - x[-2]) / 2]])
    return np.diff(edges)
