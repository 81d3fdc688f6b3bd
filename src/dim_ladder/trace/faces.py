"""What a reader wants to know of a unit: the colours after it, which shows in front and at the back, and slips of side."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.notation import Cross, Weave
from dim_ladder.trace.diagram import cycles, permutation
from dim_ladder.trace.signature import Signature, mirror_of, runs, signature
from dim_ladder.trace.tracer import trace
from dim_ladder.trace.value import Trace


@dataclass(frozen=True, slots=True)
class Faces:
    """front, back : ends that lie across the middle in front and behind."""

    front: tuple[int, ...]
    back: tuple[int, ...]


def ends_after(one: Trace, units: int) -> tuple[int, ...]:
    """Ends from left to right after some units of the work that `one` traces once."""
    to = [p - 1 for p in permutation(one)]
    at = list(range(len(to)))
    for _ in range(units % _cycle(to)):
        after = [0] * len(at)
        for place, end in enumerate(at):
            after[to[place]] = end
        at = after
    return tuple(at)


def _cycle(to: list[int]) -> int:
    at, n = list(to), 1
    while at != list(range(len(to))):
        at = [to[p] for p in at]
        n += 1
    return n


def faces(one: Trace) -> Faces | None:
    """Which ends show in the front centre and the back centre of a unit: those that cross the fillers in its middle there.

    None where nothing does, or nothing stands still in the middle: what shows of a plait or a chain is seen once it is tight.
    """
    if not one.settled:  # ends come in or are laid aside: no unit goes on from the one before in itself
        return None
    n = len(one.ends)
    # Over a whole cycle: a strand of a plait that rests in this unit is led in the next.
    led = {e for s in one.steps if s.hops for e in s.ends}
    moved = {p - 1 for orbit in cycles(permutation(one)) if any(p - 1 in led for p in orbit) for p in orbit}
    front: dict[int, float] = {}
    back: dict[int, float] = {}
    for i, s in enumerate(one.steps):
        order = one.order_before(i)
        middle = (len(order) - 1) / 2
        for h in s.hops:
            if not isinstance(h.hop, Cross):
                continue
            for e in h.ends:
                if e in order and e not in moved and abs(order.index(e) - middle) <= max(1.0, n / 4):
                    side = front if h.hop.over else back
                    for m in s.ends:
                        side[m] = side.get(m, 0.0) + 1.0
    if not front and not back:
        return None
    return Faces(_most(front), _most(back))


def _most(weight: dict[int, float]) -> tuple[int, ...]:
    top = max(weight.values(), default=0.0)
    return tuple(sorted(e for e, w in weight.items() if w == top))


def side_slip(weave: Weave, section: str) -> str:
    """A likely slip of side at the end of what is recorded: sides were changed every time so far, and now were not.
    The side that the last knot leads from again, "left" or "right"; "" where there is none."""
    one = trace(weave, section=section, units=1)
    if one.problems:
        return ""
    knots = [signature(one, a, b) for a, b in runs(one)]
    for size in (1, 2, 3, 4):
        chunks: list[Signature] = []
        at = len(knots)
        while at >= size and len(chunks) < 4:
            part = knots[at - size : at]
            if not all(part):
                break
            chunks.append(tuple(s for p in part for s in p))
            at -= size
        if len(chunks) >= 3 and chunks[0] == chunks[1] == mirror_of(chunks[2]) != chunks[2]:
            return _lead_side(chunks[0])
    return ""


def _lead_side(sign: Signature) -> str:
    count, places = sign[0][0], sign[0][1]
    assert isinstance(count, int)
    assert isinstance(places, tuple)
    return "right" if places[0] >= count / 2 else "left"
