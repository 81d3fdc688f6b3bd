"""What of a unit is the same in a mirror, from behind, or turned over: told from its knots by places and sides.

A unit that repeats is the same in a mirror where every knot's mirror image stands in its own place, or half a unit further: a
band of half knots from either side in turn is its own mirror image pushed along by half.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from dim_ladder.notation import Weave
from dim_ladder.trace.ends import end_colours
from dim_ladder.trace.images import KINDS, images
from dim_ladder.trace.roles import period_of
from dim_ladder.trace.signature import Signature, flip_of, mirror_of, runs, signature
from dim_ladder.trace.tracer import trace
from dim_ladder.trace.value import Trace

LEAST_PAIRS = (
    3  # of knots and counterparts, from which one that differs is pointed at rather than all being unlike
)


@dataclass(frozen=True, slots=True)
class Symmetry:
    """kind : "mirror" (left and right), "flip" (front and back), "turn" (both at once) or "end" (end for end). shifted : half a unit along. coloured :
    whether the cords' colours keep it too. odd : the two knots of the unit that break it, from 0; None where it holds."""

    kind: str
    shifted: bool
    coloured: bool
    odd: tuple[int, int] | None = None


def symmetries(weave: Weave, section: str) -> tuple[Symmetry, ...]:
    """What holds of a section, and where nothing does, what nearly holds; empty where it cannot be told."""
    one = trace(weave, section=section, units=period_of(weave, section))
    if one.problems or not one.settled or not one.crossings:
        return ()
    found = _found(one, runs(one))
    # One knot may be made of two that are each other's image.
    found = found or tuple(
        s for s in _found(one, [(i, i + 1) for i in range(len(one.steps))]) if s.odd is None
    )
    # And what is led through itself, or is one knot alone, is told from its diagram.
    told = {s.kind for s in found}
    seen = images(one)
    more = tuple(
        Symmetry(kind, False, _in_colours(one, 0, kind != "flip"))
        for kind in KINDS
        if kind in seen and kind not in told
    )
    return (*found, *more)


def _found(one: Trace, begun: list[tuple[int, int]]) -> tuple[Symmetry, ...]:
    """begun : steps of every knot."""
    knots = [signature(one, a, b) for a, b in begun]
    if not all(knots):
        return ()
    found = []
    for kind, image in _IMAGES:
        for shift in dict.fromkeys((0, len(knots) // 2 if len(knots) % 2 == 0 else 0)):
            odd = [i for i, k in enumerate(knots) if image(k) != knots[(i + shift) % len(knots)]]
            seen = _in_colours(one, begun[shift][0], kind != "flip")
            if not odd:
                found.append(Symmetry(kind, shift > 0, seen))
                break
            pair = tuple(sorted({*odd, *((i + shift) % len(knots) for i in odd)}))
            if kind == "mirror" and shift and len(pair) == 2 and len(knots) >= 2 * LEAST_PAIRS:
                found.append(Symmetry(kind, True, seen, (pair[0], pair[1])))
    whole = tuple(s for s in found if s.odd is None)
    return whole or tuple(found)


def _turned(s: Signature) -> Signature:
    return mirror_of(flip_of(s))


_IMAGES: tuple[tuple[str, Callable[[Signature], Signature]], ...] = (
    ("mirror", mirror_of),
    ("flip", flip_of),
    ("turn", _turned),
)


def _in_colours(one: Trace, step: int, reversed_: bool) -> bool:
    """Whether the tails before a step show the colours and kinds that the first ones show, or show in a mirror."""
    colours = end_colours(one)

    def shown(order: tuple[int, ...]) -> list[tuple[str, str]]:
        cords = [one.weave.cord_of(one.ends[e]) for e in order]
        return [(colours[e], c.kind if c else "") for e, c in zip(order, cords, strict=True)]

    first, there = shown(one.order_before(0)), shown(one.order_before(step))
    return there == (first[::-1] if reversed_ else first)
