"""A positive quantity with its uncertainty: a weighted mixture of log-normals, in closed form."""

from __future__ import annotations

import math
from dataclasses import dataclass

ROOT = math.sqrt(2 * math.pi)


def _phi(z: float) -> float:
    return 0.5 * math.erfc(-z / math.sqrt(2))


@dataclass(frozen=True, slots=True)
class Spread:
    """parts : (weight, median, sd of the logarithm); weights sum to 1. Unit: that of the medians. A median of 0 is
    nothing, for sure: an end that a section does not touch."""

    parts: tuple[tuple[float, float, float], ...]

    @property
    def mean(self) -> float:
        return sum(w * m * math.exp(s * s / 2) for w, m, s in self.parts)

    @property
    def sd(self) -> float:
        second = sum(w * m * m * math.exp(2 * s * s) for w, m, s in self.parts)
        return math.sqrt(max(second - self.mean**2, 0.0))

    def chance_above(self, x: float) -> float:
        """Probability that the quantity exceeds x."""
        if x <= 0:
            return 1.0
        return sum(
            w * _phi((math.log(m) - math.log(x)) / s) if s > 0 and m > 0 else w * (m > x)
            for w, m, s in self.parts
        )

    def chance_below(self, x: float) -> float:
        """Probability that the quantity is at most x."""
        return 1.0 - self.chance_above(x)

    def quantile(self, p: float) -> float:
        """The value that is not exceeded with probability p (0 < p < 1), to a relative 1e-9."""
        if not 0 < p < 1:
            raise ValueError("a quantile needs a probability between 0 and 1")
        some = [(w, math.log(m), s) for w, m, s in self.parts if m > 0]
        none = sum(w for w, m, _ in self.parts if m <= 0)
        if not some or p <= none:
            return 0.0
        lo = min(m - 9 * s for _, m, s in some)
        hi = max(m + 9 * s for _, m, s in some)
        x = sum(w * m for w, m, _ in some) / sum(w for w, _, _ in some)
        for _ in range(120):
            below, slope = none, 0.0
            for w, m, s in some:
                if s > 0:
                    u = (x - m) / s
                    below += w * _phi(u)
                    slope += w * math.exp(-0.5 * u * u) / (s * ROOT)
                else:
                    below += w * (x >= m)
            lo, hi = (x, hi) if below < p else (lo, x)
            if hi - lo < 1e-11:
                break
            # Newton's step where it stays between what is known, half of that where it does not.
            step = (p - below) / slope if slope > 0 else math.inf
            if abs(step) < 1e-11:
                break
            x = x + step if lo < x + step < hi else (lo + hi) / 2
        return math.exp(x)

    @property
    def median(self) -> float:
        return self.quantile(0.5)

    def interval(self, part: float) -> tuple[float, float]:
        """The central interval that holds with probability `part`."""
        return self.quantile((1 - part) / 2), self.quantile((1 + part) / 2)
