"""What lies straight in work that is tied round it: a hand holds it taut there, and friction keeps it so.

Which crossings are of that kind the trace says (trace/cores.py). Where they are on cord that slides and shrinks is followed here: each
is a pair of nodes that goes along both cords to where they are nearest.
"""

from __future__ import annotations

import numpy as np

from dim_ladder.shape.rope import Array, Ints, Rope, turned

BEYOND = 0.5  # diameters to either side of the outermost crossings, as far as what is tied round it reaches
BRIDGED = 3.0  # diameters between two crossings that are one stretch
STEPS = 3  # along either cord, between two looks


def follow_crossings(r: Rope) -> None:
    """Move every pair of `r.held` to where its two cords are nearest now, and say anew which pieces are held straight."""
    if not len(r.held):
        return
    before = nodes_before(r)
    for _ in range(STEPS):
        moves = [_moved(r, before, a, b) for a in (-1, 0, 1) for b in (-1, 0, 1)]
        gaps = np.array([_gap(r, m) for m in moves])
        best = gaps.argmin(axis=0)
        best[gaps[best, np.arange(len(best))] > gaps[4] - 1e-6] = 4
        if (best == 4).all():
            break
        r.held = np.array(moves)[best, np.arange(len(best))]
    _stretches(r, before)


def nodes_before(r: Rope) -> Ints:
    """(n,) the node before each along its cord; -1 where it begins."""
    out = np.full(len(r.x), -1, np.int64)
    on = np.flatnonzero(r.nxt >= 0)
    out[r.nxt[on]] = on
    return out


def _moved(r: Rope, before: Ints, a: int, b: int) -> Ints:
    """(m, 4) pairs with the first node a, the second b further along its cord; as they were where a cord ends there."""
    i, j, s, *more = r.held.T.copy()
    for which, step in ((0, a), (1, b)):
        k = i if which == 0 else j
        if not step:
            continue
        to = r.nxt[k] if step > 0 else before[k]
        ok = to >= 0
        down = np.where(ok, r.down[k] if step > 0 else -r.down[np.maximum(to, 0)], 0)
        k[ok] = to[ok]
        s += down if which else -down
    return np.column_stack([i, j, s, *more])


def _gap(r: Rope, pairs: Ints) -> Array:
    i, j, s = pairs.T[:3]
    d = r.x[i] - turned(r.x[j], s, r.angle, r.pitch)
    return np.asarray(np.linalg.norm(d, axis=1), np.float64)


def _stretches(r: Rope, before: Ints) -> None:
    """Which nodes feel that they are held straight, as the crossings lie now: of every run, those from a little above its first
    crossing to a little below its last one, parted where nothing is tied round it for long; and not the ends of such a stretch."""
    stretch = np.full(len(r.x), -1, np.int64)  # of the piece after every node
    count = 0
    h = r.spacing()
    for c, run in np.unique(np.column_stack([r.cord[r.held[:, 0]], r.held[:, 3]]), axis=0):
        nodes, along = _in_order(r, int(c))
        at = np.sort(along[r.held[(r.cord[r.held[:, 0]] == c) & (r.held[:, 3] == run), 0]])
        whole = len(nodes)
        goes_on = bool(r.nxt[nodes[-1]] >= 0)
        d = 2 * r.radius[nodes[0]] / h[c]
        reach = max(1, round(BEYOND * d))
        parts = np.split(at, np.flatnonzero(np.diff(at) > BRIDGED * d) + 1)
        if goes_on and len(parts) > 1 and parts[0][0] + whole - parts[-1][-1] <= BRIDGED * d:
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
