"""A positive quantity with its uncertainty: a weighted mixture of log-normals, in closed form."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
ROOT = math.sqrt(2 * math.pi)
SURE = 1e-12  # standard deviation of what is known for sure


def _ndtr(x: Array) -> Array:
    from scipy.special import ndtr  # slow to load, and most questions are asked on threads

    return np.asarray(ndtr(x), np.float64)


@dataclass(frozen=True)
class Spread:
    """parts : (weight, median, sd of the logarithm); weights sum to 1. Unit: that of the medians. A median of 0 is
    nothing, for sure: an end that a section does not touch. shift : what comes to it exactly, as free cord does."""

    parts: tuple[tuple[float, float, float], ...]
    shift: float = 0.0

    @cached_property
    def _all(self) -> Array:
        """(parts, 3)."""
        return np.array(self.parts, np.float64).reshape(-1, 3)

    @property
    def mean(self) -> float:
        return self.shift + self._own_mean

    @property
    def _own_mean(self) -> float:
        w, m, s = self._all.T
        return float((w * m * np.exp(s * s / 2)).sum())

    @property
    def sd(self) -> float:
        w, m, s = self._all.T
        second = float((w * m * m * np.exp(2 * s * s)).sum())
        return math.sqrt(max(second - self._own_mean**2, 0.0))

    def plus(self, mm: float) -> Spread:
        """With so much more, exactly."""
        if not mm:
            return self
        out = Spread(self.parts, self.shift + mm)
        out.__dict__.update(_all=self._all, _log_parts=self._log_parts)  # the parts are the same
        return out

    def chance_above(self, x: float) -> float:
        """Probability that the quantity exceeds x."""
        x -= self.shift
        if x <= 0:
            return 1.0
        weight, middle, sd = self._log_parts
        return float(weight @ _ndtr((middle - math.log(x)) / sd))

    def chance_below(self, x: float) -> float:
        """Probability that the quantity is at most x."""
        return 1.0 - self.chance_above(x)

    def quantile(self, p: float) -> float:
        """The value that is not exceeded with probability p (0 < p < 1), to a relative 1e-9."""
        if not 0 < p < 1:
            raise ValueError("a quantile needs a probability between 0 and 1")
        weight, middle, sd = self._log_parts
        none = float(self._all[self._all[:, 1] <= 0, 0].sum())
        if not len(weight) or p <= none:
            return self.shift
        lo, hi = float((middle - 9 * sd).min()), float((middle + 9 * sd).max())
        x = float(weight @ middle / weight.sum())
        for _ in range(120):
            u = (x - middle) / sd
            below = none + float(weight @ _ndtr(u))
            slope = float(weight @ (np.exp(-0.5 * u * u) / sd)) / ROOT
            lo, hi = (x, hi) if below < p else (lo, x)
            if hi - lo < 1e-11:
                break
            # Newton's step where it stays between what is known, half of that where it does not.
            step = (p - below) / slope if slope > 0 else math.inf
            if abs(step) < 1e-11:
                break
            x = x + step if lo < x + step < hi else (lo + hi) / 2
        return self.shift + math.exp(x)

    @cached_property
    def _log_parts(self) -> tuple[Array, Array, Array]:
        """Weight, logarithm of the median and its standard deviation, of the parts that are something."""
        some = self._all[self._all[:, 1] > 0]
        return some[:, 0], np.log(some[:, 1]), np.maximum(some[:, 2], SURE)

    @property
    def median(self) -> float:
        return self.quantile(0.5)

    def interval(self, part: float) -> tuple[float, float]:
        """The central interval that holds with probability `part`."""
        return self.quantile((1 - part) / 2), self.quantile((1 + part) / 2)
