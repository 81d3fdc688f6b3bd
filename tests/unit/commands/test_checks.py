"""What is said of a section: one sentence for each thing a maker asks."""

from dataclasses import replace

import pytest

from dim_ladder.base import InputError
from dim_ladder.commands.checks import check_section
from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.rough import uneven_folds
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of


def notes(weave, section, girth=0.0):
    return dict(check_section(weave, section, girth).notes)


def test_a_band():
    said = notes(parse_strict(TERN), "bar")
    assert said["flat"].startswith("Flat")
    assert "2 tucks" in said["hold"]
    assert "front centre" in said["faces"]
    assert "colours" not in said  # they hang as before
    assert "slip" not in said
    with pytest.raises(InputError):
        check_section(parse_strict(TERN), "nope")


def test_a_plait_changes_its_colours_and_is_held_by_nothing():
    said = notes(parse_strict(PLAIT), "reed")
    assert said["colours"] == "After one unit hang, from left to right: brown, gold and green."
    assert "only while its ends are held" in said["hold"]


def test_bars_of_hitches_are_not_said_to_spiral():
    assert "flat" in notes(weave_of(8, "bar-right (1 | 2..8)", "bar-left (1..7 | 8)"), "s")
    said = notes(weave_of(8, "bar-right (1 | 2..8)"), "s")
    assert "wrapped" in said
    assert "spiral" not in said
    assert "spiral" in notes(weave_of(2, "half-hitch (1 | 2)"), "s")
    assert "spiral" in notes(parse_strict(SPIRAL), "bar")


@pytest.mark.parametrize("knot", ["snake (1 | 2)", "wrap-3 (1 | 2 3)", "half-hitch (1 | 2)"])
def test_of_turns_within_knots_the_tight_shape_says_whether_the_work_turns(knot):
    weave = weave_of(2 + ("3" in knot[-4:]), knot)
    found = check_section(weave, "s", wait=True)
    turns = tight(weave, "s").angle != 0
    assert turns == knot.startswith("half-hitch")
    assert found.turn.kind == ("spiral" if turns else "straight")
    if not turns:
        assert "stays straight" in dict(found.notes)["straight"]
        # Meant to turn, it is told that it does not.
        spiral = replace(weave, sections=(replace(weave.sections[0], spiral=True),))
        assert "does not" in dict(check_section(spiral, "s", wait=True).notes)["slip"]


@pytest.mark.parametrize(("ends", "core"), [(2, "2"), (3, "2 3"), (5, "2..5")])
def test_a_hitch_tied_again_and_again_round_a_bundle_turns(ends, core):
    """However much of the work is core."""
    found = check_section(weave_of(ends, f"half-hitch (1 | {core})"), "s", wait=True)
    assert found.turn.kind == "spiral"
    same = weave_of(ends, f"half-hitch (1 | {core})", f"half-hitch-behind (1 | {core})")
    assert check_section(same, "s", wait=True).turn.kind != "spiral"


def folded(*lines):
    """Four ends of two cords, each hung by its fold."""
    cords = "  a  nylon-4mm  #1f6f8b\n  b  nylon-4mm  #e07a1f\n"
    return parse_strict(
        f'weave "F"\ncords\n{cords}hang\n  a.a a.b b.a b.b\nsection s: body\n'
        + "".join(f"  {x}\n" for x in lines)
    )


def test_whether_ends_eat_alike_the_tight_shape_says_better_than_the_count_of_crossings():
    # The inner ends are in twice as many knots, and cross twice as often; but the outer ones hang straight beside each other knot.
    reefs = folded("reef (1 | 2)", "reef (3 | 4)", "reef (2 | 3)")
    shape = tight(reefs, "s")
    times = shape.per_end["a.b"] / shape.per_end["a.a"]
    assert 1.4 < times < 1.8
    assert shape.per_end["a.b"] == pytest.approx(shape.per_end["b.a"], rel=0.03)
    assert f"{times:.1f} times" in dict(check_section(reefs, "s", wait=True).notes)["fold"]
    band = folded("half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)")
    shape = tight(band, "s")
    said = dict(check_section(band, "s", wait=True).notes)["fold"]
    assert f"{shape.per_end['b.b'] / shape.per_end['b.a']:.1f} times" in said


def test_ends_of_a_cord_that_are_worked_one_here_and_one_there_do_not_eat_unevenly():
    arms = (
        'weave "Post Line"\ncords\n  a  nylon-4mm  #1f6f8b\n  b  nylon-4mm  #e07a1f\nhang on cold-start\n  a.a b.a\n'
        "section mid: start\n  button-two (1 | 2)\nsection right: body, repeat 3\n  span 30 mm\n  double-connection (1 | 2)\n"
        "section turn: start\n  rotate\nsection left: body, same as right\n  span 30 mm\n  double-connection (1 | 2)\n"
        "section end: finish\n  overhand (1)\n  overhand (2)\n"
    )
    weave = parse_strict(arms)
    assert [*uneven_folds(weave, "right"), *uneven_folds(weave, "left")] == []


def test_a_cord_folded_in_the_middle_whose_ends_eat_unevenly():
    weave = parse_strict(
        'weave "U"\ncords\n  a nylon-4mm #1f6f8b\nhang\n  a.a a.b\nsection s: body, fit\n  half-hitch (1 | 2)\n'
    )
    said = notes(weave, "s")["fold"]
    assert said.startswith("A eats about")
    assert "what B does, of a:" in said
    assert "too short to reach" in said
    assert "fold" not in notes(parse_strict(TERN), "bar")


def test_work_in_a_closed_loop_must_come_back():
    text = PLAIT.replace("hang\n", "hang on closed-loop\n")
    assert "3 units at a time" in notes(parse_strict(text), "reed")["closed"]
    whole = text.replace("  3: over 2\n  1: over 2\n", "  plait-3 (1 | 2 | 3) repeat 3\n")
    assert "pulled through" in notes(parse_strict(whole), "reed")["closed"]
    turned = text.replace("  3: over 2\n  1: over 2\n", "  1: over 2\n  1: over 2\n")
    assert "twisted" in notes(parse_strict(turned), "reed")["closed"]
    assert "closed" not in notes(parse_strict(PLAIT), "reed")


def test_a_former_names_the_cords_it_takes_and_what_to_lay_it_on():
    weave = parse_strict(
        'weave "R"\ncords\n  a nylon-2mm #1f6f8b\nhang on former\n  a.a\n'
        "section ring: body, on former, leads 5 bights 8\n  follow left\n"
    )
    said = notes(weave, "ring", 178.0)["former"]
    assert said.startswith(
        "5 leads and 8 bights take one cord, 128 crossings, every strand 2 times side by side."
    )
    assert "17.8 cm: a former 57 mm across" in said
    assert "a former" not in notes(weave, "ring")["former"]


def test_what_is_laid_flat_is_not_said_to_spiral():
    said = notes(weave_of(2, "carrick-mat (1 | 2)"), "s")
    assert "spiral" not in said
    assert "lies as it is laid" in said["laid"]


@pytest.mark.parametrize(("last", "says"), [("", "Lead an end"), ("\n  line.a: up @k", "keeps it")])
def test_a_chain_of_bights_is_said_to_run_out_unless_it_is_locked(last, says):
    weave = parse_strict(
        f"""weave "Chain Cord"
cords
  line  nylon-3mm  #c22f2b
section begin: start
  line.a: over own left @k, bight up @k @k
section links: body, fit
  line.a: bight up @k @k
section end: finish{last}
  cut-and-melt (1)
""".replace("section begin", "hang\n  line.a\nsection begin")
    )
    notes = dict(check_section(weave, "links").notes)
    assert notes["hold"].startswith("It is slipped")
    assert says in notes["hold"]
