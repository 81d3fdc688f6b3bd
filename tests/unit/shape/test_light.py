"""Light on tight work, and corners that are round where cord turns."""

import numpy as np
import pytest

from dim_ladder.picture.display import PAPER
from dim_ladder.shape.light import shadows
from dim_ladder.shape.sheath import LIGHT, Look, cord_pieces


def line(x, y, z):
    return np.column_stack([x, y]).astype(float), np.asarray(z, float)


def test_a_cord_that_is_crossed_lies_in_the_shadow_of_what_crosses_it():
    u = np.linspace(-5, 5, 51)
    under = line(u, 0 * u, 0 * u)
    over = line(0 * u, u, 0 * u + 1.0)
    low, high = shadows([under, over], LIGHT)
    assert low.max() > 0.7
    assert high.max() == 0.0
    # It falls away from the light, which comes from the upper left.
    assert u[int(np.argmax(low))] > 0
    assert low[0] == low[-1] == 0.0


def test_what_lies_side_by_side_keeps_no_light_from_each_other():
    u = np.linspace(-5, 5, 51)
    beside = [line(u, 0 * u + k, 0 * u) for k in (0.0, 1.0)]
    assert all(s.max() == 0.0 for s in shadows(beside, LIGHT))
    assert shadows([], LIGHT) == []


def pieces(points):
    z = np.zeros((len(points), 1))
    return cord_pieces(np.hstack([points, z]), Look("#1f6f8b"), 20.0, 1.0, -1.0, PAPER)


def test_only_what_turns_back_asks_for_round_corners():
    t = np.linspace(0, 60, 31)
    straight = np.column_stack([t, 0.02 * t**2])
    back = np.vstack([straight, np.add(straight[-2::-1], [0.0, 1.0])])
    assert not any(x.turns for p in pieces(straight) for x in p.lines)
    assert any(x.turns for p in pieces(back) for x in p.lines)


def test_what_lies_in_shadow_is_darker():
    points = np.column_stack([np.linspace(0, 100, 51), np.zeros(51), np.zeros(51)])
    dark = np.where(np.arange(51) > 25, 1.0, 0.0)
    drawn = cord_pieces(points, Look("#c0c0c0"), 20.0, 1.0, -1.0, PAPER, dark_at=dark)
    bodies = [int(p.lines[1].colour[1:3], 16) for p in drawn]
    assert bodies[0] > bodies[-1] + 20
    assert bodies == pytest.approx(sorted(bodies, reverse=True))
