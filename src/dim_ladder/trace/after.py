"""What a size makes of the order of tails: units come round in cycles, so a few stand for many."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from dim_ladder.notation import Weave
from dim_ladder.trace.diagram import end_cycle
from dim_ladder.trace.roles import period_of
from dim_ladder.trace.tracer import trace


def as_few(weave: Weave, counts: Mapping[str, int], more: int = 0) -> dict[str, int]:
    """The fewest units of every section after which the same ends hang in the same places as after so many. more : times that they
    come round once more, where there are as many units."""
    out = {}
    for name, n in counts.items():
        few, cycle = (n, 0) if n < 1 else _round(weave, name, n)
        out[name] = few + cycle * min(more, (n - few) // cycle if cycle else 0)
    return out


def _round(weave: Weave, name: str, n: int) -> tuple[int, int]:
    """How many units of a section stand for n, and after how many it comes round; 0 where it does not."""
    period = period_of(weave, name)
    one = trace(weave, section=name, units=period)
    if one.problems:
        return _in_place(weave, name, n, period)
    if not one.settled:
        return n, 0
    cycle = end_cycle(one) * period
    return (n - 1) % cycle + 1, cycle


LEAST, MOST_CYCLE = (
    3,
    4,
)  # units of work that speaks of what lies above, before it comes round; after how many periods it may


def _in_place(weave: Weave, name: str, n: int, period: int) -> tuple[int, int]:
    """The same of a section that cannot be traced by itself: below all that stands above it."""
    index = next(i for i, s in enumerate(weave.sections) if s.name == name)
    upto = replace(weave, sections=weave.sections[: index + 1])

    def hangs(units: int) -> tuple[str, ...] | None:
        t = trace(upto, counts={s.name: 1 for s in upto.sections} | {name: units})
        return None if t.problems else tuple(t.ends[e] for e in t.order)

    least = LEAST * period
    after = hangs(least)
    for cycle in range(period, MOST_CYCLE * period + 1, period):
        if after is not None and n > least and hangs(least + cycle) == after:
            return least + (n - least) % cycle, cycle
    return n, 0
