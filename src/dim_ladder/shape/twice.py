"""What is drawn up from two beginnings: which of them counts is seen when both are tight."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from itertools import combinations

import numpy as np

from dim_ladder.notation import Through
from dim_ladder.shape.rope import Curves
from dim_ladder.shape.value import Job
from dim_ladder.trace import Trace
from dim_ladder.trace.knotted import knots
from dim_ladder.trace.led import is_led

WIDER = 1.3  # times as wide as it is laid, from which it is drawn up a second time
NARROWER = 0.8  # the same of doubled work. Measured: with it and with its knots drawn up first, most of it comes to the same from elsewhere
TURNS = 4  # of an end round another, from which on they may ride up


def wider(curves: Curves, *, held: bool) -> Curves:
    """The same work laid wider, its ends where they are held."""
    return _as_wide(curves, WIDER, held=held)


def _as_wide(curves: Curves, times: float, *, held: bool) -> Curves:
    out = [s * np.array([times, 1.0, 1.0]) for s in curves.strands]
    for wide, s in zip(out, curves.strands, strict=True):
        if held:
            wide[[0, -1]] = s[[0, -1]]
    return replace(curves, strands=tuple(out))


def rests_twice(t: Trace, alike: Sequence[tuple[int, ...]], *, once: bool, in_rows: bool) -> bool:
    """Whether this work comes to rest in more than one way, a little longer or rounder, by how it lay before: balls and coils, walls
    and crowns of three and more ends, and knots that are tied on some ends now and on others then. Rows are hung level on what holds
    them straight. alike : ends that it treats alike."""
    met = [{c.lane_end, c.row_end} for c in t.crossings]
    tucked = {e for s in t.steps for e in s.ends if any(isinstance(h.hop, Through) for h in s.hops)}
    # Beside other work too: walled are ends that meet nobody but each other.
    walled = not once and any(
        len(g) > 2 and tucked & set(g) and all(m <= set(g) for m in met if m & set(g)) for g in alike
    )
    tied = [k.ends for k in knots(t)]
    varied = not in_rows and any(a != b and a & b for a, b in combinations(tied, 2))
    return walled or varied or (once and coiled(t)) or any(is_led(s) for s in t.steps)


def coiled(t: Trace) -> bool:
    """Whether an end goes round another several times: turns that may ride up on each other."""
    pairs = Counter(frozenset((c.lane_end, c.row_end)) for c in t.crossings)
    return max(pairs.values(), default=0) >= 2 * TURNS


def second_ways(job: Job, twice: bool, hitched: Sequence[tuple[int, ...]], doubled: bool = False) -> Job:
    """The job with the other ways in which it can be drawn up; of works that hang beside each other each with its own. twice : whether from two
    beginnings. hitched : strands that are tied on to each runner. doubled : whether several ends go as one: pairs lie in each other in
    more than one way, and askew where a knot is drawn up to the next one before its slack is out."""
    if job.parts:
        return replace(job, parts=tuple(
            p._replace(job=second_ways(
                p.job, twice, [tuple(p.strands.index(k) for k in g) for g in hitched if set(g) <= set(p.strands)], doubled
            ))
            for p in job.parts
        ))  # fmt: skip
    wide = replace(job, curves=wider(job.curves, held=job.kind == "held"))
    own = [g for g in hitched if g]
    if len(own) == 1:
        job = replace(job, hitched=own[0], otherwise=replace(wide, hitched=own[0]))
    if doubled and job.curves.repeats:
        narrow = replace(job, curves=_as_wide(job.curves, NARROWER, held=False), also=wide if twice else None)
        return replace(job, also=replace(job, knots_first=True, also=narrow))
    return replace(job, also=wide) if twice else job
