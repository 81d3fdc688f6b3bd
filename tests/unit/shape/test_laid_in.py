"""Cord that is laid in by its fold hangs on nothing: hands hold its two ends aside and draw it up to what is there."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.aside import let_down
from dim_ladder.shape.tighten import job_for

HEAD = """weave "Sluice Start"
cords
  core  nylon-4mm  #1b2e5a
  work  nylon-4mm  #e07a1f
  third nylon-3mm  #e0b020
hang on loop
  core.a core.b
section head: start
"""


def head(*lines):
    return parse_strict(HEAD + "".join(f"  {line}\n" for line in lines))


@pytest.mark.parametrize(
    ("before", "reach"), [("snake (1 | 2)", 4.5), ("half-hitch (1 | 2)", 4.0), ("diamond-2 (1 | 2)", 7.0)]
)
def test_it_is_drawn_up_to_the_knot_above_it(before, reach):
    shape = tight(head(before, "add work.a work.b under 1 2"), "head")
    assert shape.converged
    assert shape.pitch < reach
    # Straight across behind what hangs there, and no more.
    assert shape.per_end["work.a"] == pytest.approx(shape.per_end["work.b"], rel=0.1)
    assert shape.per_end["work.a"] < 3.5


@pytest.mark.parametrize("before", ["snake (1 | 2)", "diamond-2 (1 | 2)"])
def test_ends_that_were_alike_before_it_came_take_equally_much(before):
    cord = tight(head(before, "add work.a work.b under 1 2"), "head").per_end
    assert cord["core.a"] == pytest.approx(cord["core.b"], rel=0.1)
    # What is led once more is not alike any more.
    led = job_for(head(before, "add work.a work.b under 1 2", "core.a: over core.b"), "head")
    assert led.curves.alike == ()


def test_what_hangs_beside_it_is_not_drawn_apart():
    shape = tight(head("snake (1 | 2)", "add work.a work.b under 1 2"), "head")
    hung = [line for line, e in zip(shape.lines, shape.ends, strict=True) if "+" not in e]
    assert float(np.ptp(np.concatenate([line[:, 0] for line in hung]))) < 4.0


def test_half_knots_on_it_are_as_in_a_body():
    shape = tight(
        head("add work.a work.b under 1 2", "half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"), "head"
    )
    assert shape.converged
    # Two half knots of 11 diameters each, and its fold behind.
    assert 9 < shape.per_end["work.a"] < 16
    assert shape.pitch < 5.5


def test_a_sliding_knot_of_two_half_knots_is_a_knot():
    weave = parse_strict("""weave "Closed Ring"
cords
  main   polyester-1mm  #f2c230
  two    polyester-1mm  #3f7a4a
  slide  polyester-1mm  #b5482a
hang on cold-start
  main.a two.a
section left: body, fit
  snake (1 | 2)
section turnabout: start
  rotate
section right: body, same as left
  snake (1 | 2)
section closure: finish
  add slide.a slide.b under main.a main.b
  half-right (slide.a | main.a main.b | slide.b)
  half-left (slide.b | main.a main.b | slide.a)
""")
    shape = tight(weave, "closure")
    assert shape.converged
    assert shape.pitch < 5
    assert 12 < shape.per_end["slide.a"] < 22


def test_two_that_are_laid_in_lie_one_below_the_other_or_beside():
    shape = tight(head("add work.a work.b under 1 2", "add third.a third.b at 3", "snake (3 | 4)"), "head")
    assert shape.converged
    assert shape.pitch < 4


def test_what_is_only_led_across_is_no_core():
    job = job_for(head("1: over 2", "add work.a work.b under 1 2"), "head")
    assert set(job.curves.pull) == {1.0}
    assert not any(job.curves.apart)


def test_it_hangs_down_from_where_it_is_caught():
    line = np.column_stack([np.linspace(-9, 9, 91), np.zeros(91), np.zeros(91)])
    hung = let_down(line, 40, 50, 2.0)
    assert hung[0, 1] == hung[-1, 1] == 5.0
    assert -2 < hung[0, 0] < 0 < hung[-1, 0] < 2
    assert np.linalg.norm(np.diff(hung, axis=0), axis=1).max() < 6
    assert np.abs(hung[:, 0]).max() < 2


def test_a_cord_that_is_laid_in_and_laid_aside_again_stays_out_to_both_sides():
    """A bow tied on to two ends: both of its tails take the same, and none is led back through itself."""
    text = """weave "Kite Tail"
cords
  spine  nylon-2mm  #1b2e5a
  bow    satin-2mm  #c22f2b
hang on ring
  spine.a spine.b
section bow: start
  add bow.a bow.b under 1 2
  {}
  drop 1 4
"""
    for knots in ("square (1 | 2 3 | 4)", "half-right (1 | 2 3 | 4)"):
        shape = tight(parse_strict(text.format(knots)), "bow")
        assert shape.converged
        assert not shape.passed
        assert shape.per_end["bow.a"] == pytest.approx(shape.per_end["bow.b"], rel=0.05)
        assert shape.pitch < 4.5


def test_knots_of_other_ends_lie_close_beside_each_other():
    text = """weave "Two Knobs"
cords
  spine  nylon-2mm  #1b2e5a
hang on ring
  spine.a spine.b
section end: finish
  {} (1)
  {} (2)
"""
    for knot in ("stopper", "figure-eight", "overhand"):
        shape = tight(parse_strict(text.format(knot, knot)), "end")
        assert shape.converged
        assert shape.width < 7.0
        gap = min(float(np.linalg.norm(a[:, None] - b[None], axis=2).min()) for a, b in [shape.lines[:2]])
        assert 0.6 < gap < 3.0
