"""Free cord of the whole piece goes straight from knot to knot, and a knot that is tied once is no longer than it is."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.joined import whole
from dim_ladder.shape.parted import free_between

FAN = """weave "Fan"
cords
  a  nylon-4mm  #d8c39a
  b  nylon-4mm  #3f7a4a
  c  nylon-4mm  #1f6f8b
hang on ring
  a.a a.b b.a b.b c.a c.b
section arms: body, repeat 4
  plait-3 (1 | 2 | 3)
  plait-3 (4 | 5 | 6)
section net: body, repeat 1
  span 40 mm
  reef (1 | 2)
  reef (5 | 6)
  square (2 | 3 4 | 5)
"""
LAID_IN = """weave "Wings"
cords
  body  nylon-4mm  #1f6f8b
  wing  nylon-4mm  #e07a1f
hang on ring
  body.a body.b
section neck: body, repeat 3
  snake (1 | 2)
section cross: start
  add wing.a wing.b under body.a body.b
  square (wing.a | body.a body.b | wing.b)
section tail: body, repeat 3
  square (1 | 2 3 | 4)
"""


def _piece(text, counts):
    weave = parse_strict(text)
    shapes = {s.name: tight(weave, s.name) for s in weave.sections}
    free = {s.name: free_between(weave, s.name) for s in weave.sections}
    return shapes, whole(weave, shapes, counts, free=free)


def test_cords_fan_out_over_the_free_cord_above_a_net():
    """From two plaits to knots further apart: over all of what is free, and not at a right angle at its upper end."""
    shapes, found = _piece(FAN, {"arms": 4, "net": 1})
    end_of_arms = 4 * shapes["arms"].pitch
    cords = [s for s in found.strands if s.end >= 0 and np.ptp(s.line[:, 1]) > 10]
    assert len(cords) == 6
    for s in cords:
        inside = (s.line[:, 1] > end_of_arms + 2.0) & (s.line[:, 1] < end_of_arms + 8.0)
        step = np.diff(s.line[inside], axis=0)
        aside, down = np.abs(step[:, 0]).sum(), np.abs(step[:, 1]).sum()
        assert down > 5.0
        assert aside < 0.8 * down
    outer = max(np.ptp(s.line[np.abs(s.line[:, 1] - end_of_arms - 5) < 4, 0]) for s in cords)
    assert outer > 0.8  # and they do fan out there


def test_the_tails_of_a_knot_that_is_tied_once_are_no_part_of_its_length():
    shapes, found = _piece(LAID_IN, {"neck": 3, "cross": 1, "tail": 3})
    long = 3 * shapes["neck"].pitch + shapes["cross"].pitch + 3 * shapes["tail"].pitch
    assert found.length_mm / found.unit_mm == pytest.approx(long, abs=4.0)


def test_cords_come_together_over_the_free_cord_below_a_net():
    """From a net to a narrow knot: over what is free below its last knot. Where nothing follows, that hangs straight."""
    text = """weave "Close"
cords
  a  cotton-3mm  #d8c39a
  b  cotton-3mm  #3f7a4a
  c  cotton-3mm  #c22f2b
hang on dowel
  a.a a.b b.a b.b c.a c.b
section net: body, repeat 2
  square (1 | 2 | 3)
  square (4 | 5 | 6)
  snake (3 | 4)
  span 24 mm
section close: finish
  wrap-3 (1 | 2 3 4 5 6)
"""
    shapes, found = _piece(text, {"net": 2, "close": 1})
    end = 2 * (shapes["net"].pitch + 8.0)  # with 24 mm of free cord in a unit, of 3 mm
    for s in (s for s in found.strands if s.end >= 0):
        inside = s.line[(s.line[:, 1] > end - 6.5) & (s.line[:, 1] < end - 1.0)]
        step = np.abs(np.diff(inside, axis=0)).sum(axis=0)
        assert step[1] > 4.5
        assert step[0] < 0.8 * step[1]
    outer = [s.line[np.abs(s.line[:, 1] - end + 4) < 2.5, 0] for s in found.strands if s.end in (0, 5)]
    assert max(np.ptp(x) for x in outer) > 0.5
    shapes, alone = _piece(text[: text.index("section close")], {"net": 2})
    assert alone.length_mm == pytest.approx(2 * (shapes["net"].pitch * 3 + 24), rel=0.05)
    for s in (s for s in alone.strands if s.end >= 0):
        assert s.line[:, 1].max() > end - 1.0
        assert np.ptp(s.line[s.line[:, 1] > end - 5.0, 0]) < 0.2
