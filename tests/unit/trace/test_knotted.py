"""The knots of a unit, called or made of bare steps."""

from dataclasses import replace

import pytest

from dim_ladder.commands.knots import inlined
from dim_ladder.notation import Call, parse_strict, write
from dim_ladder.shape import tight
from dim_ladder.shape.tighten import job_for
from dim_ladder.trace import trace
from dim_ladder.trace.alike import alike_ends
from dim_ladder.trace.cores import cores
from dim_ladder.trace.knotted import knots
from helpers.weaves import weave_of


def opened(weave):
    """The same work with every call opened into its steps."""
    while calls := [k for k, i in enumerate(weave.sections[0].items) if isinstance(i, Call)]:
        s = weave.sections[0]
        at = calls[0]
        items = (*s.items[:at], *inlined(weave, s, at), *s.items[at + 1 :])
        weave = replace(weave, sections=(replace(s, items=items),))
    return weave


def told(weave):
    """The ends of every knot, and which of them are led, by place at the top."""
    found = knots(trace(weave, section="s", units=1))
    return [
        ("".join(str(e + 1) for e in sorted(k.ends)), "".join(str(e + 1) for e in sorted(k.led)))
        for k in found
    ]


@pytest.mark.parametrize(
    ("many", "lines", "found"),
    [
        (4, ["half-right (1 | 2 3 | 4)"], [("1234", "14")]),
        # Of the same ends, one after the other, they are one; of others they are not.
        (4, ["square (1 | 2 3 | 4)", "reef (2 | 3)"], [("1234", "14"), ("23", "23")]),
        (4, ["reef (1 | 2)", "reef (3 | 4)", "reef (2 | 3)"], [("12", "12"), ("34", "34"), ("23", "23")]),
        # What is crossed before it is tucked belongs to it; what is crossed and never tucked is a plait.
        (3, ["crown-3 (1 | 2 | 3)"], [("123", "123")]),
        (4, ["crown-4 (1 | 2 | 3 | 4)"], [("1234", "1234")]),
        (3, ["plait-3 (1 | 2 | 3)"], [("123", "13")]),
        (4, ["plait-3 (1 | 2 | 3)", "reef (3 | 4)"], [("123", "13"), ("24", "24")]),
        (2, ["hitch-chain (1 | 2)"], [("12", "12")]),
        # Hitches on the same runner are a row, on the same core that hangs still they are not.
        (3, ["half-hitch (1 | 2)", "half-hitch (3 | 2)"], [("12", "1"), ("23", "3")]),
        (4, ["bar-right (1 | 2 3 4)"], [("1234", "1234")]),
        (4, ["bar-right (1 | 2)", "bar-left (3 | 4)"], [("12", "12"), ("34", "34")]),
        (4, ["diamond-4 (1 | 2 | 3 | 4)"], [("1234", "1234")]),
    ],
)  # fmt: skip
def test_bare_steps_make_the_knots_that_they_are(many, lines, found):
    called = weave_of(many, *lines)
    bare = opened(called)
    assert not any(isinstance(i, Call) for i in bare.sections[0].items)
    assert told(bare) == found


def test_a_bead_that_is_pushed_up_is_no_knot():
    """Nor does it make ends unlike which the knot treats alike."""
    text = weave_of(4, "square (1 | 2 3 | 4)")
    plain = parse_strict(write(text))
    beaded = parse_strict(
        write(text).replace("hang", "beads\n  pea 8 mm #f4f2ec\nhang", 1) + "  1: bead pea\n"
    )
    assert told(beaded) == told(plain) == [("1234", "14")]
    assert alike_ends(trace(beaded, section="s", units=1)) == alike_ends(trace(plain, section="s", units=1))


@pytest.mark.parametrize(
    ("many", "lines"),
    [
        (4, ["square (1 | 2 3 | 4)", "snake (2 | 3)"]),
        (4, ["reef (1 | 2)", "reef (3 | 4)", "reef (2 | 3)"]),
        (4, ["plait-3 (1 | 2 | 3)", "reef (3 | 4)"]),
        (6, ["bar-right (1 | 2 3)", "bar-left (4 5 | 6)", "double-hitch-right (3 | 4)"]),
        (2, ["hitch-chain (1 | 2)"]),
        (2, ["double-connection (1 | 2)"]),
        (3, ["walker-3 (1 | 2 | 3)"]),
        (8, ["square (1 | 2 3 | 4)", "square (5 | 6 7 | 8)", "square (3 | 4 5 | 6)"]),
    ],
)
def test_what_is_alike_and_what_is_core_does_not_hang_on_how_it_was_recorded(many, lines):
    called = weave_of(many, *lines)
    bare = opened(called)
    one, other = (trace(w, section="s", units=1) for w in (called, bare))
    assert alike_ends(one) == alike_ends(other)
    assert {(c.end, c.other) for c in cores(one).values()} == {
        (c.end, c.other) for c in cores(other).values()
    }
    a, b = job_for(called, "s"), job_for(bare, "s")
    assert a.curves.flat == b.curves.flat
    assert (a.also is None) == (b.also is None)


def test_a_net_that_is_typed_takes_what_a_net_of_knots_takes():
    called = weave_of(4, "reef (1 | 2)", "reef (3 | 4)", "reef (2 | 3)")
    one, other = tight(called, "s"), tight(opened(called), "s")
    assert other.converged
    assert other.pitch == pytest.approx(one.pitch, rel=0.01)
    for e in one.per_end:
        assert other.per_end[e] == pytest.approx(one.per_end[e], rel=0.01)
    inner, outer = one.per_end["k2.a"], one.per_end["k1.a"]
    assert inner > 1.3 * outer  # in twice as many knots
