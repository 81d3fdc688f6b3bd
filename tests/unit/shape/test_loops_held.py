"""Knots that hold by a loop which is left standing: the loop is held aside while they are drawn up, and stands to its length then."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.joined import whole
from dim_ladder.shape.standing import with_loops
from dim_ladder.shape.tighten import job_for, pulled
from helpers.restarts import begun_elsewhere

ONE = """weave "Loops In A Row"
cords
  line  nylon-4mm  #3f7a4a
hang on bar
  line.a
section loops: body, repeat 3
  {}
"""
TWO = """weave "Loop And Tail"
cords
  line  nylon-4mm  #3f7a4a
  tide  nylon-4mm  #1f6f8b
hang on bar
  line.a tide.a
section head: start
  {}
"""


def reach(line):
    """How far a line lies from the middle of its own two ends."""
    return float(np.abs(line[:, 0] - (line[0, 0] + line[-1, 0]) / 2).max())


@pytest.mark.parametrize(("text", "section"), [(ONE, "loops"), (TWO, "head")])
def test_a_butterfly_is_a_knot_in_line_with_its_cord(text, section):
    weave = parse_strict(text.format("butterfly (1)"))
    shape = tight(weave, section)
    assert shape.converged
    assert 3 < shape.pitch < 7
    # Two overhand knots through each other take some 25 diameters; the loop is counted to the millimetre beside them.
    assert 20 < shape.per_end["line.a"] < 33
    assert shape.taken_mm()["line.a"] == pytest.approx(shape.per_end["line.a"] * 4 + 60)
    line = shape.lines[shape.ends.index("line.a")]
    assert abs(line[0, 0] - line[-1, 0]) < 1.5
    assert reach(line) < 6
    assert 5 < reach(with_loops(shape)[shape.ends.index("line.a")]) - reach(line) < 10


def test_another_length_of_loop_changes_nothing_of_the_knot():
    knot = tight(parse_strict(TWO.format("butterfly (1)")), "head")
    assert job_for(parse_strict(TWO.format("butterfly (2)")), "head").curves.aside != ()
    other = tight(parse_strict(TWO.format("butterfly (2)")), "head")
    assert other.per_end["tide.a"] == pytest.approx(knot.per_end["line.a"], rel=0.15)


def test_every_unit_of_a_row_of_loops_is_drawn():
    weave = parse_strict(ONE.format("butterfly (1)"))
    shape = tight(weave, "loops")
    found = whole(weave, {"loops": shape}, {"loops": 3})
    out = found.strands[0].line
    far = np.abs(out[:, 0]) > 5
    assert int((np.diff(far.astype(int)) == 1).sum()) == 3
    assert found.length_mm == pytest.approx(3 * shape.pitch * 4, rel=0.25)


def test_a_slipped_knot_stands_by_its_bight():
    shape = tight(parse_strict(TWO.format("slip (1)")), "head")
    assert shape.converged
    (stands,) = shape.standing
    assert stands.mm == 48
    assert shape.pitch < 4
    assert shape.per_end["tide.a"] == pytest.approx(shape.pitch, rel=0.05)


def test_loops_round_others_are_drawn_up_as_before():
    job = job_for(parse_strict(TWO.format("1: over 2, under 2, up own, leave 20 mm")), "head")
    assert job.loops == job.tips == ()


def test_two_loops_side_by_side_are_drawn_up_by_themselves():
    shape = tight(parse_strict(TWO.format("butterfly (1)\n  butterfly (2)")), "head")
    assert set(shape.per_end) == {"line.a", "tide.a"}
    assert len(shape.lines) == len(shape.standing) == 2


def test_an_overhand_knot_holds_by_itself():
    job = job_for(parse_strict(TWO.format("overhand (1)")), "head")
    assert job.loops == ()


@pytest.mark.parametrize("knot", ["butterfly (1)", "wrap-5 (1 | 2)"])
def test_begun_elsewhere_a_knot_that_is_tied_once_is_as_long(knot):
    """However much of a tail lies against the bends that it leads past, and wherever turns rode up on each other on the way."""
    job = job_for(parse_strict(TWO.format(knot)), "head")
    found = [[*pulled(j)][-1] for j in (job, *(begun_elsewhere(job, seed) for seed in (5, 11)))]
    assert all(s.converged for s in found)
    pitches, cords = [s.pitch for s in found], [sum(s.per_end.values()) for s in found]
    assert max(pitches) < 1.03 * min(pitches)
    assert max(cords) < 1.02 * min(cords)
