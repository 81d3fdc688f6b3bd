"""Rows tied or woven across upright cords lie level, close one above the other: hands push them up."""

from dataclasses import replace

import pytest

from dim_ladder.shape import tight
from dim_ladder.shape.rope import rope
from dim_ladder.shape.sound import amiss
from dim_ladder.shape.tied import in_rows_across
from dim_ladder.shape.tighten import job_for, pulled
from dim_ladder.trace import trace
from helpers.restarts import begun_elsewhere
from helpers.weaves import weave_of


def hitched(uprights: int, knot: str = "upright-hitch") -> list[str]:
    there = [f"{knot}-right ({k} | {k + 1})" for k in range(1, uprights + 1)]
    return [*there, *(f"{knot}-left ({k} | {k + 1})" for k in range(uprights, 0, -1))]


def woven(uprights: int) -> list[str]:
    """There over the first, and back under what it went over."""
    ways = [("over", "under")[k % 2] for k in range(uprights)]
    there = ", ".join(f"{way} {k}" for k, way in enumerate(ways, 2))
    back = ", ".join(
        f"{'under' if way == 'over' else 'over'} {k}"
        for k, way in zip(range(uprights, 0, -1), ways[::-1], strict=True)
    )
    return [f"1: {there}", f"{uprights + 1}: {back}"]


@pytest.mark.parametrize("uprights", [2, 3, 5])
def test_two_rows_of_hitches_are_as_high_as_their_wraps(uprights: int) -> None:
    shape = tight(weave_of(uprights + 1, *hitched(uprights)), "s")
    assert shape.converged
    assert 3.4 < shape.pitch < 5.8  # four wraps one above the other, a little apart
    assert shape.width > 1.6 * uprights
    for k in range(2, uprights + 2):
        assert shape.per_end[f"k{k}.a"] < 1.15 * shape.pitch  # they stay upright
    assert shape.per_end["k1.a"] == pytest.approx(24 * uprights, rel=0.15)


@pytest.mark.parametrize("uprights", [3, 4, 6])
def test_what_is_woven_across_is_beaten_up(uprights: int) -> None:
    shape = tight(weave_of(uprights + 1, *woven(uprights)), "s")
    assert shape.converged
    # Of two rows each shows its front where the other has its back: they lie in one height of a cord, hardly more.
    assert 0.9 < shape.pitch < 1.8
    worker = shape.per_end["k1.a"]
    assert worker > 2 * 1.2 * uprights
    assert all(shape.per_end[f"k{k}.a"] < 1.3 * shape.pitch for k in range(2, uprights + 2))


@pytest.mark.parametrize(
    ("count", "lines"),
    [
        (4, ["half-right (1 | 2 3 | 4)", "half-left (1 | 2 3 | 4)"]),
        (4, ["larks-head (1 | 2 3)", "larks-head (4 | 2 3)"]),
        (3, ["half-hitch (1 | 2 3)"]),
        (2, ["upright-hitch-right (1 | 2)", "upright-hitch-left (1 | 2)"]),
    ],
)
def test_what_goes_round_one_core_is_no_row(count: int, lines: list[str]) -> None:
    assert in_rows_across(trace(weave_of(count, *lines))) == set()


@pytest.mark.parametrize(("count", "seed"), [(5, None), (6, None), (7, 5), (10, None)])
def test_no_hitch_comes_off_where_a_runner_turns_back(count, seed):
    """Of bars there and back on one runner those at the edges lost a wrap on five, six and ten ends, and not on eight."""
    job = job_for(weave_of(count, f"bar-right (1 | 2..{count})", f"bar-left (1..{count - 1} | {count})"), "s")
    assert job.hitched == tuple(range(1, count))
    *_, shape = pulled(job if seed is None else begun_elsewhere(job, seed))
    assert shape.converged
    cord = [shape.per_end[job.ends[k]] for k in job.hitched]
    assert max(cord) < 1.06 * min(cord)
    # Two wraps of each hitch lie side by side, and rows two wraps apart.
    assert 1.6 < (shape.width - 1) / (count - 1) < 1.95
    assert 1.8 < shape.pitch / 2 < 2.2


def test_a_hitch_that_came_off_is_found_out():
    job = job_for(weave_of(5, "bar-right (1 | 2..5)", "bar-left (1..4 | 5)"), "s")
    r = rope(job.curves, 0.3)
    even = dict.fromkeys(job.ends, 22.0) | {job.ends[0]: 15.0, job.ends[1]: 22.7}
    assert "came off" not in amiss(job, r, even, 4.0)
    assert f"a hitch came off: {job.ends[4]}" in amiss(job, r, even | {job.ends[4]: 17.3}, 4.0)


def test_what_is_drawn_up_the_other_way_keeps_its_free_cord():
    weave = weave_of(3, "bar-right (1 | 2 3)", "bar-left (1 2 | 3)", "span 12 mm")
    job = job_for(weave, "s")
    assert sum(job.free) == pytest.approx(12.0)
    # Taken with the runner, which takes less, its hitches are called wrong.
    *_, shape = pulled(replace(job, hitched=(0, *job.hitched[:1])))
    assert shape.converged
    assert shape.free == job.free
