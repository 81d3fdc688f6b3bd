"""Two ends in one place of a knot: side by side all the way, and through loops together."""

import itertools
import re

import pytest

from dim_ladder.notation import parse, parse_item, parse_strict, write, write_item
from dim_ladder.notation.values import Call
from dim_ladder.trace import check_structure, close, trace
from helpers.invariants import determinant_signature
from helpers.weaves import weave_of

KNOTS = [
    ("half-right ({} | 3 | {})", 6), ("half-left ({} | 3 | {})", 6), ("hitch-chain ({} | {})", 4), ("half-hitch ({} | 3)", 3),
    ("crown-4 ({} | {} | {} | {})", 8), ("wall-3 ({} | {} | {})", 6), ("plait-3 ({} | {} | {})", 6), ("reef ({} | {})", 4),
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


def test_a_knot_in_which_they_could_not_lie_side_by_side_says_so():
    (problem,) = trace(weave_of(4, "overhand-chain (1+2 | 3+4)"), units=1).problems
    assert "cannot lie side by side all the way" in problem.message
    # Its second end would have to come down between two loops that it passes: it would not be a snake any more.
    (problem,) = trace(weave_of(4, "snake (1+2 | 3+4)"), units=1).problems
    assert "cannot be passed together" in problem.message


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
        ("button (1+2)", "cannot be led strand by strand"),
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
