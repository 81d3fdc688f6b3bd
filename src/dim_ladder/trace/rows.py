"""How far down work reaches, and how much cord is in it, from its crossings alone: a rough rule, until its shape is known.

A knot of many crossings is a ball, and no column of as many rows: its height and its cord grow more slowly than they do. Powers and factors are
a least-squares fit, in logarithms, to the tight shapes of the knots that ship, single and two by two: height is met within 27 %, cord within 26 % (root mean square).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby

from dim_ladder.notation import Call, Through
from dim_ladder.trace.value import StepRecord, Trace

TALL, BY_ROWS, BY_VISITS, BY_ENDS = 0.96, 0.16, 0.35, -0.38
PLAITED, BY_LEVELS, BY_WIDTH = (
    1.2,
    0.36,
    0.6,
)  # where nothing goes through a loop: by rows, and by how many ends are led as one
SUNK = 0.82  # power of the crossings that an end passes through in one knot
UNITS = 12  # over which rows are stacked


def cord_in(one: Trace, steps: Sequence[StepRecord], who: Sequence[int]) -> list[float]:
    """By end, crossings that it passes through, each counting the less the more there are in one knot."""
    out = [0.0] * len(who)
    for knot, times in _knots(steps):
        for e, n in _visits(one, knot, who).items():
            out[e] += times * (n / times) ** SUNK
    return out


def stacked(one: Trace, steps: Sequence[StepRecord], perm: tuple[int, ...]) -> float:
    """Height of a unit of these steps in diameters of the cord, on average over some units: a knot lies below all that it touches."""
    touched = [
        (met, _height(one, knot, times))
        for knot, times in _knots(steps)
        if (met := set[int]().union(*(_met(one, s) for s in knot)))
    ]
    level = [0.0] * len(perm)
    for _ in range(UNITS):
        _stack(level, touched)
        after = [0.0] * len(perm)
        for place, to in enumerate(perm):
            after[to - 1] = level[place]
        level = after
    return max(level) / UNITS


def _knots(steps: Sequence[StepRecord]) -> Iterator[tuple[list[StepRecord], int]]:
    """What is told in one go, and how often it is done in it; steps that are told one by one are one knot in each unit."""
    for _, own in groupby(
        steps, key=lambda s: (s.op.unit, s.op.item if isinstance(s.op.value, Call) else -1)
    ):
        knot = [s for s in own if s.hops]
        if knot:
            told = knot[0].op.value
            yield knot, told.repeat if isinstance(told, Call) else 1


def _visits(one: Trace, knot: Sequence[StepRecord], who: Sequence[int] | None = None) -> dict[int, int]:
    out: dict[int, int] = {}
    for s in knot:
        for c in one.crossings[s.start : s.stop]:
            for e in (c.lane_end, c.row_end):
                e = who[e] if who is not None else e
                out[e] = out.get(e, 0) + 1
    return out


def _height(one: Trace, knot: Sequence[StepRecord], times: int) -> float:
    visits = _visits(one, knot)
    if not visits:
        return 1.0
    rows = [0.0] * (max(max(_met(one, s)) for s in knot) + 1)
    _stack(rows, [(_met(one, s), _rows(one, s)) for s in knot])
    levels = max(rows) / times
    if all(h.edge < 0 for s in knot for h in s.hops):
        as_one = sum(len(s.ends) for s in knot) / len(knot)
        return float(times * PLAITED * levels**BY_LEVELS * as_one**BY_WIDTH)
    each = TALL * levels**BY_ROWS * (sum(visits.values()) / times) ** BY_VISITS
    return float(times * each * len(visits) ** BY_ENDS)


def _met(one: Trace, s: StepRecord) -> set[int]:
    return {*s.ends} | {e for c in one.crossings[s.start : s.stop] for e in (c.lane_end, c.row_end)}


def _rows(one: Trace, s: StepRecord) -> float:
    # A pass takes no row of its own: the end lies beside the loop it goes through.
    rows = len({c.row for h in s.hops if h.edge < 0 for c in one.crossings[h.start : h.stop]})
    # A loop drawn through another one reaches further down by the two cords that it is and their turn.
    return max(rows, 1) + 2 * sum(isinstance(h.hop, Through) and h.hop.bight for h in s.hops)


def _stack(level: list[float], touched: Sequence[tuple[set[int], float]]) -> None:
    for met, high in touched:
        top = max(level[e] for e in met) + high
        for e in met:
            level[e] = top
