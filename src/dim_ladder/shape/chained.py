"""A chain of bights with its begin and its lock: what goes through loops of the work above it has no shape of its own.

The begin, a few units and the lock are drawn up as one piece, as they hang; so many units as there are come into it where it repeats. That is
done without beads and without slack that stands, which are put where they are in a unit among many others (shape/onchain.py).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import TypeVar

import numpy as np

from dim_ladder.notation import Leave, Rotate, Section, Step, Thread, Turn, Weave
from dim_ladder.shape.aside import slips
from dim_ladder.shape.closing import even
from dim_ladder.shape.onchain import on_units
from dim_ladder.shape.recurring import placed
from dim_ladder.shape.rope import Array, along_of
from dim_ladder.shape.value import Among, TightShape
from dim_ladder.trace import trace
from dim_ladder.trace.alike import least
from dim_ladder.trace.roles import period_of

T = TypeVar("T")

CELLS = 4  # of the body, where there are so many: the lock leans on the last two, and the begin on the first
LEAST = 3  # of them, in which one can be told from the next
ROOM = 0.5  # diameters of free cord that are left above and below of what is pushed together
STRAIGHT = 1.2  # times as long as it is, less than which cord in a unit runs straight
EVERY = 0.2  # diameters between points of a unit
ALIKE = 0.5  # diameters from where it should be, within which a unit lies as the next one does
AS_LONG = 0.3  # of the pitch of a unit, by which it may be longer or shorter there than among many others
UNLIKE = "its units do not lie as they do in the body"
GENTLY = 4.0  # diameters of cord
ROUNDS = 3  # of looking for what a unit is, first by all strands and then by each
LOOK = 0.15  # of the cord of a unit, by which it may be more or less there
WINDOW = 1.0  # diameters of cord that must lie as they lie a unit on


@dataclass(frozen=True, slots=True)
class Run:
    """of : the weave as it is. begin, body, lock : sections that follow each other. whole : a weave in which the lock is all of the three, with
    some units of the body, tied once. stands : whether the begin holds by itself. cells : units of the body's shape in it."""

    of: Weave
    begin: str
    body: str
    lock: str
    whole: Weave
    stands: bool
    cells: int


def run_of(weave: Weave, s: Section) -> Run | None:
    """The chain that a section begins or locks; None where it does neither."""
    at = weave.sections.index(s) - (s.kind == "finish") * 2
    weave = bare(weave)
    three = weave.sections[at : at + 3] if at >= 0 else ()
    if tuple(x.kind for x in three) != ("start", "body", "finish") or _more(weave, three):
        return None
    begin, body, lock = three
    if any((x.count.kind, x.count.number) != ("repeat", 1) for x in (begin, lock)):
        return None
    one = trace(weave, section=begin.name, units=1)
    if one.problems or not all(trace(weave, section=x.name, units=1).problems for x in (body, lock)):
        return None
    if placed(weave, body.name) is None:
        return None
    period = period_of(weave, body.name)
    often = body.count.number // period if body.count.kind == "repeat" else CELLS
    cells = max(1, min(CELLS, often))
    items = (*begin.items, *body.items * (cells * period), *lock.items)
    hang = replace(weave.hang, ends=tuple(one.ends[e] for e in one.start))
    whole = replace(weave, hang=hang, sections=(replace(lock, items=items),))
    if trace(whole, section=lock.name, units=1).problems:
        return None
    real = least(one)
    stands = real is None or bool(real.crossings or slips(one, real))
    return Run(weave, begin.name, body.name, lock.name, whole, stands, cells)


def bare(weave: Weave) -> Weave:
    """A weave with nothing threaded on its cords, and no slack left in them."""

    def of(items: Sequence[T]) -> tuple[T, ...]:
        out: list[T] = []
        for i in items:
            if not isinstance(i, Step):
                out.append(i)
            elif hops := tuple(h for h in i.hops if not isinstance(h, Thread | Leave)):
                out.append(replace(i, hops=hops))
        return tuple(out)

    knots = tuple(replace(k, steps=of(k.steps)) for k in weave.knots)
    return replace(weave, knots=knots, sections=tuple(replace(s, items=of(s.items)) for s in weave.sections))


def _more(weave: Weave, sections: Sequence[Section]) -> bool:
    """Whether more is done with sections than tying them once below each other."""
    names = {s.name for s in sections}
    return any(s.over in names or s.on in names for s in weave.sections) or any(
        s.over or s.on or s.former or s.alternate or any(isinstance(i, Rotate | Turn) for i in s.items)
        for s in sections
    )


def among(run: Run, begin: TightShape | None, cell: TightShape, ends: Sequence[str]) -> Among:
    """What of the run is not the lock's: the begin and the units; of a begin that does not hold by itself, half of what is neither.
    ends : by strand."""
    cord, above = (tuple(of.per_end.get(e, 0.0) if of else 0.0 for e in ends) for of in (cell, begin))
    share, reach = (1.0, begin.pitch) if begin else (0.5, 0.0)
    return Among(run.cells, cell.pitch, cord, reach, above, share, cell.width, cell.thickness)


def own_part(of: Among, pitch: float, cord: Sequence[float]) -> tuple[float, tuple[float, ...]]:
    """Pitch and cord of a run, without what is not its section's."""
    taken = zip(cord, of.cord, of.above, strict=True)
    own = tuple((v - of.cells * unit - above) * of.share for v, unit, above in taken)
    return (pitch - of.cells * of.pitch - of.reach) * of.share, own


def unlike(lines: Sequence[Array], of: Among, own: Sequence[float]) -> str:
    """What is wrong with a run in which a unit does not lie as the next one does, or as in the body; empty where it does. own : cord of its
    section, by strand."""
    # At the begin and at the lock a unit may lie a little closer.
    if any(v < -AS_LONG * unit for v, unit in zip(own, of.cord, strict=True)):
        return UNLIKE
    if of.cells < LEAST:
        return ""
    found = _Units([even(x) for x in lines], of, own)
    as_long = abs(float(found.down[1]) - of.pitch) < AS_LONG * of.pitch
    return "" if as_long and found.off < ALIKE else UNLIKE


def with_units(shape: TightShape, begin: TightShape | None, cell: TightShape, units: int) -> TightShape:
    """A run with as many units as there are. begin, cell : shapes of the two by themselves; no begin that does not hold."""
    more = units - shape.cells
    if not more:
        return shape
    above = (begin or shape).per_end
    of = Among(
        shape.cells, cell.pitch, tuple(cell.per_end.get(e, 0.0) for e in shape.ends), 0.0,
        tuple(above.get(e, 0.0) for e in shape.ends), 1.0, 0.0, 0.0,
    )  # fmt: skip
    found = _Units([even(x) for x in shape.lines], of, [shape.per_end[e] for e in shape.ends])
    lines, pitch = found.with_more(more, cell.pitch), shape.pitch + more * cell.pitch
    return replace(shape, lines=lines, pitch=pitch, cells=units)


class _Units:
    """Where the units of a run lie: places near its middle, and how much further along each cord and how far down such a place is found
    again. off : how far from there cord lies that should, in diameters."""

    def __init__(self, lines: Sequence[Array], of: Among, own: Sequence[float]) -> None:
        self.lines = [_Line(x) for x in lines]
        self.long = list(of.cord)
        self.first = []
        for line, unit, above, below in zip(self.lines, of.cord, of.above, own, strict=True):
            tails = line.along[-1] - above - unit * of.cells - below
            self.first.append(max(0.0, tails / 2) + above + unit * (of.cells - 1) / 2)
        self.down = np.array([0.0, of.pitch, 0.0])
        self.off = 0.0
        worked = [k for k, unit in enumerate(of.cord) if unit > of.pitch * STRAIGHT]
        for _ in range(ROUNDS if worked else 0):
            found = zip(self.lines, self.first, of.cord, strict=True)
            self.long = [line.again(a, unit, self.down) for line, a, unit in found]
            # Straight down, however it leans as it hangs.
            ways = [self.lines[k].further(self.first[k], self.long[k]) for k in worked]
            self.down[1] = np.mean([way[:, 1].mean() for way in ways])
            self.off = max(float(np.linalg.norm(way - way.mean(axis=0), axis=1).max()) for way in ways)

    def with_more(self, more: int, pitch: float) -> tuple[Array, ...]:
        """The lines with more units, each as long as one among many others."""
        places = list(zip(self.lines, self.first, self.long, strict=True))
        level = float(np.mean([line.at(np.array([a]))[0, 1] for line, a, _ in places]))
        return tuple(line.with_more(a, unit, pitch, level, more) for line, a, unit in places)


def drawn_together(lines: list[Array], lengths: Array, at: Array, top: float) -> float:
    """Push what of held work only free cord joins up to each other, as hands do; changes lines and lengths. at : where along y it is
    worked, from the top down. top : of the work. Returns where the work begins then."""
    moved = 0.0
    for low, high in reversed(list(pairwise(at))):
        low, high = low + moved, high + moved
        if high - low < 2 * ROOM:
            continue
        cuts = []
        for line in lines:
            above, below = np.flatnonzero(line[:, 1] < low + ROOM), np.flatnonzero(line[:, 1] > high - ROOM)
            if not len(above) or not len(below) or above[-1] > below[0]:
                break  # it comes back
            cuts.append((int(above[-1]), int(below[0])))
        else:
            here = np.mean([line[b] - line[a] for line, (a, b) in zip(lines, cuts, strict=True)], axis=0)
            for k, (a, b) in enumerate(cuts):
                line = lines[k]
                lengths[k] -= float(along_of(line)[b] - along_of(line)[a])
                lines[k] = np.vstack([line[: a + 1] + here, line[b + 1 :]])
            moved += float(here[1])
    return top + moved


class _Line:
    """A line, by how far along it."""

    def __init__(self, points: Array) -> None:
        self.points = points
        self.along = along_of(points)

    def at(self, s: Array) -> Array:
        return np.column_stack([np.interp(s, self.along, self.points[:, k]) for k in range(3)])

    def further(self, a: float, long: float) -> Array:
        """(11, 3) how much further what lies about a place is found again."""
        w = np.linspace(-WINDOW, WINDOW, 11)
        return self.at(a + long + w) - self.at(a + w)

    def again(self, a: float, per: float, down: Array) -> float:
        """How much cord further on it lies as it does at a place, one unit down."""
        w = np.linspace(-WINDOW, WINDOW, 11)
        here = self.at(a + w) + down
        tried = per * np.linspace(1 - LOOK, 1 + LOOK, 61)
        return float(min(tried, key=lambda x: ((self.at(a + x + w) - here) ** 2).sum()))

    def with_more(self, a: float, long: float, pitch: float, level: float, more: int) -> Array:
        """The line with more units from a place on, or with fewer. long : cord of one. pitch : how far down they go on in each other. level :
        from which on they are as much shorter as they are too long."""
        out = max(0, -more)
        a = max(0.0, a - max(0, out - 1) / 2 * long)
        b = min(a + max(out, 1) * long, float(self.along[-1]))
        step = np.array([0.0, pitch, 0.0])
        ends = self.at(np.array([a, b]))
        way = ends[1] - ends[0]
        off = way - max(out, 1) * step
        parts = [self.points[self.along <= a]]
        if more > 0:
            u = np.linspace(0.0, 1.0, max(4, round(long / EVERY)) + 1)[1:]
            unit = self.at(a + u * (b - a)) - u[:, None] * (off * [1.0, 0.0, 1.0])
            unit[:, 1] = level + (unit[:, 1] - level) * pitch / way[1]
            parts += [unit + k * step for k in range(more + 1)]
        # Where it does not lie as it did is made up for little by little.
        past = np.clip((self.along[self.along > b] - b) / GENTLY, 0.0, 1.0)[:, None]
        parts.append(self.points[self.along > b] + more * step - (1 - past) * off)
        return np.vstack(parts)


def runs_of(
    weave: Weave, shapes: Mapping[str, TightShape], counts: Mapping[str, int]
) -> dict[str, tuple[TightShape, tuple[str, str]]]:
    """By the name of the lock, chains that are drawn with their begin and lock in one, and the names of those two sections before it."""
    out = {}
    for begin, body, lock in zip(weave.sections, weave.sections[1:], weave.sections[2:], strict=False):
        shape, cell, first = (shapes.get(s.name) for s in (lock, body, begin))
        if shape is None or not shape.cells or cell is None or first is None:
            continue
        plain = bare(weave)
        if any(plain.section(s.name) != s for s in (begin, lock)) or plain.knots != weave.knots:
            continue  # what stands in those has no place among many others
        units = max(1, round(counts.get(body.name, 1) / cell.period))
        first = None if first.cells else first  # it does not hold by itself
        drawn = with_units(shape, first, cell, units)
        out[lock.name] = on_units(drawn, cell, units), (begin.name, body.name)
    return out
