"""The usual band on a buckle: every end is core on the way there and works on the way back."""

import pytest

from dim_ladder.calibrate import calibrate
from dim_ladder.notation import parse, parse_strict, write
from dim_ladder.publish import build_sheet
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.publish.sheet import cut_rows
from dim_ladder.scale import Plan, cut_list, solve
from dim_ladder.scale.cuts import given_cut, given_words
from dim_ladder.trace import trace
from dim_ladder.trace.roles import roles

BAR = """section bar: body, fit pairs
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)

section end: finish
  cut-and-melt (1 | 4)
"""
ONE = f'weave "One"\n\ncords\n  line  nylon-4mm  #1f6f8b\n\nhang on there-and-back\n  line.a line.m line.n line.b\n\n{BAR}'
TWO = ONE.replace(
    "  line  nylon-4mm  #1f6f8b", "  tide  nylon-4mm  #1f6f8b\n  buoy  nylon-4mm  #e07a1f"
).replace("line.a line.m line.n line.b", "tide.a tide.m buoy.m buoy.a")
# The same band with a core of its own, as it had to be said before.
APART = TWO.replace("there-and-back", "buckle").replace(
    "tide.a tide.m buoy.m buoy.a", "buoy.a tide.a tide.b buoy.b"
)
RISK = Plan(risk=0.02, step_mm=10)


def test_it_is_read_written_and_traced():
    for text in (ONE, TWO):
        weave = parse_strict(text)
        assert parse_strict(write(weave)) == weave
        assert trace(weave).problems == ()
        role = roles(weave).role_of
        assert {e for e in role if role[e] == "filler"} == {
            e for e in weave.hang.ends if e.endswith((".m", ".n"))
        }
    assert (
        "hangs without the end it belongs to"
        in parse(TWO.replace("buoy.m buoy.a", "buoy.n buoy.a")).problems[0].message
    )
    assert "tide.m is not an end" in parse(TWO.replace("there-and-back", "buckle")).problems[0].message


@pytest.mark.parametrize("bars", [6, 12, 40])
def test_the_need_of_an_end_is_that_of_its_leg_and_its_work(bars):
    one, two, apart = (parse_strict(t) for t in (ONE, TWO, APART))
    cuts = {}
    for name, weave in (("one", one), ("two", two), ("apart", apart)):
        cuts[name] = cut_list(weave, calibrate(weave, ()), {"bar": bars}, RISK)
    (whole,) = cuts["one"]
    half, other = cuts["two"]
    core, work = sorted(cuts["apart"], key=lambda c: c.cut_mm)
    assert half.cut_mm == other.cut_mm
    assert whole.cut_mm == pytest.approx(2 * half.cut_mm, rel=0.1)
    # All in all it takes what core and workers take, but for the core's own hands and hanging.
    assert whole.cut_mm == pytest.approx(core.cut_mm + work.cut_mm, rel=0.25)
    length = calibrate(one, ()).length({"bar": bars}).median
    assert whole.leg_mm == half.leg_mm == pytest.approx(1.03 * length, abs=15)
    assert whole.long_end == ""
    assert whole.folds_mm == ()


def test_it_is_said_where_it_is_folded_or_joined():
    for text, words, hung in (
        (ONE, "on either side of the fold are the legs", "with the fold on the near half"),
        (TWO, "from where it is joined, are its leg", "joined by their ends on the near half"),
    ):
        weave = parse_strict(text)
        c = calibrate(weave, ())
        piece = solve(weave, c, Plan())
        assert all(words in row.fold for row in cut_rows(piece, "metric"))
        assert hung in build_sheet(weave, c, Plan(), SheetChoices()).hanging


def test_what_is_left_after_the_legs_is_what_runs_short():
    weave = parse_strict(ONE)
    c = calibrate(weave, ())
    (cut,) = cut_list(weave, c, {"bar": 12}, RISK)
    assert cut.chance_short == pytest.approx(0.02, abs=0.004)
    asked = given_cut(weave, c, {"bar": 12}, "line", cut.cut_mm)
    assert asked.chance_short == pytest.approx(cut.chance_short, rel=0.1)
    assert "folded in the middle" in given_words(asked, ("line.a", "line.m", "line.n", "line.b"), "metric")
    assert given_cut(weave, c, {"bar": 12}, "line", 2 * cut.leg_mm + 300).chance_short > 0.99
    two = parse_strict(TWO)
    assert "not folded" in given_words(
        given_cut(two, calibrate(two, ()), {"bar": 12}, "tide", 1500), two.hang.ends, "metric"
    )
