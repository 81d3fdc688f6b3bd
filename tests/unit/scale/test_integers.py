"""Whole units solved for, against trying them all."""

from __future__ import annotations

import itertools
import random

import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.scale.integers import SAME, nearest_counts
from dim_ladder.scale.units import MAX_COMBINATIONS, whole_units


def brute(room, steps):
    """Least error of all counts that could be meant."""
    tops = [max(1, int(room / mm) + 2) for mm in steps]
    return min(
        abs(sum(k * mm for k, mm in zip(ks, steps, strict=True)) - room)
        for ks in itertools.product(*(range(1, t + 1) for t in tops))
    )


@pytest.mark.parametrize("seed", range(5))
def test_five_hundred_random_cases_are_as_near_as_trying_all(seed):
    rng = random.Random(seed)
    for _ in range(100):
        steps = [round(rng.uniform(4, 40), 2) for _ in range(rng.randint(1, 3))]
        room = round(rng.uniform(sum(steps), 260), 2)
        first, *others = nearest_counts(room, steps)
        error = abs(sum(k * mm for k, mm in zip(first, steps, strict=True)) - room)
        least = brute(room, steps)
        assert least - 1e-6 <= error <= least + SAME + 1e-6
        for other in others:
            assert abs(sum(k * mm for k, mm in zip(other, steps, strict=True)) - room) >= error - SAME - 1e-6


def test_of_answers_as_near_the_most_even_is_taken():
    (first, *_) = nearest_counts(120.0, [10.0, 10.0, 10.0])
    assert first == (4, 4, 4)
    (first, *_) = nearest_counts(130.0, [10.0, 10.0, 10.0])
    assert sorted(first) == [4, 4, 5]


def test_neighbours_are_longer_and_shorter():
    first, *others = nearest_counts(103.0, [10.0])
    assert (first, *others) == ((10,), (11,), (9,))


MANY = """weave "Many"

cords
  tide  nylon-4mm  #1f6f8b

hang
  tide.a tide.b
"""


def test_a_piece_of_eight_sections_that_fit_is_solved():
    names = [f"part-{k}" for k in range(8)]
    text = MANY + "".join(
        f"\nsection {n}: body, fit{' pairs' if k % 2 else ''}\n  half-knot-right (1 | 2)\n"
        for k, n in enumerate(names)
    )
    weave = parse_strict(text)
    pitch = {n: 5.0 + 0.37 * k for k, n in enumerate(names)}
    options = whole_units(weave, pitch, 12.0, 640.0)
    assert len(options) >= 2
    best = options[0]
    assert list(best.counts) == names
    assert abs(best.error_mm) <= SAME
    assert best.length_mm == pytest.approx(12.0 + sum(pitch[n] * k for n, k in best.counts.items()))
    assert all(best.counts[n] % 2 == 0 for n in names[1::2])
    lengths = [pitch[n] * k for n, k in best.counts.items()]
    assert max(lengths) - min(lengths) < 2 * max(pitch.values())
    assert MAX_COMBINATIONS < 10_000
