"""What is tied round what in a unit: which ends are core of it, and which is the runner of a row."""

from __future__ import annotations

from itertools import groupby
from operator import itemgetter

from dim_ladder.notation import Cross, Round
from dim_ladder.trace import Trace
from dim_ladder.trace.cores import cores
from dim_ladder.trace.value import StepRecord


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


def tied_on(t: Trace, core: int) -> tuple[int, ...]:
    """Ends that are tied on to an end by hitches, each as often as the others, and cross nothing else."""
    at: dict[int, list[int]] = {}
    for c in t.crossings:
        for one, other in ((c.lane_end, c.row_end), (c.row_end, c.lane_end)):
            at.setdefault(one, []).append(other)
    tied = {c.other for c in cores(t).values() if c.end == core}
    found = tuple(e for e in at if e in tied and set(at[e]) <= {core, e})
    return found if len({len(at[e]) for e in found}) == 1 else ()


def in_rows_across(t: Trace) -> set[str]:
    """Ends that one worker is hitched to one after the other, each by itself, or that it is woven through: rows across upright cords,
    which hands push up against each other. Nothing says where such a row comes to lie on its cords but what lies above it."""
    found = cores(t)
    met: dict[int, set[int]] = {}
    for s in t.steps:
        met.setdefault(s.end, set()).update(_woven_through(s))
        round_it = {found[n] for n in range(s.start, s.stop) if n in found}
        if len({c.end for c in round_it}) > 1:
            return set()  # round a bundle, which is one core
        for c in round_it:
            met.setdefault(c.other, set()).add(c.end)
    return {t.ends[e] for ends in met.values() if len(ends) > 1 for e in ends}


def _woven_through(s: StepRecord) -> set[int]:
    """Ends that a step crosses on its way across, now over and now under, and not all of them each time as it would a bundle."""
    ways = [(h.hop.over, h.ends) for h in s.hops if isinstance(h.hop, Cross) and not h.hop.bight]
    if len(ways) < len(s.hops) or len({over for over, _ in ways}) < 2:
        return set()
    ends = {e for _, crossed in ways for e in crossed}
    runs = [{e for _, crossed in run for e in crossed} for _, run in groupby(ways, key=itemgetter(0))]
    return ends if any(run != ends for run in runs) else set()


def gone_round(t: Trace) -> set[str]:
    """Ends that others are led past both in front and behind: what was only laid in across others, or crossed once, is no core of anything."""
    led = {e for s in t.steps if s.leads for e in s.ends}
    sides = {(c.lane_end, c.lane_over) for c in t.crossings if c.row_end in led and c.lane_end != c.row_end}
    return {t.ends[e] for e, in_front in sides if (e, not in_front) in sides}


def wound(t: Trace) -> frozenset[int]:
    """Ends that others are wound round, and nothing else is done: only the pull that it was wound with holds that. Empty else."""
    led = {e for s in t.steps if s.hops for e in s.ends}
    hops = [h for s in t.steps for h in s.hops if h.stop > h.start]
    core = frozenset(e for h in hops for e in h.ends)
    return core if all(isinstance(h.hop, Round) for h in hops) and not core & led else frozenset()


def half_knotted(t: Trace) -> set[int]:
    """Ends that do nothing but half knots round each other: one goes to the other side, then the other one round it."""
    steps = [s for s in t.steps if s.hops]
    befores = [t.start, *(s.order for s in steps)]
    found: set[int] = set()
    others: set[int] = set()
    k = 0
    while k < len(steps):
        a, b = steps[k], steps[k + 1] if k + 1 < len(steps) else None
        crossed = befores[k] != a.order
        if (
            b is not None
            and crossed
            and b.order == a.order
            and len(a.ends) == len(b.ends) == 1
            and a.ends != b.ends
        ):
            found |= {a.ends[0], b.ends[0]}
            k += 2
        else:
            others |= set(a.ends)
            k += 1
    return found - others
