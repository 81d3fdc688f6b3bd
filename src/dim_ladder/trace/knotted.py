"""The knots of a unit: those that are called, and those that bare steps make, which are told from what is tucked into what.

A knot ends where something is tucked, through a loop that was made in it. What is only crossed before belongs to the knot that is
tied next where that is of no other ends, and is a plait else. Hitches one after the other on the same runner are a row.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import combinations, groupby
from typing import NamedTuple

from dim_ladder.notation import Call, Follow, Past, Through
from dim_ladder.trace.value import HopRecord, StepRecord, Trace


class Knot(NamedTuple):
    """steps : by number. ends : that are in it. led : those of them that are led in it."""

    steps: tuple[int, ...]
    ends: frozenset[int]
    led: frozenset[int]


def knots(t: Trace) -> tuple[Knot, ...]:
    """The knots of a trace in the order in which they are tied."""
    out: list[list[int]] = []
    for _, of_unit in groupby(range(len(t.steps)), key=lambda k: t.steps[k].op[:2]):
        found: list[list[int]] = []
        for item, run in groupby(of_unit, key=lambda k: _called(t.steps[k])):
            steps = [k for k in run if item >= 0 or t.steps[k].leads]  # a bead that is pushed up ties nothing
            found += [steps] if item >= 0 else _parted(t.steps, steps)
        out += _joined(t.steps, found)
    return tuple(_knot(t.steps, each) for each in out)


def is_net(ends: Collection[int], knots: Sequence[frozenset[int]]) -> bool:
    """Whether knots of a unit lie beside each other, on other ends, where a third ties both together: such work lies flat, as one that
    is tied on other ends each time would else be laid over itself, now one way and now another."""
    own = [k for k in knots if k and k <= set(ends)]
    return any(
        not a & b and any(a & c and b & c for c in own if c not in (a, b)) for a, b in combinations(own, 2)
    )


def _called(s: StepRecord) -> int:
    """The item that calls the knot of a step, -1 of a bare one."""
    return s.op.item if isinstance(s.op.value, Call) else -1


def _knot(steps: Sequence[StepRecord], numbers: Sequence[int]) -> Knot:
    ends = frozenset(e for k in numbers for e in _ends(steps[k]))
    led = frozenset(e for k in numbers if steps[k].leads for e in steps[k].ends if e >= 0)
    return Knot(tuple(numbers), ends, led)


def _ends(s: StepRecord) -> set[int]:
    return {e for e in s.ends if e >= 0} | {e for h in s.hops for e in h.ends if e >= 0}


def _parted(steps: Sequence[StepRecord], numbers: Sequence[int]) -> list[list[int]]:
    """Bare steps, parted into knots."""
    whole: list[list[int]] = []  # from the step that made a loop to the one that passes it
    for n, k in enumerate(numbers):
        first = min((_made(steps, numbers[: n + 1], h) for h in steps[k].hops if _tucks(h)), default=-1)
        if first < 0:
            continue
        while whole and whole[-1][-1] >= first:
            first = min(first, whole.pop()[0])
        whole.append([j for j in numbers[: n + 1] if j >= first])
    tied = {j: knot for knot in whole for j in knot}
    out: list[list[int]] = []
    loose: list[int] = []
    for k in numbers:
        if k not in tied:
            loose.append(k)
        elif k == tied[k][0]:
            own = set().union(*(_ends(steps[j]) for j in tied[k]))
            lead = len(loose)
            while lead and _ends(steps[loose[lead - 1]]) <= own:
                lead -= 1
            out += [loose[:lead], loose[lead:] + tied[k]]
            loose = []
    return [k for k in (*out, loose) if k]


def _tucks(h: HopRecord) -> bool:
    return isinstance(h.hop, Through | Past | Follow)


def _made(steps: Sequence[StepRecord], numbers: Sequence[int], h: HopRecord) -> int:
    """The last step of these in which an end was led whose loop, or strand, this hop passes: its own one at latest."""
    *before, own = numbers
    of = set(h.ends)
    if not of or of & set(steps[own].ends):
        return own
    return next((k for k in reversed(before) if of & set(steps[k].ends)), own)


def _joined(steps: Sequence[StepRecord], found: Sequence[list[int]]) -> list[list[int]]:
    """Knots one after the other of the same ends are one, and so are hitches on the same runner."""

    def same(one: Knot, other: Knot) -> bool:
        return one.ends == other.ends

    def in_row(one: Knot, other: Knot) -> bool:
        runner = _core(steps, one) & one.led & other.led
        return bool(runner) and runner == _core(steps, other)

    out = list(found)
    for alike in (same, in_row):
        todo, out = out, []
        for numbers in todo:
            if out and alike(_knot(steps, out[-1]), _knot(steps, numbers)):
                out[-1] = out[-1] + numbers
            else:
                out.append(numbers)
    return out


def _core(steps: Sequence[StepRecord], knot: Knot) -> frozenset[int]:
    """What all that is tucked in a knot is hitched round: ends that pass no loop, where what passes one passes its own."""
    tucked: set[int] = set()
    for s in (steps[k] for k in knot.steps):
        if tucks := [h for h in s.hops if _tucks(h)]:
            if any(not set(h.ends) & set(s.ends) for h in tucks):
                return frozenset()
            tucked |= set(s.ends)
    return knot.ends - tucked if tucked else frozenset()
