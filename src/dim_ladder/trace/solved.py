"""Knots made of knots, mirrors and flips, worked out: every knot as a flat run of steps and of knots that are worked out."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dim_ladder.base import Problem
from dim_ladder.base.budget import spend
from dim_ladder.library import FINISHES, library_knot, library_knots
from dim_ladder.notation import Call, Knot, Param, Step, To, Weave, flipped, mirrored, nearest

LOWER = "Lower the count of the section"
MAX_STEPS = 20_000  # a piece of 20,000 steps is weeks of work; a script that asks for more has slipped
DEEPEST = 12  # knots within knots
DERIVED = 10  # units of work for a step in a mirror or from behind


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


def solve_knot(weave: Weave, name: str) -> Solved | None:
    """The weave's knot of that name, else the library's, with mirror, flip and turn worked out; None where there is
    none, or where it is made from itself."""
    return solve_in(weave, name, (), {})


Known = dict[
    tuple[bool, str], "Solved | None"
]  # solved already: in the weave's own book or the shipped one, by name


def solve_in(weave: Weave, name: str, inside: tuple[str, ...], known: Known) -> Solved | None:
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
        inner = solve_in(home, part.knot, (*inside, name, knot.name), known)
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
            steps.append(flipped(s) if how == "flip" else _counted_from_right(mirrored(s)))
        elif how == "flip":
            steps.append(Nested(s.call, _derived(s.knot, how, known), s.backwards))
        else:
            steps.append(Nested(s.call.reversed(), _derived(s.knot, how, known), not s.backwards))
    params = knot.params if how == "flip" else knot.params[::-1]
    known[id(knot)] = found = replace(knot, params=params, steps=tuple(steps))
    return found


def _counted_from_right(step: Step) -> Step:
    """In a mirror, places to rest at count from the right: told by their sign, as a knot does not know here how many it has."""
    hops = tuple(To(-h.where) if isinstance(h, To) and isinstance(h.where, int) else h for h in step.hops)
    return step if hops == step.hops else replace(step, hops=hops)


def _source(weave: Weave, knot: Knot) -> Knot | None:
    inside = weave.knot(knot.source) if weave.knot(knot.name) is knot else None
    return inside or library_knot(knot.source)
