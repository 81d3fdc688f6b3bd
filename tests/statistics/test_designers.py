"""Does it judge well? Slips are found, sound ties are left alone, cord is saved, advice is worth following."""

import math

import numpy as np
import pytest

from dim_ladder.calibrate import prior_for
from dim_ladder.notation import parse_strict
from helpers.sizes import sized
from helpers.trials import SLIPS, cuts, detected, followed, waste_ratios
from helpers.weaves import TERN, stiff


@pytest.fixture(scope="module")
def prior():
    return prior_for(stiff(parse_strict(TERN)))


def test_sound_ties_are_left_alone(prior):
    rng = np.random.default_rng(41)
    n = sized(60, 400)
    alarms = sum(detected(rng, prior, "")[0] for _ in range(n))
    # One in a hundred is expected, three standard errors more are allowed.
    assert alarms <= n / 100 + 3 * math.sqrt(n / 100)


@pytest.mark.parametrize(("slip", "found", "named"), [("exchanged", 0.95, 0.9), ("inches", 0.9, 0.85), ("other end", 0.85, 0.85), ("miscounted", 0.5, 0.4)])  # fmt: skip
def test_slips_are_found_and_named(prior, slip, found, named):
    assert slip in SLIPS
    rng = np.random.default_rng(42)
    results = np.array([detected(rng, prior, slip) for _ in range(sized(40, 300))])
    assert results[:, 0].mean() >= found
    assert results[:, 1].mean() >= named


def test_less_cord_is_wasted_than_by_rule_or_by_a_line(prior):
    rng = np.random.default_rng(43)
    rule, line = waste_ratios(np.array([cuts(rng, prior, 3) for _ in range(sized(80, 600))]))
    assert rule > 1.5
    assert line > 1.2


def test_following_the_advice_narrows_more_than_ties_at_random(prior):
    rng = np.random.default_rng(44)
    results = np.array([followed(rng, prior) for _ in range(sized(10, 100))])
    gain = np.log(results[:, 1] / results[:, 0])
    assert gain.mean() > 0.03
