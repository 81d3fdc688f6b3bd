"""What a piece is expected to take, of given shared parameters."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.prior import Array

Key = tuple[tuple[int, ...], tuple[float, ...]]


class Layout(NamedTuple):
    """Where parameters stand in the shared vector: a (roles), b (roles x sections), p (sections), f, softness and mass of a
    metre (kinds)."""

    roles: int
    sections: int
    kinds: int
    b: int
    p: int
    f: int
    soft: int
    grams: int
    size: int


@dataclass(frozen=True, slots=True)
class Asked:
    """The cord of some ends in a piece. roles : (ends,) which. counts : (sections,) units. now : (ends, kinds) of which kinds
    of cord they are."""

    roles: NDArray[np.int64]
    counts: Array
    now: Array

    @property
    def key(self) -> Key:
        """The same for ends of the same roles."""
        return tuple(sorted(self.roles.tolist())), tuple(self.counts.tolist())

    def of(self, at: Layout, theta: Array) -> tuple[Array, Array, Array]:
        """For shared parameters theta (g, n): expected cord (g, ends), derivatives of its logarithm (g, ends, n), and what a
        relative variance of 1 of every unit adds to the relative variance of the whole (g, ends)."""
        b = np.exp(theta[:, at.b : at.p].reshape(-1, at.roles, at.sections)[:, self.roles])
        b = b * np.exp(theta[:, at.soft : at.grams] @ self.now.T)[..., None]
        a, units = np.exp(theta[:, self.roles]), b * self.counts
        worked = units.sum(2)
        totals = a + worked
        gradient = np.zeros((*totals.shape, at.size))
        each = np.arange(len(self.roles))
        gradient[:, each, self.roles] = a / totals
        for s in range(at.sections):
            gradient[:, each, at.b + self.roles * at.sections + s] = units[..., s] / totals
        gradient[..., at.soft : at.grams] = self.now * (worked / totals)[..., None]
        return totals, gradient, (b * units).sum(2) / totals**2

    def log(self, at: Layout, theta: Array) -> tuple[Array, Array]:
        """Logarithm (g,) of the cord of the ends together, and its derivatives (g, n)."""
        totals, gradient, _ = self.of(at, theta)
        total = totals.sum(1)
        return np.log(total), (totals[..., None] * gradient).sum(1) / total[:, None]

    def bend(self, at: Layout, slope: Array) -> Array:
        """Second derivatives (g, n, n) of that logarithm, where its derivatives are slope (g, n): it is the logarithm of a sum
        of exponentials."""
        kinds = np.zeros((at.p, at.kinds))
        for r, one in zip(self.roles, self.now, strict=True):
            kinds[at.b + r * at.sections : at.b + (r + 1) * at.sections] = one
        along = np.zeros((at.p, at.size))
        along[:, : at.p] = np.eye(at.p)
        along[:, at.soft : at.grams] = kinds
        return (along.T * slope[:, None, : at.p]) @ along - slope[..., None] * slope[:, None]
