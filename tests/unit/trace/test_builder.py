import dataclasses

import pytest

from dim_ladder.base import Cancelled, InputError
from dim_ladder.notation import Cross, Step, parse, parse_strict
from dim_ladder.trace import Tracer, all_crossings, check_structure, close, expand, trace
from dim_ladder.trace.builder import Axis
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of


def test_axis_keeps_order_when_its_gaps_are_used_up():
    axis = Axis()
    a = axis.append()
    b = axis.append()
    made = [axis.after(a) for _ in range(200)]  # far more than halvings of one gap
    ranks = axis.ranks()
    assert ranks[a] == 0
    assert ranks[b] == 201
    assert [ranks[i] for i in reversed(made)] == list(range(1, 201))
    for _ in range(150):
        axis.pop()
    assert axis.ranks()[b] == 51
    assert axis.before(a) == len(axis) - 1
    assert axis.ranks()[a] == 1


@pytest.mark.parametrize(
    ("lines", "message", "hint"),
    [
        (
            ["4: over 1"],
            "k4.a cannot go over k1.a first: between them hang k3.a and k2.a",
            "over k3.a k2.a k1.a",
        ),
        (["4: over 2"], "k4.a cannot go over k2.a first: between them hangs k3.a", "Cross k3.a first"),
        (["2: over 2"], "cannot cross its own tail", "over own left"),
        (["5: over 4"], "there is no place 5: 4 tails hang", ""),
        (["1: up 2"], "k2.a has made no step yet", "Move it first"),
        (["1: up own"], "no loop of its own yet", "cross something first"),
        (["half-right (1 | 2 3)"], "half-right has 3 places, 2 are given", ""),
        (["half-right (1 2 | 3 | 4)"], "“w” of half-right takes one end, 2 are given", ""),
        (["half-right (1 | 2 1 | 4)"], "k1.a stands twice in half-right", ""),
        (["half-rihgt (1 | 2 3 | 4)"], "there is no knot or finish “half-rihgt”", "half-right"),
        (["tuck ()"], "names no end", "tuck (1 | 4)"),
    ],
)
def test_a_step_that_cannot_be_made_is_explained(lines, message, hint):
    t = trace(weave_of(4, *lines))
    assert len(t.problems) == 1
    assert message in t.problems[0].message
    assert hint in t.problems[0].hint
    assert t.steps == ()


def test_a_problem_is_placed_in_the_script_and_what_comes_before_is_kept():
    text = TERN.replace("half-left (1 | 2 3 | 4)", "half-left (1 | 2 | 3)\n  4: over 1")
    parsed = parse(text)
    t = trace(parsed.weave, parsed=parsed)
    assert t.problems[0].line == text.split("\n").index("  4: over 1") + 1
    assert [s.op.item for s in t.steps] == [0, 0, 1, 1]
    assert check_structure(t) == []


def test_a_failing_step_leaves_no_trace():
    good = trace(weave_of(4, "1: over 2 3"))
    bad = trace(weave_of(4, "1: over 2 3", "4: over 3, under 1"))
    assert bad.problems
    assert bad.crossings == good.crossings
    assert bad.order == good.order


def test_too_many_steps_are_refused_before_any_work():
    text = TERN.replace("fit pairs", "repeat 10000").replace(
        "half-left (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)\n" + "  half-right (1 | 2 3 | 4)\n" * 8
    )
    program = expand(parse_strict(text))
    assert "more than 20,000 steps" in program.problems[0][1].message


def test_sections_start_where_the_ones_above_end():
    w = parse_strict(SPIRAL + "section more: body\n  1: over 2\n")
    t = trace(w, section="more")
    assert t.ends == ("buoy.b", "tide.a", "tide.b", "buoy.a")
    with pytest.raises(InputError, match="no section “nope”"):
        trace(w, section="nope")


def test_counts_repeat_same_as_and_given():
    text = TERN + "section tail: body, same as bar\n  1: over 2\n  2: over 1\n"
    w = parse_strict(text)
    assert len(trace(w, units=3).steps) == 3 * 4 + 1 + 3 * 2
    assert len(trace(w, counts={"bar": 2, "tail": 1}).steps) == 8 + 1 + 2
    assert len(trace(parse_strict(TERN.replace("fit pairs", "repeat 5"))).steps) == 21


def test_incremental_tracing_gives_what_tracing_anew_gives():
    tracer = Tracer()
    w = weave_of(5, "1: over 2 3", "5: under 4, over 3", "2: over 3, up 1")
    texts = [
        weave_of(5, "1: over 2 3"),
        w,
        weave_of(5, "1: under 2 3", "5: under 4, over 3"),
        w,
        weave_of(5, "1: over 2 3", "5: under 4, over 3", "2: over 3, up 1", "1: over 2, up own"),
        weave_of(4, "1: over 2 3"),
    ]
    for weave in texts:
        kept, anew = tracer.trace(weave), trace(weave)
        assert kept == anew
        assert check_structure(kept) == []


def test_a_draft_comes_and_goes_without_a_mark():
    tracer = Tracer()
    w = parse_strict(SPIRAL)
    before = tracer.trace(w)
    drafted = tracer.trace(w, draft=(1, Step(1, (Cross(True, (2, 3)),))))
    assert len(drafted.steps) == len(before.steps) + 1
    assert tracer.trace(w) == before


def test_the_slow_crossing_finder_agrees():
    for text in (TERN, SPIRAL, PLAIT):
        t = trace(parse_strict(text), units=6)
        assert check_structure(t) == []
        assert len(all_crossings(t)) == len(t.crossings)


def test_the_checker_sees_what_is_wrong():
    t = trace(parse_strict(SPIRAL))
    assert check_structure(dataclasses.replace(t, crossings=t.crossings[:-1])) == [
        "crossings differ: 1 not noted, 0 not there"
    ]
    assert "a crossing is noted twice" in check_structure(
        dataclasses.replace(t, crossings=(*t.crossings, t.crossings[0]))
    )
    assert "order of tails" in check_structure(dataclasses.replace(t, order=t.order[::-1]))[0]


def test_closing_refuses_what_cannot_be_closed():
    t = trace(parse_strict(PLAIT))
    with pytest.raises(InputError, match="in pairs"):
        close(t, None, "caps")
    with pytest.raises(InputError, match="no place 7"):
        close(t, [7])
    with pytest.raises(InputError, match="no closure"):
        close(t, None, "knot")


def test_ends_that_cross_nothing_are_counted_as_bare():
    closed = close(trace(weave_of(3, "1: over 2")), [3])
    assert (closed.pd, closed.components, closed.bare) == ((), 1, 1)


def test_a_long_trace_can_be_cancelled_and_gone_on_with():
    weave = parse_strict(SPIRAL)
    tracer = Tracer()
    asked = []

    def stop():
        asked.append(1)
        return len(asked) > 3

    with pytest.raises(Cancelled):
        tracer.trace(weave, units=2000, cancel=stop)
    assert len(asked) == 4
    assert tracer.trace(weave, units=300) == trace(weave, units=300)


def test_a_script_of_a_hundred_thousand_steps_is_refused_before_it_is_read():
    text = SPIRAL + "section long: body\n" + "  1: over 2\n" * 100_000
    parsed = parse(text)
    assert "too long" in parsed.problems[0].message
    assert parsed.weave.sections == ()
