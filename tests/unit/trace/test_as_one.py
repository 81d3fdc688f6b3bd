"""Two ends in one place of a knot: side by side all the way, and through loops together."""

import itertools
import re

import pytest

from dim_ladder.notation import parse, parse_item, parse_strict, write, write_item
from dim_ladder.notation.values import Call
from dim_ladder.trace import Tracer, check_structure, close, trace
from dim_ladder.trace.holds import hold
from dim_ladder.words.sentences import words_for
from helpers.invariants import determinant_signature
from helpers.weaves import weave_of

KNOTS = [
    ("half-right ({} | 3 | {})", 6), ("half-left ({} | 3 | {})", 6), ("hitch-chain ({} | {})", 4), ("half-hitch ({} | 3)", 3),
    ("crown-4 ({} | {} | {} | {})", 8), ("wall-3 ({} | {} | {})", 6), ("plait-3 ({} | {} | {})", 6), ("reef ({} | {})", 4),
    # In these they could not move side by side all the way: one of each pair ties, the other follows.
    ("snake ({} | {})", 4), ("overhand-chain ({} | {})", 4), ("double-connection ({} | {})", 4), ("carrick-mat ({} | {})", 4),
    ("button ({})", 2), ("stopper ({})", 2), ("diamond-4 ({} | {} | {} | {})", 8), ("wrap-3 ({} | 3)", 3),
]  # fmt: skip


def _calls(pattern):
    """The knot doubled, and the same tied with single ends: its call, how many ends, and which are doubled."""
    at, groups, fillers = 1, [], 0
    body = pattern[pattern.index("(") + 1 : -1].split("|")
    for slot in body:
        if "{}" in slot:
            groups.append(f"{at}+{at + 1}")
            at += 2
        else:
            groups.append(str(at))
            at, fillers = at + 1, fillers + 1
    name = pattern.split(" ")[0]
    single = " | ".join(str(i + 1) for i in range(len(groups)))
    return f"{name} ({' | '.join(groups)})", at - 1, f"{name} ({single})", len(groups)


@pytest.mark.parametrize(("pattern", "_"), KNOTS)
def test_either_end_of_each_pair_alone_ties_the_single_knot(pattern, _):
    """A foreign library's invariants of what is left when one end of every pair is taken out."""
    doubled, many, single, few = _calls(pattern)
    t = trace(weave_of(many, doubled), units=1)
    assert t.problems == ()
    assert check_structure(t) == []
    one = trace(weave_of(few, single), units=1)
    known = determinant_signature(close(one, list(range(1, few + 1)), "braid"))
    groups = weave_of(many, doubled).sections[0].items[0].groups
    for lead in (0, 1):  # whichever of the two is named first
        turned = doubled if not lead else re.sub(r"(\d+)\+(\d+)", r"\2+\1", doubled)
        t = trace(weave_of(many, turned), units=1)
        assert t.problems == ()
        for keep in itertools.product(*groups):
            assert determinant_signature(close(t, list(keep), "braid")) == known
    # They hang beside each other again.
    for g in groups:
        if len(g) > 1:
            places = [t.order.index(e - 1) for e in g]
            assert abs(places[0] - places[1]) == 1


def test_where_they_cannot_move_side_by_side_one_ties_the_knot_and_the_other_follows():
    weave = weave_of(4, "carrick-mat (1+2 | 3+4)")
    said = [s.sentence for s in words_for(trace(weave, units=1))]
    assert said[0] == "Let B and D wait: they follow once the others have tied the knot."
    assert "follows A through the whole knot, beside it on its right, over and under as it goes" in said[-2]
    assert "follows C through" in said[-1]
    for line in ("button (1+2+3)", "button (1+3+2)", "button (3+2+1)"):
        three = trace(weave_of(3, line), units=1)
        assert three.problems == ()
        assert check_structure(three) == []
        assert three.order == (0, 1, 2)
    middle = trace(weave_of(3, "button (2+1+3)"), units=1)
    assert [s.hops[0].hop.left for s in middle.steps[-2:]] == [True, False]


def test_a_doubled_knot_can_be_tied_again_and_gone_on_from():
    t = trace(weave_of(4, "snake (1+2 | 3+4)", "half-hitch (1 | 2)", "snake (1+2 | 3+4)"), units=2)
    assert t.problems == ()
    assert check_structure(t) == []
    taken_back = Tracer()
    long, short = (weave_of(4, *["carrick-mat (1+2 | 3+4)"] * n) for n in (2, 1))
    assert taken_back.trace(long).problems == ()
    assert taken_back.trace(short).crossings == trace(short).crossings


def test_it_is_read_and_written_and_mirrored():
    call = parse_item("half-right (1+2 | 3 4 | 5+6)")
    assert isinstance(call, Call)
    assert call.groups == ((1, 2), (3, 4), (5, 6))
    assert call.as_one == (0, 2)
    assert write_item(call) == "half-right (1+2 | 3 4 | 5+6)"
    assert parse_item("wrap-3 (1+2 | 3)").reversed().as_one == (1,)
    weave = weave_of(6, "half-right (1+2 | 3 4 | 5+6)", "half-left (1+2 | 3 4 | 5+6)")
    assert parse_strict(write(weave)) == weave
    inner = weave_of(
        4, "both (1+2 | 3+4)", knots="knot both (a | b)\n  hitch-chain (a | b)\n  hitch-chain (b | a)\n"
    )
    assert trace(inner, units=1).problems == ()


@pytest.mark.parametrize(
    ("line", "message"),
    [("snake (1+2 3 | 4)", "“+”"), ("snake (1 2+3 | 4)", "a place number"), ("snake (+2 | 4)", "a place number"), ("snake (1+ | 4)", "moves with it")],
)  # fmt: skip
def test_what_cannot_be_read_says_how(line, message):
    text = write(weave_of(4, "1: over 2")).replace("1: over 2", line)
    (problem, *_) = parse(text).problems
    assert message in problem.message or message in problem.hint


def test_what_cannot_be_tied_doubled_says_so():
    for line, message in (
        ("snake (1+3 | 2+4)", "do not hang side by side"),
        ("snake (1+2 | 2+3)", "stands twice"),
    ):
        (problem,) = trace(weave_of(4, line), units=1).problems
        assert message in problem.message


def test_a_work_that_lies_on_its_face_is_tied_doubled_too():
    t = trace(
        weave_of(4, "turn over", "hitch-chain (1+2 | 3+4)", "turn over", "hitch-chain (1+2 | 3+4)"), units=1
    )
    assert t.problems == ()
    assert t.names_shown() == ("k1.a", "k2.a", "k3.a", "k4.a")


@pytest.mark.parametrize(
    "line",
    [
        "double-connection (1+2 | 3+4)",
        "diamond-2 (1+2 | 3+4)",
        "carrick-mat (1+2 | 3+4)",
        "snake (1+2 | 3+4)",
    ],
)
def test_what_holds_a_doubled_knot_is_told(line):
    held = hold(trace(weave_of(4, line), units=1))
    assert held is not None
    assert held.tucks > 0
    assert held.loose == ()
