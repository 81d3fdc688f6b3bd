"""What a size makes of the order of tails: units come round in cycles, so a few stand for many."""

from __future__ import annotations

from collections.abc import Mapping

from dim_ladder.notation import Weave
from dim_ladder.trace.diagram import end_cycle
from dim_ladder.trace.roles import period_of
from dim_ladder.trace.tracer import trace


def as_few(weave: Weave, counts: Mapping[str, int]) -> dict[str, int]:
    """The fewest units of every section after which the same ends hang in the same places as after so many."""
    out = {}
    for name, n in counts.items():
        if n < 1:
            out[name] = n
            continue
        period = period_of(weave, name)
        one = trace(weave, section=name, units=period)
        cycle = end_cycle(one) * period if one.settled and not one.problems else n
        out[name] = (n - 1) % cycle + 1
    return out
