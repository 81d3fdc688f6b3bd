"""Is the uncertainty true? Simulated designers drawn from the priors; the intervals must cover what they claim."""

import math

import numpy as np
import pytest

from dim_ladder.calibrate import Reading, Tie, calibrate, prior_for
from dim_ladder.calibrate.expected import layout, prior_gaussian
from dim_ladder.calibrate.grid import FAR, SELDOM, SITTING_SCALE, TAU_SCALE, UNIT_SCALE
from dim_ladder.calibrate.observe import READING_MM
from dim_ladder.notation import parse_strict
from dim_ladder.scale.cuts import limits_for
from helpers.designers import RECORDS, designer
from helpers.sizes import LONG, sized
from helpers.trials import BUOY, RISK, judged
from helpers.weaves import TERN, stiff

DESIGNERS = sized(200, 2000)
PIECES = 5  # a maker goes on to tie, so that the rate of running short is known better than the bound asks
COUNTS = {"bar": 11}
TIDE = ("tide.a", "tide.b")
BOUNDS = 0.88, 0.92  # with so many designers; fewer tell less, by three binomial standard errors
CLAIMED = 0.9


@pytest.mark.parametrize("ties", [0, 1, 3, 10])
def test_intervals_cover_and_the_chosen_risk_is_met(ties):
    """Over designers of every way of keeping records: nine in ten intervals of 90 % hold, and one in fifty runs short."""
    rng = np.random.default_rng(20261126 + ties)
    prior = prior_for(stiff(parse_strict(TERN)))
    none = calibrate(None, [], prior)
    found = np.zeros((DESIGNERS, 6))
    for k in range(DESIGNERS):
        who = designer(rng, prior)
        record = RECORDS[k % len(RECORDS)]
        tied = [who.tie(f"T{i}", int(rng.integers(4, 13)), record) for i in range(ties)]
        c = calibrate(None, tied, prior) if tied else none
        rate = 0.05 <= c.per_unit("leader", "bar").chance_below(who.rates["leader"]) <= 0.95
        found[k] = *judged(c, [who.piece(COUNTS["bar"]) for _ in range(PIECES)]), rate
    shares = dict(
        zip(
            ("end", "cord", "length", "short", "short cord", "rate"), found.mean(axis=0).tolist(), strict=True
        )
    )
    covered = {k: v for k, v in shares.items() if not k.startswith("short")}
    slack = 0.0 if LONG else 3 * math.sqrt(CLAIMED * (1 - CLAIMED) / DESIGNERS)
    assert all(BOUNDS[0] - slack <= v <= BOUNDS[1] + slack for v in covered.values()), covered
    # Three binomial standard errors of one piece each.
    error = 3 * math.sqrt(RISK * (1 - RISK) / DESIGNERS)
    assert all(abs(shares[k] - RISK) < error for k in ("short", "short cord")), shares


def test_the_tail_is_that_of_brute_force():
    """One cord measured as a whole, nothing else: everything drawn from what is assumed beforehand and weighed by how well it
    fits the reading says the same of one of its ends."""
    prior = prior_for(stiff(parse_strict(TERN)))
    used, units = 1450.0, 9
    reading = Reading(ends=BUOY, cut_mm=4000.0, left_mm=4000.0 - used)
    c = calibrate(None, [Tie(id="T1", counts={"bar": units}, readings=(reading,))], prior)
    spread = c.need("buoy.a", COUNTS)
    rng = np.random.default_rng(20261127)
    n, eleven = 1_500_000, COUNTS["bar"]
    at = layout(prior, 1)
    kinds = tuple(set(prior.kind_of.values()))
    seldom = int(SELDOM * n)
    theta = np.concatenate(
        [rng.multivariate_normal(*prior_gaussian(prior, kinds, 0, far), size) for far, size in ((1.0, n - seldom), (FAR, seldom))]
    )  # fmt: skip
    tau, sat, unit = (np.abs(s * rng.standard_normal(n)) for s in (TAU_SCALE, SITTING_SCALE, UNIT_SCALE))
    tau = np.hypot(tau, sat)
    r, other = (prior.roles.index(prior.role_of[e]) for e in BUOY)
    names = list(prior.role_of)
    each = [at.each + names.index(e) for e in BUOY]
    a, b = (
        np.exp(theta[:, [r, other]]).T,
        np.exp(theta[:, [at.b + r, at.b + other]] + theta[:, [at.soft]] + theta[:, each]).T,
    )
    expected = (a + units * b).sum(0) * np.exp(tau * rng.standard_normal(n))
    noise = 2 * READING_MM**2 + units * unit**2 * (b**2).sum(0)
    weight = np.exp(-0.5 * (used - expected) ** 2 / noise) / np.sqrt(noise)
    piece = (a + b * eleven) * np.exp(tau * rng.standard_normal(n))
    piece += unit * b * math.sqrt(eleven) * rng.standard_normal((2, n))
    effective = weight.sum() ** 2 / (weight**2).sum()
    for chance in (0.5, 0.9, 0.95, 0.98, 0.99):
        above = float(weight @ (piece[0] > spread.quantile(chance)) / weight.sum())
        left = 1 - chance
        # Three standard errors of the weighing, and a twelfth of the chance for what is approximate.
        assert abs(above - left) < 3 * math.sqrt(left * chance / effective) + left / 12, (chance, above)
    # And of a cord cut for 1 in 50, whichever of its ends it is that is short.
    limits = limits_for(c, BUOY, COUNTS, RISK)
    short = (piece[0] > limits["buoy.a"]) | (piece[1] > limits["buoy.b"])
    found = float(weight @ short / weight.sum())
    assert abs(found - RISK) < 3 * math.sqrt(RISK / effective) + RISK / 8
    # And of the whole piece, whichever of its cords is short: the other one was not measured, but it is drawn up by the same hands.
    both = limits | limits_for(c, TIDE, COUNTS, RISK)
    tension = rng.standard_normal(n)
    anything = np.zeros(n, bool)
    for e in both:
        role = prior.roles.index(prior.role_of[e])
        b = np.exp(theta[:, at.b + role] + theta[:, at.soft] + theta[:, at.each + names.index(e)])
        used_up = (np.exp(theta[:, role]) + eleven * b) * np.exp(tau * tension)
        anything |= used_up + unit * b * math.sqrt(eleven) * rng.standard_normal(n) > both[e]
    found, said = float(weight @ anything / weight.sum()), c.chance_short(both, COUNTS)
    assert RISK < said < 2 * RISK
    assert abs(found - said) < 3 * math.sqrt(said / effective) + said / 8


@pytest.mark.parametrize("ties", [0, 3])
@pytest.mark.parametrize("one_sitting", [False, True])
def test_a_cut_for_a_length_is_met_too(ties, one_sitting):
    """Tied until it is as long as it should be, ends measured by themselves or together, on one day or on several."""
    prior = prior_for(stiff(parse_strict(TERN)))
    rng = np.random.default_rng([20261128, ties, one_sitting])
    many = DESIGNERS // 2
    found = np.zeros((many, 2))
    none = calibrate(None, [], prior)
    for k in range(many):
        who = designer(rng, prior, one_sitting=one_sitting)
        tied = [who.tie(f"T{i}", int(rng.integers(4, 13)), RECORDS[k % len(RECORDS)]) for i in range(ties)]
        c = calibrate(None, tied, prior) if tied else none
        mm = c.length(COUNTS).median
        need, limits = c.need(BUOY[0], COUNTS, mm), limits_for(c, BUOY, COUNTS, RISK, mm)
        pieces = [who.until(mm)[0] for _ in range(PIECES)]
        found[k] = (
            np.mean([0.05 <= need.chance_below(p[BUOY[0]]) <= 0.95 for p in pieces]),
            np.mean([any(p[e] > limits[e] for e in BUOY) for p in pieces]),
        )
    covered, short = found.mean(axis=0).tolist()
    assert abs(covered - CLAIMED) <= 0.02 + 3 * math.sqrt(CLAIMED * (1 - CLAIMED) / many), covered
    assert abs(short - RISK) <= 0.005 + 3 * math.sqrt(RISK * (1 - RISK) / many), short
