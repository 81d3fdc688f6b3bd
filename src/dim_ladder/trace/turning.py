"""Flat or spiral, and why: a theorem about how pairs of ends link over one full cycle of the unit."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from dim_ladder.notation import Call, Cross, Follow, Past, Through, Weave
from dim_ladder.trace.diagram import colour_cycle, cycles, end_cycle, linking, permutation
from dim_ladder.trace.knotted import is_net, knots
from dim_ladder.trace.roles import period_of
from dim_ladder.trace.tracer import trace
from dim_ladder.trace.value import StepRecord, Trace


@dataclass(frozen=True, slots=True)
class Turning:
    """kind : "flat", "spiral", "wrapped" (turns that lie side by side along a runner, as in a bar of hitches), "laid"
    (led through itself flat, as a mat is), "woven" (only over and under, spread across the width, as in a wide plait), "net" (knots beside each other that others tie together), "straight"
    (turns that lie within its knots, as its tight shape shows) or "plain" (nothing crosses). cycle : units until every end hangs where it
    began; colours : units until the colours do. pairs : links of each turning pair over one cycle. ends : of a spiral,
    those that turn about each other, by their numbers among all that are ever worked. again : the slip behind a spiral, where it is the common one: "twice" for the
    same knot from the same side within a unit, "unit" for every unit from the same side; else ""."""

    kind: str
    cycle: int
    colours: int
    pairs: tuple[tuple[tuple[int, int], int], ...] = ()
    ends: tuple[int, ...] = ()
    again: str = ""

    @property
    def short(self) -> str:
        return {
            "flat": "flat",
            "spiral": "will spiral",
            "wrapped": "bars",
            "laid": "lies as laid",
            "woven": "flat",
            "net": "flat",
            "straight": "straight",
            "plain": "nothing tied",
        }[self.kind]


def turning(weave: Weave, section: str) -> Turning | None:
    """How a section behaves when it is repeated; None when it cannot be traced.

    Over one cycle every end comes back to its place, so the linking number of every pair of ends per cycle is an
    invariant: nothing short of untying changes it. All zero: each turn is undone again, the band can lie flat.
    Not all zero, but zero together: turns of some ends are the mirror image of those of others, and the band as a whole
    has nothing to take up. What is woven over and under across its width lies flat as well, and a net. Else every cycle adds the same turn, and only turning the whole band can take it up.
    """
    one = trace(weave, section=section, units=period_of(weave, section))
    if one.problems or not one.steps or not one.settled:
        return None
    cycle = end_cycle(one)
    # Those that are moved as one lie beside each other, however often they cross on the way.
    beside = {*moved_as_one(one), *_followed(one)}
    links = {pair: n for pair, n in cycle_linking(one).items() if pair not in beside}
    colours = colour_cycle(one)
    if not one.crossings:
        return Turning("plain", cycle, colours)
    if not links:
        return Turning("flat", cycle, colours)
    found = tuple(sorted(links.items()))
    if _runners(one):
        return Turning("wrapped", cycle, colours, found)
    if any(isinstance(h.hop, Past) for s in one.steps for h in s.hops):
        return Turning("laid", cycle, colours, found)
    if not sum(links.values()):
        return Turning("flat", cycle, colours, found)
    if _woven(one):
        return Turning("woven", cycle, colours, found)
    if _nets(one, links):
        return Turning("net", cycle, colours, found)
    moved = {e for s in one.steps for e in s.ends}
    movers = {
        p - 1 for orbit in cycles(permutation(one)) if any(p - 1 in moved for p in orbit) for p in orbit
    }
    turning_pairs = [p for p in links if p[0] in movers and p[1] in movers] or list(links)
    ends = tuple(sorted({n for p in turning_pairs for e in p if (n := one.numbers[e]) >= 0}))
    return Turning("spiral", cycle, colours, found, ends, _same_side(weave, section, one))


def within_knots(weave: Weave, section: str) -> bool:
    """Whether turns of the same hand may lie within the knots of a section: where nothing stands still that is turned round, as in a
    chain of two ends, or one end only goes round what stands still, as in a coil. Then only its tight shape tells whether it turns."""
    one = trace(weave, section=section, units=period_of(weave, section))
    moved = {e for s in one.steps for e in s.ends if e >= 0}
    met = {e for c in one.crossings for e in (c.lane_end, c.row_end)}
    return len(moved) == 1 or met <= moved


def _nets(one: Trace, links: Mapping[tuple[int, int], int]) -> bool:
    """Whether all that adds up lies in nets: of works that hang beside each other each is asked by itself."""
    tied = [k.ends for k in knots(one)]
    works: list[set[int]] = []
    for ends in tied:
        joined = [w for w in works if w & ends]
        works = [w for w in works if not w & ends] + [set(ends).union(*joined)]
    return all(is_net(w, tied) for w in works if sum(n for pair, n in links.items() if set(pair) <= w))


def _woven(one: Trace) -> bool:
    """Whether ends only cross each other, and not by far the most of the crossings turn the same way. In a plait of an even number
    one crossing a unit has no fellow that turns back; over the width that is next to nothing, and hands lay it flat. In a rope all turn alike.
    """
    if not all(isinstance(h.hop, Cross) for s in one.steps for h in s.hops):
        return False
    return 2 * abs(sum(linking(one).values())) <= len(one.crossings)


def _runners(one: Trace) -> bool:
    """Whether ends are hitched to others that are led across in the same unit: a bar, not a chain down one runner."""
    led = {s.end for s in one.steps if s.hops and all(isinstance(h.hop, Cross) for h in s.hops)}
    hitched = {
        e
        for s in one.steps
        for h in s.hops
        if isinstance(h.hop, Cross) and any(isinstance(g.hop, Through) and g.ends == (s.end,) for g in s.hops)
        for e in h.ends
    }
    return bool(led & hitched) and len(one.ends) > 2


def moved_as_one(t: Trace) -> tuple[tuple[int, int], ...]:
    """Neighbours that every step moves together, from and to places side by side: the halves of a flat cord."""
    together: dict[tuple[int, int], int] = {}
    moves = [0] * len(t.ends)
    for s in t.steps:
        if s.start == s.stop:
            continue  # a bead on both, say: nothing is crossed
        group = [e for e in s.ends if e >= 0]
        for e in group:
            moves[e] += 1
        for a, b in pairwise(group):
            together[min(a, b), max(a, b)] = together.get((min(a, b), max(a, b)), 0) + 1
    return tuple(
        (a, b) for (a, b), n in sorted(together.items())
        if n == moves[a] == moves[b] and abs(t.order.index(a) - t.order.index(b)) == 1 == b - a
    )  # fmt: skip


def _followed(t: Trace) -> list[tuple[int, int]]:
    """Pairs of which one end waits while the other ties a knot, and then follows it all the way."""
    waited = {e for s in t.steps if s.waits for e in s.ends}
    led = [(s.end, h.ends[0]) for s in t.steps for h in s.hops if isinstance(h.hop, Follow) and h.ends]
    return [(min(a, b), max(a, b)) for a, b in led if a in waited]


def cycle_linking(one: Trace) -> dict[tuple[int, int], int]:
    """Signed crossings of every pair of ends over a full cycle of the unit that `one` traces once.

    Every unit is the same work on the ends that hang at its places by then, so a pair's total is the sum over the
    pairs of places it comes by. Pairs that cancel are left out.
    """
    unit = linking(one)
    to = [p - 1 for p in permutation(one)]
    out: dict[tuple[int, int], int] = {}
    cycle = end_cycle(one)
    seen: set[tuple[int, int]] = set()
    for here in sorted(unit):  # where nothing crosses on its whole orbit, nothing adds up
        if here in seen:
            continue
        orbit: list[tuple[int, int]] = []
        while here not in orbit[:1]:
            orbit.append(here)
            a, b = to[here[0]], to[here[1]]
            here = (min(a, b), max(a, b))
        seen.update(orbit)
        # Once round its orbit of pairs of places; the cycle goes round a whole number of times.
        total = sum(unit.get(pair, 0) for pair in orbit) * (cycle // len(orbit))
        if total:
            out.update(dict.fromkeys(orbit, total))
    return out


def _same_side(weave: Weave, section: str, one: Trace) -> str:
    """Where a spiral comes from the common slip, which: see Turning.again."""
    found = weave.section(section)
    if found is None:
        return ""
    knots = [i.knot for i in found.items if isinstance(i, Call)]
    if len(knots) > 1 and len(set(knots)) == 1:
        return "twice"
    if len(knots) == 1:
        return "unit"
    if not knots and _over_again([_told(s) for s in one.steps if s.hops and not s.op.unit]):
        return "twice"
    moved = {s.end for s in one.steps}
    if (
        not knots
        and len(moved) == len(one.steps) == 2
        and permutation(one) != tuple(range(1, len(one.ends) + 1))
    ):
        return "unit"
    return ""


def _told(s: StepRecord) -> tuple[object, ...]:
    """A step by the places it is made at, whatever ends hang there then."""
    at = {e: k for k, e in enumerate(s.before)}
    hops = [
        (
            type(h.hop),
            getattr(h.hop, "over", None),
            getattr(h.hop, "up", None),
            tuple(at.get(e, -1) for e in h.ends),
        )
        for h in s.hops
    ]
    return (*(at.get(e, -1) for e in s.ends), *hops)


def _over_again(told: Sequence[object]) -> bool:
    """Whether steps say the same twice, or more often, and nothing else."""
    n = len(told)
    return any(n % k == 0 and all(told[i] == told[i - k] for i in range(k, n)) for k in range(1, n // 2 + 1))
