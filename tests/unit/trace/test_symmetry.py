"""What is alike in a unit is said, what nearly is is pointed at."""

import pytest

from dim_ladder.commands.checks import check_section
from dim_ladder.notation import parse_strict, write
from dim_ladder.trace.symmetry import Symmetry, symmetries
from helpers.weaves import SPIRAL, TERN, weave_of

HALVES = ["half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"]


def kinds(weave):
    return {s.kind for s in symmetries(weave, "s") if s.odd is None}


@pytest.mark.parametrize(
    ("count", "lines", "same"),
    [
        (4, HALVES, {"mirror"}),
        (4, ["square (1 | 2 3 | 4)"], {"mirror"}),
        (4, HALVES[:1], set()),
        (3, ["3: over 2", "1: over 2"], {"mirror"}),
        (3, ["3: over 2", "3: under 2"], {"flip"}),
        (2, ["half-hitch (1 | 2)", "half-hitch-behind (1 | 2)"], {"flip"}),
        (2, ["1: over 2", "1: over 2"], {"turn", "end"}),
        (2, ["1: over 2", "1: under 2"], {"flip", "turn"}),
        (4, ["4: over 3 2", "1: over 2", "1: under 2"], set()),
        (2, ["button-two (1 | 2)"], set()),
    ],
)
def test_what_holds(count, lines, same):
    assert kinds(weave_of(count, *lines)) == same


def test_in_colours_or_not():
    text = weave_of(4, *HALVES)  # four cords, each of its own colour
    assert symmetries(text, "s") == (Symmetry("mirror", True, False),)
    notes = dict(check_section(text, "s").notes)
    assert notes["alike"] == "Left and right are alike, half a unit further along, but not in colours."
    assert notes["ends"] == "A and D take the same: the work treats them alike."
    net = weave_of(4, "reef (1 | 2)", "reef (3 | 4)", "reef (2 | 3)")
    notes = dict(check_section(net, "s").notes)  # each pair as much as each other, not as the other pair
    assert notes["ends"] == "A and D take the same, and so do B and C: the work treats them alike."


def test_one_knot_that_breaks_it_is_pointed_at():
    bar = HALVES * 3
    slipped = [*bar[:4], "half-hitch (1 | 2)", "half-left (1 | 2 3 | 4)"]
    (found,) = symmetries(weave_of(4, *slipped), "s")
    assert found.odd == (1, 4)
    note = dict(check_section(weave_of(4, *slipped), "s").notes)["alike"]
    assert note == (
        "Left and right are alike but for the 2nd knot and its counterpart, the 5th: if that was not meant, mirror one of them."
    )
    two = ["half-hitch (1 | 2)", "half-hitch (3 | 4)", *bar[2:]]
    assert not any(s.odd for s in symmetries(weave_of(4, *two), "s"))


@pytest.mark.parametrize(
    ("lines", "said"),
    [
        (["half-hitch (1 | 2)"], "C hangs loose beside B: the work goes round one half of that cord only."),
        (["larks-head (4 | 3)"], "B hangs loose beside C: the work goes round one half of that cord only."),
        (["larks-head (1 | 2 3)"], ""),
        (["half-hitch (1 | 2)", "half-hitch (4 | 3)"], ""),
        (["1: over 2", "4: over 3 2"], ""),
        (["4: over 3"], ""),  # the work has only begun
    ],
)
def test_a_cord_of_which_one_half_is_caught_is_pointed_out(lines, said):
    text = TERN[: TERN.index("section")] + "section s: body\n" + "".join(f"  {x}\n" for x in lines)
    assert dict(check_section(parse_strict(text), "s").notes).get("half", "") == said


def test_an_end_beside_its_own_leg_is_not_half_of_a_cord():
    text = TERN[: TERN.index("section")].replace("hang\n", "hang on there-and-back\n")
    text = text.replace("buoy.a tide.a tide.b buoy.b", "buoy.a buoy.m tide.m tide.a")
    weave = parse_strict(text + "section s: body\n  half-hitch (4 | 3)\n  larks-head (4 | 2 3)\n")
    assert "half" not in dict(check_section(weave, "s").notes)


def test_what_is_meant_to_turn_is_no_slip_and_what_does_not_turn_then_is_one():
    curl = parse_strict(SPIRAL.replace("section bar: body, fit pairs", "section bar: body, fit, spiral"))
    assert parse_strict(write(curl)) == curl
    notes = dict(check_section(curl, "bar").notes)
    assert "spiral" not in notes
    assert notes["meant"].startswith("It turns, as it is meant to")
    assert "mirrored" not in notes["meant"]
    flat = parse_strict(TERN.replace("section bar: body, fit pairs", "section bar: body, fit pairs, spiral"))
    assert dict(check_section(flat, "bar").notes)["slip"].startswith("It is meant to turn, and does not.")
    assert "spiral" in dict(check_section(parse_strict(SPIRAL), "bar").notes)


TWO_ARMS = """weave "Two Arms"
cords
  a  cotton-3mm  #1f6f8b
  b  cotton-3mm  #e07a1f
  c  cotton-3mm  #3f7a4a
hang
  a.a a.b b.a b.b c.a c.b
section left: body, fit
{left}
section right: body, same as left
{right}
"""
LEFT = ("half-right (1 | 2 | 3)", "half-left (1 | 2 | 3)", "half-right (1 | 2 | 3)", "half-left (1 | 2 | 3)")


def _arms(left, right):
    text = TWO_ARMS.format(left="\n".join(f"  {x}" for x in left), right="\n".join(f"  {x}" for x in right))
    return dict(check_section(parse_strict(text), "right").notes).get("arms", "")


@pytest.mark.parametrize(
    ("right", "said"),
    [
        (("half-right (4 | 5 | 6)", "half-left (4 | 5 | 6)", "half-right (4 | 5 | 6)", "half-left (4 | 5 | 6)"), "Worked alike: the same as left."),
        (("half-left (4 | 5 | 6)", "half-right (4 | 5 | 6)", "half-left (4 | 5 | 6)", "half-right (4 | 5 | 6)"), "Worked alike: the mirror image of left."),
        (("half-right (4 | 5 | 6)", "half-left (4 | 5 | 6)", "half-right (4 | 5 | 6)", "half-right (4 | 5 | 6)"), "but for its 4th knot"),
        (("half-hitch (4 | 5)", "half-left (4 | 5 | 6)", "half-left (4 | 5 | 6)", "half-right (4 | 5 | 6)"), ""),
        (("button (4)",), ""),
        ((), ""),
        (("span 20 mm",), ""),
    ],
)  # fmt: skip
def test_two_arms_are_compared_wherever_they_hang(right, said):
    found = _arms(LEFT, right)
    assert said in found
    assert bool(found) == bool(said)
