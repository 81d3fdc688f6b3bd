"""A weave unrolled: sections, units and knots into one flat run of operations."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple, TypeVar

from dim_ladder.base import Problem
from dim_ladder.base.budget import MOST_PROBLEMS, spend
from dim_ladder.library import FINISHES, library_knot, library_knots
from dim_ladder.notation import Add, Call, Item, Knot, Param, Section, Step, Weave, flipped, mirrored, nearest

MAX_STEPS = 20_000  # a piece of 20,000 steps is weeks of work; a script that asks for more has slipped
E = TypeVar("E", str, int)
DEEPEST = 12  # knots within knots
DERIVED = 10  # units of work for a step in a mirror or from behind
Path = tuple[object, ...]


@dataclass(frozen=True, slots=True)
class Nested:
    """A knot tied as a part of another one; the call names places of the outer knot. backwards : "each" deals its ends
    out from the other side, because the outer knot is seen in a mirror."""

    call: Call
    knot: Solved
    backwards: bool = False


@dataclass(frozen=True, slots=True)
class Solved:
    """A knot with mirrors and flips carried out: its places left to right, its steps and inner knots in order."""

    name: str
    params: tuple[Param, ...]
    steps: tuple[Step | Nested, ...]

    def length(self, most: int) -> int:
        """About how many steps it makes where every "each" deals out `most` ends; a knot without a step counts one, as going
        through it takes time too."""
        return _length(self, most, {})


def _length(knot: Solved, most: int, known: dict[int, int]) -> int:
    """known : of knots that were counted already, which are named again and again in knots that are made of knots."""
    if id(knot) not in known:
        known[id(knot)] = max(1, sum(
            1 if isinstance(part, Step)
            else _length(part.knot, most, known) * part.call.repeat * (most if part.call.each >= 0 else 1)
            for part in knot.steps
        ))  # fmt: skip
    return known[id(knot)]


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


def solve_knot(weave: Weave, name: str) -> Solved | None:
    """The weave's knot of that name, else the library's, with mirror, flip and turn worked out; None where there is
    none, or where it is made from itself."""
    return _solve(weave, name, (), {})


Known = dict[
    tuple[bool, str], "Solved | None"
]  # solved already: in the weave's own book or the shipped one, by name


def _solve(weave: Weave, name: str, inside: tuple[str, ...], known: Known) -> Solved | None:
    """known : also keeps knots that are made of one another from being worked out again for every way to them."""
    key = (bool(weave.name), name)
    if key in known:
        return known[key]
    knot = weave.knot(name) or library_knot(name)
    if knot is None or name in inside or len(inside) > 2 * DEEPEST:
        return None
    known[key] = found = _solved(weave, name, knot, inside, known)
    return found


def _solved(
    weave: Weave, name: str, knot: Knot | None, inside: tuple[str, ...], known: Known
) -> Solved | None:
    turns: list[str] = []
    seen = set()
    while knot is not None and knot.derive:
        if knot.name in seen:
            return None
        seen.add(knot.name)
        turns.append(knot.derive)
        knot = _source(weave, knot)
    if knot is None:
        return None
    # Two mirrors are none, and so on: at most one of each is left to be carried out.
    turns = [h for h in ("mirror", "flip") if (turns.count(h) + turns.count("turn")) % 2]
    home = weave if weave.knot(knot.name) is knot else Weave("")
    steps: list[Step | Nested] = []
    for part in knot.steps:
        if isinstance(part, Step):
            steps.append(part)
            continue
        inner = _solve(home, part.knot, (*inside, name, knot.name), known)
        if inner is None:
            return None
        steps.append(Nested(part, inner))
    solved = Solved(name, knot.params, tuple(steps))
    for how in turns:
        solved = derived(solved, how)
    return solved if _length(solved, 1, {}) <= MAX_STEPS else None


def knot_fault(weave: Weave, name: str) -> Problem:
    """Why a knot cannot be tied: it is not there, needs one that is not, is made from itself, or is too much."""
    known = {k.name for k in weave.knots} | {k.name for k in library_knots()} | set(FINISHES)
    if not (weave.knot(name) or library_knot(name)):
        return Problem(f"there is no knot or finish “{name}”", nearest(name, known))
    done: set[str] = set()
    inside: list[str] = []

    def walk(at: str) -> Problem | None:
        knot = weave.knot(at) or library_knot(at)
        if knot is None:
            return Problem(f"“{name}” is made from “{at}”, which is not there", nearest(at, known - {name}))
        if at in inside:
            return Problem(f"“{name}” is made from “{at}” itself", "Look at the knots it names")
        if at in done:
            return None
        if len(inside) > 2 * DEEPEST and not knot.derive:
            return Problem(f"“{name}” lies too deep", f"At most {DEEPEST} knots in each other")
        inside.append(at)
        needs = [knot.source] if knot.derive else [s.knot for s in knot.steps if isinstance(s, Call)]
        found = next((p for n in dict.fromkeys(needs) if (p := walk(n)) is not None), None)
        inside.pop()
        done.add(at)
        return found

    return walk(name) or Problem(f"“{name}” makes more than {MAX_STEPS:,} steps", "Repeat less of it")


def derived(knot: Solved, how: str) -> Solved:
    """A knot in a mirror, from behind ("flip"), or turned over, which is both."""
    if how == "turn":
        return derived(derived(knot, "mirror"), "flip")
    return _derived(knot, how, {})


def _derived(knot: Solved, how: str, known: dict[int, Solved]) -> Solved:
    """known : inner knots that were derived already; what is named twice is derived once."""
    if id(knot) in known:
        return known[id(knot)]
    steps: list[Step | Nested] = []
    for s in knot.steps:
        spend(DERIVED)
        if isinstance(s, Step):
            steps.append(flipped(s) if how == "flip" else mirrored(s))
        elif how == "flip":
            steps.append(Nested(s.call, _derived(s.knot, how, known), s.backwards))
        else:
            groups = s.call.groups[::-1]
            each = len(groups) - 1 - s.call.each if s.call.each >= 0 else -1
            call = replace(s.call, groups=groups, each=each)
            steps.append(Nested(call, _derived(s.knot, how, known), not s.backwards))
    params = knot.params if how == "flip" else knot.params[::-1]
    known[id(knot)] = found = replace(knot, params=params, steps=tuple(steps))
    return found


def _source(weave: Weave, knot: Knot) -> Knot | None:
    inside = weave.knot(knot.source) if weave.knot(knot.name) is knot else None
    return inside or library_knot(knot.source)


def units_of(weave: Weave, section: int, units: int | None, counts: dict[str, int] | None) -> int:
    """How often a section is worked: an exact count, a chosen one, or `units` (default 1) where it fits to size."""
    return _times_of(weave, section, units, counts, {s.name: i for i, s in enumerate(weave.sections)})


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
        times = self._times(s)
        unit, length = self._unit(s, section)
        base: Unit = []
        if section.on:
            under = next(i for i, o in enumerate(self.weave.sections) if o.name == section.on)
            base, more = self._unit(under, self.weave.sections[under], quiet=True)
            length += more
        self.total += max(1, length) * times
        if self.total > MAX_STEPS:
            self.problems.append(
                (
                    ("section", s),
                    Problem(f"this makes more than {MAX_STEPS:,} steps", "Lower the count of the section"),
                )
            )
            return False
        first = [x for x in unit if section.on and isinstance(x[1], Add)]
        unit = [x for x in unit if x not in first]
        if section.over:
            self._op(s, 0, -1, Rehang(-1, section.over))
        stitching = frozenset(e for x in first if isinstance(x[1], Add) for e in x[1].ends)
        if section.on:
            self._op(s, 0, -1, Rehang(under))
            for i, item, knot, finish in first:
                self._op(s, 0, i, item, knot, finish)
        for u in range(times):
            for _, item, knot, finish in base:
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
                self.cache[item.knot] = _solve(weave, item.knot, (), self.known)
            knot = self.cache[item.knot]
            if knot is not None:
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


def _alternate(item: Item, knot: Solved | None, how: str) -> tuple[Item, Solved | None]:
    """An item of every other unit: seen from behind, or in a mirror. Names of ends stay; in a mirror, places count from the
    right (Op.mirrored)."""
    if isinstance(item, Step):
        return (flipped(item) if how == "flip" else mirrored(item)), None
    if isinstance(item, Call) and knot is not None:
        if how == "flip":
            return item, derived(knot, "flip")
        each = len(item.groups) - 1 - item.each if item.each >= 0 else -1
        return replace(item, groups=item.groups[::-1], each=each), derived(knot, "mirror")
    return item, knot


def bind(call: Call, knot: Solved, order: tuple[str, ...]) -> list[dict[str, tuple[str, ...]]]:
    """Names of a knot's places to ends, left to right, for a call at this order of tails; one for each time the
    knot is tied. Raises ValueError with a sentence when the call does not fit the knot."""
    groups = [tuple(resolve(ref, order) for ref in group) for group in call.groups]
    if len(groups) == 1 and len(knot.params) > 1:
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
        if not param.rest and len(group) != 1 and i != each:
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
        groups = [tuple(e for r in g for e in binding[str(r)]) for g in part.call.groups]
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
