"""How long a unit takes, from the minutes of test ties.

log(minutes of a tie) = log(minutes of a step) + log(steps worked) + noise: with a normal prior, normal noise and its
spread on a grid, everything is in closed form.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.calibrate.prior import Prior
from dim_ladder.calibrate.spread import Spread
from dim_ladder.calibrate.ties import Tie

STEP_MINUTES, STEP_SPREAD = 0.25, 0.7  # of one step, before any tie was timed; sd of its logarithm
TIE_GRID = (0.08, 0.15, 0.25, 0.4)  # from tie to tie, relative
TIE_SCALE = 0.25


@dataclass(frozen=True, slots=True)
class Timing:
    """parts : weight, log of the minutes of a step, its sd, and the spread from tie to tie. moves : steps in a unit, by
    section. ties : how many were timed."""

    parts: tuple[tuple[float, float, float, float], ...]
    moves: dict[str, float]
    ties: int

    def unit(self, section: str) -> Spread:
        """Minutes of one unit, on the average of a new piece."""
        return self.piece({section: 1})

    def piece(self, counts: Mapping[str, float]) -> Spread:
        """Minutes of a new piece with these counts."""
        steps = sum(self.moves.get(s, 0.0) * n for s, n in counts.items())
        return Spread(tuple((w, math.exp(m) * steps, math.hypot(sd, tie)) for w, m, sd, tie in self.parts))


def timing(prior: Prior, ties: Sequence[Tie]) -> Timing:
    """What the timed ties say; with none, a wide guess from the number of steps."""
    moves = {s: float(m) for s, m in zip(prior.sections, prior.moves, strict=True)}
    logs = []
    for t in ties:
        steps = sum(moves.get(s, 0.0) * n for s, n in t.counts.items())
        if t.minutes and steps > 0:
            logs.append(math.log(t.minutes / steps))
    y = np.array(logs)
    n, mean0, var0 = len(logs), math.log(STEP_MINUTES), STEP_SPREAD**2
    parts = []
    for k, tie in enumerate(TIE_GRID):
        low = TIE_GRID[k - 1] if k else 0.0
        high = TIE_GRID[k + 1] if k + 1 < len(TIE_GRID) else tie + (tie - low)
        log = math.log((high - low) / 2) - 0.5 * (tie / TIE_SCALE) ** 2
        if n:
            # Evidence of n normal values with a normal mean.
            own = tie**2
            log += -0.5 * ((n - 1) * math.log(own) + math.log(own + n * var0))
            log += -0.5 * float(((y - y.mean()) ** 2).sum()) / own - 0.5 * n * (
                float(y.mean()) - mean0
            ) ** 2 / (own + n * var0)
        var = 1 / (1 / var0 + n / tie**2)
        mean = var * (mean0 / var0 + (float(y.sum()) / tie**2 if n else 0.0))
        parts.append((log, mean, math.sqrt(var), tie))
    top = max(p[0] for p in parts)
    weights = [math.exp(p[0] - top) for p in parts]
    total = sum(weights)
    return Timing(tuple((w / total, *p[1:]) for w, p in zip(weights, parts, strict=True)), moves, n)
