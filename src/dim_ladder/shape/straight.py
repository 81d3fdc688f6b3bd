"""What lies straight in work that is tied round it: a hand holds it taut there, and friction keeps it so.

Which crossings are of that kind the trace says (trace/cores.py). Where they are on cord that slides and shrinks is followed here: each
is a pair of nodes that goes along both cords to where they are nearest.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from dim_ladder.shape.rope import Ints, Rope, turned

# Diameters to either side of the outermost crossings, as far as what is tied round it reaches and holds it: with no more than the wraps' own
# half, the core bends as it leaves them and the last hitch of a row comes off it.
BEYOND = 0.8
# Diameters between two crossings that are one stretch; and in a row, of more than one hitch of two wraps, which crosses four times: with less a
# crossing that is followed a little wrongly parts the row.
BRIDGED, BRIDGED_ROW, HITCH = 3.0, 4.0, 4
ROOM = 0.5  # of its thickness, that a wrap takes at least on what it is wrapped round
STEPS = 3  # along either cord, between two looks


def follow_crossings(r: Rope) -> None:
    """Move every pair of `r.held` to where its two cords are nearest now, and say anew which pieces are held straight."""
    if not len(r.held):
        return
    before = nodes_before(r)
    r.held = followed(r, r.held, before, _crowded)
    _stretches(r, before)


def followed(
    r: Rope,
    pairs: Ints,
    before: Ints,
    crowded: Callable[[Rope, Ints, Ints], NDArray[np.bool_]] | None = None,
    steps: int = STEPS,
) -> Ints:
    """(m, 4) pairs of nodes, units between them and run, each moved to where its two cords are nearest about there. before : the node before each.
    crowded : which of the pairs may not go on to these nodes. steps : along either cord, at most."""
    for _ in range(steps):
        i, j, s, run = pairs.T
        (ni, ui), (nj, uj) = _along(r, before, i), _along(r, before, j)
        a = turned(r.x[ni.ravel()], ui.ravel(), r.angle, r.pitch).reshape(3, 1, -1, 3)
        b = turned(r.x[nj.ravel()], (s + uj).ravel(), r.angle, r.pitch).reshape(1, 3, -1, 3)
        gaps = ((a - b) ** 2).sum(axis=3).reshape(9, -1)
        best = gaps.argmin(axis=0)
        best[gaps[best, np.arange(len(best))] > gaps[4] - 1e-6] = 4
        if crowded is not None:
            best[crowded(r, pairs, ni[best // 3, np.arange(len(best))])] = 4
        if (best == 4).all():
            break
        p, q, m = best // 3, best % 3, np.arange(len(best))
        pairs = np.column_stack([ni[p, m], nj[q, m], s - ui[p, m] + uj[q, m], run])
    return pairs


def _crowded(r: Rope, pairs: Ints, to: Ints) -> NDArray[np.bool_]:
    """(m,) which crossings may not go on to these nodes of what is held straight: a wrap takes its room on it, and of two crossings each.
    Three at one place are what is left of a hitch that came off, or of core that went round it."""
    far, first = r.far, pairs[:, 0]
    order = np.lexsort((far[first], pairs[:, 3], r.cord[first]))
    out = np.zeros(len(to), bool)
    a, b = order[:-2], order[2:]
    alike = (pairs[a, 3] == pairs[b, 3]) & (r.cord[first[a]] == r.cord[first[b]])
    a, b = a[alike], b[alike]
    was, now = np.abs(far[first[b]] - far[first[a]]), np.abs(far[to[b]] - far[to[a]])
    cord = r.cord[first[a]]
    least = ROOM * 2 * r.radius[pairs[a, 1]] / r.spacing()[cord]
    near = (now < least) & (now < was)
    out[a[near]] = out[b[near]] = True
    return out


def nodes_before(r: Rope) -> Ints:
    """(n,) the node before each along its cord; -1 where it begins."""
    out = np.full(len(r.x), -1, np.int64)
    on = np.flatnonzero(r.nxt >= 0)
    out[r.nxt[on]] = on
    return out


def _along(r: Rope, before: Ints, k: Ints) -> tuple[Ints, Ints]:
    """(3, m) the nodes before, at and after each, and in how many units further down they lie; where a cord ends, the last one."""
    prev, nxt = before[k], r.nxt[k]
    nodes = np.stack([np.where(prev >= 0, prev, k), k, np.where(nxt >= 0, nxt, k)])
    zero = np.zeros(len(k), np.int64)
    units = np.stack(
        [np.where(prev >= 0, -r.down[np.maximum(prev, 0)], 0), zero, np.where(nxt >= 0, r.down[k], 0)]
    )
    return nodes, units


def _stretches(r: Rope, before: Ints) -> None:
    """Which nodes feel that they are held straight, as the crossings lie now: of every run, those from a little above its first
    crossing to a little below its last one, parted where nothing is tied round it for long; and not the ends of such a stretch."""
    stretch = np.full(len(r.x), -1, np.int64)  # of the piece after every node
    count = 0
    h = r.spacing()
    for c, run in np.unique(np.column_stack([r.cord[r.held[:, 0]], r.held[:, 3]]), axis=0):
        nodes, along = _in_order(r, int(c))
        here = r.held[(r.cord[r.held[:, 0]] == c) & (r.held[:, 3] == run)]
        at = np.sort(along[here[:, 0]])
        whole = len(nodes)
        goes_on = bool(r.nxt[nodes[-1]] >= 0)
        # Thick hitches on a thin runner lie as far apart as they are thick themselves.
        d = 2 * max(r.radius[nodes[0]], r.radius[here[:, 1]].mean()) / h[c]
        reach = max(1, round(BEYOND * d))
        most = (BRIDGED_ROW if len(at) > HITCH else BRIDGED) * d
        parts = np.split(at, np.flatnonzero(np.diff(at) > most) + 1)
        if goes_on and len(parts) > 1 and parts[0][0] + whole - parts[-1][-1] <= most:
            parts[-1] = np.concatenate([parts[-1], parts.pop(0) + whole])
        for p in parts:
            span = np.arange(p[0] - reach, p[-1] + reach)
            span = span % whole if goes_on else span[(span >= 0) & (span < whole - 1)]
            stretch[nodes[span]], count = count, count + 1
    r.taut = r.curves.tauter * ((stretch >= 0) & (before >= 0) & (stretch == stretch[before]))
    r.before = before


def _in_order(r: Rope, cord: int) -> tuple[Ints, Ints]:
    """The nodes of a cord one after the other, and (n,) which of them a node is."""
    nodes = np.flatnonzero(r.cord == cord)
    nodes = nodes[np.argsort(r.far[nodes])]
    along = np.zeros(len(r.x), np.int64)
    along[nodes] = np.arange(len(nodes))
    return nodes, along
