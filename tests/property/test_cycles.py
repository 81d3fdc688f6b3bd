"""What is worked out from one unit must be what tracing the whole cycle finds."""

import random
from collections import Counter

import pytest

from dim_ladder.trace import check_structure, end_cycle, linking, permutation, trace
from dim_ladder.trace.roles import roles, section_work
from dim_ladder.trace.turning import cycle_linking, turning
from helpers.weaves import random_weave, weave_of

SEEDS = range(40)


def units(seed, most_ends=5):
    rng = random.Random(seed)
    return random_weave(rng.randint, most_ends=most_ends, most_steps=5)


@pytest.mark.parametrize("seed", SEEDS)
def test_linking_over_a_cycle_is_that_of_the_whole_trace(seed):
    weave = units(seed)
    one = trace(weave)
    whole = trace(weave, units=end_cycle(one))
    assert whole.problems == ()
    assert check_structure(whole) == []
    assert permutation(whole) == tuple(range(1, len(whole.ends) + 1))
    assert cycle_linking(one) == linking(whole)
    if one.crossings:
        # Turns of some ends may be the mirror image of those of others: then the whole has nothing to take up.
        assert (turning(weave, "s").kind == "flat") == (sum(linking(whole).values()) == 0)


@pytest.mark.parametrize("seed", SEEDS)
def test_work_per_end_is_the_average_over_the_whole_cycle(seed):
    weave = units(seed)
    work = section_work(weave, "s")
    one = trace(weave)
    if work is None:
        assert not one.crossings
        return
    whole = trace(weave, units=work.cycle)
    visits = Counter(whole.ends[e] for c in whole.crossings for e in (c.lane_end, c.row_end))
    moves = Counter(whole.ends[s.end] for s in whole.steps)
    for end in whole.ends:
        assert work.visits[end] == pytest.approx(visits[end] / work.cycle)
        assert work.moves[end] == pytest.approx(moves[end] / work.cycle)
    assert work.layers > 0
    found = roles(weave)
    assert set(found.role_of) == set(weave.hang.ends)
    for role in found.names:  # ends of one role really do the same work
        ends = [e for e in found.ends(role) if work.moves[e]]
        assert len({(round(work.visits[e], 6), round(work.moves[e], 6)) for e in ends}) <= 1


def test_a_long_cycle_is_no_burden():
    # Cycles of 2, 3, 5 and 7 ends side by side: 210 units until all hang where they began.
    lines = []
    first = 1
    for size in (2, 3, 5, 7):
        lines.append(f"{first}: over {' '.join(str(first + k) for k in range(1, size))}")
        first += size
    weave = weave_of(17, *lines)
    found = turning(weave, "s")
    assert found.cycle == 210
    assert found.kind == "spiral"
    assert section_work(weave, "s").cycle == 210
