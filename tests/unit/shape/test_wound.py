"""What is wound round a core and does nothing else: turn against turn, its core straight."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight

HEAD = """weave "Whipping"
cords
  line  {line}  #c22f2b
  core  nylon-4mm  #d8c39a
  post  nylon-4mm  #1f6f8b
  reed  nylon-4mm  #3f7a4a
hang
  {hang}
section s: {how}
  {step}
"""


def wound(step, hang="line.a core.a", line="nylon-4mm", how="body"):
    return tight(parse_strict(HEAD.format(line=line, hang=hang, step=step, how=how)), "s")


@pytest.mark.parametrize(
    ("step", "turns"), [("round core.a 1", 1), ("round core.a 2", 2), ("round core.a 1 behind", 1)]
)
def test_turn_lies_against_turn_on_a_straight_core(step, turns):
    shape = wound(f"line.a: {step}")
    assert shape.converged
    assert shape.angle == 0.0
    assert shape.pitch == pytest.approx(
        0.93 * turns, rel=0.05
    )  # a turn is as long as the cord is thick, which gives a little
    assert shape.per_end["core.a"] == pytest.approx(shape.pitch, rel=0.02)
    # Round a core as thick as itself, which gives too: between half and all of the way round where neither gave.
    assert np.pi < shape.per_end["line.a"] / turns < 2 * np.pi
    assert shape.width == pytest.approx(shape.thickness, rel=0.05)


def test_at_a_finish_as_in_a_body_and_beside_what_hangs_idle():
    one = wound("line.a: round core.a 1")
    many = wound("line.a: round core.a 8", how="finish")
    beside = wound("line.a: round core.a 1", hang="line.a core.a post.a")
    assert many.per_end["line.a"] == pytest.approx(8 * one.per_end["line.a"], rel=0.05)
    assert many.pitch == pytest.approx(8 * one.pitch, rel=0.05)
    assert beside.per_end["line.a"] == pytest.approx(one.per_end["line.a"], rel=0.01)
    assert beside.per_end["post.a"] == pytest.approx(beside.pitch, rel=0.01)


def test_thin_cord_round_a_bundle():
    shape = wound(
        "line.a: round core.a post.a reed.a 1", hang="line.a core.a post.a reed.a", line="nylon-2mm"
    )
    mm = shape.unit_mm
    assert shape.converged
    assert shape.pitch * mm < 4.0
    assert 4 * 3.5 < shape.per_end["line.a"] * mm < 4 * 9.0  # once round three cords of 4 mm
    for e in ("core.a", "post.a", "reed.a"):
        assert shape.per_end[e] == pytest.approx(shape.pitch, rel=0.02)


@pytest.mark.parametrize("how", ["body", "finish"])
def test_two_wound_as_one_lie_side_by_side_and_take_twice_the_room(how):
    one = wound("line.a: round core.a 2", how=how)
    two = wound("line.a+post.a: round core.a 2", hang="line.a post.a core.a", how=how)
    assert two.converged
    assert two.pitch == pytest.approx(2 * one.pitch, rel=0.06)
    assert two.per_end["line.a"] == pytest.approx(two.per_end["post.a"], rel=0.03)
    # On a screw of twice the pitch: as far round, and twice as far along.
    round_it = np.sqrt((one.per_end["line.a"] / 2) ** 2 - (one.pitch / 2) ** 2)
    assert two.per_end["line.a"] / 2 == pytest.approx(np.hypot(round_it, one.pitch), rel=0.06)
    assert two.width == pytest.approx(one.width, rel=0.16)


def test_hitches_of_two_as_one_take_more_room_on_a_straight_runner():
    """Turn beside turn, where they would lie on each other if one went inside the other."""
    step = "{0}: over core.a, under core.a, up own"
    one = wound(step.format("line.a"))
    two = wound(step.format("line.a+post.a"), hang="line.a post.a core.a")
    assert two.converged
    assert 1.15 * one.pitch < two.pitch < 2.2 * one.pitch
    assert two.per_end["core.a"] < 1.1 * two.pitch
    assert two.per_end["line.a"] == pytest.approx(two.per_end["post.a"], rel=0.06)
