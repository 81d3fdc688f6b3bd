"""A cord strung between two points: worked over, never led, cut as long as the work and what makes it fast."""

import pytest

from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.notation import parse, parse_strict, working_ends, write
from dim_ladder.scale import Plan, solve
from dim_ladder.scale.cuts import HOLD_MM, fold_words, tails
from dim_ladder.trace import trace
from dim_ladder.words.phrases import hung_words

LINE = """weave "Button Line"
cords
  main  nylon-4mm  #1f6f8b
  work  nylon-3mm  #e07a1f
hang on bar
  work.a main.s work.b
section bar: body, fit
  half-right (1 | 2 | 3)
  half-left (1 | 2 | 3)
section end: finish
  tuck (1 | 3)
"""


def test_it_is_read_written_and_worked_over():
    weave = parse_strict(LINE)
    assert parse_strict(write(weave)) == weave
    assert working_ends(weave) == ("work.a", "main.s", "work.b")
    assert trace(weave).problems == ()
    assert "main is strung, fast above and below" in hung_words(weave)


def test_it_is_cut_as_long_as_the_piece_and_its_ends():
    weave = parse_strict(LINE)
    c = calibrate(weave, (), prior_for(weave, shapes={}))
    piece = solve(weave, c, Plan(target="length", size_mm=300, fastening="none"))
    main = next(x for x in piece.cuts if x.cord == "main")
    assert tails(weave).need["main.s"] == 2 * HOLD_MM
    straight = piece.option.length_mm
    assert straight < c.need("main.s", piece.counts).median < 1.8 * straight
    assert main.cut_mm > straight + 2 * HOLD_MM
    assert "strung between two points" in fold_words(main, (), "metric")
    assert main.fold_offset_mm == 0


@pytest.mark.parametrize(
    ("was", "now", "message"),
    [
        ("half-left (1 | 2 | 3)", "half-hitch (2 | 3)", "cannot be led"),
        ("half-left (1 | 2 | 3)", "3+2: over 1", "cannot be led"),
        ("tuck (1 | 3)", "tuck (1 | 2)", "it is fast already"),
    ],
)
def test_what_would_lead_it_is_refused_with_its_place(was, now, message):
    (problem,) = trace(parse_strict(LINE.replace(was, now))).problems
    assert message in problem.message
    assert problem.place


def test_a_strung_cord_has_no_working_end():
    (problem, *_) = parse(LINE.replace("main.s", "main.s main.b")).problems
    assert "no working end" in problem.message


def test_turned_end_for_end_it_hangs_as_before():
    t = trace(
        parse_strict(
            LINE.replace("work.a main.s work.b", "work.a main.s")
            .replace("half-right (1 | 2 | 3)", "half-hitch (1 | 2)")
            .replace("  half-left (1 | 2 | 3)\n", "")
            .replace("  tuck (1 | 3)", "  rotate\n  half-hitch (work.b | main.s)")
        )
    )
    assert t.problems == ()
    assert set(t.names_shown()) == {"work.b", "main.s"}


@pytest.mark.parametrize(
    ("ends", "words"),
    [
        ("a.a a.b b.a b.b", "folded through a ring with a lark's head each"),
        ("a.a b.a", "knotted to a ring by one end each"),
        ("a.a", "knotted to a ring by one end"),
        ("a.a b.a a.b", "folded through a ring with a lark's head each; b knotted to a ring by one end"),
    ],
)
def test_a_cord_of_which_one_end_is_worked_is_not_told_to_be_folded(ends, words):
    cords = "".join(f"  {c}  nylon-3mm  #1f6f8b\n" for c in "ab" if f"{c}." in ends)
    weave = parse_strict(f'weave "Hung"\ncords\n{cords}hang on ring\n  {ends}\n')
    assert hung_words(weave) == words
