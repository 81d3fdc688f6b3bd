"""What a remnant can still become, and what a unit more costs: against trying every size."""

from __future__ import annotations

import json

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate
from dim_ladder.cli import run
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan, solve
from dim_ladder.scale.reach import largest_size, more_words, one_more, reach_words
from dim_ladder.shelf.workshop import make_demo
from helpers.ties import tie
from helpers.weaves import TERN

WEAVE = parse_strict(TERN)
CALIBRATION = calibrate(WEAVE, [tie("T1"), tie("T2", 9, 1.03), tie("T3", 5, 0.99)])


def cuts(plan: Plan) -> dict[str, float]:
    return {c.cord: c.cut_mm for c in solve(WEAVE, CALIBRATION, plan).cuts}


@pytest.mark.parametrize(
    ("have", "risk"),
    [({"buoy": 1500.0}, 0.02), ({"buoy": 2100.0}, 0.1), ({"buoy": 2000.0, "tide": 560.0}, 0.02)],
)
def test_the_largest_size_does_and_the_next_does_not(have, risk):
    plan = Plan(risk=risk)
    reach = largest_size(WEAVE, CALIBRATION, plan, have)

    def fits(size: float) -> bool:
        need = cuts(plan.model_copy(update={"size_mm": size}))
        return all(need[c] <= mm for c, mm in have.items())

    assert fits(reach.size_mm)
    assert not fits(reach.size_mm + 1)
    # Whole units jump: nothing above it does by more than a unit's length.
    assert not any(fits(reach.size_mm + k) for k in range(30, 120, 10))
    assert reach.why.endswith("is too short for more")


def test_more_cord_reaches_farther_and_more_risk_too():
    sizes = [
        largest_size(WEAVE, CALIBRATION, Plan(), {"buoy": mm}).size_mm for mm in (1200, 1600, 2200, 3000)
    ]
    assert sizes == sorted(sizes)
    assert sizes[0] < sizes[-1]
    safe, daring = (
        largest_size(WEAVE, CALIBRATION, Plan(risk=r, tail_mm=0.0, hold_mm=0.0), {"buoy": 1800}).size_mm
        for r in (0.01, 0.2)
    )
    assert safe < daring


def test_too_little_does_for_nothing_and_says_so():
    reach = largest_size(WEAVE, CALIBRATION, Plan(), {"buoy": 90.0})
    assert reach.piece is None
    assert reach.size_mm == 0
    assert "does for no size" in reach_words(reach, {"buoy": 90.0}, Plan(), "metric")
    with pytest.raises(InputError, match="there is no cord “gull”"):
        largest_size(WEAVE, CALIBRATION, Plan(), {"gull": 900.0})


def test_a_unit_more_costs_what_the_ties_say():
    piece = solve(WEAVE, CALIBRATION, Plan())
    more = one_more(WEAVE, CALIBRATION, piece)
    # 66 + 70 and twice 17 mm a unit in the ties; a little more, as it is to do as surely.
    assert more["bar"]["buoy"] == pytest.approx(136, rel=0.12)
    assert more["bar"]["tide"] == pytest.approx(34, rel=0.2)
    assert more_words(more, "metric").startswith("One more bar costs ")


def test_a_unit_more_costs_all_alike_that_change_places_whoever_has_the_knot_below():
    weave = parse_strict(
        'weave "Fob"\ncords\n  a  nylon-3mm  #1f6f8b\n  b  nylon-3mm  #e07a1f\nhang on ring\n  a.a b.a\n'
        "section body: body, fit\n  snake (1 | 2)\nsection end: finish\n  stopper (2)\n"
    )
    found = calibrate(weave, ())
    for size in (120, 125, 130, 135):
        piece = solve(weave, found, Plan(target="length", size_mm=size))
        more = one_more(weave, found, piece)["body"]
        assert more["a"] == pytest.approx(more["b"], rel=0.15)
        cut = {c.cord: c.cut_mm for c in piece.cuts}
        # After an even number it is b that hangs where the knot comes, after an odd one a.
        assert (cut["b"] > cut["a"]) == (piece.counts["body"] % 2 == 0)


def test_the_command_line_says_both(tmp_path, capsys):
    make_demo(tmp_path)
    tern = str(tmp_path / "tern-ladder.dimladder")
    assert run(["scale", tern, "--girth", "17cm", "--have", "buoy=1.9m", "--json"]) == 0
    body = json.loads(capsys.readouterr().out)
    assert 150 < body["reach"]["size_mm"] < 200
    assert body["one_more"]["bar"]["buoy"] > 50
    assert run(["scale", tern, "--girth", "17cm", "--have", "buoy=1.9m"]) == 0
    out = capsys.readouterr().out
    assert "1.90 m of buoy can become a girth of up to" in out
    assert "One more bar costs" in out
