"""Rows tied or woven across upright cords lie level, close one above the other: hands push them up."""

import pytest

from dim_ladder.shape import tight
from dim_ladder.shape.tied import in_rows_across
from dim_ladder.trace import trace
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
