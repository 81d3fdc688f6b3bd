"""What lies straight in work that is tied round it: a hand holds it taut there, and friction keeps it so.

Which crossings are of that kind the trace says (trace/cores.py). Where they are on cord that slides and shrinks is followed here: each
is a pair of nodes that goes along both cords to where they are nearest.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from dim_ladder.shape.rope import Array, Ints, Rope, turned

# Diameters to either side of the outermost crossings, as far as what is tied round it reaches and holds it: with no more than the wraps' own
# half, the core bends as it leaves them and the last hitch of a row comes off it.
BEYOND = 0.8
# Diameters between two crossings that are one stretch; and in a row, of more than one hitch of two wraps, which crosses four times: with less a
# crossing that is followed a little wrongly parts the row.
BRIDGED, BRIDGED_ROW, HITCH = 3.0, 4.0, 4
ROOM = 0.5  # of its thickness, that a wrap takes at least on what it is wrapped round
TURN = 0.8  # of a turn about what is held straight, as round cords go, that a wrap takes at least of what it is wrapped with
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
    crowded: Callable[[Rope, Ints, Ints, Ints], NDArray[np.bool_]] | None = None,
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
            m = np.arange(len(best))
            best[crowded(r, pairs, ni[best // 3, m], nj[best % 3, m])] = 4
        if (best == 4).all():
            break
        p, q, m = best // 3, best % 3, np.arange(len(best))
        pairs = np.column_stack([ni[p, m], nj[q, m], s - ui[p, m] + uj[q, m], run])
    return pairs


def _crowded(r: Rope, pairs: Ints, to: Ints, other: Ints) -> NDArray[np.bool_]:
    """(m,) which crossings may not go on to these nodes of what is held straight, and of what is wrapped round it. A wrap takes its room on the one, and
    goes round it with the other; and of two crossings each. Three at one place are what is left of a hitch that came off, or of core that went round it."""
    first, second, run = pairs[:, 0], pairs[:, 1], pairs[:, 3]
    wide = 2 * r.radius[second] / r.spacing()[r.cord[first]]
    turn = 2 * np.pi * (r.radius[first] + r.radius[second]) / r.spacing()[r.cord[second]]
    on = _too_near(r, (run, r.cord[first]), first, to, ROOM * wide)
    return on | _too_near(r, (r.cord[second], run, r.cord[first]), second, other, TURN * turn)


def _too_near(r: Rope, within: tuple[Ints, ...], was: Ints, now: Ints, least: Array) -> NDArray[np.bool_]:
    """(m,) which of the crossings come nearer along a cord to the next but one than so many nodes. within : what those have in common that count."""
    order = np.lexsort((r.far[was], *within))
    out = np.zeros(len(was), bool)
    a, b = order[:-2], order[2:]
    alike = np.logical_and.reduce([of[a] == of[b] for of in within])
    a, b = a[alike], b[alike]
    before, after = np.abs(r.far[was[b]] - r.far[was[a]]), np.abs(r.far[now[b]] - r.far[now[a]])
    near = (after < least[a]) & (after < before)
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
