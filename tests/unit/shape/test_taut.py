"""Cord that hangs idle beside work runs the shortest way to where it is taken up again, and through nothing."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.eased import Cord
from dim_ladder.shape.joined import whole
from dim_ladder.shape.rope import along_of
from dim_ladder.shape.taut import ROOM, drawn_taut

HANGER = """weave "Hanger"
cords
  a  cotton-3mm  #d8c39a
  b  cotton-3mm  #c9a13b
  c  cotton-3mm  #7a5236
hang on bar
  a.a b.a c.a c.b b.b a.b
section sides: body, repeat {units}
  snake (1 | 2)
  square (3 | 4 | 5)
section join: finish
  wrap-3 (6 | 1..5)
"""


def _line(*corners):
    points = np.array(corners, float)
    along = along_of(points)
    at = np.arange(0.0, along[-1], 0.25)
    return np.column_stack([np.interp(at, along, points[:, k]) for k in range(3)])


def _cord(line, idle):
    return Cord(line, np.full(len(line), idle), 1.0, np.full(len(line), idle))


def test_with_nothing_in_its_way_it_is_straight():
    line = _line((0, 0, 0), (6, 1, 0), (6, 20, 0), (1, 21, 0))
    far = _line((40, 0, 0), (40, 20, 0))
    taut, _ = drawn_taut([_cord(line, True), _cord(far, False)], [line, far])
    assert along_of(taut)[-1] == pytest.approx(np.linalg.norm(line[-1] - line[0]), rel=0.001)
    assert taut[0] == pytest.approx(line[0])
    assert taut[-1] == pytest.approx(line[-1])
    (alone,) = drawn_taut([_cord(line, True)], [line])
    assert along_of(alone)[-1] == pytest.approx(np.linalg.norm(line[-1] - line[0]), rel=0.001)


@pytest.mark.parametrize("wide", [1.0, 2.5, 4.0])
def test_it_goes_round_a_post_as_a_string_does(wide):
    """A rail stands across its way, on the side it comes from: it touches it, and its two legs are straight."""
    rail = _line((wide, 10, -6), (wide, 10, 6))
    line = _line((0, 0, 0), (wide + 3, 1, 0), (wide + 3, 19, 0), (0, 20, 0))
    taut, _ = drawn_taut([_cord(line, True), _cord(rail, False)], [line, rail])
    # Two tangents to a circle as far round the rail as both cords take, and the arc between them.
    far, angle = np.hypot(10.0, wide), np.arctan2(10.0, wide)
    turn = 2 * np.pi - 2 * (angle + np.arccos(ROOM / far))
    shortest = 2 * np.sqrt(far**2 - ROOM**2) + ROOM * turn
    assert along_of(taut)[-1] == pytest.approx(shortest, rel=0.02)
    gap = np.linalg.norm(taut[:, None] - rail[None], axis=2).min()
    assert gap > 0.95 * ROOM


def test_a_cord_that_is_not_idle_stays_as_it_lies():
    line = _line((0, 0, 0), (6, 1, 0), (6, 20, 0), (1, 21, 0))
    (same,) = drawn_taut([_cord(line, False)], [line])
    assert (same == line).all()


@pytest.mark.parametrize("units", [4, 7])
def test_in_a_piece_it_has_no_corner_and_is_in_no_other_cord(units):
    weave = parse_strict(HANGER.format(units=units))
    shapes = {s.name: tight(weave, s.name) for s in weave.sections}
    made = whole(weave, shapes, {"sides": units, "join": 1})
    lone = made.strands[5].line  # hangs from the bar to the wrap
    mm = shapes["sides"].pitch * units
    beside = lone[(lone[:, 1] > 0.15 * mm) & (lone[:, 1] < 0.85 * mm)]
    way = np.diff(beside, axis=0)
    way /= np.linalg.norm(way, axis=1)[:, None]
    assert (way[1:] * way[:-1]).sum(axis=1).min() > 0.9
    for s in made.strands[:5]:
        gap = np.linalg.norm(beside[:, None] - s.line[None], axis=2).min()
        assert gap > 0.7 * (s.diameter + made.strands[5].diameter) / 2
