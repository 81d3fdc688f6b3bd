"""Is the uncertainty true? Simulated designers drawn from the priors; the intervals must cover what they claim."""

import math

import numpy as np
import pytest

from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.notation import parse_strict
from helpers.designers import RECORDS, designer
from helpers.weaves import TERN

DESIGNERS = 2000
COUNTS = {"bar": 11}
RISK = 0.02
BOUNDS = 0.88, 0.92


@pytest.mark.parametrize("ties", [0, 1, 3, 10])
def test_intervals_cover_and_the_chosen_risk_is_met(ties):
    """Over designers of every way of keeping records: nine in ten intervals of 90 % hold, and one in fifty runs short."""
    rng = np.random.default_rng(20261126 + ties)
    prior = prior_for(parse_strict(TERN))
    inside = np.zeros(4)
    short = 0
    for k in range(DESIGNERS):
        who = designer(rng, prior)
        record = RECORDS[k % len(RECORDS)]
        c = calibrate_for(prior, [who.tie(f"T{i}", int(rng.integers(4, 13)), record) for i in range(ties)])
        used, length = who.piece(COUNTS["bar"])
        cord = used["buoy.a"] + used["buoy.b"]
        spreads = (
            c.need("buoy.a", COUNTS),
            c.together(("buoy.a", "buoy.b"), COUNTS),
            c.length(COUNTS),
            c.per_unit("leader", "bar"),
        )
        for n, (spread, truth) in enumerate(
            zip(spreads, (used["buoy.a"], cord, length, who.rates["leader"]), strict=True)
        ):
            inside[n] += 0.05 <= spread.chance_below(truth) <= 0.95
        short += spreads[0].chance_above(used["buoy.a"]) < RISK
    covered = dict(zip(("end", "cord", "length", "rate"), (inside / DESIGNERS).tolist(), strict=True))
    assert all(BOUNDS[0] <= v <= BOUNDS[1] for v in covered.values()), covered
    # Three binomial standard errors.
    assert abs(short / DESIGNERS - RISK) < 3 * math.sqrt(RISK * (1 - RISK) / DESIGNERS)


def calibrate_for(prior, ties):
    """No weave is needed where the prior is there."""
    return calibrate(None, ties, prior)
