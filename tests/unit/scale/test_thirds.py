"""One cord folded in thirds: four strands, one length, two folds."""

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate
from dim_ladder.notation import parse, parse_strict, write
from dim_ladder.publish.sheet import cut_rows
from dim_ladder.scale import Plan, cut_list, solve
from dim_ladder.trace import trace
from helpers.weaves import TERN

HEAD = TERN.split("cords")[0]
THIRDS = (
    HEAD
    + "cords\n  buoy  nylon-4mm  #e07a1f\n\nhang on thirds\n  buoy.a buoy.m buoy.n buoy.b\n\nknot"
    + TERN.split("knot", 1)[1]
)


def test_the_legs_of_the_middle_third_hang_and_only_there():
    weave = parse_strict(THIRDS)
    assert parse_strict(write(weave)) == weave
    assert not trace(weave).problems
    wrong = parse(THIRDS.replace("hang on thirds", "hang on ring"))
    assert "buoy.m is not an end" in wrong.problems[0].message
    with pytest.raises(InputError):
        parse_strict(THIRDS.replace("buoy.m", "buoy.q"))


def test_the_cut_is_all_four_strands_and_its_folds_are_where_the_thirds_end():
    weave = parse_strict(THIRDS)
    calibration = calibrate(weave, ())
    counts = {"bar": 12}
    (cut,) = cut_list(weave, calibration, counts, Plan(risk=0.02, step_mm=10))
    by = {e.end.split(".")[1]: e for e in cut.ends}
    assert list(by) == ["a", "m", "n", "b"]
    assert cut.cut_mm >= sum(e.need_mm for e in cut.ends) > cut.cut_mm - 10
    assert by["m"].tail_mm == by["n"].tail_mm == 0 < by["a"].tail_mm
    a, b = cut.folds_mm
    assert a == pytest.approx(by["a"].need_mm, abs=10)
    assert b == pytest.approx(by["b"].need_mm, abs=10)
    between = cut.cut_mm - a - b
    assert between == pytest.approx(by["m"].need_mm + by["n"].need_mm, abs=10)
    # The workers eat more than the core, as everyone knows who ties.
    assert a > between
    assert cut.long_end == ""


def test_the_sheet_says_where_to_fold():
    weave = parse_strict(THIRDS)
    piece = solve(weave, calibrate(weave, ()), Plan())
    (row,) = cut_rows(piece, "metric")
    assert row.fold.startswith("fold ")
    assert "from A" in row.fold
    assert "from D" in row.fold
    assert row.fold.endswith("is the core")
