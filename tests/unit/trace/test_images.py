"""What is the same in a mirror, from behind, turned over or end for end, told from the diagram."""

from dataclasses import replace

import pytest

from dim_ladder.commands.checks import check_section
from dim_ladder.notation import Knot
from dim_ladder.trace import trace
from dim_ladder.trace.images import images
from helpers.weaves import weave_of


def seen(count, *lines):
    return images(trace(weave_of(count, *lines), units=1))


@pytest.mark.parametrize(
    ("count", "line", "kinds"),
    [(2, "half-knot-right (1 | 2)", {"turn", "end"}), (2, "carrick-mat (1 | 2)", {"turn", "end"}), (2, "snake (1 | 2)", {"turn", "end"}),
     (1, "overhand (1)", set()), (2, "half-hitch (1 | 2)", set())],
)  # fmt: skip
def test_knots_that_are_their_own_image(count, line, kinds):
    assert seen(count, line) == kinds


def test_three_strands_crossed_alike_from_either_side():
    # Left over the middle, right over the middle and back again, the same way: its own image end for end.
    assert "mirror" not in seen(3, "1: over 2", "3: over 2")
    # Comes undone; as drawn, either end lies over the other alike.
    assert seen(2, "1: over 2", "1: under 2") == {"turn"}
    assert seen(2, "1: over 2") == {"turn", "end"}


@pytest.mark.parametrize("kind", ["mirror", "flip"])
def test_an_image_of_a_knot_that_has_a_hand_is_another_knot(kind):
    """Oracle: the mirror image of a half knot has the other sign, so neither mirror nor flip may be found in it."""
    weave = weave_of(2, "half-knot-right (1 | 2)")
    other = replace(weave, knots=(Knot("m", derive=kind, source="half-knot-right"),))
    assert trace(other, units=1).problems == ()
    assert kind not in images(trace(weave, units=1))


def test_it_is_said_of_what_is_led_through_itself():
    notes = dict(check_section(weave_of(2, "carrick-mat (1 | 2)"), "s").notes)
    assert "Turned over, it is the same" in notes["alike"]
    assert "but not in colours" in notes["alike"]
