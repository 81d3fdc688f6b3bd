"""Things done to the whole work: turned, rotated, spans, ends laid in and aside, knots in knots, layers, stitching."""

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.picture.ladder import Mark, rungs
from dim_ladder.trace import check_structure, close, linking, trace
from dim_ladder.trace.diagram import end_cycle
from dim_ladder.trace.faces import ends_after
from dim_ladder.trace.turning import cycle_linking
from dim_ladder.words.sentences import step_sentence, words_for
from helpers.invariants import determinant_signature
from helpers.weaves import TERN, weave_of


def sound(weave, **more):
    t = trace(weave, **more)
    assert t.problems == ()
    assert check_structure(t) == []
    return t


def test_work_done_on_the_back_is_the_same_work_seen_from_behind():
    plain = sound(weave_of(4, "half-right (1 | 2 3 | 4)"))
    back = sound(weave_of(4, "turn over", "half-right (1 | 2 3 | 4)"))
    a, b = (determinant_signature(close(t, [1, 4], "caps")) for t in (plain, back))
    assert a == b  # a rotation of the whole in space changes no knot
    assert back.steps[1].turned
    twice = sound(weave_of(4, "turn over", "turn over", "half-right (1 | 2 3 | 4)"))
    assert twice.crossings == plain.crossings


def test_places_and_words_count_from_the_left_of_the_side_that_lies_up():
    t = sound(weave_of(3, "turn over", "1: over 2"))
    assert t.ends[t.steps[1].end] == "k3.a"
    assert step_sentence(t, 1).startswith("C (sand, far left) goes right over B")
    assert t.crossings[0].over_end == 1  # in front on the back is behind on the front
    assert "its back lies up" in step_sentence(t, 0)
    rung = rungs(t)[1]
    assert (rung.side, rung.marks, rung.order) == (1, (Mark("over", 1),), (1, 2, 0))
    front = rungs(sound(weave_of(3, "1: over 2, under 3, up own")))[0]
    back = rungs(sound(weave_of(3, "turn over", "1: over 2, under 3, up own")))[1]
    assert (front.side, [m.kind for m in front.marks]) == (back.side, [m.kind for m in back.marks])
    assert back.order == tuple(2 - e for e in front.order)


@pytest.mark.parametrize(
    "steps",
    ["1: over 2\n  turn over", "turn over\n  1: over 2, under 3", "4: under 3\n  turn over\n  2: over 3"],
)
def test_units_that_turn_the_work_repeat_by_the_places_that_lie_up(steps):
    """Worked out from one unit, against every unit traced in full."""
    text = (
        'weave "A"\ncords\n  a nylon-4mm #1f6f8b\n  b nylon-4mm #e07a1f\nhang\n  a.a a.b b.a b.b\n'
        f"section s: body\n  {steps}\n"
    )
    weave = parse_strict(text)
    one = sound(weave, section="s", units=1)
    for n in range(1, 9):
        many = sound(weave, section="s", units=n)
        assert tuple(one.ends[e] for e in ends_after(one, n)) == many.names_shown()
        if n == end_cycle(one):
            assert cycle_linking(one) == {pair: v for pair, v in linking(many).items() if v}
    assert end_cycle(one) <= 8


def test_a_section_begins_as_the_section_above_leaves_the_work():
    text = (
        'weave "A"\ncords\n  a nylon-4mm #1f6f8b\n  b nylon-4mm #e07a1f\nhang\n  a.a a.b b.a b.b\n'
        "section s: body\n  1: over 2\n  turn over\nsection t: body\n  1: over 2\n"
    )
    weave = parse_strict(text)
    whole, alone = sound(weave), sound(weave, section="t")
    assert alone.ends == ("b.b", "b.a", "a.a", "a.b")  # as it lies once it is turned
    assert alone.ends[alone.steps[0].end] == whole.ends[whole.steps[-1].end] == "b.b"


def test_turn_of_a_knot_is_its_mirror_image_from_behind():
    knots = (
        "knot a (w | r)\n  w: over r, under r, up own\nknot b = turn a\nknot c = flip d\nknot d = mirror a\n"
    )
    one, other = (sound(weave_of(2, f"{k} (1 | 2)", knots=knots)) for k in "bc")
    assert one.crossings == other.crossings
    again = sound(weave_of(2, "e (1 | 2)", knots=knots + "knot e = turn b\n"))
    assert again.crossings == sound(weave_of(2, "a (1 | 2)", knots=knots)).crossings


def test_a_span_takes_room_but_crosses_nothing():
    t = sound(weave_of(3, "1: over 2", "span 60 mm", "span 12 mm (2)", "1: over 2"))
    assert [s.placed[0].mm for s in t.steps if s.placed] == [60.0, 12.0]
    assert len(t.crossings) == 2
    assert "Leave 60 mm of free cord on all" in step_sentence(t, 1)


def test_ends_are_laid_in_and_aside():
    text = (
        'weave "A"\ncords\n  a nylon-4mm #1f6f8b\n  b nylon-4mm #e07a1f\nhang\n  a.a a.b\nsection s: body\n'
        "  add b.a b.b under 1 2\n  2: over 3\n  drop 4\n  1: over 2\n"
    )
    t = sound(parse_strict(text))
    assert t.ends == ("a.a", "a.b", "b.a", "b.b")
    assert t.steps[0].order == (2, 0, 1, 3)
    assert [c.over_end for c in t.crossings[:2]] == [0, 1]
    assert t.folds == ((2, 3),)
    assert len(t.order) == 3
    assert t.ends[t.steps[2].ends[0]] not in t.names_shown()
    assert "by its middle under A and B" in step_sentence(t, 0)
    assert "aside" in step_sentence(t, 2)
    assert not t.settled


def test_an_end_that_hangs_already_is_not_laid_in_again():
    t = trace(weave_of(2, "add k1.a at 1"))
    assert "hangs already" in t.problems[0].message


def test_turned_end_for_end_the_other_ends_of_the_cords_hang():
    t = sound(weave_of(3, "1: over 2", "rotate", "1: over 2"))
    assert t.ends == ("k1.a", "k2.a", "k3.a", "k3.b", "k1.b", "k2.b")
    assert t.names_shown() == ("k1.b", "k3.b", "k2.b")
    assert "end for end" in step_sentence(t, 1)
    some = sound(weave_of(4, "2: over 3", "rotate left (3 4)", "1: over 2"))
    assert len(some.order) == 2


def test_knots_within_knots_with_counts_and_each():
    knots = """knot twice (w | r)
  half-hitch (w | r) repeat 2
knot row (r | w..)
  double-hitch-right (r | each w)
knot back = mirror row
"""
    assert abs(linking(sound(weave_of(2, "twice (1 | 2)", knots=knots)))[0, 1]) == 4
    row = sound(weave_of(4, "row (1 | 2..4)", knots=knots))
    assert row.order == (1, 2, 3, 0)
    assert len(row.steps) == 9
    mirrored = sound(weave_of(4, "back (1..3 | 4)", knots=knots))
    assert mirrored.order == (3, 0, 1, 2)
    assert [s.end for s in mirrored.steps[1::3]] == [2, 1, 0]  # from the runner outwards
    assert sound(weave_of(4, "double-hitch-right (1 | each 2..4)")).crossings == row.crossings


@pytest.mark.parametrize("count", [8, 10])
def test_runner_and_wrapper_change_places_where_two_bars_cross(count):
    half = count // 2
    lines = [f"bar-right (1 | 2..{half})", f"bar-left ({half + 1}..{count - 1} | {count})"]
    lines.append(f"double-hitch-right ({half} | {half + 1})")  # the runners meet: the left one leads
    t = sound(weave_of(count, *lines))
    assert t.order[half] == 0
    assert t.order[half - 1] == count - 1
    assert sum(s.hops != () for s in t.steps) == 3 * (count - 1)


def test_a_knot_made_of_itself_is_refused():
    knots = "knot a (w | r)\n  b (w | r)\nknot b (w | r)\n  a (w | r)\n"
    t = trace(weave_of(2, "a (1 | 2)", knots=knots))
    assert "made from" in t.problems[0].message
    gone = trace(weave_of(2, "a (1 | 2)", knots="knot a = mirror half-hich\n"))
    assert "“half-hich”, which is not there" in gone.problems[0].message
    assert "half-hitch" in gone.problems[0].hint


LAYER = TERN.split("section end")[0] + "section over: body, layer over bar\n  half-right (1 | 2 bar 4 | 5)\n"
STITCH = (
    TERN.split("section end")[0].replace("buoy  nylon-4mm  #e07a1f", "buoy  nylon-4mm  #e07a1f\n  sand nylon-2mm #d8c39a")
    + "section line: body, stitched on bar, repeat 4, flip every other\n  add sand.a at 1\n  1: over 2, under 3, to left\n"
)  # fmt: skip


def test_a_layer_is_tied_over_the_finished_section_as_one_tail():
    t = sound(parse_strict(LAYER))
    first = next(i for i, s in enumerate(t.steps) if s.op.section == 1)
    names = [t.ends[e] for e in t.order_before(first)]
    assert names == ["buoy.b", "tide.b", "bar", "tide.a", "buoy.a"]
    one = trace(parse_strict(LAYER), section="over")
    closed = close(one, [1, 5], "caps")
    assert determinant_signature(closed)[0] == 3  # a half knot again, round the whole band
    assert "the finished bar" in step_sentence(t, first)


def test_stitching_goes_over_the_units_of_the_band_and_turns_every_other_time():
    t = sound(parse_strict(STITCH))
    mine = [s for s in t.steps if s.op.section == 1 and s.hops and not s.quiet]
    assert len(mine) == 4
    overs = [[t.crossings[n].over_end == s.end for n in range(s.start, s.stop)][:2] for s in mine]
    assert overs[0] == [True, False]
    assert overs[1] == [False, True]
    assert overs[2] == overs[0]
    ground = [s for s in t.steps if s.op.section == 1 and s.quiet]
    assert len(ground) == 4 * 4
    said = [w for w in words_for(t) if w.section == "line"]
    assert len(said) == 5  # the band itself is not told again


def test_places_of_the_band_do_not_count_the_stitching_end():
    t = sound(parse_strict(STITCH), section="line", units=1)
    assert {t.ends[s.end] for s in t.steps if s.quiet} == {"buoy.a", "buoy.b"}
