"""A diagram that repeats laid out in space, as a cell that goes on in itself: of a chain of bights.

It is laid out as a planar graph on a cylinder, its two edges straight, every other node in the middle of its neighbours (Tutte, How to
Draw a Graph, Proc. London Math. Soc. 13 (1963) 743). No line then crosses another but where cords cross. Works that do not touch each
other lie side by side, and an end that meets nothing hangs straight.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.shape.lift import HEIGHT, Lifted
from dim_ladder.shape.recurring import CANNOT, UNLIKE, Rolled
from dim_ladder.shape.rope import Array, along_of
from dim_ladder.shape.value import Standing

NEAR = 1.7  # diameters between the nearest crossings of the cell
ASIDE = 1.5  # diameters between works that do not touch

Edge = tuple[int, int]  # strand, and the passage of the unit to which it leads
Dart = tuple[int, int, bool]  # edge, and whether it is walked forward
Node = tuple[str, int, int]  # "v" crossing, "e" edge, "f" face; its number or edge


class _Graph:
    """The diagram as a planar graph on a cylinder. Everything is known by its name in one unit and by how many units further down."""

    def __init__(self, d: Rolled) -> None:
        self.d = d
        self.next: dict[Dart, tuple[Dart, int]] = {}
        at: dict[int, dict[bool, tuple[int, int, int]]] = {}
        for e, walk in enumerate(d.walks):
            for k, (c, off, over) in enumerate(walk):
                at.setdefault(c, {})[over] = (e, k, -off)
        for c, visits_ in at.items():
            if len(visits_) != 2:
                raise InputError(UNLIKE, CANNOT)
            ways = {over: self._through(*visits_[over]) for over in (False, True)}
            (u_in, u_out), (o_in, o_out) = ways[False], ways[True]
            sides = (o_in, o_out) if d.from_right[c] else (o_out, o_in)
            ring = [u_in, sides[0], u_out, sides[1]]
            for a in range(4):
                (e, k, forward), s = ring[a]
                to, there = ring[a - 1]
                self.next[e, k, not forward] = (to, there - s)
        self.faces = self._faces()

    def _through(self, e: int, k: int, s: int) -> tuple[tuple[Dart, int], tuple[Dart, int]]:
        """The two ways away from a crossing along a strand, back and on."""
        last = k + 1 == len(self.d.walks[e])
        return ((e, k, False), s), ((e, 0 if last else k + 1, True), s + last)

    def _faces(self) -> list[list[tuple[Dart, int]]]:
        """Darts round every face, with the units they lie further down than the first; the last one leads back, and where it leads
        to says whether the face closes or goes on along the edge of the work."""
        seen: set[Dart] = set()
        out = []
        for dart in self.next:
            if dart in seen:
                continue
            round_, at, s = [], dart, 0
            while at not in seen:
                seen.add(at)
                round_.append((at, s))
                at, more = self.next[at]
                s += more
            out.append([*round_, (at, s)])
        return out

    def head(self, dart: Dart) -> tuple[Node, int]:
        e, k, forward = dart
        walk = self.d.walks[e]
        c, off, _ = walk[k] if forward else walk[k - 1]
        return ("v", c, 0), off - (not forward and k == 0)


def laid_out(d: Rolled, sizes: Sequence[float], order: Sequence[int]) -> Lifted:
    """A cell of a diagram that repeats, in space. sizes : of every end, in diameters. order : ends from left to right. Raises InputError
    where it cannot be laid out."""
    works = _works(d, order)
    laid = [_laid(_only(d, w), [sizes[e] for e in w]) if d.walks[w[0]] else None for w in works]
    height = max((found[1] for found in laid if found), default=0.0)
    strands: dict[int, Array] = {}
    edge = 0.0
    for ends, found in zip(works, laid, strict=True):
        if found is None:
            lines = [np.array([[0.0, 0.0, 0.0], [0.0, height / 2, 0.0], [0.0, height, 0.0]])]
        else:
            lines = [x * [1.0, height / found[1], 1.0] for x in found[0]]
        left, right = min(x[:, 0].min() for x in lines), max(x[:, 0].max() for x in lines)
        for e, x in zip(ends, lines, strict=True):
            strands[e] = x + np.array([edge - left, 0.0, 0.0])
        edge += right - left + ASIDE * max(sizes)
    many = len(sizes)
    beside = [0] * many
    for k, ends in enumerate(works):
        for e in ends:
            beside[e] = k
    beads, standing = _on_lines(d, strands, beside)
    return Lifted(
        tuple(strands[e] for e in range(many)), tuple(range(many)), height, tuple((e,) for e in range(many)),
        beads, standing, beside=tuple(beside) if len(works) > 1 else (),
    )  # fmt: skip


def _on_lines(
    d: Rolled, strands: Mapping[int, Array], beside: Sequence[int]
) -> tuple[tuple[tuple[int, float, str, int], ...], tuple[Standing, ...]]:
    """Beads, and slack that stands, where they are on the lines: evenly on the piece between two crossings."""
    beads: list[tuple[int, float, str, int]] = []
    standing = []
    number = sorted({s.number for s in d.stands if s.what.kind == "bead"})
    on: dict[int, int] = {}  # a bead on several ends is on one work
    for s in d.stands:
        if on.setdefault(s.number, beside[s.end]) != beside[s.end]:
            raise InputError("a bead is on works that hang beside each other", CANNOT)
        here = [x.number for x in d.stands if (x.end, x.edge) == (s.end, s.edge)]
        line = strands[s.end]
        along = along_of(line)
        # Corner 2 k of a line is in the middle of the piece that leads to its passage k.
        a, b = (0, len(line) - 1) if not d.walks[s.end] else (max(2 * s.edge - 1, 0), 2 * s.edge + 1)
        at = along[a] + (along[b] - along[a]) * (here.index(s.number) + 1) / (len(here) + 1)
        part = float(at / along[-1])
        if s.what.kind == "bead":
            beads.append((s.end, part, s.what.text, number.index(s.number)))
        else:
            own = np.vstack([strands[e] for e, of in enumerate(beside) if of == beside[s.end]])
            x = float(np.interp(at, along, line[:, 0]))
            standing.append(Standing(s.end, part, s.what.mm, 1 if x > own[:, 0].mean() else -1))
    return tuple(beads), tuple(standing)


def _works(d: Rolled, order: Sequence[int]) -> list[list[int]]:
    """Ends that meet each other, works from left to right."""
    work = {e: {e} for e in range(len(d.walks))}
    who: dict[int, int] = {}
    for e, walk in enumerate(d.walks):
        for c, _, _ in walk:
            both = work[e] | work[who.setdefault(c, e)]
            for f in both:
                work[f] = both
    seen: dict[int, list[int]] = {}
    for e in order:
        seen.setdefault(id(work[e]), sorted(work[e]))
    return list(seen.values())


def _only(d: Rolled, ends: Sequence[int]) -> Rolled:
    """The diagram of some ends that meet no others."""
    number = {c: k for k, c in enumerate(dict.fromkeys(c for e in ends for c, _, _ in d.walks[e]))}
    return Rolled(
        tuple(tuple((number[c], off, over) for c, off, over in d.walks[e]) for e in ends),
        tuple(d.from_right[c] for c in number),
    )


def _laid(d: Rolled, sizes: Sequence[float]) -> tuple[list[Array], float]:
    """Lines of a work and how high its unit is."""
    g = _Graph(d)
    edges = sum(map(len, d.walks))
    rims = sorted(f[-1][1] for f in g.faces if f[-1][1])
    if len(d.from_right) - edges + len(g.faces) != 2 or rims != [-1, 1]:
        raise InputError("its units do not lie in one row", CANNOT)
    near: dict[Node, list[tuple[Node, int]]] = {}

    def join(a: Node, b: Node, further: int) -> None:
        near.setdefault(a, []).append((b, further))
        near.setdefault(b, []).append((a, -further))

    for e, walk in enumerate(d.walks):
        for k in range(len(walk)):
            for forward in (True, False):
                node, off = g.head((e, k, forward))
                join(("e", e, k), node, off)
    pinned: dict[Node, tuple[int, float]] = {}  # side, and how far down of a unit
    for number, face in enumerate(g.faces):
        rim = [pair for dart, s in face[:-1] for pair in ((("e", dart[0], dart[1]), s), _at(g.head(dart), s))]
        if not face[-1][1]:
            for node, s in rim:
                join(("f", number, 0), node, s)
            continue
        for j, (node, s) in enumerate(rim):
            if node in pinned:
                raise InputError("one strand alone leads from unit to unit", CANNOT)
            # With the outside on the left of the way, the left edge is walked upwards.
            pinned[node] = (face[-1][1], face[-1][1] * j / len(rim) - s)
    places = min(
        (_harmonic(near, pinned, k / PHASES) for k in range(PHASES)), key=lambda p: _stretch(near, p)
    )
    return _strands(d, places, sizes)


PHASES = 12  # ways in which one edge of the work may lie against the other
WIDE = 0.7  # of a unit, from the middle to the edge


def _at(node: tuple[Node, int], s: int) -> tuple[Node, int]:
    return node[0], node[1] + s


def _harmonic(
    near: dict[Node, list[tuple[Node, int]]], pinned: dict[Node, tuple[int, float]], phase: float
) -> dict[Node, Array]:
    """(across, down) of every node, in units: on the edges as they are pinned, else in the middle of its neighbours."""
    known = {n: np.array([WIDE * side, y + (phase if side > 0 else 0.0)]) for n, (side, y) in pinned.items()}
    free = [n for n in near if n not in known]
    at = {n: i for i, n in enumerate(free)}
    a, b = np.zeros((len(free), len(free))), np.zeros((len(free), 2))
    for n in free:
        for m, further in near[n]:
            a[at[n], at[n]] += 1
            b[at[n], 1] += further
            if m in at:
                a[at[n], at[m]] -= 1
            else:
                b[at[n]] += known[m]
    return known | dict(zip(free, np.linalg.solve(a, b), strict=True))


def _stretch(near: dict[Node, list[tuple[Node, int]]], places: dict[Node, Array]) -> float:
    return sum(
        float(((places[m] + [0.0, further] - places[n]) ** 2).sum())
        for n, all_ in near.items()
        for m, further in all_
    )


def _strands(d: Rolled, places: dict[Node, Array], sizes: Sequence[float]) -> tuple[list[Array], float]:
    flat = np.array([places["v", c, 0] for c in range(len(d.from_right))])
    apart = min(
        float(np.hypot(*(flat[i] + [0.0, s] - flat[j])))
        for s in (-1, 0, 1) for i in range(len(flat)) for j in range(len(flat)) if s or i != j
    )  # fmt: skip
    if apart < 0.01:
        raise InputError("its crossings lie upon each other", CANNOT)
    scale = NEAR * max(sizes) / apart
    who = {(c, over): e for e, w in enumerate(d.walks) for c, _, over in w}
    strands = []
    for e, walk in enumerate(d.walks):
        points = [(*places["e", e, 0], 0.0)]
        for k, (c, off, over) in enumerate(walk):
            height = (HEIGHT if over else -HEIGHT) * sizes[who[c, not over]]
            points.append((*(places["v", c, 0] + [0.0, off]), height / scale))
            last = k + 1 == len(walk)
            points.append((*(places["e", e, 0 if last else k + 1] + [0.0, last]), 0.0))
        strands.append(np.array(points) * scale)
    return strands, scale
