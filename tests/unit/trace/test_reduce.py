"""Fewer crossings, the same knot; what holds and what does not."""

import random

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.trace import trace
from dim_ladder.trace.diagram import close_tangle, tangle
from dim_ladder.trace.faces import ends_after, faces, side_slip
from dim_ladder.trace.holds import hold, upto
from dim_ladder.trace.reduce import euler, simplified
from dim_ladder.words.faces import colours_after, faces_sentence
from dim_ladder.words.holding import hold_sentence
from helpers.invariants import determinant_signature
from helpers.sizes import sized
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of
from helpers.wild import wild_weave


@pytest.mark.parametrize(
    ("knot", "count", "real"),
    [("overhand", 1, 3), ("stopper", 1, 5), ("figure-eight", 1, 4), ("coil-3", 1, 7), ("coil-5", 1, 11), ("slip", 1, 0)],
)  # fmt: skip
def test_known_crossing_numbers(knot, count, real):
    t = trace(weave_of(count, f"{knot} (1)"))
    assert simplified(tangle(t)).crossings == real


def test_what_is_laid_and_taken_back_is_nothing():
    t = trace(weave_of(4, "1: over 2 3, under 4", "4: under 3, over 2 1"))
    found = simplified(tangle(t))
    assert found.crossings == 0
    assert [w for w in found.walks if w] == []


@pytest.mark.parametrize("seed", range(sized(60, 600)))
def test_simplifying_keeps_every_knot_and_stays_planar(seed):
    t = trace(wild_weave(random.Random(seed).randint, whole=False))
    a = tangle(t)
    b = simplified(a)
    assert b.crossings <= a.crossings
    assert euler(a) == euler(b) == 2
    for end in t.start:
        before, after = close_tangle(a, [end]), close_tangle(b, [end])
        assert (determinant_signature(before) if before.pd else (1, 0)) == (
            determinant_signature(after) if after.pd else (1, 0)
        )


CHAIN = "1: over own left @a, bight up @a @b, bight up @b @c"


def test_a_slipped_chain_holds_nothing_and_locked_it_holds_by_one_tuck():
    chain = trace(weave_of(1, CHAIN))
    free = hold(chain)
    assert (free.real, free.tucks, free.loose) == (0, 0, (0,))
    assert "without undoing a tuck" in hold_sentence(chain, free)
    closed = trace(weave_of(1, CHAIN + ", up @c"))
    locked = hold(closed)
    assert locked.tucks == 1
    assert locked.real > 0
    assert "after one tuck" in hold_sentence(closed, locked)


def test_every_half_knot_is_a_tuck_and_a_plait_is_none():
    weave = parse_strict(TERN)
    assert hold(trace(weave, section="bar", units=2)).tucks == 4
    assert hold(trace(parse_strict(SPIRAL), section="bar", units=1)).tucks == 1
    plait = trace(parse_strict(PLAIT), units=3)
    assert hold(plait).tucks == 0
    assert "only while its ends are held" in hold_sentence(plait, hold(plait))


def test_the_crossing_that_holds_an_overhand_is_named():
    t = trace(weave_of(2, "overhand (1)"))
    found = hold(t)
    assert found.key >= 0
    assert "What holds it is A over itself in step 1" in hold_sentence(t, found)
    assert found.loose == ()


def test_an_end_that_was_only_laid_about_slips_out():
    held = hold(trace(weave_of(3, "3: over 2 1, under 1 2", "overhand (1)")))
    assert held.loose == ()  # it went round the others
    t = trace(weave_of(3, "3: over 2, under 1", "1: under 2, over 3", "overhand (1)"))
    free = hold(t)
    assert free.loose == (1, 2)
    assert "B and C slip out" in hold_sentence(t, free)


def test_the_trace_before_a_step_is_the_trace_of_what_comes_before():
    whole = trace(weave_of(4, "half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"))
    part = trace(weave_of(4, "half-right (1 | 2 3 | 4)"))
    cut = tangle(upto(whole, 2))
    assert close_tangle(cut, cut.top).pd == close_tangle(tangle(part), list(part.start)).pd


def test_no_judgement_where_ends_come_and_go():
    assert hold(trace(weave_of(3, "overhand (1)", "drop 2"))) is None


def test_colours_after_units_and_faces():
    plait = trace(parse_strict(PLAIT), units=1)
    assert [colours_after(plait, n) for n in range(4)] == [
        ("gold", "green", "brown"),
        ("brown", "gold", "green"),
        ("green", "brown", "gold"),
        ("gold", "green", "brown"),
    ]
    assert ends_after(plait, 10**9) == ends_after(plait, 10**9 % 3)
    two = weave_of(4, "half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)")
    once = trace(two)
    found = faces(once)
    assert (found.front, found.back) == ((3,), (0,))
    assert "(D) in the front centre" in faces_sentence(once, found)


def test_a_slip_of_side_is_told_when_sides_were_changed_before():
    knots = ["half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"]
    assert side_slip(weave_of(4, *knots), "s") == ""
    assert side_slip(weave_of(4, *knots, knots[0]), "s") == ""
    assert side_slip(weave_of(4, *knots, knots[1]), "s") == "left"
    bare = ["4: over 3 2", "1: over 2, under 3 4, up 2", "1: over 2 3", "4: over 3, under 2 1, up 3"]
    assert side_slip(weave_of(4, *bare), "s") == ""
    assert side_slip(weave_of(4, *bare, *bare[2:]), "s") == "left"
    assert side_slip(parse_strict(SPIRAL), "bar") == ""
