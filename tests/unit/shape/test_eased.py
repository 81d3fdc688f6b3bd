"""Cord that is led from section to section goes past other cord, not through it."""

import numpy as np
import pytest
from scipy.spatial import cKDTree

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.eased import Cord, cords, drawn_up, eased
from dim_ladder.shape.joined import whole
from dim_ladder.shape.parted import free_between
from dim_ladder.shape.worked import by_end

DOWN = np.array([0.0, 1.0, 0.0])


def between(a, b, n=41):
    return np.linspace(np.array(a, float), np.array(b, float), n)


def free(line, thick=1.0):
    return Cord(line, np.ones(len(line), bool), thick, np.zeros(len(line), bool))


def fast(line, thick=1.0):
    return Cord(line, np.zeros(len(line), bool), thick, np.zeros(len(line), bool))


def apart(one, other):
    return cKDTree(other).query(one)[0].min()


@pytest.mark.parametrize("tilt", [0.0, 0.1, -0.1])
def test_two_that_would_cross_go_past_each_other(tilt):
    one, other = between((-1, 0, tilt), (1, 5, tilt)), between((1, 0, 0), (-1, 5, 0))
    a, b = eased([free(one), free(other)])
    assert apart(one, other) < 0.15
    assert apart(a, b) > 0.65
    for before, after in ((one, a), (other, b)):  # where they come from, and lead to, they stay
        assert after[[0, -1]] == pytest.approx(before[[0, -1]])
    if tilt:  # what lay in front goes in front
        assert np.sign((a[20] - b[20])[2]) == np.sign(tilt)


def test_what_was_drawn_up_stays_and_the_other_goes_all_the_way():
    one, other = between((0, 0, 0), (0, 6, 0)), between((-2, 3, 0), (2, 3, 0))
    a, b = eased([free(one), fast(other)])
    assert np.array_equal(b, other)
    assert apart(a, b) > 0.65


def test_what_goes_past_anyway_is_left_alone():
    lines = [between((0, 0, 0), (0, 6, 0)), between((-2, 3, 0.8), (2, 3, 0.8))]
    for before, after in zip(lines, eased([free(x) for x in lines]), strict=True):
        assert np.array_equal(before, after)
    assert eased([]) == []
    short = [between((-0.2, 0, 0), (0.2, 0.4, 0), 3), between((0.2, 0, 0), (-0.2, 0.4, 0), 3)]
    for before, after in zip(short, eased([free(x) for x in short]), strict=True):  # there is no room for it
        assert np.array_equal(before, after)


def test_of_a_section_only_its_ends_and_what_hangs_free_give_way():
    wave = np.column_stack([np.sin(np.arange(0, 10, 0.2)), np.arange(0, 10, 0.2), np.zeros(50)])
    loose = drawn_up(wave, 1.0)
    assert loose[0]
    assert loose[-1]
    assert not loose[10:40].any()
    hangs = np.vstack([wave, between(wave[-1] + 0.1 * DOWN, wave[-1] + 4 * DOWN, 20), wave + 15 * DOWN])
    found = drawn_up(hangs, 1.0)
    assert found[52:68].all()
    assert not found[10:40].any()
    first, second = cords(
        [wave, wave + 12 * DOWN],
        {1},
        [(1, DOWN, 3.0), (2, DOWN, 0.0)],
        1.0,
    )
    assert np.ptp(first.line[:, 1]) == pytest.approx(9.8 + 3.0)
    assert not first.loose[10:40].any()
    assert second.loose.all()


def test_ends_of_cord_that_was_laid_in_are_led_on_from_where_they_leave_their_knot():
    weave = parse_strict(
        """weave "Cross"
cords
  bow nylon-4mm #1f6f8b
  spar nylon-4mm #e07a1f
hang on ring
  bow.a bow.b
section cross: start
  add spar.a spar.b under 1 2
  crown-4 (1 | 2 | 3 | 4)
"""
    )
    shape = tight(weave, "cross")
    found = {e: (line, out) for e, line, out in by_end(shape, shape.ends, shape.lines, 1.0)}
    for e in ("bow.a", "bow.b"):
        assert found[e][1] == 0
    for e in ("spar.a", "spar.b"):
        line, out = found[e]
        others = np.vstack([x for o, (x, _) in found.items() if o.partition(".")[0] != "spar"])
        assert out > 0
        assert cKDTree(others).query(line[-out:])[0].min() > 0.9  # what is only held out touches nothing
        assert cKDTree(others).query(line[:-out])[0].min() < 0.9


WORKS = {
    "knots with free cord between them": """weave "Knots Apart"
cords
  line satin-2mm #b5482a
  mate satin-2mm #1f6f8b
hang on loop
  line.a mate.a
section first: body, repeat 4
  double-connection (1 | 2)
  span 20 mm
section knob: finish
  button-two (1 | 2)
""",
    "a wall and a crown above a round plait": """weave "Wader Fob"
cords
  a nylon-4mm #1f6f8b
  b nylon-4mm #e07a1f
hang on ring
  a.a b.a b.b a.b
section head: start
  crown-wall-4 (1 | 2 | 3 | 4)
section plait: body, repeat 4
  round-4 (1 | 2 | 3 | 4)
section foot: finish
  crown-wall-4 (1 | 2 | 3 | 4)
""",
    "a coat of thinner cord": """weave "Coat"
cords
  tide nylon-4mm #1f6f8b
  buoy nylon-3mm #e07a1f
hang
  buoy.a tide.a tide.b buoy.b
section bar: body, repeat 6
  larks-head (1 | 2 3)
  larks-head (4 | 3 2)
section coat: body, layer over bar, repeat 4
  half-right (1 | 2 bar 4 | 5)
  half-left (1 | 2 bar 4 | 5)
""",
}


@pytest.mark.parametrize("name", WORKS)
def test_no_cord_of_a_whole_piece_goes_through_another(name):
    weave = parse_strict(WORKS[name])
    shapes = {s.name: tight(weave, s.name) for s in weave.sections}
    counts = {s.name: s.count.number for s in weave.sections}
    piece = whole(weave, shapes, counts, free={s.name: free_between(weave, s.name) for s in weave.sections})
    own = [s for s in piece.strands if s.end >= 0]
    for k, one in enumerate(own):
        for other in own[k + 1 :]:
            # Below the folds, where two ends of a cord are one.
            a, b = (s.line[s.line[:, 1] > piece.begin - 1.0] for s in (one, other))
            assert apart(a, b) > 0.38 * (one.diameter + other.diameter) / 2
