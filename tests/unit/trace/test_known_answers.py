"""The answers every trace must give, checked by knot invariants that a foreign library computes."""

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.trace import close, euler_characteristic, linking, permutation, trace
from helpers.invariants import determinant_signature, link
from helpers.weaves import PLAIT, SPIRAL, TERN, weave_of


def caps(weave, units=1):
    t = trace(weave, section="bar", units=units)
    return t, close(t, [1, 4], "caps")


def test_one_half_knot_over_two_fillers_is_a_trefoil():
    t, closed = caps(parse_strict(SPIRAL))
    assert len(t.crossings) == 7
    assert closed.components == 1
    assert determinant_signature(closed)[0] == 3
    assert abs(determinant_signature(closed)[1]) == 2


def test_half_right_then_half_left_is_flat():
    t, closed = caps(parse_strict(TERN))
    assert len(t.crossings) == 14
    assert determinant_signature(closed) == (9, 0)


def test_half_right_twice_is_a_spiral():
    t, closed = caps(parse_strict(SPIRAL), units=2)
    assert len(t.crossings) == 14
    determinant, signature = determinant_signature(closed)
    assert (determinant, abs(signature)) == (9, 4)


def test_the_same_end_leads_every_time_when_sides_alternate():
    t = trace(parse_strict(TERN), section="bar", units=3)
    leaders = [t.ends[s.end] for s in t.steps if s.knot_step == 0]
    assert leaders == ["buoy.b"] * 6


def test_the_lead_alternates_when_the_side_stays():
    t = trace(parse_strict(SPIRAL), section="bar", units=4)
    leaders = [t.ends[s.end] for s in t.steps if s.knot_step == 0]
    assert leaders == ["buoy.b", "buoy.a", "buoy.b", "buoy.a"]


@pytest.mark.parametrize(
    ("lines", "expected"),
    [
        (["half-hitch (1 | 2)"], 1),
        (["half-hitch (1 | 2)", "half-hitch (1 | 2)"], 2),
        (["cow-hitch (1 | 2)"], 0),
        (["half-hitch-behind (1 | 2)"], 1),
    ],
)
def test_linking_of_hitches_with_a_closed_runner(lines, expected):
    t = trace(weave_of(2, *lines))
    assert t.names_shown() == t.ends  # the working end is back on the side it came from
    matrix = link(close(t)).linking_matrix()
    assert abs(matrix[0][1]) == expected
    assert abs(sum(linking(t).values())) == 2 * expected  # ours counts crossings, the other library links


def test_a_half_hitch_and_one_from_behind_link_oppositely():
    over = linking(trace(weave_of(2, "half-hitch (1 | 2)")))
    under = linking(trace(weave_of(2, "half-hitch-behind (1 | 2)")))
    assert over[0, 1] == -under[0, 1]


@pytest.mark.parametrize(("n", "determinant", "components"), [(2, 5, 1), (3, 16, 3), (4, 45, 1), (5, 121, 1)])
def test_three_strand_plait(n, determinant, components):
    t = trace(parse_strict(PLAIT), units=n)
    closed = close(t)
    assert closed.components == components == len(link(closed).link_components)
    assert determinant_signature(closed)[0] == determinant
    assert len(closed.pd) == 2 * n


def test_the_library_plait_is_the_same_plait():
    t = trace(weave_of(3, "plait-right (1 | 2 | 3)", "plait-left (1 | 2 | 3)"), units=4)
    assert close(t).pd == close(trace(parse_strict(PLAIT), units=4)).pd


@pytest.mark.parametrize("how", ["mirror", "flip"])
def test_mirror_and_flip_are_involutions_and_reverse_the_signature(how):
    knots = f"""knot once (w | c.. | v)
  v: over c
  w: over v, under c, up v
knot other = {how} once
knot back = {how} other
"""
    traces = {
        n: trace(weave_of(4, f"{n} (1 | 2 3 | 4)", knots=knots), units=3) for n in ("once", "other", "back")
    }
    assert close(traces["once"]).pd == close(traces["back"]).pd
    once, other = (determinant_signature(close(traces[n], [1, 4], "caps")) for n in ("once", "other"))
    assert once[0] == other[0]
    assert once[1] == -other[1] != 0


def test_permutation_says_where_each_end_goes():
    assert permutation(trace(parse_strict(SPIRAL), section="bar")) == (4, 2, 3, 1)
    assert permutation(trace(parse_strict(PLAIT))) == (2, 3, 1)


def test_diagrams_are_planar():
    for text in (TERN, SPIRAL, PLAIT):
        for closure in ("braid", "caps"):
            t = trace(parse_strict(text), units=3)
            if closure == "caps" and len(t.ends) % 2:
                continue
            characteristic, parts = euler_characteristic(close(t, None, closure).pd)
            assert characteristic == 2 * parts
