"""Ends that a knot treats alike, told from the knot itself and not from the order in which it was tied.

Which of two ends was led first, and which way round the other, depends on how the maker went about it; what stays when
the diagram is simplified does not. Two ends that are worked, cross each other, and cross themselves and what stands still
equally often are drawn up by the hand until they took equally much cord. So are two that are both knotted in themselves, as
the two ends of a button, and two that tie each other and nothing else, each turning back or passing a loop. A runner is led across
once and then hitched to: it is not one of them. Nor are ends that are in different knots of a unit: what a knot of two ends takes of them is
not what another takes of four, however often they cross in both; nor what leads one row of hitches and wraps in the next.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

from dim_ladder.notation import Cross, Leave, Pass, Thread, Through, To, Twist, is_leg
from dim_ladder.trace.cores import cores
from dim_ladder.trace.diagram import Tangle, permutation, tangle
from dim_ladder.trace.knotted import knots
from dim_ladder.trace.reduce import TooMuch, simplified
from dim_ladder.trace.value import Trace

MOST_CROSSINGS = 120  # of a unit; beyond that nothing is said to be alike
MORE = 1.5  # times as much as another, the most that ends meet which are tied through each other alike
WORK = 60_000  # passages looked at


def least(t: Trace) -> Tangle | None:
    """The diagram with as few crossings as are found with its tails held; None where that takes too much, or
    ends come in or are laid aside."""
    if not t.settled or len(t.crossings) > MOST_CROSSINGS:
        return None
    try:
        return simplified(tangle(t), WORK)
    except TooMuch:
        return None


def alike_ends(t: Trace, often: bool = False) -> tuple[tuple[int, ...], ...]:
    """Groups of ends that this unit treats alike, each of two or more; empty where none are or it cannot be told. often : that each of the units below it does,
    whichever hang there by then: one that stays where it is and one that changes places with a third are alike in one of them alone."""
    moved = {e for s in t.steps if s.leads for e in s.ends if e >= 0}
    real = least(t) if len(moved) > 1 else None
    if real is None:
        return ()
    met = _met(real)
    groups = []
    tied_in, holds = _tied_in(t), _holds(t)
    for many in _parted(_together(moved, met), tied_in):
        still = {e: tuple(sorted(met[e, o] for o in range(len(real.walks)) if o not in moved)) for e in many}
        knotted = {e: met[e, e] for e in many}
        each_other = (
            len(many) == 2 and not any(any(x) for x in still.values()) and all(_ties(t, e) for e in many)
        )
        same = len(set(still.values())) == 1 and (
            len(set(knotted.values())) == 1 or all(knotted.values()) or each_other
        )
        same = same or (len(many) > 2 and _all_through_all(many, met))
        # More than two beside something that stands still are a row of bars or a net: places in it differ.
        if same and (len(many) == 2 or not any(any(x) for x in still.values())):
            groups += [tuple(g) for g in _parted([many], holds)]
    if often:
        return _in_every_unit(groups, [p - 1 for p in permutation(t)])
    rows = _rows(t)
    return tuple(g for g in groups if len(rows) < 2 or all(len(row & set(g)) < 2 for row in rows))


def _rows(t: Trace) -> list[set[int]]:
    """Of every end that is led and hitched to, those that are hitched to it. In several rows that are tied once the outer of two neighbours goes on from
    where the inner one does not: rows that go on below each other even that out."""
    led = {e for s in t.steps if s.leads for e in s.ends if e >= 0}
    rows: dict[int, set[int]] = {}
    for c in cores(t).values():
        if c.end in led:
            rows.setdefault(c.end, set()).add(c.other)
    return list(rows.values())


def _in_every_unit(groups: Sequence[Sequence[int]], to: Sequence[int]) -> tuple[tuple[int, ...], ...]:
    """Groups of ends, parted into those that go on to be alike. to : where each of them hangs after a unit."""
    kind = {e: k for k, group in enumerate(groups) for e in group}
    while True:
        like: dict[tuple[int, int], list[int]] = {}
        for e, k in kind.items():
            like.setdefault((k, kind.get(to[e], -1 - to[e])), []).append(e)
        left = {e: k for k, group in enumerate(g for g in like.values() if len(g) > 1) for e in group}
        if len(left) == len(kind) and len(set(left.values())) == len(set(kind.values())):
            return tuple(tuple(e for e in left if left[e] == k) for k in dict.fromkeys(left.values()))
        kind = left


def _all_through_all(many: list[int], met: Counter[tuple[int, int]]) -> bool:
    """Whether each end is tied through each other, and meets about as much as they do: how often it crosses itself is a matter of how
    such a knot is laid out on the table, not of its cord."""
    meets = [sum(met[a, b] * (2 if a == b else 1) for b in many) for a in many]
    every = all(met[a, b] > 1 for a in many for b in many if a != b)
    return every and max(meets) <= MORE * min(meets)


def _tied_in(t: Trace) -> list[Counter[tuple[int, bool]]]:
    """Of each end, the knots of the unit that it is in, each told by how many ends it has and whether this one is led in it: not by name, so that a knot
    and its mirror image are the same."""
    out: list[Counter[tuple[int, bool]]] = [Counter() for _ in t.ends]
    for knot in knots(t):
        for e in knot.ends:
            out[e][len(knot.ends), e in knot.led] += 1
    return out


def _holds(t: Trace) -> list[Counter[tuple[int, bool]]]:
    """Of each end, the knots of the unit in which others are tied on to it, and those in which it is tied on to others: what leads one row of hitches and
    wraps in the next takes other cord than what wraps in both."""
    out: list[Counter[tuple[int, bool]]] = [Counter() for _ in t.ends]
    found = cores(t)
    for knot in knots(t):
        here = [found[c] for k in knot.steps for c in range(t.steps[k].start, t.steps[k].stop) if c in found]
        for e in {c.end for c in here}:
            out[e][len(knot.ends), True] += 1
        for e in {c.other for c in here}:
            out[e][len(knot.ends), False] += 1
    return out


def _parted(groups: list[list[int]], tied_in: list[Counter[tuple[int, bool]]]) -> list[list[int]]:
    """Groups of ends, each parted into those that are in like knots of the unit; what is alone then is left out."""
    out = []
    for many in groups:
        like: dict[frozenset[tuple[tuple[int, bool], int]], list[int]] = {}
        for e in many:
            like.setdefault(frozenset(tied_in[e].items()), []).append(e)
        out += [g for g in like.values() if len(g) > 1]
    return out


def _ties(t: Trace, end: int) -> bool:
    """Whether an end turns back, passes a loop or makes one in a step, and is not only led across."""
    for s in t.steps:
        if end in s.ends and s.hops:
            sides = {h.side for h in s.hops if h.side}
            if len(sides) > 1 or any(
                not isinstance(h.hop, Cross | Leave | Thread | Pass | Twist | To) for h in s.hops
            ):
                return True
    return False


def half_caught(t: Trace) -> tuple[tuple[int, int], ...]:
    """Of cords whose two halves stand still side by side, (the end that the work goes round, the one it leaves loose). Nothing
    is said before something is tucked: the work has only begun."""
    moved = {e for s in t.steps if s.hops for e in s.ends}
    tucked = any(isinstance(h.hop, Through) for s in t.steps for h in s.hops)
    real = least(t) if tucked else None
    if real is None:
        return ()
    out = []
    for a, b in pairwise(t.start):
        cords = {t.ends[e].partition(".")[0] for e in (a, b)}
        # An end beside its own leg is there to be worked.
        legs = any(is_leg(t.ends[e]) for e in (a, b))
        if len(cords) == 1 and not legs and not moved & {a, b} and bool(real.walks[a]) != bool(real.walks[b]):
            out.append((a, b) if real.walks[a] else (b, a))
    return tuple(out)


def _met(t: Tangle) -> Counter[tuple[int, int]]:
    """How often each strand crosses each other, and itself."""
    at: dict[int, list[int]] = {}
    for strand, walk in enumerate(t.walks):
        for n, _ in walk:
            at.setdefault(n, []).append(strand)
    met: Counter[tuple[int, int]] = Counter()
    for a, b in at.values():
        met[a, b] += 1
        if a != b:
            met[b, a] += 1
    return met


def _together(moved: set[int], met: Counter[tuple[int, int]]) -> list[list[int]]:
    """The ends that are worked, parted into those that cross each other, one by way of another."""
    left, out = set(moved), []
    while left:
        todo, found = [min(left)], set()
        while todo:
            e = todo.pop()
            if e in left:
                left.discard(e)
                found.add(e)
                todo += [o for o in left if met[e, o]]
        if len(found) > 1:
            out.append(sorted(found))
    return out
