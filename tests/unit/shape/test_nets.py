"""Knots that lie beside each other and are tied together by others: nets lie flat, and come to the same from wherever they are drawn up."""

from dataclasses import replace

import pytest

from dim_ladder.shape import tight
from dim_ladder.shape.board import FLAT, on_board, plaited
from dim_ladder.shape.tighten import job_for, pulled
from dim_ladder.shape.value import widest
from dim_ladder.trace import trace
from dim_ladder.trace.knotted import is_net
from helpers.restarts import begun_elsewhere
from helpers.weaves import weave_of

SNAKES = ("snake (1 | 2)", "snake (3 | 4)", "snake (2 | 3)")
REEFS = ("reef (1 | 2)", "reef (3 | 4)", "reef (2 | 3)")
SQUARES = ("square (1 | 2 3 | 4)", "square (5 | 6 7 | 8)", "square (3 | 4 5 | 6)")
NESTED = ("square (1 | 2 3 4 5 | 6)", "square (2 | 3 4 | 5)")


def _of(kind, count, lines):
    weave = weave_of(count, *lines)
    return replace(weave, cords=tuple(replace(c, kind=kind) for c in weave.cords))


@pytest.mark.parametrize("kind", ["nylon-4mm", "cotton-3mm"])
@pytest.mark.parametrize(("count", "lines"), [(4, SNAKES), (4, REEFS), (8, SQUARES), (6, NESTED)])
def test_begun_elsewhere_a_net_comes_to_the_same(kind, count, lines):
    job = job_for(_of(kind, count, lines), "s")
    *_, one = pulled(job)
    assert one.converged
    for seed in (5, 6):
        *_, again = pulled(begun_elsewhere(job, seed))
        assert again.converged
        assert again.pitch == pytest.approx(one.pitch, rel=0.03)
        assert sum(again.per_end.values()) == pytest.approx(sum(one.per_end.values()), rel=0.02)
        assert again.thickness == pytest.approx(one.thickness, rel=0.06)


def test_a_net_of_snakes_lies_flat_and_each_end_takes_as_much_as_its_like():
    net = tight(weave_of(4, *SNAKES), "s")
    snake = tight(weave_of(2, "snake (1 | 2)"), "s")
    assert net.thickness < 1.25 * snake.thickness
    assert net.width > 1.6 * net.thickness
    assert net.per_end["k1.a"] == pytest.approx(net.per_end["k4.a"], rel=0.03)
    assert net.per_end["k2.a"] == pytest.approx(net.per_end["k3.a"], rel=0.03)


def test_what_a_net_is():
    a, b, c = frozenset({0, 1}), frozenset({2, 3}), frozenset({1, 2})
    assert is_net(range(4), (a, b, c))
    assert not is_net(range(4), (a, b))  # beside each other, and never tied together
    assert not is_net(range(4), (a, c))
    assert not is_net(range(2), (a, b, c))  # not of these ends
    assert on_board(range(4), (), {}, False, (a, b, c), "") == FLAT
    assert on_board(range(4), (), {}, False, (a, c), "") == 0.0


TWO_BY_TWO = "double-connection (1+2 | 3+4)"


def test_what_rests_in_several_ways_is_drawn_up_from_several_beginnings_and_the_shortest_one_counts():
    job = job_for(weave_of(4, TWO_BY_TWO), "s")
    ways, way = [], job
    while way is not None:
        ways, way = [*ways, way], way.also
    assert len(ways) > 1
    alone = [list(pulled(replace(j, also=None)))[-1] for j in ways]
    assert all(s.converged for s in alone)
    *_, best = pulled(job)

    def takes(s):
        return sum(s.per_end.values()) - job.stretch * s.pitch

    assert takes(best) == pytest.approx(min(map(takes, alone)), abs=0.01)
    # How else it came to rest is said.
    cord = sum(best.per_end.values())
    unlike = [(s.pitch / best.pitch - 1, sum(s.per_end.values()) / cord - 1) for s in alone]
    most = max(unlike, key=lambda by: max(map(abs, by)))
    assert abs(most[0]) > 0.03
    assert best.rests == pytest.approx(most, abs=2e-3)


def test_how_else_it_came_to_rest_is_kept_and_goes_with_the_whole():
    pair = tight(weave_of(4, TWO_BY_TWO), "s")
    assert any(pair.rests)
    assert tight(weave_of(4, TWO_BY_TWO), "s").rests == pair.rests  # from the cache
    snake = tight(weave_of(2, "snake (1 | 2)"), "s")
    assert not any(snake.rests)
    assert widest([snake, pair, snake]) == pair.rests


def test_what_is_hardly_apart_is_the_same():
    snake = tight(weave_of(2, "snake (1 | 2)"), "s")
    assert not any(snake.or_rests([replace(snake, pitch=1.02 * snake.pitch)]).rests)
    assert snake.or_rests(
        [replace(snake, pitch=p * snake.pitch) for p in (1.04, 1.2, 1.1)]
    ).rests == pytest.approx((0.2, 0.0))


@pytest.mark.parametrize(
    "lines", [("snake (1 | 2)",), ("square (1 | 2 3 | 4)",), ("plait-4 (1 | 2 | 3 | 4)",)]
)
def test_what_rests_in_one_way_is_drawn_up_once(lines):
    assert job_for(weave_of(4 if len(lines[0]) > 13 else 2, *lines), "s").also is None


@pytest.mark.parametrize(
    ("line", "how", "lies"),
    [
        ("plait-4 (1 | 2 | 3 | 4)", "flat", 0.0),  # it cannot lie otherwise
        ("plait-5 (1 | 2 | 3 | 4 | 5)", "flat", FLAT),
        ("plait-7 (1 | 2 | 3 | 4 | 5 | 6 | 7)", "flat", FLAT),
        ("round-4 (1 | 2 | 3 | 4)", "round", 0.0),
        ("round-8 (1 | 2 | 3 | 4 | 5 | 6 | 7 | 8)", "round", 0.0),
        ("snake (1 | 2)", "", 0.0),
        ("square (1 | 2 3 | 4)", "", 0.0),
    ],
)
def test_flat_plaits_lie_on_a_board_and_round_ones_are_worked_in_the_hand(line, how, lies):
    count = max(int(x) for x in line[line.index("(") + 1 : -1].replace("|", " ").split())
    weave = weave_of(count, line)
    assert plaited(trace(weave, section="s", units=1), range(count)) == how
    assert job_for(weave, "s").curves.flat == lies


def test_a_round_plait_of_eight_is_as_thick_as_wide():
    shape = tight(weave_of(8, "round-8 (1 | 2 | 3 | 4 | 5 | 6 | 7 | 8)"), "s")
    assert shape.converged
    assert shape.width == pytest.approx(shape.thickness, rel=0.05)


def test_beside_other_work_a_plait_and_a_wall_are_what_they_are_alone():
    job = job_for(weave_of(8, "round-6 (1 | 2 | 3 | 4 | 5 | 6)", "snake (7 | 8)"), "s")
    assert [p.job.curves.flat for p in job.parts] == [0.0, 0.0]
    job = job_for(weave_of(5, "round-button (1 | 2 | 3)", "snake (4 | 5)"), "s")
    assert job.parts[0].job.also is not None
