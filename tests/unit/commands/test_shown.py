"""What the ladder shows below a body hangs as it does in the size that is chosen."""

import pytest

from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.commands.shown import place_again, place_of, shown_counts
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan, solve
from dim_ladder.trace import trace

PLAIT = """weave "Rail"
cords
  a  cotton-5mm  #1f6f8b
  b  cotton-5mm  #e07a1f
  c  cotton-5mm  #3f7a4a
hang
  a.a b.a c.a
section plait: body, COUNT
  3: over 2
  1: over 2
section knot: finish
  half-hitch (1 | 2)
"""


def work(count):
    return parse_strict(PLAIT.replace("COUNT", count))


@pytest.mark.parametrize(
    ("count", "units"), [("repeat 1", 1), ("repeat 2", 2), ("repeat 3", 3), ("repeat 5", 2)]
)
def test_units_come_round_in_cycles(count, units):
    weave = work(count)
    shown = shown_counts(weave, None, Plan())
    assert shown.get("plait", 1) == units
    few, all_of_them = trace(weave, counts=shown), trace(weave)
    assert few.names_shown() == all_of_them.names_shown()


def test_what_grows_follows_the_size():
    weave = work("fit")
    c = calibrate(weave, (), prior_for(weave, shapes={}))
    seen = set()
    for mm in (300, 310, 320, 330, 340):
        plan = Plan(target="length", size_mm=mm, fastening="none")
        units = solve(weave, c, plan).counts["plait"]
        shown = shown_counts(weave, c, plan)
        seen.add(shown.get("plait", 1))
        assert trace(weave, counts=shown).names_shown() == trace(weave, counts={"plait": units}).names_shown()
    assert len(seen) > 1


def test_no_size_no_calibration_and_a_broken_weave_are_answered():
    assert shown_counts(work("fit"), None, Plan()) == {}
    assert shown_counts(work("fit multiple of 3"), None, Plan()) == {"plait": 3}
    broken = parse_strict(PLAIT.replace("COUNT", "fit").replace("(1 | 2)", "(1 | 9)"))
    assert shown_counts(broken, None, Plan()) == {}


def test_a_rung_is_found_again_however_many_units_stand_above_it():
    weave = work("repeat 2")
    one, two = trace(weave, counts={"plait": 1}), trace(weave)
    for i, r in enumerate(one.steps):
        place = place_of(one, i)
        again = place_again(two, place)
        assert two.steps[again].op == r.op
        assert two.steps[again].knot_step == r.knot_step
    assert place_again(one, place_of(two, 2)) == -1  # of the second unit
    assert place_again(one, None) == -1


def test_of_a_section_without_what_follows_one_unit_is_enough():
    weave = parse_strict(PLAIT.replace("COUNT", "repeat 2").partition("section knot")[0])
    assert shown_counts(weave, None, Plan()) == {}
