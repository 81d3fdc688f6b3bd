"""The rough rule against the tight shape: how far down work reaches and what cord it takes, from its crossings alone."""

import math

import pytest

from dim_ladder.shape import rough_shape, tight
from helpers.weaves import weave_of

KNOTS = {
    "snake (1 | 2)": 2,
    "diamond-2 (1 | 2)": 2,
    "button (1)": 1,
    "wall-3 (1 | 2 | 3)": 3,
    "half-right (1 | 2 3 | 4)": 4,
    "plait-5 (1 | 2 | 3 | 4 | 5)": 5,
    "bar-right (1 | 2..6)": 6,
    "carrick-mat (1+2 | 3+4)": 4,
    "snake (1+2 | 3+4)": 4,
}


def _rough(count, *lines):
    """Pitch and cord of all ends."""
    found = rough_shape(weave_of(count, *lines))
    section = found.sections[0]
    return section.pitch, sum(section.per_role[r] for r in found.roles.role_of.values())


@pytest.mark.parametrize("line", KNOTS)
def test_a_knot_is_as_tall_and_takes_as_much_as_it_does_within_its_spread(line):
    """The rows of a diamond were counted one below the other: 17 diameters instead of 4."""
    weave = weave_of(KNOTS[line], line)
    shape, guess = tight(weave, "s"), rough_shape(weave)
    pitch, cord = _rough(KNOTS[line], line)
    assert abs(math.log(pitch / shape.pitch * shape.period)) < 2 * guess.spread
    assert abs(math.log(cord / sum(shape.per_end.values()) * shape.period)) < 2 * guess.spread


def test_knots_below_each_other_add_up_however_that_is_told():
    pitch, cord = _rough(2, "snake (1 | 2)")
    for lines in (["snake (1 | 2) repeat 5"], ["snake (1 | 2)"] * 5):
        long, much = _rough(2, *lines)
        assert long == pytest.approx(5 * pitch)
        assert much == pytest.approx(5 * cord, rel=0.01)


def test_knots_beside_each_other_do_not_add_to_the_length():
    alone, cord = _rough(2, "snake (1 | 2)")
    pitch, both = _rough(4, "snake (1 | 2)", "snake (3 | 4)")
    assert pitch == pytest.approx(alone)
    assert both == pytest.approx(2 * cord)
