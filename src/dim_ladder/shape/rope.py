"""Cords as chains of nodes in space, and the state that is pulled tight.

Unit of length: the diameter of the thickest cord. x to the right, y down the band, z towards the viewer. In a cell that
repeats, the next unit is this one turned by `angle` about the y axis and moved down by `pitch`.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from dim_ladder.library.kinds import BULGE

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]


class Held(NamedTuple):
    """A crossing at which cord is held straight in what another ties round it. strand, part : its strand and how far along it, as
    a part of its length; other, other_part : the same of what goes round it, which lies so many `units` further down. run : which
    of the cord's straight stretches it is of."""

    strand: int
    part: float
    other: int
    other_part: float
    units: int
    run: int


class Aside(NamedTuple):
    """A strand that is held aside where it begins, or where it ends, or both. from_above : whether it comes from above where it begins, as
    it lies once it is let go."""

    strand: int
    begins: bool
    ends: bool
    from_above: bool = False


class OnCord(NamedTuple):
    """A bead on one of its ends. number : of all of these. of : which bead it is. strand, part : its strand and how far along it, as a part of its length. radius : its own, and
    as large as it has grown, in diameters: it grows from its cord, so that it pushes aside what lies round it."""

    number: int
    strand: int
    part: float
    radius: float
    grown: float
    of: int = 0


@dataclass(frozen=True, slots=True)
class Curves:
    """What is to be pulled tight. strands : (n, 3) points each. follow : by strand, the strand that goes on from its end,
    one unit below; -1 where its two ends are held, -2 where it closes on itself. pitch : of a unit, 0 where nothing
    repeats. diameter, pull : of every strand, in diameters of the thickest, and its tension. bonds : pairs of strands
    that lie side by side all the way, as the halves of a flat cord. core : radius about the y axis that is kept free.
    press : force towards y = 0 on every diameter of cord, against a tension of 1.
    flat : the same towards z = 0, as work lies on a board; of core so many times (laid). alike : strands of which a hand draws up equally much cord.
    give : by strand, the part of its diameter that it gives way where it is pressed, 0 for rigid cord; none where all are.
    soft : against what force, of unit tension, on a diameter of cord pressed a diameter deep. apart : by strand, against a tension of 1, the force
    that draws it out each time it lies to a side; none where nothing is drawn apart, or cord slides. held : where it is held straight.
    tauter : tension more there. beads : what is threaded. between : the crossings before and after them (shape/threaded.py). beside : by strand, of
    which of several works it is that hang beside each other and do not touch. spread : by strand, how wide it lies where it is
    pressed flat, in its diameters; none where all is round. stacked : which of the bonds hold broad side to broad side. aside : which of the
    strands that are held end aside, and not above or below. in_line : force towards the line on which its other end is held, on every
    diameter of one that is held aside at one end; where none is so, towards where all of them hang, on all. near : diameters from y = 0 beyond which nothing is pressed towards it.
    bonds_slide : whether what lies side by side is bound by what is nearest, and not by what is as far along. heap : whether several knots of ends
    that go as one are drawn up to one."""

    strands: tuple[Array, ...]
    follow: tuple[int, ...]
    pitch: float
    diameter: tuple[float, ...]
    pull: tuple[float, ...]
    bonds: tuple[tuple[int, int], ...] = ()
    core: float = 0.0
    press: float = 0.0
    flat: float = 0.0
    laid: float = 1.0
    alike: tuple[tuple[int, ...], ...] = ()
    give: tuple[float, ...] = ()
    soft: float = 0.0
    apart: tuple[float, ...] = ()
    held: tuple[Held, ...] = ()
    tauter: float = 0.0
    beads: tuple[OnCord, ...] = ()
    beside: tuple[int, ...] = ()
    spread: tuple[float, ...] = ()
    stacked: tuple[tuple[int, int], ...] = ()
    aside: tuple[Aside, ...] = ()
    in_line: float = 0.0
    near: float = np.inf
    bonds_slide: bool = False
    heap: bool = False
    between: tuple[Held, ...] = ()

    @property
    def repeats(self) -> bool:
        return self.pitch > 0

    @property
    def walls(self) -> tuple[float, float]:
        """y between which held work stays: the bar it hangs from and the hand that holds its tails. Without them a loop could
        slip over an end that is held."""
        aside = {(a.strand, at) for a in self.aside for at, is_so in ((0, a.begins), (-1, a.ends)) if is_so}
        hung = [(k, at) for k, f in enumerate(self.follow) if f == -1 for at in (0, -1)]
        ends = [float(self.strands[k][at, 1]) for k, at in hung if (k, at) not in aside]
        return (min(ends), max(ends)) if ends else (-np.inf, np.inf)


@dataclass(slots=True)
class Rope:
    """Nodes, equally spaced along every cord.

    x, v : (n, 3) places and speeds. first : (strands + 1,) where each strand's nodes begin. nxt, down : the node after
    each (-1: none) and 1 where it lies in the next unit. cord : of every node. fixed : held nodes. radius : (n,).
    pull, edges, group : (cords,) tension, count of pieces, and which are drawn up alike (-1: none). far, unit, total, units : how far along its cord a node is, in
    pieces, in its how-manyth unit; all pieces of a cord, and in how many units it is back in its place.
    """

    curves: Curves
    x: Array
    first: Ints
    nxt: Ints
    down: Ints
    cord: Ints
    fixed: Flags
    radius: Array
    pull: Array
    edges: Ints
    group: Ints
    far: Ints
    unit: Ints
    total: Ints
    units: Ints
    closed: Flags
    pitch: float
    angle: float = 0.0
    v: Array = field(default_factory=lambda: np.zeros((0, 3)))
    # speeds of pitch and angle, and how FIRE stands: time step, mixing, steps since it last went uphill
    drive: Array = field(default_factory=lambda: np.zeros(5))
    # what hands draw apart, as shape/apart.py saw it first: turn and side of every node, and the force of every turn
    turns: Ints = field(default_factory=lambda: np.zeros(0, np.int64))
    right: Flags = field(default_factory=lambda: np.zeros(0, bool))
    hands: Array = field(default_factory=lambda: np.zeros(0))
    # what is held straight, kept by shape/straight.py: pairs of nodes with units and run; tension more that a node feels; the node before
    held: Ints = field(default_factory=lambda: np.zeros((0, 4), np.int64))
    taut: Array = field(default_factory=lambda: np.zeros(0))
    before: Ints = field(default_factory=lambda: np.zeros(0, np.int64))
    # nodes that beads are on, and how large these have grown
    bead: Ints = field(default_factory=lambda: np.zeros(0, np.int64))
    grown: Array = field(default_factory=lambda: np.zeros(0))
    # the crossings about each bead, as `held` is
    between: Ints = field(default_factory=lambda: np.zeros((0, 4), np.int64))
    # (strands, 2) where along x the ends of held work are brought to, whose tails were shortened
    under: Array = field(default_factory=lambda: np.zeros((0, 2)))

    def spacing(self) -> Array:
        """(cords,) mean length of a piece."""
        return self.cord_lengths() / self.edges

    def gives(self) -> Array:
        """(n,) part of its diameter that each node gives way."""
        if not self.curves.give:
            return np.zeros(len(self.x))
        out = np.repeat(np.array(self.curves.give), np.diff(self.first))
        out[self.bead] = 0.0
        return out

    def in_line(self) -> tuple[Array, Array]:
        """(n,) where along x the line is to which each node is drawn, and how hard on every diameter; both empty where none is."""
        one = [a for a in self.curves.aside if a.begins != a.ends]
        every = self.curves.in_line > 0 and not one
        at, force = (np.zeros(len(self.x) if one or every else 0) for _ in range(2))
        if every:  # where all of it hangs
            at[:] = np.mean([s[0, 0] for s in self.curves.strands])
            force[:] = self.curves.in_line
        for k, begins, *_ in one:
            own = slice(int(self.first[k]), int(self.first[k + 1]))
            at[own] = self.curves.strands[k][-1 if begins else 0, 0]
            force[own] = self.curves.in_line
        return at, force

    def spreads(self) -> Array:
        """(n,) how wide each node may lie where it is pressed flat, of its diameter."""
        each = self.curves.spread or (BULGE,) * (len(self.first) - 1)
        return np.repeat(np.array(each), np.diff(self.first))

    def room(self) -> Array:
        """(n,) how far from each node other cord stays: its radius, or that of the bead there."""
        if not len(self.bead):
            return self.radius
        out = self.radius.copy()
        np.maximum.at(out, self.bead, self.grown)
        return out

    def grow(self, by: float) -> None:
        """Let beads grow towards their size."""
        if len(self.bead):
            self.grown = np.minimum(self.grown + by, [b.radius for b in self.curves.beads])
            self._push_along()

    def laid(self) -> Array:
        """(cords,) how many times as hard as other cord each is held to the board."""
        return np.where(self.pull > 1.0, self.curves.laid, 1.0)

    def bring(self, by: float) -> None:
        """Bring ends whose tails were shortened to where their tails hang, by so much at the most."""
        for k, at in enumerate(self.under):
            for node, x in zip((self.first[k], self.first[k + 1] - 1), at, strict=True):
                if not np.isnan(x):
                    self.x[node, 0] += np.clip(x - self.x[node, 0], -by, by)

    def _push_along(self) -> None:
        """Let beads on one cord push each other along it, by a node at a time."""
        strand = np.searchsorted(self.first, self.bead, side="right") - 1
        h = self.spacing()
        for k in np.unique(strand):
            here = sorted(np.flatnonzero(strand == k), key=lambda b: (self.bead[b], b))
            low, high = int(self.first[k]) + 1, int(self.first[k + 1]) - 2
            for a, b in pairwise(here):
                room = (self.bead[b] - self.bead[a]) * h[self.cord[self.bead[a]]]
                if room < self.grown[a] + self.grown[b]:
                    self.bead[a], self.bead[b] = max(low, self.bead[a] - 1), min(high, self.bead[b] + 1)

    def threaded(self) -> tuple[OnCord, ...]:
        """The beads, where they are now."""
        out = []
        for b, node, grown in zip(self.curves.beads, self.bead, self.grown, strict=True):
            strand = int(np.searchsorted(self.first, node, side="right")) - 1
            many = int(self.first[strand + 1] - self.first[strand])
            part = float((node - self.first[strand]) / many)
            out.append(b._replace(strand=strand, part=part, grown=float(grown)))
        return tuple(out)

    def straight(self, pairs: Ints | None = None) -> tuple[Held, ...]:
        """Where it is held straight, as it lies now, or other pairs of nodes."""
        pairs = self.held if pairs is None else pairs
        strand = np.searchsorted(self.first, np.arange(len(self.x)), side="right") - 1
        part = (np.arange(len(self.x)) - self.first[strand]) / np.diff(self.first)[strand]
        return tuple(
            Held(int(strand[i]), float(part[i]), int(strand[j]), float(part[j]), int(s), int(run))
            for i, j, s, run in pairs
        )

    def beside(self) -> Ints:
        """(n,) of which of the works that hang beside each other a node is."""
        every = self.curves.beside or (0,) * (len(self.first) - 1)
        return np.repeat(np.array(every, np.int64), np.diff(self.first))

    def pieces(self) -> Array:
        """(n,) length of the piece after every node; 0 at a held end."""
        e = turned(self.x[self.nxt], self.down, self.angle, self.pitch)  # -1 is some node, and left out below
        e -= self.x
        out: Array = np.sqrt(np.einsum("ij,ij->i", e, e))
        out[self.nxt < 0] = 0.0
        return out

    def cord_lengths(self) -> Array:
        return np.asarray(np.bincount(self.cord, self.pieces(), len(self.pull)), np.float64)

    def strand_lengths(self) -> Array:
        """(strands,) cord in one unit by the strand that begins at each place."""
        strand = np.repeat(np.arange(len(self.first) - 1), np.diff(self.first))
        return np.asarray(np.bincount(strand, self.pieces(), len(self.first) - 1), np.float64)

    def strands(self) -> list[Array]:
        """Every strand's points; of what goes on or closes, with the point where it does."""
        out = []
        for e, f in enumerate(self.curves.follow):
            own = self.x[self.first[e] : self.first[e + 1]]
            if f == -2:
                own = np.vstack([own, own[:1]])
            elif f >= 0:
                start = self.x[self.first[f]][None]
                own = np.vstack([own, turned(start, np.ones(1, np.int64), self.angle, self.pitch)])
            out.append(own)
        return out


def turned(x: Array, units: Ints | int, angle: float, pitch: float) -> Array:
    """Points as they lie so many units further down. x : (n, 3)."""
    out = x.copy()
    out[:, 1] += units * pitch
    if angle:
        c, s = np.cos(angle * units), np.sin(angle * units)
        out[:, 0], out[:, 2] = c * x[:, 0] + s * x[:, 2], c * x[:, 2] - s * x[:, 0]
    return out


def let_out(r: Rope, times: float, along: int = 1) -> Rope:
    """With its pitch so many times as long, at rest; along 0 : so many times as wide."""
    middle = r.x[:, along].mean()
    r.x[:, along] = middle + (r.x[:, along] - middle) * times
    r.pitch *= times if along == 1 else 1.0
    r.v[:], r.drive[:] = 0.0, 0.0
    return r


def rope(curves: Curves, step: float, pitch: float | None = None, angle: float = 0.0) -> Rope:
    """Nodes about `step` apart (in diameters of their own cord) on every strand."""
    spaced_ = [_spaced(s, step * d) for s, d in zip(curves.strands, curves.diameter, strict=True)]
    nodes = [s if f == -1 else s[:-1] for s, f in zip(spaced_, curves.follow, strict=True)]
    first = np.concatenate([[0], np.cumsum([len(s) for s in nodes])]).astype(np.int64)
    n = int(first[-1])
    nxt = np.arange(1, n + 1, dtype=np.int64)
    down = np.zeros(n, np.int64)
    fixed = np.zeros(n, bool)
    for e, f in enumerate(curves.follow):
        last = first[e + 1] - 1
        if f == -1:
            nxt[last] = -1
            fixed[[first[e], last]] = True
        elif f == -2:
            nxt[last] = first[e]
        else:
            nxt[last], down[last] = first[f], 1
    cord, far, unit = (np.zeros(n, np.int64) for _ in range(3))
    total: list[int] = []
    units: list[int] = []
    closed: list[bool] = []
    pull: list[float] = []
    seen: set[int] = set()
    for e in range(len(nodes)):
        k, along, u = e, 0, 0
        if e in seen:
            continue
        pull.append(curves.pull[e])
        closed.append(curves.follow[e] == -2)
        while k >= 0 and k not in seen:
            seen.add(k)
            own = slice(first[k], first[k + 1])
            cord[own] = len(total)
            far[own] = along + np.arange(len(nodes[k]))
            unit[own] = u
            along, u, k = along + len(nodes[k]), u + 1, curves.follow[k]
        total.append(along)
        units.append(u)
    edges = np.array(
        [t - (curves.follow[s] == -1) for t, s in zip(total, _starts(curves), strict=True)], np.int64
    )
    group = np.full(len(pull), -1, np.int64)
    for g, strands in enumerate(curves.alike):
        group[[cord[first[e]] for e in strands]] = g
    # One cord may be two of them: what is left of groups is counted anew.
    group[group >= 0] = np.unique(group[group >= 0], return_inverse=True)[1]
    radius = np.repeat(np.array(curves.diameter) / 2, np.diff(first))
    x = np.vstack(nodes)
    held, between = (
        np.array(
            [[_node(first, a, u), _node(first, b, v), *more] for a, u, b, v, *more in pairs], np.int64
        ).reshape(-1, 4)
        for pairs in (curves.held, curves.between)
    )
    return Rope(
        curves, x, first, nxt, down, cord, fixed, radius, np.array(pull), edges, group, far, unit, np.array(total, np.int64),
        np.array(units, np.int64), np.array(closed), curves.pitch if pitch is None else pitch, angle, np.zeros_like(x),
        held=held, bead=np.array([_node(first, b.strand, b.part) for b in curves.beads], np.int64),
        grown=np.array([b.grown for b in curves.beads]), between=between,
    )  # fmt: skip


def _node(first: Ints, strand: int, part: float) -> int:
    """The node of a strand so far along it."""
    a, b = int(first[strand]), int(first[strand + 1])
    return min(b - 1, a + round(part * (b - a)))


def _starts(curves: Curves) -> list[int]:
    """The first strand of every cord."""
    out, seen = [], set()
    for e in range(len(curves.follow)):
        if e not in seen:
            out.append(e)
        k = e
        while k >= 0 and k not in seen:
            seen.add(k)
            k = curves.follow[k]
    return out


def along_of(line: Array) -> Array:
    """How far along it every point of a line lies."""
    return np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])


def _spaced(points: Array, step: float) -> Array:
    """Equally spaced points about `step` apart on a line through these."""
    d = np.linalg.norm(np.diff(points, axis=0), axis=1)
    keep = np.concatenate([[True], d > 0])
    points, d = points[keep], d[d > 0]
    along = np.concatenate([[0.0], np.cumsum(d)])
    u = np.linspace(0.0, along[-1], max(6, round(along[-1] / step)) + 1)
    return np.column_stack([np.interp(u, along, points[:, k]) for k in range(3)])
