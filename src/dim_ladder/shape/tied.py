"""What is tied round what in a unit: which ends are core of it, and which is the runner of a row."""

from __future__ import annotations

from dim_ladder.trace import Trace
from dim_ladder.trace.cores import cores


def goes_across(t: Trace) -> int:
    """The end that is led from one edge of what meets to the other, if all others there are tied on to it and to nothing else; else -1."""
    tied = {(c.end, c.other) for c in cores(t).values()} if t.settled else set()
    met = {e for c in t.crossings for e in (c.lane_end, c.row_end)}
    before, after = ([e for e in order if e in met] for order in (t.start, t.order))
    last = len(met) - 1
    for e in {core for core, _ in tied}:
        to_all = tied == {(e, o) for o in met if o != e}
        if to_all and last > 1 and {before.index(e), after.index(e)} == {0, last}:
            return e
    return -1


def gone_round(t: Trace) -> set[str]:
    """Ends that others are led past both in front and behind: what was only laid in across others, or crossed once, is no core of anything."""
    led = {e for s in t.steps if s.leads for e in s.ends}
    sides = {(c.lane_end, c.lane_over) for c in t.crossings if c.row_end in led and c.lane_end != c.row_end}
    return {t.ends[e] for e, in_front in sides if (e, not in_front) in sides}
