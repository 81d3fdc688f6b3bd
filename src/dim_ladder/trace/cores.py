"""What lies straight where it is knotted round: the core of a step, whatever the same end does in other steps.

A hand holds taut what it goes round and draws up what goes round it. So a runner is core of the hitches on it and wraps in the next
row; of two ends that are tied round each other neither is.
"""

from __future__ import annotations

from typing import NamedTuple

from dim_ladder.notation import Cross, Through
from dim_ladder.trace.diagram import Visit, visits
from dim_ladder.trace.knotted import knots
from dim_ladder.trace.value import StepRecord, Trace


class Core(NamedTuple):
    """end : which is core at a crossing, of the end `other` that goes round it. run : in which of its runs. A run ends where the core
    itself turns back to the other side, for each row of hitches is drawn straight by itself."""

    end: int
    other: int
    run: int


def cores(t: Trace) -> dict[int, Core]:
    """By crossing, what is core there: an end that a moving end turns round, in front and behind, and locks the turn by going
    through its own loop, while it does not move itself."""
    walks = visits(t)
    found: dict[int, int] = {}
    for knot in knots(t):
        here: dict[int, tuple[int, int]] = {}
        for s in (t.steps[k] for k in knot.steps):
            for mover in s.ends:
                if mover >= 0 and s.hops:
                    here.update({n: (e, mover) for n, e in _turned_round(t, s, mover, walks[mover]).items()})
        # Two that are tied round each other in one knot are drawn up together: neither is held.
        each = set(here.values())
        found.update({n: e for n, (e, mover) in here.items() if (mover, e) not in each})
    out: dict[int, Core] = {}
    for end, walk in enumerate(walks):
        run, way = 0, 0
        for v in walk:
            c = t.crossings[v.crossing]
            if found.get(v.crossing) == end:
                out[v.crossing] = Core(end, c.row_end if c.lane_end == end else c.lane_end, run)
            elif v.dx:
                run += bool(way and v.dx != way)
                way = v.dx
    return out


def _turned_round(t: Trace, s: StepRecord, mover: int, walk: tuple[Visit, ...]) -> dict[int, int]:
    across = {n for h in s.hops if isinstance(h.hop, Cross) for n in range(h.start, h.stop)}
    through = {
        n for h in s.hops if isinstance(h.hop, Through) and mover in h.ends for n in range(h.start, h.stop)
    }
    at: dict[int, list[int]] = {}
    for k, v in enumerate(walk):
        at.setdefault(v.crossing, []).append(k)
    out: dict[int, int] = {}
    for n in through:
        if len(at.get(n, ())) != 2:
            continue
        inside = walk[at[n][0] + 1 : at[n][1]]
        # Both crossings of each end in the turn: one in front of it and one behind.
        by_end: dict[int, dict[bool, list[int]]] = {}
        for v in inside:
            c = t.crossings[v.crossing]
            other = c.row_end if c.lane_end == mover else c.lane_end
            if other not in s.ends and v.crossing in across:
                by_end.setdefault(other, {}).setdefault(v.over, []).append(v.crossing)
        for other, sides in by_end.items():
            if len(sides) == 2:
                out.update(dict.fromkeys((*sides[True], *sides[False]), other))
    return out
