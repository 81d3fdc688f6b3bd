"""Whether a tight shape can be what comes off the table: an answer that came out lopsided or capsized is found out here, and counts for nothing."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from dim_ladder.shape.rope import Array, Ints, Rope, turned
from dim_ladder.shape.straight import nodes_before
from dim_ladder.shape.value import Job

UNEVEN = 1.15  # times the cord of another, the most that an end takes which the knot treats alike
LEAST = 0.87  # times the cord of its like, that a hitch of a row takes at least: one whose wrap came off takes 0.8, at an edge a sound one 1.02
CORE = 1.5  # times the length of the work, the most that cord takes which never moves
LIES = 1.05  # times the length of the work, that cord takes at most where it goes straight through
OVER = 0.6  # diameters to either side, over which a bend is seen
STRAIGHT = 0.5  # radians, by which what is tied round may bend at a crossing and still lie straight
MORE = 1.15  # times as much as what goes round it, from which on it bends more
CAPSIZED = 0.2  # of all crossings, where what is tied round bends, and more than what goes round it: none in sound work


def amiss(job: Job, r: Rope, per_end: Mapping[str, float], pitch: float) -> str:
    """What is wrong with it, in words; empty where nothing is. per_end : cord of each end, pitch : of the unit, in diameters."""
    for group in job.curves.alike:
        ends = sorted({e for k in group for e in job.ends[k].split("+")}, key=lambda e: per_end[e])
        if len(ends) > 1 and per_end[ends[-1]] > UNEVEN * per_end[ends[0]]:
            return f"it came out lopsided: {ends[-1]} takes more cord than {ends[0]}, which the knot treats alike"
    each = [per_end[job.ends[k]] for k in job.hitched]
    if each and min(each) < LEAST * float(np.median(each)):
        off = job.ends[job.hitched[each.index(min(each))]]
        return f"a hitch came off: {off} takes less cord than its neighbours on the same runner"
    if job.kind == "cell":
        for k, e in enumerate(job.ends):
            lies = job.curves.pull[k] > 1 and job.stretch >= job.curves.pull[k] and job.curves.follow[k] == k
            if lies and per_end[e] > CORE * pitch:
                return f"it capsized: {e} is core and does not lie straight"
    long = np.add.reduceat(r.pieces(), r.first[:-1]) if job.twins else np.zeros(0)
    for group in job.twins:
        slack, led = min(group, key=lambda k: long[k]), max(group, key=lambda k: long[k])
        if long[slack] < LIES * pitch and long[led] > CORE * pitch:
            return (
                f"it capsized: {job.ends[slack]} lies straight in a knot that treats it like {job.ends[led]}"
            )
    if len(r.held):
        # Over as much of both, or thin cord would hardly bend round thick cord.
        thick = 2 * np.maximum(r.radius[r.held[:, 0]], r.radius[r.held[:, 1]])
        core, wraps = (bends(r, r.held[:, k], thick) for k in (0, 1))
        if float(((core > MORE * wraps) & (core > STRAIGHT)).mean()) > CAPSIZED:
            return "it capsized: what is tied round bends more than what goes round it"
    return ""


def bends(r: Rope, nodes: Ints, thick: Array) -> Array:
    """(m,) by how much cord changes its direction at these nodes, in radians, seen over OVER times `thick` (m,) to either side."""
    before = nodes_before(r)
    steps = np.maximum(1, np.round(OVER * thick / r.spacing()[r.cord[nodes]])).astype(np.int64)
    ways = []
    for to, sign in ((before, -1), (r.nxt, 1)):
        at, units = nodes.copy(), np.zeros(len(nodes), np.int64)
        for k in range(int(steps.max())):
            go = (k < steps) & (to[at] >= 0)
            units += np.where(go, sign * r.down[at if sign > 0 else np.maximum(before[at], 0)], 0)
            at = np.where(go, to[at], at)
        ways.append(sign * (turned(r.x[at], units, r.angle, r.pitch) - r.x[nodes]))
    long = [np.maximum(np.linalg.norm(w, axis=1), 1e-9) for w in ways]
    return np.asarray(
        np.arccos(np.clip((ways[0] * ways[1]).sum(axis=1) / long[0] / long[1], -1, 1)), np.float64
    )
