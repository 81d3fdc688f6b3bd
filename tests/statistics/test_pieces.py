"""Ten thousand pieces, tied by hands of which nothing is known yet, run short as often as the cut says: a cord, and the whole piece.

Then what is believed is what is drawn from, without an approximation between. With ties it is weighed by brute force in test_coverage.py.
"""

from __future__ import annotations

import math

import numpy as np
import pytest

from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan, solve
from helpers.weaves import PLAIT, SPIRAL, TERN, stiff

PIECES = 10_000


@pytest.mark.parametrize("risk", [0.1, 0.02])
@pytest.mark.parametrize(("script", "section"), [(TERN, "bar"), (PLAIT, "reed"), (SPIRAL, "bar")])
def test_the_chance_of_a_cord_and_of_a_piece_is_met(script, section, risk):
    weave = stiff(parse_strict(script))
    prior = prior_for(weave)
    rng = np.random.default_rng(20261129)
    c = calibrate(weave, ())
    n = 12
    plan = Plan(target="length", size_mm=250, fastening="none", chosen={section: n}, risk=risk, step_mm=0.01)
    piece = solve(weave, c, plan)
    assert piece.tied_to_mm == 0  # so many units, whatever length they make
    at, belief = c.layout, c.belief
    which = rng.choice(len(belief.weight), PIECES, p=belief.weight / belief.weight.sum())
    theta = np.array(
        [rng.multivariate_normal(belief.mean[k], belief.cov[k], method="cholesky") for k in which]
    )
    tension = np.hypot(belief.grid.tau[which], belief.grid.sitting[which]) * rng.standard_normal(PIECES)
    names, kinds = list(prior.role_of), list(dict.fromkeys(prior.kind_of.values()))
    s = prior.sections.index(section)
    used = {}
    for e, role in prior.role_of.items():
        r = prior.roles.index(role)
        kind = prior.kind_of[e.partition(".")[0]] if e not in prior.kind_of else prior.kind_of[e]
        unit = np.exp(
            theta[:, at.b + r * at.sections + s] + theta[:, at.each + names.index(e)] + theta[:, at.soft + kinds.index(kind)]
        ) * prior.own[names.index(e), s]  # fmt: skip
        total = (np.exp(theta[:, r]) + n * unit) * np.exp(tension)
        total += belief.grid.unit[which] * unit * math.sqrt(n) * rng.standard_normal(PIECES)
        used[e] = total + float(prior.slack[e][s]) * n
    anything = np.zeros(PIECES, bool)
    for cut in piece.cuts:
        short = np.zeros(PIECES, bool)
        for end in cut.ends:
            short |= used[end.end] > end.need_mm - end.tail_mm
        anything |= short
        # What is cut to hold, where that is more than the chance asks, runs short less often.
        met(short.mean(), cut.chance_short)
        assert cut.chance_short <= risk * 1.02
    met(anything.mean(), piece.chance_short)


def met(found: float, said: float) -> None:
    """Within three standard errors of so many pieces, and an eighth of the chance for what is approximate in it."""
    assert abs(found - said) < 3 * math.sqrt(max(said, 1 / PIECES) / PIECES) + said / 8, (found, said)
