"""A weave unrolled: sections, units and knots into one flat run of operations."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple, TypeVar

from dim_ladder.base import Problem
from dim_ladder.base.budget import MOST_PROBLEMS
from dim_ladder.library import FINISHES
from dim_ladder.notation import (
    Add,
    Call,
    Drop,
    Item,
    Rotate,
    Section,
    Step,
    Weave,
    end_for_end,
    flipped,
    mirrored,
)
from dim_ladder.trace.solved import LOWER, MAX_STEPS, Known, Solved, derived, knot_fault, solve_in

E = TypeVar("E", str, int)
Path = tuple[object, ...]


@dataclass(frozen=True, slots=True)
class Rehang:
    """All ends hang anew: those of a finished `section` for stitching on it, or the work turned end for end with the
    finished section hanging in the middle as one tail called `layer`."""

    section: int
    layer: str = ""


def under_layer(ends: tuple[str, ...], layer: str) -> tuple[str, ...]:
    """Tails once the work is turned end for end, with the finished layer hanging in their middle as one tail."""
    turned = ends[::-1]
    middle = (len(turned) + 1) // 2
    return (*turned[:middle], layer, *turned[middle:])


class Op(NamedTuple):
    """One item of one unit of one section. knot is None for a bare step and for a finish.

    unseen : ends that this work does not know of, because they come in later over it. cords : names of all cords.
    quiet : finished work, traced again as the ground of stitching. mirrored : places count from the right, as in a mirror.
    """

    section: int
    unit: int
    item: int
    value: Item | Rehang
    knot: Solved | None = None
    finish: str = ""
    unseen: frozenset[str] = frozenset()
    cords: frozenset[str] = frozenset()
    quiet: bool = False
    mirrored: bool = False

    @property
    def path(self) -> Path:
        return ("section", self.section, self.item)


@dataclass(frozen=True, slots=True)
class Program:
    """What is to be traced, and what could not be unrolled."""

    ends: tuple[str, ...]
    ops: tuple[Op, ...]
    problems: tuple[tuple[Path, Problem], ...] = ()


def units_of(weave: Weave, section: int, units: int | None, counts: dict[str, int] | None) -> int:
    """How often a section is worked: an exact count, a chosen one, or `units` (default 1) where it fits to size."""
    return _times_of(weave, section, units, counts, {s.name: i for i, s in enumerate(weave.sections)})


LARGEST_MULTIPLE = 60  # beyond it nobody reads on through all units to what comes after


def least_units(weave: Weave) -> dict[str, int]:
    """How often sections that fit in pairs or other multiples are worked at least: what comes after them hangs as it does
    then, never as after one of a pair."""
    return {
        s.name: s.count.plus or s.count.number
        for s in weave.sections
        if s.count.kind == "fit" and 1 < s.count.number <= LARGEST_MULTIPLE
    }


def _times_of(
    weave: Weave, section: int, units: int | None, counts: dict[str, int] | None, at: dict[str, int]
) -> int:
    """at : sections by name. A section may be worked as often as one above it, which may be so itself."""
    while True:
        s = weave.sections[section]
        if counts and s.name in counts:
            return counts[s.name]
        if s.count.kind == "repeat":
            return s.count.number
        other = at.get(s.count.other, section) if s.count.kind == "same" else section
        if other >= section:
            return 1 if units is None else units
        section = other


def expand(
    weave: Weave,
    *,
    only: int | None = None,
    units: int | None = None,
    counts: dict[str, int] | None = None,
) -> Program:
    """Unroll a weave.

    only : index of the one section to unroll. units : how often sections that fit to size are worked;
    with `only`, how often that section is. counts : exact counts by section name, before all else.
    """
    return _Unroller(weave, only, units, counts).run()


END = Problem(
    "only stitching can be turned end for end: single steps that pass loops at the edges by their number",
    "Such as: section line: body, stitched on bar, end for end every other; then: 1: up left loop 1",
)
UNDER = Problem(
    "only ends that are made fast are tucked under loops",
    "Such as: tuck (1 | 4) under 3; in a knot, lead the end with up and down",
)
Unit = list[tuple[int, Item, Solved | None, str]]


class _Unroller:
    def __init__(
        self, weave: Weave, only: int | None, units: int | None, counts: dict[str, int] | None
    ) -> None:
        self.weave, self.only, self.units, self.counts = weave, only, units, counts
        self.cords = frozenset(c.name for c in weave.cords)
        self.at = {x.name: i for i, x in enumerate(weave.sections)}
        self.ops: list[Op] = []
        self.problems: list[tuple[Path, Problem]] = []
        self.cache: dict[str, Solved | None] = {}
        self.known: Known = {}
        self.faults: dict[str, Problem] = {}
        self.total = 0

    def run(self) -> Program:
        for s in range(len(self.weave.sections)):
            if self.only is not None and s != self.only:
                continue
            if not self._section(s):
                break
        return Program(self.weave.hang.ends, tuple(self.ops), tuple(self.problems))

    def _times(self, s: int) -> int:
        if self.only is not None and self.units is not None:
            return self.units
        return _times_of(self.weave, s, self.units, self.counts, self.at)

    def _section(self, s: int) -> bool:
        section = self.weave.sections[s]
        if section.former is not None:
            return True  # worked on a cylinder: see former.py
        if section.alternate == "end" and (not section.on or any(isinstance(i, Call) for i in section.items)):
            self.problems.append((("section", s), END))
        times = self._times(s)
        unit, length = self._unit(s, section)
        base: Unit = []
        if section.on:
            under = next(i for i, o in enumerate(self.weave.sections) if o.name == section.on)
            base, more = self._unit(under, self.weave.sections[under], quiet=True)
            length += more * section.every
        self.total += max(1, length) * times
        if self.total > MAX_STEPS:
            self.problems.append(
                (
                    ("section", s),
                    Problem(f"this makes more than {MAX_STEPS:,} steps", LOWER),
                )
            )
            return False
        heads = done_once(section)
        first = [x for x in unit if section.on and isinstance(x[1], Add)]
        once = [x for x in unit if x[0] in heads and x not in first]
        unit = [x for x in unit if x not in first and x not in once]
        if section.over:
            self._op(s, 0, -1, Rehang(-1, section.over))
        stitching = frozenset(e for x in first if isinstance(x[1], Add) for e in x[1].ends)
        if section.on:
            self._op(s, 0, -1, Rehang(under))
            for i, item, knot, finish in first:
                self._op(s, 0, i, item, knot, finish)
        for i, item, knot, finish in once if times else ():
            self._op(s, 0, i, item, knot, finish)
        for u in range(times):
            for _, item, knot, finish in base * section.every:
                self._op(s, u, -1, item, knot, finish, stitching, True)
            other = bool(u % 2) and bool(section.alternate)
            for i, item, knot, finish in unit:
                if other:
                    item, knot = _alternate(item, knot, section.alternate)
                self._op(s, u, i, item, knot, finish, mirrored=other and section.alternate == "mirror")
        return True

    def _op(
        self,
        s: int,
        u: int,
        i: int,
        item: Item | Rehang,
        knot: Solved | None = None,
        finish: str = "",
        unseen: frozenset[str] = frozenset(),
        quiet: bool = False,
        mirrored: bool = False,
    ) -> None:
        self.ops.append(Op(s, u, i, item, knot, finish, unseen, self.cords, quiet, mirrored))

    def _unit(self, s: int, section: Section, quiet: bool = False) -> tuple[Unit, int]:
        """One unit's items with their knots, and about how many steps it makes."""
        weave = self.weave
        unit: Unit = []
        length = 0
        for i, item in enumerate(section.items):
            if not isinstance(item, Call):
                unit.append((i, item, None, ""))
                length += 1
                continue
            if item.knot not in self.cache:
                self.cache[item.knot] = solve_in(weave, item.knot, (), self.known)
            knot = self.cache[item.knot]
            if knot is not None and item.under:
                self.problems.append((("section", s, i), UNDER))
            elif knot is not None:
                unit.append((i, item, knot, ""))
                dealt = len(item.groups[item.each]) if item.each >= 0 else 1
                length += max(1, knot.length(len(weave.hang.ends))) * item.repeat * dealt
            elif item.knot in FINISHES:
                unit.append((i, item, None, item.knot))
                length += 1
            elif not quiet and len(self.problems) < MOST_PROBLEMS:
                if item.knot not in self.faults:
                    self.faults[item.knot] = knot_fault(self.weave, item.knot)
                self.problems.append((("section", s, i), self.faults[item.knot]))
        return unit, length


def done_once(section: Section) -> range:
    """Items at the head of a section, before its first knot, that are done once, however often it is worked: up to the one that turns the work end for
    end or by a quarter, where nothing turns it later, for nobody ties every other unit at the other end without saying so; and up to the
    last that lays ends in, or aside by their names, where what comes later does not undo it, for no end can be laid in while it hangs, or aside
    when it does not."""
    items = section.items
    knots = (i for i, item in enumerate(items) if isinstance(item, Step | Call))
    first = next(knots, len(items))
    turns = [i for i, item in enumerate(items) if isinstance(item, Rotate)]
    stop = turns[-1] + 1 if turns and turns[-1] < first else 0
    begins = next(
        (i for i, item in enumerate(items) if not isinstance(item, Rotate | Add | Drop)), len(items)
    )
    for i in range(stop, begins):
        if isinstance(items[i], Add):
            undone = any(isinstance(x, Drop) for x in items[i:])
        else:
            undone = not _by_name(items[i]) or any(isinstance(x, Add) for x in items[begins:])
        stop = stop if undone else i + 1
    return range(stop)


def _by_name(item: Item) -> bool:
    """Whether it lays ends aside by their names, and not whatever hangs at a place."""
    return isinstance(item, Drop) and all(isinstance(r, str) for r in item.refs)


def _alternate(item: Item, knot: Solved | None, how: str) -> tuple[Item, Solved | None]:
    """An item of every other unit: seen from behind, or in a mirror. Names of ends stay; in a mirror, places count from the
    right (Op.mirrored)."""
    if how == "end":
        return (end_for_end(item) if isinstance(item, Step) else item), knot
    if isinstance(item, Step):
        return (flipped(item) if how == "flip" else mirrored(item)), None
    if isinstance(item, Call) and knot is not None:
        if how == "flip":
            return item, derived(knot, "flip")
        return item.reversed(), derived(knot, "mirror")
    return item, knot


class AsOne(tuple[E, ...]):
    """Ends in one place of a knot, which move side by side as one."""

    __slots__ = ()


def bind(call: Call, knot: Solved, order: tuple[str, ...]) -> list[dict[str, tuple[str, ...]]]:
    """Names of a knot's places to ends, left to right, for a call at this order of tails; one for each time the
    knot is tied. Raises ValueError with a sentence when the call does not fit the knot."""
    groups = [tuple(resolve(ref, order) for ref in group) for group in call.groups]
    groups = [AsOne(g) if i in call.as_one else g for i, g in enumerate(groups)]
    if len(groups) == 1 and len(knot.params) > 1 and not call.as_one:
        groups = _spread(groups[0], knot)
    return bindings(knot, groups, call.each, str)


def bindings(
    knot: Solved, groups: Sequence[tuple[E, ...]], each: int, name: Callable[[E], str]
) -> list[dict[str, tuple[E, ...]]]:
    """A knot's places to ends. each : the slot whose ends are dealt out one by one, -1 for none."""
    if len(groups) != len(knot.params):
        raise ValueError(f"{knot.name} has {len(knot.params)} places, {len(groups)} are given")
    seen: set[E] = set()
    for i, (param, group) in enumerate(zip(knot.params, groups, strict=True)):
        if not param.rest and len(group) != 1 and i != each and not isinstance(group, AsOne):
            raise ValueError(f"“{param.name}” of {knot.name} takes one end, {len(group)} are given")
        for end in group:
            if end in seen:
                raise ValueError(f"{name(end)} stands twice in {knot.name}")
            seen.add(end)
    if each < 0:
        return [{p.name: g for p, g in zip(knot.params, groups, strict=True)}]
    return [
        {p.name: (end,) if i == each else g for i, (p, g) in enumerate(zip(knot.params, groups, strict=True))}
        for end in groups[each]
    ]


def unrolled(
    knot: Solved, binding: dict[str, tuple[E, ...]], name: Callable[[E], str]
) -> Iterator[tuple[Step, dict[str, tuple[E, ...]]]]:
    """Every step of a knot and of the knots within it, in order, each with the ends that its names stand for."""
    for part in knot.steps:
        if isinstance(part, Step):
            yield part, binding
            continue
        groups = [
            binding[str(g[0])] if len(g) == 1 else tuple(e for r in g for e in binding[str(r)])
            for g in part.call.groups
        ]
        if part.backwards and part.call.each >= 0:
            groups[part.call.each] = groups[part.call.each][::-1]
        for _ in range(part.call.repeat):
            for inner in bindings(part.knot, groups, part.call.each, name):
                yield from unrolled(part.knot, inner, name)


def _spread(flat: tuple[str, ...], knot: Solved) -> list[tuple[str, ...]]:
    at = next((i for i, p in enumerate(knot.params) if p.rest), None)
    spare = len(flat) - len(knot.params)
    if at is None or spare < -1:
        return [(e,) for e in flat]
    after = len(knot.params) - at - 1
    stop = len(flat) - after
    return [*[(e,) for e in flat[:at]], flat[at:stop], *[(e,) for e in flat[stop:]]]


def resolve(ref: int | str, order: tuple[str, ...]) -> str:
    """The end at a place, or of that name, in this order of tails. Raises ValueError with a sentence."""
    if isinstance(ref, int):
        if not 1 <= ref <= len(order):
            raise ValueError(f"there is no place {ref}: {len(order)} tails hang")
        return order[ref - 1]
    if ref not in order:
        raise ValueError(f"no end “{ref}” hangs here")
    return ref
