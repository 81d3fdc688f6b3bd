"""What is read off a trace: flat or spiral, roles, words, pictures, rungs."""

import itertools
import xml.etree.ElementTree as ET

import pytest

from dim_ladder.base import InputError
from dim_ladder.notation import parse_strict
from dim_ladder.publish.svg import to_svg
from dim_ladder.trace import colour_cycle, trace
from dim_ladder.trace.display import Disc, Label, Line
from dim_ladder.trace.gather import gathered
from dim_ladder.trace.ladder import ladder_picture, rungs
from dim_ladder.trace.layout import layout, window_rows
from dim_ladder.trace.look import letter
from dim_ladder.trace.pictures import diagram, step_picture
from dim_ladder.trace.roles import roles, section_work
from dim_ladder.trace.turning import turning
from dim_ladder.trace.words import hang_sentence, place_words, step_sentence, words_for
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of


def test_flat_and_spiral_are_told_with_the_reason():
    flat = turning(parse_strict(TERN), "bar")
    assert flat.kind == "flat"
    assert flat.pairs == ()
    spiral = turning(parse_strict(SPIRAL), "bar")
    assert spiral.kind == "spiral"
    assert "A and D turn about each other" in spiral.reason
    assert "same side again" in spiral.reason
    assert spiral.cycle == 2
    twice = turning(parse_strict(TERN.replace("half-left (1", "half-right (1")), "bar")
    assert "you tied the same side twice" in twice.reason
    assert turning(parse_strict(PLAIT), "reed").kind == "flat"
    assert turning(weave_of(2, "half-hitch (1 | 2)"), "s").kind == "spiral"
    assert turning(weave_of(2, "cow-hitch (1 | 2)"), "s").kind == "flat"


def test_one_step_of_an_unfinished_unit_is_not_called_a_slip():
    assert "same side" not in turning(weave_of(4, "4: over 3 2"), "s").reason


def test_turning_of_what_cannot_be_traced_is_unknown():
    assert turning(weave_of(3, "1: over 3"), "s") is None


def test_colours_come_round_before_the_ends_do():
    assert colour_cycle(trace(parse_strict(SPIRAL), section="bar")) == 1  # both workers are one colour
    assert colour_cycle(trace(parse_strict(PLAIT))) == 3


def test_roles_follow_the_work_not_the_cord():
    assert roles(parse_strict(TERN)).role_of == {
        "buoy.a": "wrapper",
        "tide.a": "filler",
        "tide.b": "filler",
        "buoy.b": "leader",
    }
    assert set(roles(parse_strict(SPIRAL)).role_of.values()) == {"worker", "filler"}
    assert set(roles(parse_strict(PLAIT)).role_of.values()) == {"strand"}
    work = section_work(parse_strict(SPIRAL), "bar")
    assert work.cycle == 2
    assert work.visits["tide.a"] == 2
    assert work.layers == 2


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


def test_letters_go_on_after_z():
    assert [letter(i) for i in (0, 25, 26, 27, 52)] == ["A", "Z", "AA", "AB", "BA"]


def test_a_step_picture_shows_the_moving_end_strong_its_pass_ringed_and_every_end_lettered():
    t = trace(parse_strict(TERN))
    p = step_picture(t, 1)
    rings = [s for s in p.shapes if isinstance(s, Disc) and s.tag == "pass"]
    assert len(rings) == 1
    letters = [s.text for s in p.shapes if isinstance(s, Label)]
    assert letters == ["D", "B", "C", "A"]  # left to right, as they hang after the step
    strong = [s for s in p.shapes if isinstance(s, Line) and s.colour == "#e07a1f"]
    assert strong
    assert all(s.tag == "end0" for s in strong)
    assert any(s.tag == "arrow" for s in p.shapes)


def test_labels_do_not_overlap_and_stay_inside():
    for text in (TERN, SPIRAL, PLAIT):
        t = trace(parse_strict(text))
        for i, record in enumerate(t.steps):
            if not record.hops:
                continue
            p = step_picture(t, i)
            discs = [s for s in p.shapes if isinstance(s, Disc) and s.tag == "label"]
            for d in discs:
                assert d.x - d.r >= 0
                assert d.x + d.r <= p.width
                assert d.y + d.r <= p.height
            xs = sorted(d.x for d in discs)
            assert all(b - a >= 2 * discs[0].r for a, b in itertools.pairwise(xs))


def test_pictures_of_one_knot_share_their_layout():
    t = trace(parse_strict(TERN))
    a, b = step_picture(t, 0), step_picture(t, 1)
    assert (a.width, a.height) == (b.width, b.height)


def test_gaps_stand_at_every_crossing_of_the_window():
    t = trace(parse_strict(TERN))
    p = diagram(t, 0, 3)
    assert sum(1 for s in p.shapes if isinstance(s, Line) and s.tag == "gap") == 14


def test_layout_keeps_order_and_distance_at_every_level():
    for text, units in ((TERN, 3), (PLAIT, 6), (SPIRAL, 4)):
        t = trace(parse_strict(text), units=units)
        top, bottom = window_rows(t, 0, len(t.steps) - 1)
        found = layout(t, top, bottom)
        for level in found.levels:
            lanes = sorted(level, key=lambda lane: t.lane_rank[lane])
            xs = [level[lane] for lane in lanes]
            assert all(b - a >= 1 - 1e-9 for a, b in itertools.pairwise(xs))
        assert found.right - found.left <= 9


def test_mirrored_work_is_drawn_mirrored():
    right = trace(weave_of(4, "half-right (1 | 2 3 | 4)"))
    left = trace(weave_of(4, "half-left (1 | 2 3 | 4)"))
    a, b = diagram(right, 0, 1), diagram(left, 0, 1)
    tails = {x.which: x.x for x in a.anchors if x.kind == "tail"}
    mirrored = {3 - x.which: b.width - x.x for x in b.anchors if x.kind == "tail"}
    assert tails == pytest.approx(mirrored)


def test_rungs_and_ladder():
    t = trace(parse_strict(TERN))
    rows = rungs(t)
    assert [m.kind for m in rows[1].marks] == ["over", "under", "under", "up"]
    assert [r.side for r in rows[:4]] == [-1, 1, 1, -1]
    assert rows[0].heading == "half-right"
    assert rows[4].finish
    assert rows[4].ends == (0, 3)
    svg = ET.fromstring(to_svg(ladder_picture(t)))
    assert svg.tag.endswith("svg")


def test_svg_escapes_and_parses():
    t = trace(parse_strict(TERN.replace("Tern Ladder", "<b>&amp; 'x'")))
    root = ET.fromstring(to_svg(ladder_picture(t)))
    assert "<b>&amp;" in root.find("{http://www.w3.org/2000/svg}title").text


def test_a_bar_is_said_once_and_then_with_whom():
    t = trace(weave_of(8, "bar-right (1 | 2..8)", "bar-left (1..7 | 8)"))
    lines = gathered(t)
    assert [line.number for line in lines] == [1, 2, 3, 4, 5]
    assert lines[3].sentence == "Repeat 1 to 3 with C, then D, E, F, G and H."
    assert lines[4].sentence == "Repeat 1 to 4 on the other side."
    assert (lines[3].step, lines[3].last) == (3, 20)
    assert gathered(t, after=7)[3].sentence.startswith("Repeat 8 to 10")


def test_steps_from_behind_and_again_are_said_once():
    t = trace(weave_of(3, "wall-3 (1 | 2 | 3)", "crown-3 (1 | 2 | 3)", "wall-3 (1 | 2 | 3)"))
    said = [line.sentence for line in gathered(t) if line.repeats]
    assert said == ["Repeat 1 to 3 from behind: over becomes under, up becomes down.", "Repeat 1 to 3."]


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
        "as one", "between", "above its 1st crossing from the tail", "Leave 25 mm standing in that turn.",
    ):  # fmt: skip
        assert words in plain, words
    schools = {" ".join(w.sentence for w in words_for(t, v)) for v in ("plain", "paracord", "macrame")}
    assert len(schools) == 3
    assert "tuck it up through" in " ".join(w.sentence for w in words_for(t, "paracord"))
    assert "wound round" in " ".join(w.sentence for w in words_for(t, "macrame"))


def test_rungs_of_steps_that_are_the_same_are_taken_over():
    from dim_ladder.trace import Tracer
    from dim_ladder.trace.ladder import rungs

    tracer = Tracer()
    one = tracer.trace(weave_of(3, "1: over 2", "2: over 3", "1: over 2"))
    known = (one.steps, rungs(one))
    two = tracer.trace(weave_of(3, "1: over 2", "2: under 3", "1: over 2", "turn over"))
    found = rungs(two, known)
    assert found == rungs(two)
    assert found[0] is known[1][0]
    assert found[1] != known[1][1]
