"""Beads stay between the crossings between which they were threaded, however cord slides through them as it is drawn up.

A bead is on a node, and nodes keep their place as a part of their cord, while loose cord is drawn out of some turns and not of others: by
itself a bead would wander through the work. So the crossing before it and the one after it are followed, as those that hold cord straight.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import numpy as np

from dim_ladder.shape.rope import Array, Curves, Held, Ints, Rope, along_of
from dim_ladder.shape.straight import followed, nodes_before

IMAGES = 2  # units above and below, among which a crossing is looked for
OTHER = 2  # in the run of a crossing: it is of the unit above or below
APART = 0.05  # diameters in depth, less than which two lines do not cross but meet
FOLLOWED = 25  # nodes along either cord, between two looks: loose cord is drawn through a turn fast
AT_ONCE = 2  # nodes by which a bead is moved between two looks
CENTRAL = 0.35  # of the cord between two crossings, that a bead which is alone there keeps from both
EDGE = 0.15  # of that, that it keeps where there is less room than beads take
NEAREST = 0.8  # of both radii, that a bead keeps from a crossing: it lies against the cord there, not on the line of it


def with_crossings(curves: Curves) -> Curves:
    """Loose work, with the crossing before every bead and the one after it, as its lines are seen from in front; none where a cord meets
    nothing more."""
    out: list[Held] = []
    for number, b in enumerate(curves.beads):
        found = _crossings(curves, b.strand)
        before = [c for c in found if c.part < b.part]
        after = [c for c in found if c.part > b.part]
        above, below = not before and curves.repeats, not after and curves.repeats
        before = _crossings(curves, curves.follow.index(b.strand)) if above else before
        after = _crossings(curves, curves.follow[b.strand]) if below else after
        run = 4 * number
        out += [max(before, key=lambda c: c.part)._replace(run=run + OTHER * above)] if before else []
        out += [min(after, key=lambda c: c.part)._replace(run=run + 1 + OTHER * below)] if after else []
    return replace(curves, between=tuple(out))


def in_own_unit(r: Rope) -> list[tuple[int, float]]:
    """By bead, its strand and how far along it, as a part of its length, in the unit of the knots that it is threaded between: below 0 where it
    slid up out of that, above 1 where it slid down."""
    out = [(b.strand, b.part) for b in r.threaded()]
    for i, _, _, run in r.between:
        number, side = run // 4, run % 2
        if run % 4 >= OTHER:
            continue
        strand = int(np.searchsorted(r.first, i, side="right")) - 1
        begins, many = int(r.first[strand]), int(r.first[strand + 1] - r.first[strand])
        away, total = int(r.far[i] - r.far[r.bead[number]]), int(r.total[r.cord[i]])
        if _goes_on(r, int(i)):
            away = away % total if side else -(-away % total)
        out[number] = strand, (int(i) - begins - away) / many
    return out


def _crossings(curves: Curves, strand: int) -> list[Held]:
    """Where a strand crosses others and itself."""
    own = curves.strands[strand]
    far = along_of(own)
    images = range(-IMAGES, IMAGES + 1) if curves.repeats else (0,)
    out = []
    for k, line in enumerate(curves.strands):
        along = along_of(line)
        for u in images:
            moved = line + np.array([0.0, u * curves.pitch, 0.0])
            for i, s, j, t in _meet(own, moved, own_line=k == strand and u == 0):
                a = far[i] + s * (far[i + 1] - far[i])
                b = along[j] + t * (along[j + 1] - along[j])
                out.append(Held(strand, float(a / far[-1]), k, float(b / along[-1]), u, 0))
    return out


def _meet(a: Array, b: Array, *, own_line: bool) -> list[tuple[int, float, int, float]]:
    """Pieces of two lines that cross as they are seen from in front, and how far along each. own_line : they are one line."""
    p, q = a[:-1, None], b[None, :-1]
    r, s = np.diff(a, axis=0)[:, None], np.diff(b, axis=0)[None]
    turn = r[..., 0] * s[..., 1] - r[..., 1] * s[..., 0]
    ok = np.abs(turn) > 1e-9
    safe = np.where(ok, turn, 1.0)
    w = q - p
    t = (w[..., 0] * s[..., 1] - w[..., 1] * s[..., 0]) / safe
    v = (w[..., 0] * r[..., 1] - w[..., 1] * r[..., 0]) / safe
    ok &= (t >= 0) & (t < 1) & (v >= 0) & (v < 1)
    ok &= np.abs(p[..., 2] + t * r[..., 2] - q[..., 2] - v * s[..., 2]) > APART
    if own_line:
        i, j = np.indices(ok.shape)
        ok &= np.abs(i - j) > 1
    return [(int(i), float(t[i, j]), int(j), float(v[i, j])) for i, j in np.argwhere(ok)]


def keep_between(r: Rope) -> None:
    """Follow the crossings about every bead, and bring it back between them where it left that."""
    if not len(r.between):
        return
    before = nodes_before(r)
    r.between = followed(r, r.between, before, steps=FOLLOWED)
    h = r.spacing()
    ends: list[list[int]] = [[-1, -1] for _ in r.bead]
    round_it = np.zeros((len(r.bead), 2))
    for i, j, _, run in r.between:
        ends[run // 4][run % 2] = int(i)
        round_it[run // 4, run % 2] = r.radius[j]
    many = Counter(b.of for b in r.curves.beads)
    for number, node in enumerate(r.bead):
        if r.curves.repeats and many[r.curves.beads[number].of] > 1:
            continue  # it is held where it is by all of its ends, which meet others elsewhere
        (a, b), c = ends[number], r.cord[node]
        # Of several between the same two crossings each leaves room for the others.
        row = [n for n in range(len(ends)) if ends[n] == [a, b] and r.cord[r.bead[n]] == c]
        row.sort(key=lambda n: (r.curves.beads[n].part, n))
        at = row.index(number)
        taken = np.array([2 * r.grown[row[:at]].sum(), 2 * r.grown[row[at + 1 :]].sum()])
        margin = (NEAREST * (r.grown[number] + round_it[number]) + taken) / h[c]
        by = _wanted(r, int(node), (a, b), margin, len(row) == 1 and many[r.curves.beads[number].of] == 1)
        r.bead[number] = _stepped(r, before, int(node), by)


def _wanted(r: Rope, node: int, ends: tuple[int, int], margin: Array, alone: bool) -> float:
    """By how many nodes a bead has to move to be between two others, -1 for none, as far from them as that; 0 where it is. alone : no other
    is between these, and it is on no other end, where the other two may be elsewhere."""
    at, (a, b) = float(r.far[node]), (float(r.far[e]) if e >= 0 else np.nan for e in ends)
    total = float(r.total[r.cord[node]])
    if _goes_on(r, node) and a == a and b == b:
        b = a + ((b - a) % total or total)
        at = a + (at - a) % total
        if at - b > a + total - at:  # it left them above
            at -= total
    if alone and a == a and b == b:
        margin = np.maximum(margin, CENTRAL * (b - a))
    low, high = np.nan_to_num(a + margin[0], nan=-np.inf), np.nan_to_num(b - margin[1], nan=np.inf)
    if low > high:  # there is less room than it takes: it makes itself some, but stays between them
        return float(np.clip((low + high) / 2, a + EDGE * (b - a), b - EDGE * (b - a)) - at)
    return float(np.clip(at, low, high) - at)


def _goes_on(r: Rope, node: int) -> bool:
    return bool(r.curves.repeats or r.closed[r.cord[node]])


def _stepped(r: Rope, before: Ints, node: int, by: float) -> int:
    """The node so many further along, not many at once."""
    for _ in range(min(AT_ONCE, round(abs(by)))):
        to = int(r.nxt[node] if by > 0 else before[node])
        if to < 0 or r.nxt[to] < 0 or before[to] < 0:
            break
        node = to
    return node
