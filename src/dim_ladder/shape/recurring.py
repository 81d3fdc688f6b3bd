"""The diagram of one unit among many like it, of work that passes loops made before it.

In the drawing of such work every unit is larger than the one before, as a tail stays where it hangs and goes round all that was tied
meanwhile. What only lies in front of the rest or only behind it is laid the shortest way (trace/reduce.py), with the last bight held by
its own end, so that the work cannot slip out. Then all units but the first and the last cross alike, and one is cut out. Beads and slack
that stands are on the piece of cord between the same two crossings as before.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dim_ladder.base import InputError
from dim_ladder.notation import Loop, Section, Step, Through, Weave
from dim_ladder.trace import Trace, Tracer
from dim_ladder.trace.diagram import Tangle, tangle, visits
from dim_ladder.trace.reduce import TooMuch, simplified
from dim_ladder.trace.roles import period_of
from dim_ladder.trace.value import Placed

# So many are traced, and one more: what that one adds is a unit. More where those differ, fewer where they are too much to trace.
UNITS = (5, 7, 4)
WORK = 3_000_000  # passages that may be looked at while it is laid shorter
CANNOT = "Its size is guessed from the drawing"
UNLIKE = "its units do not cross alike"

Passage = tuple[int, int, bool]  # crossing of the cell, how many units further down it lies, over
At = tuple[int, int]  # strand, and the how-manyth of its passages


@dataclass(frozen=True, slots=True)
class Stands:
    """Something on a cord of a unit: a bead, or slack that is left. end : on which. edge : on the piece of it that leads to this passage of
    the unit. what : as it was told. number : which one of the unit, on every end that runs through it."""

    end: int
    edge: int
    what: Placed
    number: int


@dataclass(frozen=True, slots=True)
class Rolled:
    """A diagram that repeats. walks : by strand its passages in one unit, none of one that meets nothing. from_right : by crossing,
    whether the over strand comes from the right of the under one. stands : what is on the cords, from the top down."""

    walks: tuple[tuple[Passage, ...], ...]
    from_right: tuple[bool, ...]
    stands: tuple[Stands, ...] = ()


def placed(weave: Weave, section: str) -> Trace | None:
    """The weave up to a section, with that section often enough; None where it cannot be tied below itself, or does not leave its
    ends where they were."""
    t = next((t for n in UNITS if not (t := _traced(weave, section, n)).problems), None)
    if t is None or not t.settled or t.turned or any(s.quiet or s.deed is not None for s in t.steps):
        return None
    few = _traced(weave, section, min(UNITS) - 1)
    return t if few.order == t.order else None


def rolled(t: Trace, section: str) -> Rolled:
    """The diagram of one unit among others like it. t : as `placed` gave it. Raises InputError where units differ."""
    weave = _with_section(t.weave, section)
    unlike: InputError | None = None
    most = max(UNITS)
    for units in UNITS:
        if units > most:
            continue
        held = [_held(weave, section, units + k) for k in (0, 1)]
        if any(x.problems for x in held):
            most = units - 1
            continue
        try:
            many, more = (simplified(tangle(x), WORK) for x in held)
            per = len(_placed(held[1])) - len(_placed(held[0]))
            return _cut_out(more, _unit(many, more), _on_cords(held[1], more), per)
        except TooMuch:
            continue
        except InputError as e:
            unlike = unlike or e
    raise unlike or InputError("it is more than can be looked through", CANNOT)


def _unit(many: Tangle, more: Tangle) -> list[int]:
    """By strand, how many passages one unit more has."""
    unit = [len(b) - len(a) for a, b in zip(many.walks, more.walks, strict=True)]
    if not any(unit) or min(unit) < 0:
        raise InputError(UNLIKE, CANNOT)
    return unit


def _with_section(weave: Weave, section: str) -> Weave:
    index = next(i for i, s in enumerate(weave.sections) if s.name == section)
    return replace(weave, sections=weave.sections[: index + 1])


def _traced(weave: Weave, section: str, units: int, *then: Section) -> Trace:
    """Up to a section with so many units of it, and what comes then."""
    upto = _with_section(weave, section)
    counts = {s.name: 1 for s in (*weave.sections, *then)} | {section: units * period_of(weave, section)}
    return Tracer().trace(replace(upto, sections=(*upto.sections, *then)), counts=counts)


def _held(weave: Weave, section: str, units: int) -> Trace:
    """So many units, with the end of the last bight through it: so nothing that was slipped slips out."""
    t = _traced(weave, section, units)
    last = next((s for s in reversed(t.steps) if any(_doubled(h.hop) for h in s.hops)), None)
    if last is None:
        return t
    who = t.ends[last.end]
    turns = max(h.turns for h in last.hops if _doubled(h.hop))
    through = Through(True, Loop(who, turns))
    hold = Section(f"{section}, held", "finish", items=(Step(who, (through,)),))
    held = _traced(weave, section, units, hold)
    return t if held.problems else held


def _doubled(hop: object) -> bool:
    return bool(getattr(hop, "bight", False))


class _Line:
    """A long diagram as it repeats: by strand, how many passages a unit has, and which of them find themselves again a unit below."""

    def __init__(self, d: Tangle, unit: Sequence[int]) -> None:
        self.d = d
        self.unit = unit
        self.at = {v: (e, k) for e, walk in enumerate(d.walks) for k, v in enumerate(walk)}
        self.steady = [[self._again(e, k) for k in range(len(w))] for e, w in enumerate(d.walks)]

    def other(self, e: int, k: int) -> At:
        """Whom a passage crosses, and the how-manyth passage of that one it is."""
        n, over = self.d.walks[e][k]
        return self.at[n, not over]

    def _again(self, e: int, k: int) -> bool:
        walk, below = self.d.walks[e], k + self.unit[e]
        if not self.unit[e] or below >= len(walk):
            return False
        (n, over), (m, so) = walk[k], walk[below]
        f, j = self.other(e, k)
        same = over == so and self.d.from_right[n] == self.d.from_right[m]
        return same and self.unit[f] > 0 and self.other(e, below) == (f, j + self.unit[f])

    def begins(self) -> list[int]:
        """Where a unit begins on every strand, of strands that meet as near to each other as may be. Raises InputError."""
        found = [-1] * len(self.unit)
        for e in sorted(range(len(self.unit)), key=lambda e: -self.unit[e]):
            if self.unit[e] and found[e] < 0:
                runs = [k for k in range(len(self.d.walks[e])) if self._whole(e, k)]
                if not runs:
                    raise InputError(UNLIKE, CANNOT)
                found[e] = runs[len(runs) // 2]
                self._beside(e, found)
        return found

    def _beside(self, e: int, found: list[int]) -> None:
        """The same for all that are met from a strand on."""
        todo = [e]
        while todo:
            e = todo.pop()
            for k in range(found[e], found[e] + self.unit[e]):
                f, m = self.other(e, k)
                if found[f] < 0:
                    near = [j for j in range(len(self.d.walks[f])) if self._whole(f, j)]
                    if not near:
                        raise InputError(UNLIKE, CANNOT)
                    found[f] = min(near, key=lambda j: abs(j - m))
                    todo.append(f)

    def _whole(self, e: int, k: int) -> bool:
        here = self.steady[e][k : k + self.unit[e]]
        return len(here) == self.unit[e] and all(here)


def _placed(t: Trace) -> list[Placed]:
    """What stands on cords."""
    return [p for s in t.steps for p in s.placed if p.kind in ("bead", "leave")]


def _on_cords(t: Trace, d: Tangle) -> list[Stands]:
    """What stands on cords, by the passages of a diagram that was made of the trace and crosses less."""
    walks = visits(t)
    out = []
    for number, p in enumerate(_placed(t)):
        for e in p.ends:
            piece = next((i for i, x in enumerate(t.paths[e]) if i % 2 == 0 and x == p.lane), -1)
            met = _met_before(t, e, piece, p.row) if piece >= 0 else 0
            first = {(v.crossing, v.over) for v in walks[e][:met]}
            then = {(v.crossing, v.over) for v in walks[e][met:]}
            # What was laid anew about it has other numbers: it is in the middle of that.
            low = max((k + 1 for k, v in enumerate(d.walks[e]) if v in first), default=0)
            high = min((k for k, v in enumerate(d.walks[e]) if v in then), default=len(d.walks[e]))
            out.append(Stands(e, (low + high) // 2, p, number))
    return out


def _met_before(t: Trace, end: int, piece: int, row: int) -> int:
    """How many crossings an end meets before it comes to a row, on a piece of its path that goes up or down."""
    path = t.paths[end]
    up = 0 < piece < len(path) - 1 and t.row_rank[path[piece + 1]] < t.row_rank[path[piece - 1]]
    met = 0
    for i, x in enumerate(path[: piece + 1]):
        here = [
            c for c in t.crossings
            if (i % 2 == 0 and (c.lane_end, c.lane) == (end, x)) or (i % 2 and (c.row_end, c.row) == (end, x))
        ]  # fmt: skip
        if i < piece:
            met += len(here)
        else:
            at = t.row_rank[row]
            met += sum((t.row_rank[c.row] > at) if up else (t.row_rank[c.row] < at) for c in here)
    return met


def _in_one(
    stands: Sequence[Stands], begins: Sequence[int], unit: Sequence[int], per: int
) -> tuple[Stands, ...]:
    """Of what stands on the cords of many units what is in the one that is cut out. per : how many there are in each."""
    middle = (max((s.number for s in stands), default=0) // per // 2) if per else 0
    out = []
    for s in stands:
        edge = s.edge - begins[s.end]
        if (0 <= edge < unit[s.end]) if unit[s.end] else s.number // per == middle:
            out.append(replace(s, edge=edge if unit[s.end] else 0, number=s.number % per))
    return tuple(out)


def _cut_out(d: Tangle, unit: Sequence[int], stands: Sequence[Stands], per: int) -> Rolled:
    """A unit out of the middle of many. stands : on the cords of all of them, so many in each."""
    line = _Line(d, unit)
    begins = line.begins()
    number: dict[tuple[At, At, int], int] = {}
    right: list[bool] = []
    walks = []
    for e, many in enumerate(unit):
        walk: list[Passage] = []
        for k in range(many):
            n, over = d.walks[e][begins[e] + k]
            f, m = line.other(e, begins[e] + k)
            down, low = divmod(m - begins[f], unit[f])
            # It lies in the earlier of the two units.
            here, there = (e, k), (f, low)
            earlier = down > 0 or (down == 0 and here <= there)
            name = (here, there, down) if earlier else (there, here, -down)
            if name not in number:
                number[name] = len(number)
                right.append(d.from_right[n])
            walk.append((number[name], min(down, 0), over))
        walks.append(tuple(walk))
    if sorted(c for w in walks for c, _, _ in w) != sorted(2 * list(range(len(number)))):
        raise InputError(UNLIKE, CANNOT)
    return Rolled(tuple(walks), tuple(right), _in_one(stands, begins, unit, per) if per else ())
