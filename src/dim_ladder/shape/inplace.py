"""A unit that passes loops made before it, as a cell that goes on in itself: a chain of bights.

Such work cannot be traced by itself, and in its drawing every unit is larger than the one before, as the tail stays where it
hangs. But from the third unit on each crosses what the one before it crossed. So its diagram is taken from the middle of several
units, rolled up to one that repeats, and laid out anew: a planar graph on a cylinder, its two edges straight, every other node in the
middle of its neighbours (Tutte, How to Draw a Graph, Proc. London Math. Soc. 13 (1963) 743). No line then crosses another but where
cords cross.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.notation import Weave
from dim_ladder.shape.lift import HEIGHT, Lifted
from dim_ladder.shape.rope import Array
from dim_ladder.trace import Trace, Tracer
from dim_ladder.trace.diagram import tangle, visits
from dim_ladder.trace.roles import period_of

UNITS = 7  # traced
TAKEN = 3  # of them, from 0: it and the next must cross alike
NEAR = 1.7  # diameters between the nearest crossings of the cell
CANNOT = "Its size is guessed from the drawing"

Passage = tuple[int, int, bool]  # crossing of the cell, how many units further down it lies, over
Visit = tuple[int, int, int, bool, int]  # end, unit, how-manyth of the unit, over, crossing
Name = tuple[tuple[int, int], tuple[int, int], int]


@dataclass(frozen=True, slots=True)
class Rolled:
    """A diagram that repeats. walks : by strand its passages in one unit. from_right : by crossing, whether the over strand comes from
    the right of the under one."""

    walks: tuple[tuple[Passage, ...], ...]
    from_right: tuple[bool, ...]


def placed(weave: Weave, section: str) -> Trace | None:
    """The weave up to a section, with that section often enough; None where it cannot be tied below itself, or does not leave its
    ends where they were."""
    index = next(i for i, s in enumerate(weave.sections) if s.name == section)
    upto = replace(weave, sections=weave.sections[: index + 1])
    counts = {s.name: 1 for s in upto.sections} | {section: UNITS * period_of(weave, section)}
    t = Tracer().trace(upto, counts=counts)
    if t.problems or not t.settled or t.turned or any(s.quiet or s.deed is not None for s in t.steps):
        return None
    orders = {t.order_before(_first(t, section, u)) for u in range(TAKEN, TAKEN + 3)}
    return t if len(orders) == 1 else None


def _first(t: Trace, section: str, unit: int) -> int:
    """The first step of a unit, counted in periods."""
    period = period_of(t.weave, section)
    index = next(i for i, s in enumerate(t.weave.sections) if s.name == section)
    return next(
        (i for i, s in enumerate(t.steps) if s.op.section == index and s.op.unit >= unit * period),
        len(t.steps),
    )


def rolled(t: Trace, section: str) -> Rolled:
    """The diagram of one unit among others like it. t : as `placed` gave it. Raises InputError where units differ."""
    made = _units(t, section)
    both: dict[
        int, list[Visit]
    ] = {}  # by crossing, its two passages: end, unit, how-manyth of the unit, over
    units: list[list[list[Visit]]] = [[[] for _ in range(UNITS)] for _ in made]
    for e, walk in enumerate(made):
        for n, over, u in walk:
            if u >= 0:
                visit = (e, u, len(units[e][u]), over, n)
                units[e][u].append(visit)
                both.setdefault(n, []).append(visit)
    one, two = (
        [[_named(v, both) for v in units[e][u]] for e in range(len(made))] for u in (TAKEN, TAKEN + 1)
    )
    if one != two or not all(one):
        raise InputError("its units do not cross alike", CANNOT)
    number = {name: k for k, name in enumerate(dict.fromkeys(name for w in one for name, _, _ in w))}
    sides = tangle(t).from_right
    right = {
        name: sides[v[4]]
        for e, w in enumerate(one)
        for (name, _, _), v in zip(w, units[e][TAKEN], strict=True)
    }
    walks = tuple(tuple((number[name], off, over) for name, off, over in w) for w in one)
    if sorted(c for w in walks for c, _, _ in w) != sorted(2 * list(range(len(number)))):
        raise InputError("its units do not cross alike", CANNOT)
    return Rolled(walks, tuple(right[name] for name in number))


def _named(v: Visit, both: dict[int, list[Visit]]) -> tuple[Name, int, bool]:
    """A crossing by its two passages and how many units lie between them, how much further down (0 or above: up) it lies than the
    unit of this passage, and whether this one is over. It lies in the earlier of the two units."""
    e, u, k, over, n = v
    pair = both[n]
    if len(pair) != 2:
        raise InputError("a unit crosses what lies before the first", CANNOT)
    other = pair[1] if pair[0] == v else pair[0]
    apart = other[1] - u
    if apart > 0 or (apart == 0 and (e, k) <= (other[0], other[2])):
        return ((e, k), (other[0], other[2]), apart), 0, over
    return ((other[0], other[2]), (e, k), -apart), apart, over


def _units(t: Trace, section: str) -> list[list[tuple[int, bool, int]]]:
    """By end, its passages down its way: crossing, over, and in which unit the end made the piece of its way; -1 before. An end that
    is never moved is passed in the unit of what passes it."""
    begins = [_begun(t, _first(t, section, u)) for u in range(UNITS + 1)]
    walks = visits(t)
    unit: dict[tuple[int, bool], int] = {}
    for e, walk in enumerate(walks):
        piece = {(i % 2 == 0, p): i for i, p in enumerate(t.paths[e])}
        for v in walk:
            c = t.crossings[v.crossing]
            i = piece[(True, c.lane) if v.dx == 0 else (False, c.row)]
            unit[v.crossing, v.over] = max((u for u in range(UNITS) if begins[u][e] <= i), default=-1)
    still = {e for e in range(len(walks)) if begins[0][e] == begins[-1][e]}
    return [
        [(v.crossing, v.over, unit[v.crossing, (not v.over) if e in still else v.over]) for v in walk]
        for e, walk in enumerate(walks)
    ]


def _begun(t: Trace, step: int) -> list[int]:
    """Pieces of every end's path that were there before a step."""
    out = [1] * len(t.ends)
    for s in t.steps[:step]:
        for end, _, stop in ((s.end, s.path_start, s.path_stop), *s.others):
            if stop:
                out[end] = stop
    return out


# -- laid out anew -----------------------------------------------------------------------------------

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
                raise InputError("its units do not cross alike", CANNOT)
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


def laid_out(d: Rolled, sizes: tuple[float, ...]) -> Lifted:
    """A cell of a diagram that repeats, in space. sizes : of every end, in diameters. Raises InputError where it cannot be laid out."""
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
    return _strands(d, g, places, sizes)


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


def _strands(d: Rolled, g: _Graph, places: dict[Node, Array], sizes: tuple[float, ...]) -> Lifted:
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
    many = len(strands)
    return Lifted(tuple(strands), tuple(range(many)), scale, tuple((e,) for e in range(many)))
