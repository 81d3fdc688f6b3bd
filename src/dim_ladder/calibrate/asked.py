"""What a piece is expected to take, of given shared parameters.

A piece is tied so many units, or until it is as long as it should be. Then who draws up tighter than was thought ties more units:
cord for a length of band counts, not cord for a unit, and the two are off together.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.expected import Layout, unit_cord
from dim_ladder.calibrate.prior import Array

Key = tuple[tuple[int, ...], tuple[float, ...], float]
LEAST_PART = 0.02  # of the units that were thought of, the fewest a length can ask for
STEP = 1e-4  # of a parameter, for second derivatives


@dataclass(frozen=True, slots=True)
class Size:
    """A length that is tied to. mm : without what is left free. grows : (sections,) whether units are added until it is met.
    adds : (sections,) 1 where units add to the length. kinds : (kinds,) parts of the cord that are of a kind."""

    mm: float
    grows: NDArray[np.bool_]
    adds: Array
    kinds: Array


@dataclass(frozen=True, slots=True)
class Taken:
    """For each of (g,) parameters. total : (g, ends) cord. slope : (g, ends, n) derivatives of its logarithm. wobble : (g, ends)
    what a relative variance of 1 of every unit adds to the relative variance of the whole. stretch : (g, ends), by how much
    the cord of an end grows where a tie comes out longer (below 0: fewer units do), both as logarithms."""

    total: Array
    slope: Array
    wobble: Array
    stretch: Array


@dataclass(frozen=True, slots=True)
class Asked:
    """The cord of some ends in a piece. ends, roles : (ends,) which. own : (ends, sections), see Prior. counts : (sections,)
    units. now : (ends, kinds) of which kinds of cord they are. size : None where units are counted."""

    ends: NDArray[np.int64]
    roles: NDArray[np.int64]
    own: Array
    counts: Array
    now: Array
    size: Size | None = None

    @property
    def key(self) -> Key:
        return (
            tuple(sorted(self.ends.tolist())),
            tuple(self.counts.tolist()),
            self.size.mm if self.size else 0.0,
        )

    def of(self, at: Layout, theta: Array) -> Taken:
        """For shared parameters theta (g, n)."""
        soft = theta[:, at.soft : at.grams]
        one = unit_cord(at, theta, self.roles, self.own, theta[:, at.each : at.who][:, self.ends])
        one = one * np.exp(soft @ self.now.T)[..., None]
        a, units = np.exp(theta[:, self.ends]), one * self.counts
        slope = np.zeros((len(theta), len(self.roles), at.size))
        stretch, own_wobble = np.zeros(slope.shape[:2]), 0.0
        grown = None
        if self.size is not None:
            part, slack, wobble = self._as_often(at, theta, self.size)
            units = units * np.where(self.size.grows, part[:, None], 1.0)[:, None]
            grown = units[..., self.size.grows].sum(2)
        worked = units.sum(2)
        totals = a + worked
        if grown is not None and self.size is not None:
            share = grown / totals
            slope += share[..., None] * slack[:, None]
            stretch = share * slack[:, None, at.p : at.f].sum(2)
            own_wobble = share**2 * wobble[:, None]
        each = np.arange(len(self.roles))
        slope[:, each, self.ends] += a / totals
        for s in range(at.sections):
            slope[:, each, at.b + self.roles * at.sections + s] += units[..., s] / totals
        slope[..., at.soft : at.grams] += self.now * (worked / totals)[..., None]
        slope[:, each, at.each + self.ends] += worked / totals
        return Taken(totals, slope, (one * units).sum(2) / totals**2 + own_wobble, stretch)

    def _as_often(self, at: Layout, theta: Array, size: Size) -> tuple[Array, Array, Array]:
        """How often what grows is tied against counts (g,), the derivatives of its logarithm (g, n), and its relative variance
        where every unit has one of 1 (g,)."""
        longer = np.exp(theta[:, at.soft : at.grams] @ size.kinds)[:, None]
        one = np.exp(theta[:, at.p : at.f]) * longer * size.adds
        mm = one * self.counts
        grows = np.where(size.grows, mm, 0.0)
        whole = grows.sum(1)
        if not (whole > 0).all():
            return np.ones(len(theta)), np.zeros(theta.shape), np.zeros(len(theta))
        fixed = mm - grows
        part = (size.mm - theta[:, at.f] - fixed.sum(1)) / whole
        met = np.maximum(part, LEAST_PART)
        away = 1.0 / (met * whole)
        slope = np.zeros(theta.shape)
        slope[:, at.p : at.f] = -grows / whole[:, None] - fixed * away[:, None]
        slope[:, at.f] = -away
        slope[:, at.soft : at.grams] = slope[:, at.p : at.f].sum(1)[:, None] * size.kinds
        return met, slope, (one * mm).sum(1) * away**2

    def log(self, at: Layout, theta: Array) -> tuple[Array, Array]:
        """Logarithm (g,) of the cord of the ends together, and its derivatives (g, n)."""
        taken = self.of(at, theta)
        total = taken.total.sum(1)
        return np.log(total), (taken.total[..., None] * taken.slope).sum(1) / total[:, None]

    def bend(self, at: Layout, theta: Array) -> Array:
        """Second derivatives (g, n, n) of that logarithm, by differences of the first."""
        g, n = theta.shape
        step = np.full(n, STEP)
        step[at.f] = STEP * 100  # the only one in mm
        moved = theta[:, None] + np.concatenate([np.diag(step), -np.diag(step)])
        slope = self.log(at, moved.reshape(-1, n))[1].reshape(g, 2, n, n)
        bent = (slope[:, 0] - slope[:, 1]) / (2 * step[:, None])
        return np.asarray((bent + np.swapaxes(bent, 1, 2)) / 2)
