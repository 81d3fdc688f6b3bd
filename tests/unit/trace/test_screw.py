"""What is wound on as one lies side by side all the way round: the same weave, but for how its ends turn about each other."""

import itertools

import pytest

from dim_ladder.trace import check_structure, close, trace
from dim_ladder.trace.screw import wound_as_one
from helpers.invariants import determinant_signature
from helpers.weaves import weave_of

WOUND = [  # steps, ends, their groups, how often they cross more
    (["1+2: round 3 2"], 3, [(1, 2), (3,)], 4),
    (["2+1: round 3 2"], 3, [(1, 2), (3,)], 4),
    (["2+3: round 1 3"], 3, [(1,), (2, 3)], 6),
    (["1+2: over 3, under 3, up own"], 3, [(1, 2), (3,)], 2),
    (["larks-head (1+2 | 3 4)"], 4, [(1, 2), (3,), (4,)], 4),
    (["hitch-chain (1+2 | 3+4)"], 4, [(1, 2), (3, 4)], 4),
    (["wrap-3 (1+2 | 3)"], 3, [(1, 2), (3,)], 6),
    (["1+2+3: round 4 5 2"], 5, [(1, 2, 3), (4,), (5,)], 12),
]  # fmt: skip


@pytest.mark.parametrize(("steps", "many", "groups", "changes"), WOUND)
def test_one_of_each_group_ties_what_it_tied(steps, many, groups, changes):
    """A foreign library's invariants, of the drawing and of what is drawn up."""
    t = trace(weave_of(many, *steps), units=1)
    assert t.problems == ()
    w = wound_as_one(t)
    assert check_structure(w) == []
    assert w.order == t.order
    assert len(w.crossings) - len(t.crossings) == changes
    for keep in itertools.product(*groups):
        numbers = [determinant_signature(close(x, list(keep), "braid")) for x in (t, w)]
        assert numbers[0] == numbers[1]


@pytest.mark.parametrize(
    "line", ["1+2: round 3 2", "1+2: round 3 2 behind", "2+3: round 1 3", "3+2: round 1 3"]
)
def test_two_on_a_screw_turn_about_each_other_once_a_turn_and_always_one_way(line):
    t = trace(weave_of(3, line), units=1)
    w = wound_as_one(t)
    pair = [int(k) - 1 for k in line[: line.index(":")].split("+")]
    met = [c for c in w.crossings if {c.lane_end, c.row_end} == set(pair)]
    assert not [
        c for c in t.crossings if {c.lane_end, c.row_end} == set(pair)
    ]  # on paper one lies inside the other
    turns = int(line.removesuffix(" behind")[-1])
    assert len(met) == 2 * turns
    ways = set()
    for c in met:
        path = w.paths[c.row_end]
        i = next(k for k in range(1, len(path), 2) if path[k] == c.row)
        right = w.lane_rank[path[i + 1]] > w.lane_rank[path[i - 1]]
        ways.add(right == c.lane_over)  # all go down here
    assert len(ways) == 1


@pytest.mark.parametrize(
    ("steps", "many"),
    [
        (["square (1+2 | 3 4 | 5+6)"], 6),
        (["carrick-mat (1+2 | 3+4)"], 4),
        (["plait-3 (1+2 | 3+4 | 5+6)"], 6),
        (["1/2: over 3, under 3, up own"], 3),
        (["half-hitch (1 | 2)"], 2),
    ],
)
def test_what_goes_round_nothing_stays_as_it_is_drawn(steps, many):
    """What lies flat in a mat turns one inside the other, and what is stacked one on the other."""
    t = trace(weave_of(many, *steps), units=1)
    assert t.problems == ()
    assert wound_as_one(t) is t


@pytest.mark.parametrize("lead", list(itertools.permutations((1, 2, 3))))
@pytest.mark.parametrize("knot", ["wrap-3", "larks-head"])
def test_three_in_a_knot_stay_a_drawing_however_they_are_led(knot, lead):
    t = trace(weave_of(4, f"{knot} ({'+'.join(map(str, lead))} | 4)"), units=1)
    assert t.problems == ()
    w = wound_as_one(t)
    assert check_structure(w) == []
    for keep in (1, 2, 3):
        numbers = [determinant_signature(close(x, [keep, 4], "braid")) for x in (t, w)]
        assert numbers[0] == numbers[1]


def test_three_and_more_are_led_from_the_first_step_on():
    """Those that are still to move along hang in nobody's way."""
    for lead in itertools.permutations((1, 2, 3)):
        t = trace(weave_of(4, f"{'+'.join(map(str, lead))}: over 4, under 4"), units=1)
        assert t.problems == ()
        assert check_structure(t) == []
        assert t.order == (0, 1, 2, 3)
