"""Headings: the knot a step begins, knots inside it, and what is held while it is tied."""

from __future__ import annotations

from dim_ladder.notation import parse_strict
from dim_ladder.trace import trace
from dim_ladder.words.gather import gathered

INNER = """weave "Inner"

cords
  hold  nylon-4mm  #1f6f8b
  work  nylon-4mm  #d98a1f

hang
  work.a hold.a hold.b work.b

knot gate (w | c.. | v)
  half-right (w | c | v)
  half-left (w | c | v)
  w: over c, to right

knot yard (w | c.. | v)
  gate (w | c | v)

knot back-gate = mirror gate

section row: body
  {call} (1 | 2 3 | 4)
"""


def test_knots_inside_a_knot_are_headed_by_their_names():
    for call, first in (("gate", "Gate: half knot"), ("yard", "Yard: gate: half knot")):
        lines = gathered(trace(parse_strict(INNER.format(call=call))))
        assert [x.heading for x in lines] == [
            f"{first} led from the right",
            "",
            "Half knot led from the left",
            "",
            "",
        ]
    # In a mirror they are others: none is named rather than the wrong one.
    lines = gathered(trace(parse_strict(INNER.format(call="back-gate"))))
    assert [x.heading for x in lines] == ["Back gate", "", "", "", ""]


def test_what_is_hitched_round_is_kept_straight_unless_both_go_round_each_other():
    bar = INNER.format(call="gate").replace("gate (1 | 2 3 | 4)", "double-hitch-right (1 | 2)")
    said = [x.sentence for x in gathered(trace(parse_strict(bar)))]
    assert [s.endswith(" Keep A straight.") for s in said] == [False, True, True]
    reef = INNER.format(call="gate").replace("gate (1 | 2 3 | 4)", "snake (1 | 2)")
    assert not any("straight" in x.sentence for x in gathered(trace(parse_strict(reef))))
