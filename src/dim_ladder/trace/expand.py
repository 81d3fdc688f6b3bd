"""A weave unrolled: sections, units and knots into one flat run of operations."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.base import Problem
from dim_ladder.library import FINISHES, library_knot, library_knots
from dim_ladder.notation import Call, Item, Knot, Param, Step, Weave, flipped, nearest

MAX_STEPS = 100_000
Path = tuple[object, ...]


@dataclass(frozen=True, slots=True)
class Solved:
    """A knot with mirrors and flips carried out: its places left to right, its steps in order."""

    name: str
    params: tuple[Param, ...]
    steps: tuple[Step, ...]


@dataclass(frozen=True, slots=True)
class Op:
    """One item of one unit of one section. knot is None for a bare step and for a finish."""

    section: int
    unit: int
    item: int
    value: Item
    knot: Solved | None = None
    finish: str = ""

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
    """The weave's knot of that name, else the library's, with mirror and flip worked out."""
    knot = weave.knot(name) or library_knot(name)
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
    params, steps = knot.params, knot.steps
    for turn in turns:
        if turn == "mirror":
            params = params[::-1]
        else:
            steps = tuple(flipped(s) for s in steps)
    return Solved(name, params, steps)


def _source(weave: Weave, knot: Knot) -> Knot | None:
    inside = weave.knot(knot.source) if weave.knot(knot.name) is knot else None
    return inside or library_knot(knot.source)


def units_of(weave: Weave, section: int, units: int | None, counts: dict[str, int] | None) -> int:
    """How often a section is worked: an exact count, a chosen one, or `units` (default 1) where it fits to size."""
    s = weave.sections[section]
    if counts and s.name in counts:
        return counts[s.name]
    if s.count.kind == "repeat":
        return s.count.number
    if s.count.kind == "same":
        other = next((i for i, o in enumerate(weave.sections) if o.name == s.count.other), None)
        if other is not None and other < section:
            return units_of(weave, other, units, counts)
    return 1 if units is None else units


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
    ops: list[Op] = []
    problems: list[tuple[Path, Problem]] = []
    cache: dict[str, Solved | None] = {}
    total = 0
    for s, section in enumerate(weave.sections):
        if only is not None and s != only:
            continue
        times = units if only is not None and units is not None else units_of(weave, s, units, counts)
        unit: list[tuple[int, Item, Solved | None, str]] = []
        length = 0
        for i, item in enumerate(section.items):
            if isinstance(item, Step):
                unit.append((i, item, None, ""))
                length += 1
                continue
            if item.knot not in cache:
                cache[item.knot] = solve_knot(weave, item.knot)
            knot = cache[item.knot]
            if knot is not None:
                unit.append((i, item, knot, ""))
                length += max(1, len(knot.steps))
            elif item.knot in FINISHES:
                unit.append((i, item, None, item.knot))
                length += 1
            else:
                known = {k.name for k in weave.knots} | {k.name for k in library_knots()} | set(FINISHES)
                message = f"there is no knot or finish “{item.knot}”"
                problems.append((("section", s, i), Problem(message, nearest(item.knot, known))))
        total += length * times
        if total > MAX_STEPS:
            problems.append(
                (
                    ("section", s),
                    Problem(f"this makes more than {MAX_STEPS:,} steps", "Lower the count of the section"),
                )
            )
            break
        for u in range(times):
            ops.extend(Op(s, u, i, item, knot, finish) for i, item, knot, finish in unit)
    return Program(weave.hang.ends, tuple(ops), tuple(problems))


def bind(call: Call, knot: Solved, order: tuple[str, ...]) -> dict[str, tuple[str, ...]]:
    """Names of a knot's places to ends, left to right, for a call at this order of tails.

    Raises ValueError with a sentence when the call does not fit the knot.
    """
    groups = [tuple(resolve(ref, order) for ref in group) for group in call.groups]
    if len(groups) == 1 and len(knot.params) > 1:
        groups = _spread(groups[0], knot)
    if len(groups) != len(knot.params):
        raise ValueError(f"{knot.name} has {len(knot.params)} places, {len(groups)} are given")
    seen: set[str] = set()
    out: dict[str, tuple[str, ...]] = {}
    for param, group in zip(knot.params, groups, strict=True):
        if not param.rest and len(group) != 1:
            raise ValueError(f"“{param.name}” of {knot.name} takes one end, {len(group)} are given")
        for end in group:
            if end in seen:
                raise ValueError(f"{end} stands twice in {knot.name}")
            seen.add(end)
        out[param.name] = group
    return out


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
