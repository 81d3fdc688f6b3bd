"""What keeps a weave from being made is said first, with its place, and in the same words by every stage after."""

from dataclasses import replace

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate
from dim_ladder.commands.checks import check_section
from dim_ladder.notation import Count, parse, parse_strict, write
from dim_ladder.scale import Plan, solve
from dim_ladder.trace import trace
from dim_ladder.trace.unmade import once_only, unmade
from helpers.weaves import TERN, weave_of

PLAN = Plan(target="length", size_mm=300, fastening="none")


def test_a_weave_that_can_be_made_has_nothing_to_say():
    assert unmade(parse_strict(TERN)) == ()
    assert unmade(weave_of(3, "1: over 2", "drop k1.a", "add k1.a at 1")) == ()


@pytest.mark.parametrize(
    ("lines", "place", "message"),
    [
        (("1: over 2", "1: over 3"), "s, step 2", "cannot go over"),
        (("1: over 2", "drop 3"), "s, step 2", "tied again below itself: there is no place 3"),
        (("1: over 2", "add k4.a at 2"), "s, step 2", "tied again below itself: k4.a hangs already"),
        (("1: over 2", "rotate (k1.b)"), "s, step 1", "tied again below itself"),
    ],
)
def test_what_cannot_be_tied_or_not_again_has_its_place(lines, place, message):
    text = write(weave_of(3, "1: over 2")).replace("  1: over 2\n", "".join(f"  {x}\n" for x in lines))
    text = text.replace("\nhang", "\n  k4  nylon-4mm  #777777\n\nhang", 1)
    parsed = parse(text)
    assert parsed.ok
    (problem,) = unmade(parsed.weave)
    assert (problem.place, problem.line) == (place, 0)
    assert message in problem.message
    (placed,) = unmade(parsed.weave, parsed)
    assert text.splitlines()[placed.line - 1].strip() == lines[int(place[-1]) - 1]
    with pytest.raises(InputError) as told:
        solve(parsed.weave, calibrate(parsed.weave, ()), PLAN)
    assert message.partition(": ")[2] in str(told.value)


def test_a_section_that_cannot_be_counted_is_not_left_out_of_a_piece_in_silence():
    text = write(weave_of(2, "half-hitch (1 | 2)")).replace(
        "\nhang", "\n  extra  nylon-4mm  #777777\n\nhang", 1
    )
    weave = parse_strict(
        text + "section more: body, fit, mirror every other\n  snake (1 | 2)\n  add extra.a extra.b under 2\n"
    )
    with pytest.raises(
        InputError, match=r"more, step 2: more cannot be tied again below itself: extra\.a hangs already"
    ):
        solve(weave, calibrate(weave, ()), PLAN)


def test_ends_laid_aside_unit_by_unit_run_out_and_that_is_said_first():
    weave = weave_of(4, "span 20 mm", "drop 1")
    weave = replace(weave, sections=(replace(weave.sections[0], count=Count("fit")),))
    (problem,) = unmade(weave)
    assert "cannot be tied again below itself" in problem.message


def test_what_reaches_up_is_asked_whether_it_can_be_tied_again():
    """Side by side past loops of the unit above: the second unit finds them otherwise."""
    text = """weave "Reaching"
cords
  k1  nylon-4mm  #e07a1f
  k2  nylon-4mm  #3f7a4a
  k3  nylon-4mm  #d8c39a
  k4  nylon-4mm  #7a5236
hang
  k1.a k2.a k3.a k4.a
section s: body, fit
  2: bight down left of 3 0, up gap 4 3
  2+1: up left of 3 2 @n0, up gap 4 3
  1: over 2 @n3, under 3, over 4
  turn over
  2: over 1 @n4, over own at 2
"""
    weave = parse_strict(text)
    assert trace(weave).problems == ()
    assert unmade(weave) == ()  # once it can be made
    (problem,) = once_only(weave, 0)
    assert problem.place == "s, step 2"
    assert dict(check_section(weave, "s").notes)["stop"] == str(problem)


def test_ends_called_by_name_hang_elsewhere_for_the_next_unit():
    weave = weave_of(4, "k3.a+k4.a: over k2.a", "k1.a: over k3.a k4.a, under k2.a, up k4.a")
    weave = replace(weave, sections=(replace(weave.sections[0], count=Count("fit")),))
    assert unmade(weave) == ()
    (problem,) = once_only(weave, 0)
    assert "cannot be tied again below itself" in problem.message
    assert once_only(parse_strict(TERN), 0) == ()
