"""What a tight rope measures: size, cord, how deep cords lie in each other, what presses on what."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dim_ladder.shape import contact
from dim_ladder.shape.contact import Pairs
from dim_ladder.shape.rope import Array, Flags, Ints, Rope, along_of, turned

ASIDE = 0.4  # of its way, from which cord does not hang straight
BESIDE = 0.85  # cosine between two cords, from which on they run beside each other
PRESSES = 0.03  # diameters apart, up to which two cords are said to touch


def distances(r: Rope, p: Pairs) -> Array:
    """(touching,) least distance of the two pieces that begin at each pair of nodes, as straight pieces."""
    t = p.touching
    i, j, s = p.i[:t], p.j[:t], p.down[:t]
    a, b = r.x[i], _end(r, i)
    c = turned(r.x[j], s, r.angle, r.pitch)
    d = turned(_end(r, j), s, r.angle, r.pitch)
    # Closest points of two pieces, by turns: each step takes the nearest to the other's. Three rounds are enough for
    # pieces as long as a fraction of their distance.
    u = np.full(t, 0.5)
    ab, cd = b - a, d - c
    aa, cc = np.maximum((ab * ab).sum(axis=1), 1e-18), np.maximum((cd * cd).sum(axis=1), 1e-18)
    v = u
    for _ in range(3):
        v = np.clip(((a + u[:, None] * ab - c) * cd).sum(axis=1) / cc, 0, 1)
        u = np.clip(((c + v[:, None] * cd - a) * ab).sum(axis=1) / aa, 0, 1)
    gap = a + u[:, None] * ab - c - v[:, None] * cd
    return np.asarray(np.sqrt((gap * gap).sum(axis=1)), np.float64)


def _end(r: Rope, i: Ints) -> Array:
    """Where the piece that begins at each node ends."""
    to = np.where(r.nxt[i] >= 0, r.nxt[i], i)
    return turned(r.x[to], np.where(r.nxt[i] >= 0, r.down[i], 0), r.angle, r.pitch)


def overlap(r: Rope, p: Pairs) -> float:
    """How deep the deepest pair of pieces lies in each other beyond what cord gives, in diameters; 0 where none does."""
    d = distances(r, p)
    if len(r.bead):  # a ball about its node, not a thick piece of cord
        i, j, s = p.i[: p.touching], p.j[: p.touching], p.down[: p.touching]
        ball = np.isin(i, r.bead) | np.isin(j, r.bead)
        d[ball] = np.linalg.norm(turned(r.x[j[ball]], s[ball], r.angle, r.pitch) - r.x[i[ball]], axis=1)
    return float(max(0.0, (p.floor[: p.touching] - d).max())) if len(d) else 0.0


def pressed(r: Rope, p: Pairs) -> Array:
    """(n, 3) how far cord reaches from its middle along x, y and z at every node, in diameters: half its own where nothing presses.

    Where it is pressed it lies as an ellipse about its middle, as far from there as the middle is from what presses it, and wider
    across by as much as keeps its area, as far as it spreads.
    """
    n = len(r.x)
    half = np.repeat(r.radius[:, None], 3, axis=1)
    t = p.touching
    i, j, s = p.i[:t], p.j[:t], p.down[:t]
    d = turned(r.x[j], s, r.angle, r.pitch) - r.x[i]
    far = np.linalg.norm(d, axis=1)
    deep = np.maximum(p.rest[:t] - far, 0.0)
    hit = deep > 1e-6
    if not hit.any() or not (p.floor[:t] < p.rest[:t]).any():
        return half
    i, j, s, d, far, deep = i[hit], j[hit], s[hit], d[hit], far[hit], deep[hit]
    back = turned(d, -s, r.angle, 0.0)
    node = np.concatenate([i, j])
    way = np.concatenate([d, back]) / np.maximum(np.concatenate([far, far]), 1e-9)[:, None]
    share = np.concatenate([deep * r.radius[i], deep * r.radius[j]]) / np.tile(r.radius[i] + r.radius[j], 2)
    # The direction in which it is pressed most, of all that press: of the tensor of their depths.
    tensor = np.zeros((n, 3, 3))
    np.add.at(tensor, node, share[:, None, None] * way[:, :, None] * way[:, None, :])
    most = np.zeros(n)
    np.maximum.at(most, node, share)
    values, vectors = np.linalg.eigh(tensor)
    across = vectors[:, :, 2]  # of the largest
    # What is pressed from all around does not get flatter one way.
    one_way = np.where(values[:, 2] > 0, (values[:, 2] - values[:, 1]) / np.maximum(values[:, 2], 1e-12), 0.0)
    short = r.radius - most * one_way
    long = np.minimum(r.radius**2 / np.maximum(short, 1e-9), r.spreads() * r.radius)
    part = across**2
    return np.asarray(np.sqrt(part * short[:, None] ** 2 + (1 - part) * long[:, None] ** 2), np.float64)


def thickness(r: Rope) -> float:
    """Of the thickest rope of unit diameter that fits: least distance of pieces, and the sharpest bend over each of BENDS
    taken as an arc."""
    p = contact.near(r)
    d = distances(r, p)
    b = slice(p.touching, p.bound)
    i = p.i[b]
    chord = np.linalg.norm(turned(r.x[p.j[b]], p.down[b], r.angle, r.pitch) - r.x[i], axis=1)
    h = r.spacing()[r.cord[i]]
    arc = contact.counts(r)[:, i]
    width = 2 * r.radius[i]
    # Of an arc of angle 2 u the chord is sin(u) / u of its length; the rest pairs come in the order of BENDS.
    u = np.linspace(0.0, 3.0, 3001)
    ratio = np.sinc(u / np.pi)
    out = float(d.min(initial=1.0))
    begin = 0
    for k in range(len(contact.BENDS)):
        n = len(i) // len(contact.BENDS)
        own = slice(begin, begin + n)
        begin += n
        length = arc[k][own] * h[own]
        half = np.interp(-np.minimum(chord[own] / length, 1.0), -ratio, u)
        out = min(out, float((length / np.maximum(half, 1e-9) / width[own]).min(initial=1.0)))
    return out


def ropelength(r: Rope) -> float:
    """Length over radius, as published values are given: of the rope as thick as it could be."""
    return float(2 * r.cord_lengths().sum() / thickness(r))


def size(r: Rope, p: Pairs) -> tuple[float, float]:
    """Width and thickness of the band, seen in the frame that turns with it; of held work, of what is worked."""
    x, reach = r.x, pressed(r, p)
    if r.curves.aside:
        of = in_work(r, p)
        x, reach = x[of], reach[of]
    if r.curves.repeats and r.angle:
        at = -r.angle * (x[:, 1] - x[:, 1].mean()) / r.pitch
        x = np.column_stack(
            [
                np.cos(at) * x[:, 0] + np.sin(at) * x[:, 2],
                x[:, 1],
                np.cos(at) * x[:, 2] - np.sin(at) * x[:, 0],
            ]
        )
    wide = (x[:, 0] + reach[:, 0]).max() - (x[:, 0] - reach[:, 0]).min()
    thick = (x[:, 2] + reach[:, 2]).max() - (x[:, 2] - reach[:, 2]).min()
    return float(wide), float(thick)


def worked(r: Rope, p: Pairs) -> tuple[float, float]:
    """From where to where, along y, a held work is more than tails: to the outer edges of its outermost bends, and of its beads; those on tails
    are pushed up to it."""
    at = _across(r, p)
    y, half = r.x[at, 1], pressed(r, p)[at, 1]
    top, foot = (float((y - half).min()), float((y + half).max())) if len(at) else (0.0, 0.0)
    of = [b.of for b in r.curves.beads]
    places = [(float(r.x[r.bead[[k for k, o in enumerate(of) if o == n]], 1].mean()), n) for n in set(of)]
    above, below = 0.0, 0.0
    for mid, n in places if len(at) else ():
        radius = float(r.grown[of.index(n)])
        if mid + radius < top:
            above += 2 * radius
        elif mid - radius > foot:
            below += 2 * radius
        else:
            top, foot = min(top, mid - radius), max(foot, mid + radius)
    return top - above, foot + below


def worked_at(r: Rope, p: Pairs) -> Array:
    """Where along y, from the top down, held work is more than tails."""
    return np.unique(r.x[_across(r, p), 1])


def _across(r: Rope, p: Pairs) -> Ints:
    """Nodes of cord that presses on other cord and does not just hang beside it, nor go side by side with it all the way. How far a tail touches
    a bend that it leads past says nothing of where the work ends."""
    t = p.touching
    strand = np.repeat(np.arange(len(r.first) - 1), np.diff(r.first))
    a, b = np.minimum(strand[p.i[:t]], strand[p.j[:t]]), np.maximum(strand[p.i[:t]], strand[p.j[:t]])
    as_one = np.isin(a * len(strand) + b, [min(x) * len(strand) + max(x) for x in r.curves.bonds])
    d = np.linalg.norm(turned(r.x[p.j[:t]], p.down[:t], r.angle, r.pitch) - r.x[p.i[:t]], axis=1)
    way = _end(r, np.arange(len(r.x))) - r.x
    aside = np.hypot(way[:, 0], way[:, 2]) > ASIDE * np.linalg.norm(way, axis=1)
    hit = (d < p.rest[:t] + PRESSES) & ~as_one
    nodes: Ints = np.unique(np.concatenate([p.i[:t][hit], p.j[:t][hit]])).astype(np.int64)
    return np.asarray(nodes[aside[nodes]], np.int64)


def reach_of(lines: Sequence[Array]) -> tuple[float, float] | None:
    """From where the first cord leaves its line to where the last comes back, along y."""
    bent = []
    for line in lines:
        step = np.diff(line, axis=0)
        aside = np.abs(step[:, [0, 2]]).sum(axis=1) / np.maximum(np.linalg.norm(step, axis=1), 1e-9)
        bent.append(line[:-1][aside > 0.35, 1])
    every = np.concatenate(bent)
    return (float(every.min()), float(every.max())) if len(every) else None


def cut_off(lines: Sequence[Array], low: float, high: float) -> list[Array]:
    """What of every line lies between two levels, along y; all of a line of which nothing does."""
    out = []
    for line in lines:
        inside = np.flatnonzero((line[:, 1] >= low) & (line[:, 1] <= high))
        if len(inside) < 2:
            out.append(line)
            continue
        a, b = int(inside[0]), int(inside[-1])
        # A straight tail has few points: it ends between two of them.
        before = [_cut(line[a], line[a - 1], low, high)] if a else []
        after = [_cut(line[b], line[b + 1], low, high)] if b + 1 < len(line) else []
        out.append(np.vstack([*before, line[a : b + 1], *after]))
    return out


def part_left(whole: Array, left: Array, part: float) -> float:
    """How far along what is left of a line a place lies that was so far along all of it."""
    along, long = along_of(whole), float(along_of(left)[-1])
    first = int(np.argmin(np.linalg.norm(whole - left[1], axis=1)))
    cut = along[first] - float(np.linalg.norm(left[1] - left[0]))
    return float(np.clip((part * along[-1] - cut) / max(long, 1e-9), 0.0, 1.0))


def _cut(inner: Array, outer: Array, low: float, high: float) -> Array:
    """(1, 3) the point on the way from one to the other at which it leaves what lies between."""
    part = (np.clip(outer[1], low, high) - inner[1]) / (outer[1] - inner[1])
    return np.asarray(inner + part * (outer - inner), np.float64)[None]


def met(r: Rope, p: Pairs) -> Array:
    """(strands, 2): from where to where, along y, each strand presses on another; nan where it does not."""
    n = len(r.first) - 1
    strand = np.repeat(np.arange(n), np.diff(r.first))
    t = p.touching
    d = np.linalg.norm(turned(r.x[p.j[:t]], p.down[:t], r.angle, r.pitch) - r.x[p.i[:t]], axis=1)
    hit = (d < p.rest[:t] + PRESSES) & (strand[p.i[:t]] != strand[p.j[:t]])
    out = np.full((n, 2), np.nan)
    for node in np.unique(np.concatenate([p.i[:t][hit], p.j[:t][hit]])):
        own, y = out[strand[node]], r.x[node, 1]
        own[0], own[1] = np.fmin(own[0], y), np.fmax(own[1], y)
    return out


def caught(r: Rope, p: Pairs, strand: int) -> tuple[int, int]:
    """The first and the last node of a strand that press on anything across them, counted along it; its middle where none does. What it
    only runs beside does not hold it."""
    a, b = int(r.first[strand]), int(r.first[strand + 1])
    t = p.touching
    d = np.linalg.norm(turned(r.x[p.j[:t]], p.down[:t], r.angle, r.pitch) - r.x[p.i[:t]], axis=1)
    way = _end(r, np.arange(len(r.x))) - r.x
    way /= np.maximum(np.linalg.norm(way, axis=1), 1e-9)[:, None]
    beside = np.abs((way[p.i[:t]] * way[p.j[:t]]).sum(axis=1))
    hit = (d < p.rest[:t] + PRESSES) & (beside < BESIDE)
    nodes = np.concatenate([p.i[:t][hit], p.j[:t][hit]])
    own = nodes[(nodes >= a) & (nodes < b)] - a
    return (int(own.min()), int(own.max())) if len(own) else ((b - a) // 2, (b - a) // 2)


def in_work(r: Rope, p: Pairs) -> Flags:
    """(n,) whether a node is of the work, and not of what hands hold aside."""
    out = np.ones(len(r.x), bool)
    for k, begins, ends, _ in r.curves.aside:
        a, b = caught(r, p, k)
        first, after = int(r.first[k]), int(r.first[k + 1])
        out[first : first + a * begins] = False
        if ends:
            out[first + b + 1 : after] = False
    return out


def gathered(r: Rope, p: Pairs) -> Rope:
    """The same with what hangs free of the rest close beside it: cords that touch nothing, and knots of other cords, as they lie while one
    is tied next to the other."""
    n = len(r.first) - 1
    group = np.arange(n)
    pressing = touches(r, p)
    for a, b, _ in pressing:
        group[group == group[b]] = group[a]
    strand = np.repeat(np.arange(n), np.diff(r.first))
    groups = [np.flatnonzero(group == g) for g in dict.fromkeys(group.tolist())]
    if len(groups) < 2 or not pressing:
        return r
    x = r.x.copy()

    def edge(of: Ints, side: int) -> float:
        own = np.isin(strand, of)
        return side * float((side * x[own, 0] + r.radius[own]).max())

    # The largest knot stays; the others come up to it from both sides.
    groups.sort(key=lambda of: -len(of))
    low, high = edge(groups[0], -1), edge(groups[0], 1)
    middle = (low + high) / 2
    for of in sorted(groups[1:], key=lambda of: abs((edge(of, -1) + edge(of, 1)) / 2 - middle)):
        left, right = edge(of, -1), edge(of, 1)
        own = np.isin(strand, of)
        if right < low:
            x[own, 0] += low - right
            low -= right - left
        elif left > high:
            x[own, 0] -= left - high
            high += right - left
    return replace(r, x=x)


def touches(r: Rope, p: Pairs) -> tuple[tuple[int, int, float], ...]:
    """Which strands press on which: pairs of strands, and the length along which they do, in diameters."""
    n = len(r.first) - 1
    strand = np.repeat(np.arange(n), np.diff(r.first))
    t = p.touching
    d = np.linalg.norm(turned(r.x[p.j[:t]], p.down[:t], r.angle, r.pitch) - r.x[p.i[:t]], axis=1)
    hit = d < p.rest[:t] + PRESSES
    i, j = p.i[:t][hit], p.j[:t][hit]
    first = np.where(strand[i] <= strand[j], i, j)  # the node on the strand that comes first
    pair = np.minimum(strand[i], strand[j]) * n + np.maximum(strand[i], strand[j])
    both = np.unique(np.stack([pair, first]), axis=1)
    length = np.bincount(both[0], r.pieces()[both[1]], n * n)
    return tuple((int(k // n), int(k % n), float(length[k])) for k in np.flatnonzero(length))
