"""What is said of a trace: steps, what repeats, flat or spiral and why."""

import pytest

from dim_ladder.base import InputError
from dim_ladder.notation import parse_strict
from dim_ladder.trace import trace
from dim_ladder.trace.turning import turning
from dim_ladder.words.gather import gathered
from dim_ladder.words.phrases import place_words
from dim_ladder.words.sentences import hang_sentence, step_sentence, words_for
from dim_ladder.words.turning import turning_reason
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of


def test_flat_and_spiral_are_told_with_the_reason():
    flat = turning(parse_strict(TERN), "bar")
    assert flat.kind == "flat"
    assert flat.pairs == ()
    spiral = turning(parse_strict(SPIRAL), "bar")
    assert spiral.kind == "spiral"
    assert "A and D turn about each other" in turning_reason(spiral)
    assert "same side again" in turning_reason(spiral)
    assert spiral.cycle == 2
    twice = turning(parse_strict(TERN.replace("half-left (1", "half-right (1")), "bar")
    assert "you tied the same side twice" in turning_reason(twice)
    steps = ("4: over 3 2", "1: over 2, under 3 4, up 2")  # the same, key by key
    assert "you tied the same side twice" in turning_reason(turning(weave_of(4, *steps, *steps), "s"))
    assert "every unit" in turning_reason(turning(weave_of(4, *steps), "s"))
    assert "same side twice" not in turning_reason(turning(weave_of(4, *steps), "s"))
    assert turning(parse_strict(PLAIT), "reed").kind == "flat"
    assert turning(weave_of(2, "half-hitch (1 | 2)"), "s").kind == "spiral"
    assert turning(weave_of(2, "cow-hitch (1 | 2)"), "s").kind == "flat"


def test_one_step_of_an_unfinished_unit_is_not_called_a_slip():
    assert "same side" not in turning_reason(turning(weave_of(4, "4: over 3 2"), "s"))


def test_sentences_in_three_vocabularies():
    t = trace(parse_strict(TERN))
    assert step_sentence(t, 0) == "D (orange, far right) goes left over C and B, and rests 2nd from the left."
    assert step_sentence(t, 1) == (
        "A (orange, far left) goes right over D, under B and C, then up through D’s loop: in from behind, out to the "
        "front over the loop’s edge; it rests far right."
    )
    assert words_for(t, "paracord")[0].sentence.startswith("Take D (orange, far right) left over C and B")
    assert words_for(t, "macrame")[0].heading == "Right-facing half knot"
    assert "melt the stub" in words_for(t)[4].sentence
    assert hang_sentence(t, "macrame").endswith("(4 cords).")
    with pytest.raises(InputError, match="no vocabulary"):
        words_for(t, "klingon")


def test_turning_back_and_own_loops_in_words():
    t = trace(weave_of(2, "cow-hitch (1 | 2)"))
    assert "goes right over B, back left under B, then up through its own loop" in step_sentence(t, 0)
    assert "then down through its own loop: in from the front" in step_sentence(t, 1)


@pytest.mark.parametrize(
    ("index", "count", "words"),
    [
        (0, 4, "far left"),
        (3, 4, "far right"),
        (1, 4, "2nd from the left"),
        (2, 4, "2nd from the right"),
        (1, 3, "in the middle"),
        (0, 1, "alone"),
    ],
)
def test_places(index, count, words):
    assert place_words(index, count) == words


def test_a_bar_is_said_once_and_then_with_whom():
    t = trace(weave_of(8, "bar-right (1 | 2..8)", "bar-left (1..7 | 8)"))
    lines = gathered(t)
    assert [line.number for line in lines] == [1, 2, 3, 4, 5]
    assert lines[3].sentence == "Repeat 1 to 3 with C in the place of B, then D, E, F, G and H."
    assert lines[4].sentence == (
        "Repeat 1 to 4 with left and right exchanged, H as B, G as C, F as D, D as F, C as G, B as H."
    )
    assert (lines[3].step, lines[3].last) == (3, 20)
    assert gathered(t, after=7)[3].sentence.startswith("Repeat 8 to 10")


def test_steps_from_behind_and_again_are_said_once():
    t = trace(weave_of(3, "wall-3 (1 | 2 | 3)", "crown-3 (1 | 2 | 3)", "wall-3 (1 | 2 | 3)"))
    said = [line.sentence for line in gathered(t) if line.repeats]
    assert said == [
        "Repeat 1 to 3 from behind, so that over becomes under and up becomes down, C in the place of A, A in the place of B and "
        "B in the place of C.",
        "Repeat 1 to 3 with B in the place of A, C in the place of B and A in the place of C.",
    ]


def test_the_work_may_lie_on_a_table():
    t = trace(parse_strict(TERN))
    assert "in from below, out to the top" in step_sentence(t, 1, "plain", "table")
    with pytest.raises(InputError, match="cannot lie"):
        step_sentence(t, 1, "plain", "upside-down")


def test_every_hop_has_its_sentence_in_every_school():
    lines = [
        "1: round 2 3", "1: over own left @eye, up @eye turns 2", "1: over own right, bight down own",
        "1: bight over 2", "1+2: over 3", "3: up gap 1 2", "2: down left of 3 1", "1: over 2, leave 25 mm", "4: under 3, to 1",
    ]  # fmt: skip
    t = trace(weave_of(4, *lines))
    assert t.problems == ()
    plain = " ".join(w.sentence for w in words_for(t))
    for words in (
        "round B 3 times, in front first",
        "makes a loop and crosses to the left over its own standing part",
        "the loop “eye”", "twice round that edge", "a doubled part of it goes down", "the tip stays where it was",
        "as one", "between", "down through the space beside A", "leaving 25 mm standing in the turn where it set out",
    ):  # fmt: skip
        assert words in plain, words
    schools = {" ".join(w.sentence for w in words_for(t, v)) for v in ("plain", "paracord", "macrame")}
    assert len(schools) == 3
    assert "tuck it up through" in " ".join(w.sentence for w in words_for(t, "paracord"))
    assert "wound round" in " ".join(w.sentence for w in words_for(t, "macrame"))
