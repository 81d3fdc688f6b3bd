"""Whole colour cycles: a section that is worked until its colours hang as they did where it began."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import lru_cache

from dim_ladder.notation import Count, Weave
from dim_ladder.trace import trace
from dim_ladder.trace.diagram import colour_cycle

LONGEST = 60  # units; beyond it nobody sees a cycle


@lru_cache(maxsize=64)
def cycle_of(weave: Weave, section: str) -> int:
    """Units of a section after which its colours hang as they did; 1 where each unit leaves them so, where that cannot be traced, and
    where it takes more than anybody sees."""
    one = trace(weave, section=section, units=1)
    if one.problems or not one.settled:
        return 1
    found = colour_cycle(one)
    return found if 1 < found <= LONGEST else 1


def in_cycles(count: Count, cycle: int) -> Count:
    """A count that fits in whole cycles, besides the multiples it has."""
    return replace(count, number=math.lcm(count.number, cycle), plus=0)


def out_of_cycles(count: Count, cycle: int) -> Count:
    """The same without them."""
    return replace(count, number=max(count.number // cycle, 1) if count.number % cycle == 0 else count.number)
