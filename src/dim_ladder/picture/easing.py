"""Cords lying flat, eased: short, smooth and evenly apart, with every crossing where it is in the weave.

Every strand is a row of nodes; the two visits of a crossing share one. In turn, nodes are drawn to the middle of their
neighbours (tension), bent no sharper than a radius, and strands that come too close are pushed apart (position-based
relaxation after M. Müller et al., "Position based dynamics", 2007). Near a crossing two strands must come close: there
the distance asked grows with the way along the cord. No node moves further in a round than a part of the spacing, so no
strand passes another; the result is checked all the same, and given up where it would show another weave.

All lengths are in cord spacings, y grows downwards.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Stop = tuple[float, float, int]  # x, y, and a crossing (from 0), PLAIN, or a mark (MARK and below)

PLAIN = -1
MARK = -2
LAST = 1 << 40  # the bottom end of a strand

GAP = 1.3  # between strands
SLOPE = 0.58  # distance asked of two points near a crossing, per way between them along the cord
SPAN = 0.9  # bends are measured over this much cord on either side
RADIUS = 1.3  # no bend is sharper
# Coarse to fine: spacing of nodes, rounds, tension, stiffness, distance of crossings
STAGES = ((0.6, 240, 0.8, 0.6, 1.9), (0.4, 120, 0.6, 0.8, 1.75), (0.25, 80, 0.5, 1.0, 1.45))
RESAMPLE = 8  # rounds between two spacings anew
ROOM = (1.4, 1.6)  # free cord above and below the work


@dataclass(frozen=True, slots=True)
class Course:
    """One strand eased. points : (n, 2) from top to bottom. stops : per crossing the nodes at which it is visited, in
    order. marks : per mark its place in nodes, a fraction lies between two."""

    points: Floats
    stops: Mapping[int, tuple[int, ...]]
    marks: Mapping[int, float]


def eased(
    strands: Sequence[Sequence[Stop]], slack: Mapping[int, float] | None = None
) -> tuple[Course, ...] | None:
    """Lay strands better. Each runs from a top end to a bottom end; every crossing is visited twice in all.

    slack : by mark, the least length of the cord between the crossings about it. None where no good way was found.
    """
    return _eased(tuple(map(tuple, strands)), tuple(sorted((slack or {}).items())))


@lru_cache(maxsize=48)
def _eased(
    strands: tuple[tuple[Stop, ...], ...], slack: tuple[tuple[int, float], ...]
) -> tuple[Course, ...] | None:
    net = _Net(strands, dict(slack))
    for h, rounds, tension, stiffness, apart in STAGES:
        net.resample(h)
        for k in range(rounds):
            net.relax(tension, stiffness, apart)
            if k % RESAMPLE == RESAMPLE - 1:
                net.resample(h)
    net.resample(STAGES[-1][0])
    return net.courses() if net.is_planar() else None


@dataclass(slots=True)
class _Arc:
    """The cord between two crossings (or an end and a crossing). first, last : nodes; inner : (n, 2) between them."""

    strand: int
    first: int
    last: int
    inner: Floats
    longest: float = 0.0  # at least this long


class _Net:
    def __init__(self, strands: tuple[tuple[Stop, ...], ...], slack: Mapping[int, float]) -> None:
        ids = sorted({k for s in strands for *_, k in s if k >= 0})
        self.node_of = {k: i for i, k in enumerate(ids)}
        self.crossings = len(ids)
        nodes = [(0.0, 0.0)] * len(ids)
        self.arcs: list[_Arc] = []
        self.of_strand: list[list[int]] = []
        self.marks: list[
            list[tuple[int, int, float]]
        ] = []  # per strand: mark, arc, place as a part of its length
        for n, stops in enumerate(strands):
            at = len(nodes)
            nodes += [stops[0][:2], stops[-1][:2]]
            first, pts, mine = at, [stops[0][:2]], []
            seen: list[tuple[int, int]] = []
            here: list[tuple[int, int, float]] = []
            for x, y, k in (*stops[1:-1], (stops[-1][0], stops[-1][1], LAST)):
                if k <= MARK:
                    seen.append((k, len(pts)))
                pts.append((x, y))
                if k < 0:
                    continue
                last = self.node_of.get(k, at + 1)
                if k in self.node_of:
                    nodes[last] = (x, y)
                arc = _Arc(n, first, last, np.array(pts[1:-1], dtype=float).reshape(-1, 2))
                arc.longest = max((slack.get(m, 0.0) for m, _ in seen), default=0.0)
                way = _along(np.array(pts, dtype=float))
                here += [(m, len(self.arcs), float(way[i] / max(way[-1], 1e-9))) for m, i in seen]
                mine.append(len(self.arcs))
                self.arcs.append(arc)
                first, pts, seen = last, [(x, y)], []
            self.of_strand.append(mine)
            self.marks.append(here)
        self.fixed = len(nodes)
        self.pos = np.array(nodes, dtype=float)
        self.tops = np.arange(self.crossings, self.fixed, 2)
        self.bottoms = self.tops + 1
        self.h = STAGES[0][0]

    # -- nodes -----------------------------------------------------------------------------------

    def resample(self, h: float) -> None:
        """Space the nodes of every arc evenly, about h apart, and find again what is near what."""
        self.h = h
        nodes = self.pos[: self.fixed]
        parts, at = [nodes], self.fixed
        self.ids: list[Ints] = []
        for arc in self.arcs:
            p = np.vstack([nodes[arc.first], arc.inner, nodes[arc.last]])
            way = _along(p)
            count = max(3, round(way[-1] / h)) - 1
            s = np.linspace(0, way[-1], count + 2)[1:-1]
            arc.inner = np.column_stack([np.interp(s, way, p[:, 0]), np.interp(s, way, p[:, 1])])
            parts.append(arc.inner)
            self.ids.append(np.concatenate([[arc.first], np.arange(at, at + count), [arc.last]]))
            at += count
        self.pos = np.vstack(parts)
        self.rows = [
            np.concatenate([*(self.ids[k][:-1] for k in mine), self.ids[mine[-1]][-1:]])
            for mine in self.of_strand
        ]
        self.neighbours = _triples(self.rows, 1)
        self.wide = _triples(self.rows, max(1, round(SPAN / h)))
        self.often = np.maximum(np.bincount(self.neighbours[1], minlength=at), 1)[:, None]
        self.codes, self.asked = self._close()
        lead = np.zeros(at, dtype=bool)
        for mine in self.of_strand:
            lead[self.ids[mine[0]][:-1]] = True
            lead[self.ids[mine[-1]][1:]] = True
        lead[: self.crossings] = False
        self.body = ~lead

    def _close(self) -> tuple[Ints, Floats]:
        """Pairs of nodes near each other along the cord, also over one crossing: codes, and the distance asked."""
        n, most = len(self.pos), int(GAP / SLOPE / self.h) + 1
        one: list[Ints] = []
        two: list[Ints] = []
        way: list[Floats] = []
        visits: list[list[tuple[Ints, int]]] = [[] for _ in range(self.crossings)]
        for row in self.rows:
            for r in range(1, min(most + 1, len(row))):
                one.append(row[:-r])
                two.append(row[r:])
                way.append(np.full(len(row) - r, r * self.h))
            for k in np.flatnonzero(row < self.crossings):
                visits[row[k]].append((row, int(k)))
        for pair in visits:
            if len(pair) != 2:
                continue
            (p, at_p), (q, at_q) = pair
            a = _near(at_p, most, len(p))
            b = _near(at_q, most, len(q))
            s = np.abs(a - at_p)[:, None] + np.abs(b - at_q)[None, :]
            i, j = np.nonzero(s <= most)
            one.append(p[a[i]])
            two.append(q[b[j]])
            way.append(s[i, j] * self.h)
        first, second, length = np.concatenate(one), np.concatenate(two), np.concatenate(way)
        codes = np.minimum(first, second) * n + np.maximum(first, second)
        order = np.lexsort((length, codes))
        codes, length = codes[order], length[order]
        shortest = np.concatenate([[True], codes[1:] != codes[:-1]])
        return codes[shortest], np.minimum(GAP, SLOPE * length[shortest])

    # -- one round -------------------------------------------------------------------------------

    def relax(self, tension: float, stiffness: float, apart: float) -> None:
        old = self.pos
        a, b, c = self.neighbours
        move = np.zeros_like(old)
        np.add.at(move, b, (old[a] + old[c]) / 2 - old[b])
        p = old + tension * move / self.often
        self._fill(p, old)
        self._bend(p, stiffness)
        for end, step in ((self.tops, 1), (self.bottoms, -2)):  # ends hang straight
            inner = np.array([row[step] for row in self.rows])
            p[end, 0] += 0.5 * (p[inner, 0] - p[end, 0])
        self._part(p)
        self._space(p, apart)
        if self.body.any():
            p[self.tops, 1] = p[self.body, 1].min() - ROOM[0]
            p[self.bottoms, 1] = p[self.body, 1].max() + ROOM[1]
        d = p - old
        far = np.hypot(d[:, 0], d[:, 1])
        self.pos = old + d * np.minimum(1.0, 0.4 * self.h / np.maximum(far, 1e-9))[:, None]
        for arc, ids in zip(self.arcs, self.ids, strict=True):
            arc.inner = self.pos[ids[1:-1]]

    def _fill(self, p: Floats, old: Floats) -> None:
        """Slack stands out until it has its length: it grows from its middle, and tension does not take it back."""
        for arc, ids in zip(self.arcs, self.ids, strict=True):
            if arc.longest and _along(old[ids])[-1] < arc.longest:
                inner = ids[1:-1]
                out = old[inner] - old[ids].mean(axis=0)
                size = np.maximum(np.hypot(out[:, 0], out[:, 1]), 1e-6)[:, None]
                p[inner] = old[inner] + out / size * min(0.3 * self.h, 0.1)

    def _bend(self, p: Floats, stiffness: float) -> None:
        a, b, c = self.wide
        bow = (p[a] + p[c]) / 2 - p[b]
        depth = np.hypot(bow[:, 0], bow[:, 1])
        over = np.maximum(0.0, depth - SPAN * SPAN / (2 * RADIUS)) / np.maximum(depth, 1e-9)
        push = bow * (stiffness * over)[:, None]
        np.add.at(p, b, push / 2)
        np.add.at(p, a, -push / 4)
        np.add.at(p, c, -push / 4)

    def _part(self, p: Floats) -> None:
        """Push apart what is closer than it may be."""
        n = len(p)
        x, y = p[:, 0].astype(np.float32), p[:, 1].astype(np.float32)
        dx, dy = x[:, None] - x, y[:, None] - y
        hit = np.flatnonzero((dx * dx + dy * dy < GAP * GAP).ravel())
        i, j = hit // n, hit % n
        i, j = i[i < j], j[i < j]
        codes = i * n + j
        k = np.minimum(np.searchsorted(self.codes, codes), len(self.codes) - 1)
        asked = np.where(self.codes[k] == codes, self.asked[k], GAP)
        d = p[i] - p[j]
        far = np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-9)
        close = far < asked
        i, j = i[close], j[close]
        push = d[close] * ((asked[close] - far[close]) / far[close] / 2)[:, None]
        move = np.zeros_like(p)
        np.add.at(move, i, push)
        np.add.at(move, j, -push)
        p += move / np.sqrt(np.maximum(np.bincount(np.concatenate([i, j]), minlength=n), 1))[:, None]

    def _space(self, p: Floats, apart: float) -> None:
        """Crossings keep apart, so that every field between cords stays open."""
        c = p[: self.crossings]
        d = c[:, None] - c[None]
        far = np.hypot(d[..., 0], d[..., 1])
        np.fill_diagonal(far, apart)
        push = np.where(far < apart, (apart - far) / np.maximum(far, 1e-6) / 4, 0.0)
        p[: self.crossings] += (d * push[..., None]).sum(axis=1)

    # -- the result ------------------------------------------------------------------------------

    def is_planar(self) -> bool:
        """Whether strands meet at their crossings and nowhere else."""
        heads, tails = (np.concatenate([r[s] for r in self.rows]) for s in (slice(None, -1), slice(1, None)))
        a, d = self.pos[heads], self.pos[tails] - self.pos[heads]
        w = a[None] - a[:, None]
        across = d[:, None, 0] * d[None, :, 1] - d[:, None, 1] * d[None, :, 0]
        with np.errstate(divide="ignore", invalid="ignore"):
            s = (w[..., 0] * d[None, :, 1] - w[..., 1] * d[None, :, 0]) / across
            t = (w[..., 0] * d[:, None, 1] - w[..., 1] * d[:, None, 0]) / across
        meet = (s >= 0) & (s <= 1) & (t >= 0) & (t <= 1)
        shared = (
            (heads[:, None] == heads)
            | (heads[:, None] == tails)
            | (tails[:, None] == heads)
            | (tails[:, None] == tails)
        )
        return not bool((meet & ~shared).any())

    def courses(self) -> tuple[Course, ...]:
        out = []
        for n, row in enumerate(self.rows):
            stops: dict[int, tuple[int, ...]] = {}
            for key, node in self.node_of.items():
                at = tuple(int(k) for k in np.flatnonzero(row == node))
                if at:
                    stops[key] = at
            begin, marks = 0, {}
            starts = {}
            for k in self.of_strand[n]:
                starts[k] = begin
                begin += len(self.ids[k]) - 1
            for mark, arc, part in self.marks[n]:
                marks[mark] = starts[arc] + part * (len(self.ids[arc]) - 1)
            out.append(Course(self.pos[row].copy(), stops, marks))
        return tuple(out)


def _along(p: Floats) -> Floats:
    """(n,) way along points."""
    d = np.diff(p, axis=0)
    return np.concatenate([[0.0], np.cumsum(np.hypot(d[:, 0], d[:, 1]))])


def _triples(rows: list[Ints], reach: int) -> tuple[Ints, Ints, Ints]:
    """Nodes of every strand with those `reach` before and behind them."""
    long = [r for r in rows if len(r) > 2 * reach]
    if not long:
        none = np.array([], dtype=np.int64)
        return none, none, none
    return (
        np.concatenate([r[: -2 * reach] for r in long]),
        np.concatenate([r[reach:-reach] for r in long]),
        np.concatenate([r[2 * reach :] for r in long]),
    )


def _near(at: int, reach: int, count: int) -> Ints:
    """Places up to `reach` from `at` that are among the first `count`."""
    out: Ints = np.arange(max(0, at - reach), min(count, at + reach + 1))
    return out
