"""Where a join lies: as much cord from the fold as the end has taken by then."""

from __future__ import annotations

import itertools

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan, solve
from dim_ladder.scale.joining import join_behind, joined_cords, unit_of_join
from helpers.weaves import JOINED

WEAVE = parse_strict(JOINED)


def test_every_unit_further_down_is_one_units_cord_further():
    c = calibrate(WEAVE, ())
    piece = solve(WEAVE, c, Plan(fastening="none"))
    assert joined_cords(WEAVE) == {"buoy": "tide"}
    at = [join_behind(WEAVE, c, "buoy", n, piece.counts) for n in range(1, piece.counts["bar"] + 1)]
    each = c.per_unit(c.prior.role_of["tide.a"], "bar").median
    own = c.prior.own[list(c.prior.role_of).index("tide.a"), 0]
    for a, b in itertools.pairwise(at):
        assert b - a == pytest.approx(each * own, abs=0.11)
    start = join_behind(WEAVE, c, "buoy", 0, piece.counts)
    assert 0 < start < at[0]


@pytest.mark.parametrize("unit", [0, 1, 3, 8])
def test_what_is_chosen_is_found_again_and_both_cords_are_cut_for_it(unit):
    c = calibrate(WEAVE, ())
    plan = Plan(fastening="none", step_mm=0.01)
    piece = solve(WEAVE, c, plan)
    mm = join_behind(WEAVE, c, "buoy", unit, piece.counts)
    moved = parse_strict(JOINED.replace("joined to tide", f"joined to tide {mm:g} mm"))
    again = calibrate(moved, ())
    assert unit_of_join(moved, again, "buoy", piece.counts)[0] == unit
    before = {x.cord: x.cut_mm for x in piece.cuts}
    after = {x.cord: x.cut_mm for x in solve(moved, again, plan).cuts}
    assert after["buoy"] - before["buoy"] == pytest.approx(mm, abs=0.05)
    assert before["tide"] - after["tide"] == pytest.approx(mm, abs=0.05)


def test_a_unit_that_is_not_there_and_a_cord_that_is_not_joined_are_refused():
    c = calibrate(WEAVE, ())
    with pytest.raises(InputError, match="bar has 4 units"):
        join_behind(WEAVE, c, "buoy", 5, {"bar": 4})
    with pytest.raises(InputError, match="not joined"):
        join_behind(WEAVE, c, "tide", 1, {"bar": 4})
    with pytest.raises(InputError, match="from the fold"):
        join_behind(WEAVE, c, "buoy", 400, {"bar": 500})
    assert unit_of_join(WEAVE, c, "buoy", {"bar": 500})[1] < 400
