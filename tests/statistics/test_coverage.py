"""Is the uncertainty true? Simulated makers drawn from the priors; the intervals must cover what they claim."""

import math

import numpy as np
import pytest

from dim_ladder.calibrate import Reading, Tie, calibrate, prior_for
from dim_ladder.calibrate.model import FIXED_MM, FIXED_SD, OVERHEAD_SPREAD, READING_MM, TAU_SCALE, UNIT_SCALE
from dim_ladder.notation import parse_strict
from helpers.weaves import TERN

MAKERS = 250
COUNTS = {"bar": 11}


def simulate(rng, weave, prior, ties):
    """One maker: true rates from the prior, some logged ties, and what every end of one more piece really eats."""
    r, s = len(prior.roles), len(prior.sections)
    half = prior.spread / math.sqrt(2)
    b = prior.unit * np.exp(half * rng.standard_normal() + half * rng.standard_normal((r, s)))
    half = prior.pitch_spread / math.sqrt(2)
    p = prior.pitch * np.exp(half * rng.standard_normal() + half * rng.standard_normal(s))
    a = prior.overhead * np.exp(OVERHEAD_SPREAD * rng.standard_normal(r))
    fixed = FIXED_MM + FIXED_SD * rng.standard_normal()
    tau = min(0.11, abs(TAU_SCALE * rng.standard_normal()) + 0.005)
    unit = min(0.07, abs(UNIT_SCALE * rng.standard_normal()) + 0.005)

    def piece(n):
        t = tau * rng.standard_normal()
        u = 0.6 * t + 0.8 * tau * rng.standard_normal()
        used = {
            e: float(
                (a[i] + b[i, 0] * n) * math.exp(t) + unit * b[i, 0] * math.sqrt(n) * rng.standard_normal()
            )
            for e, role in prior.role_of.items()
            for i in [prior.roles.index(role)]
        }
        return used, float(p[0] * n * math.exp(u) + fixed)

    logged = []
    for k in range(ties):
        n = int(rng.integers(4, 13))
        used, length = piece(n)
        read = {e: max(1.0, u + READING_MM * rng.standard_normal()) for e, u in used.items()}
        readings = tuple(Reading(ends=(e,), cut_mm=9000, left_mm=9000 - v) for e, v in read.items())
        logged.append(
            Tie(
                id=f"T{k}",
                counts={"bar": n},
                length_mm=max(1.0, length + 2 * rng.standard_normal()),
                readings=readings,
            )
        )
    return tuple(logged), piece(COUNTS["bar"])


@pytest.mark.parametrize("ties", [0, 1, 3])
def test_intervals_cover_and_the_chosen_risk_is_met(ties):
    rng = np.random.default_rng(20261124 + ties)
    weave = parse_strict(TERN)
    prior = prior_for(weave)
    inside = short = length_inside = trials = 0
    for _ in range(MAKERS):
        logged, (used, length) = simulate(rng, weave, prior, ties)
        c = calibrate(weave, logged, prior)
        for end in ("buoy.a", "tide.a"):
            spread = c.need(end, COUNTS)
            lo, hi = spread.interval(0.9)
            inside += lo <= used[end] <= hi
            short += used[end] > spread.quantile(0.98)
            trials += 1
        lo, hi = c.length(COUNTS).interval(0.9)
        length_inside += lo <= length <= hi
    # Bounds are three binomial standard errors for `MAKERS` independent makers (two ends of one are not).
    error = 3 * math.sqrt(0.9 * 0.1 / MAKERS)
    assert abs(inside / trials - 0.9) < error
    assert abs(length_inside / MAKERS - 0.9) < error
    assert abs(short / trials - 0.02) < 3 * math.sqrt(0.02 * 0.98 / MAKERS)
