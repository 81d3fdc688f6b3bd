"""Every hop of the language against answers that are known apart from this program."""

import itertools

import pytest

from dim_ladder.notation import parse_strict, write
from dim_ladder.trace import check_structure, close, linking, permutation, trace
from helpers.invariants import determinant_signature
from helpers.weaves import weave_of


def traced(count, *lines, **more):
    weave = weave_of(count, *lines, **more)
    assert parse_strict(write(weave)) == weave
    t = trace(weave)
    assert t.problems == ()
    assert check_structure(t) == []
    return t


def knot(t, keep=None, closure="braid"):
    closed = close(t, keep, closure)
    return determinant_signature(closed) if closed.pd else (1, 0)


@pytest.mark.parametrize(
    ("line", "determinant", "signature"),
    [
        ("1: over own left @e, up @e", 3, 2),  # trefoil
        ("1: under own left @e, down @e", 3, 2),  # from behind: the other trefoil, seen from the other side
        ("1: over own left @e, up @e turns 2", 5, 4),  # cinquefoil
        ("1: over own left @e, up @e turns 3", 7, 6),
        ("1: over own left @e, up @e turns 5", 11, 10),
        ("1: over own left @e, down @e, up own.2", 5, 0),  # figure-eight
        ("1: over own left @e, bight up @e", 1, 0),  # a slip knot is no knot
        ("1: over own left @a, bight up @a @b, bight up @b @c, bight up @c", 1, 0),
    ],
)
def test_knots_of_one_end(line, determinant, signature):
    d, s = knot(traced(1, line))
    assert (d, abs(s)) == (determinant, signature)


def test_strand_by_strand():
    """Any diagram can be led crossing by crossing; what does not lie beside the end is refused."""
    t = traced(1, "1: over own right @eye, over own at 1, over own at 2, under own at 6, over own at 3, under own at 8, over own at 4, under own at 10")  # fmt: skip
    assert len(t.crossings) == 8
    assert knot(t) == (45, 0)
    far = trace(weave_of(3, "3: over 2", "1: over 3 at 0"))
    assert "does not lie beside" in far.problems[0].message
    own = trace(weave_of(2, "1: over own at 0"))
    assert "its own tail" in own.problems[0].message
    # An end that stays on the far side can go on through a loop, or be told where to fall.
    for last in ("up own", "to right", "over 2", "round 2 1"):
        assert traced(2, f"1: over own left @eye, over own at 1, {last}").steps[0].hops[1].stop == 2


def test_locking_a_chain_of_bights_makes_it_a_knot():
    chain = "1: over own left @a, bight up @a @b, bight up @b @c"
    assert knot(traced(1, chain))[0] == 1
    assert knot(traced(1, chain + ", up @c"))[0] > 1


def test_a_flat_mat_of_two_loops_closes_to_the_turks_head_of_three_leads_and_four_bights():
    t = traced(2, "carrick-mat (1 | 2)")
    assert knot(t, None, "caps") == (45, 0)


@pytest.mark.parametrize("turns", [1, 2, 5])
def test_round_links_once_a_turn_and_comes_back(turns):
    t = traced(3, f"1: round 2 3 {turns}")
    assert t.order == t.start
    assert linking(t) == {(0, 1): 2 * turns, (0, 2): 2 * turns} or linking(t) == {
        (0, 1): -2 * turns,
        (0, 2): -2 * turns,
    }
    behind = traced(3, f"1: round 2 3 {turns} behind")
    assert linking(behind) == {pair: -n for pair, n in linking(t).items()}


def test_ends_moved_as_one_make_the_same_hops_side_by_side():
    one = traced(3, "1: over 2 3, under 3 2, up own")
    two = traced(4, "1+2: over 3 4, under 4 3, up own")
    assert knot(two, [1, 3, 4]) == knot(one) == knot(two, [2, 3, 4])
    assert two.steps[0].ends == (0, 1)
    assert linking(two)[0, 2] == linking(two)[1, 2] == linking(one)[0, 1]
    assert two.order == (0, 1, 2, 3)  # side by side, not twisted


def test_two_as_one_may_be_led_by_either():
    a = traced(4, "1+2: over 3, under 4")
    b = traced(4, "2+1: over 3, under 4")
    assert a.order == b.order == (2, 3, 0, 1)
    assert linking(a) == linking(b)


def test_ends_that_do_not_hang_side_by_side_cannot_move_as_one():
    t = trace(weave_of(4, "1+3: over 4"))
    assert "do not hang side by side" in t.problems[0].message


def test_following_at_once_is_moving_as_one():
    together = traced(4, "2+1: over 3 4")
    after = traced(4, "2: over 3 4", "1: follow 4 left")
    assert together.order == after.order
    assert linking(together) == linking(after)


def test_following_back_runs_with_the_same_overs_and_unders():
    t = traced(4, "4: over 3, under 2", "3: over 4, to 1", "2: under 3 4, to 1")
    assert t.order == (0, 1, 3, 2)
    back = traced(3, "2: over 3", "3: over 2", "1: follow 2 left back 1")
    new = back.crossings[2:]
    assert len(new) == 2  # it ran along one crossing and fell to the front over one
    assert [(c.over_end, {c.lane_end, c.row_end}) for c in new] == [(0, {0, 2}), (0, {0, 1})]
    far = trace(weave_of(3, "2: over 3", "1: follow 2 left back 9"))
    assert "only" in far.problems[0].message


def test_a_mat_doubled_by_following_back_and_on():
    single = traced(2, "carrick-mat (1 | 2)")
    doubled = trace(weave_of(2, "carrick-mat (1 | 2)", "1: follow 2 left back, follow own right"))
    assert doubled.problems == ()
    assert check_structure(doubled) == []
    # Beside itself everywhere, every crossing becomes four; the two ends add the few where they leave.
    assert 4 * len(single.crossings) <= len(doubled.crossings) <= 4 * len(single.crossings) + 8


def test_to_rests_where_it_is_told():
    assert traced(4, "1: over 2, to right").order == (1, 2, 3, 0)
    assert traced(4, "4: under 3, to 1").order == (3, 0, 1, 2)
    t = traced(4, "half-hitch (3 | 4)", "3: over 4, under 4, up own, to left")
    assert t.order[0] == 2
    front = [c.over_end for c in t.crossings[-2:]]
    assert front == [2, 2]  # it fell in front of what hung there


def test_a_gap_is_entered_from_behind_and_rested_in():
    t = traced(4, "1: up gap 3 4")
    assert t.order == (1, 2, 0, 3)
    assert [c.over_end for c in t.crossings] == [1, 2]
    assert [c.over_end for c in traced(4, "1: down gap 3 4").crossings] == [0, 0]
    assert "k3.a hangs there" in trace(weave_of(4, "1: up gap 2 4")).problems[0].message


def test_later_turns_are_counted_along_the_step():
    first = traced(3, "3: over 2, under 1", "2: up 1")
    third = trace(weave_of(3, "3: over 2, under 1", "2: up 1.3"))
    assert "has no 3. turn" in third.problems[0].message
    assert first.steps[1].hops[0].edge >= 0


def test_a_loop_keeps_its_name_and_the_nearest_of_its_unit_is_meant():
    weave = weave_of(3, "1: over 2 @eye", "3: under 2, up @eye")
    two = trace(weave, units=2)
    assert two.problems == ()
    assert check_structure(two) == []
    missing = trace(weave_of(2, "1: over 2, up @nowhere"))
    assert "no loop is called @nowhere" in missing.problems[0].message


def test_an_address_counted_from_the_tail_lives_through_an_edit_upstream():
    """What is passed stays the same region when crossings are added further up."""
    steps = ["3: over 2", "1: over 2, up right of 3 1"]
    plain = traced(3, *steps)
    edited = traced(3, "1: round 2 2", *steps)
    a, b = plain.steps[-1], edited.steps[-1]
    assert a.order == b.order
    over = [
        (t.crossings[n].lane_end, t.crossings[n].row_end, t.crossings[n].lane_over)
        for t, s in ((plain, a), (edited, b))
        for n in range(s.start, s.stop)
    ]
    assert over[: len(over) // 2] == over[len(over) // 2 :]


def test_every_address_of_every_end_can_be_passed_or_says_why_not():
    lines = ["half-right (1 | 2 3 | 4)", "2: round 3 2"]
    base = traced(4, *lines)
    total = sum(1 for c in base.crossings if 1 in (c.lane_end, c.row_end))
    assert total > 4
    passed = 0
    for side, count, way in itertools.product(("left", "right"), range(total + 1), ("up", "down")):
        t = trace(weave_of(4, *lines, f"1: {way} {side} of 2 {count}"))
        assert check_structure(t) == []
        passed += not t.problems
    assert passed > total
    beyond = trace(weave_of(4, *lines, "1: up left of 3 99"))
    assert "crossings above its tail" in beyond.problems[0].message


def test_beads_and_slack_stand_at_their_place_and_cross_nothing():
    weave = parse_strict(
        'weave "B"\ncords\n  a nylon-2mm #1f6f8b\n  b nylon-2mm #e07a1f\nbeads\n  shell 8 mm #f4f2ec\n'
        "hang\n  a.a b.a\nsection s: body\n  1: over 2, leave 25 mm\n  1+2: bead shell\n"
    )
    t = trace(weave)
    assert t.problems == ()
    assert check_structure(t) == []
    assert len(t.crossings) == 1
    kinds = [(p.kind, p.text, p.mm, len(p.ends)) for s in t.steps for p in s.placed]
    assert kinds == [("leave", "", 25.0, 1), ("bead", "shell", 0.0, 2)]


def test_the_router_takes_the_way_with_the_fewest_crossings():
    """A loop on the far side of three tails: going round the outside costs less than crossing them all."""
    t = traced(5, "1: over 2", "5: over 4 3", "1: up 3")
    last = t.steps[-1]
    assert last.stop - last.start <= 4


def test_permutation_needs_the_same_ends_at_both_sides():
    t = traced(3, "drop 2")
    with pytest.raises(Exception, match="come in or are laid aside"):
        permutation(t)


@pytest.mark.parametrize(
    "lines",
    [
        ("4: over 3", "1+2: over 3, up 3"),
        ("4: over 3, under 2 1, over own left @e", "3+4: up @e"),
        ("3: round 4 2", "1+2: up right of 4 2"),
        ("4: over 3 2", "2+1: down left of 4 1, to right"),
        ("4: round 3 2", "1+2: down left of 4 3"),
    ],
)
def test_a_strip_goes_the_way_its_leader_goes(lines):
    t = traced(4, *lines)
    a, b = t.steps[-1].ends
    before, after = linking(trace(weave_of(4, *lines[:-1]))), linking(t)
    for e in t.start:
        if e not in (a, b):
            turns = [
                after.get(pair, 0) - before.get(pair, 0) for pair in (tuple(sorted((m, e))) for m in (a, b))
            ]
            assert turns[0] == turns[1]
