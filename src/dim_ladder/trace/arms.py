"""Bodies that are alike: two arms, two sides of a centre, told from what their steps do, wherever among the tails they are worked."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.notation import Weave
from dim_ladder.trace.roles import period_of
from dim_ladder.trace.signature import Signature, mirror_of, runs, signature
from dim_ladder.trace.tracer import trace

NEARLY = 3  # knots, from which one that differs is pointed at rather than the two being unlike


@dataclass(frozen=True, slots=True)
class Arms:
    """other : the section above that this one is like. mirrored : as its mirror image. odd : the one knot that differs, from 0;
    None where none does."""

    other: str
    mirrored: bool
    odd: int | None = None


def arms(weave: Weave, section: str) -> Arms | None:
    """The nearest body above that is worked alike, or nearly so; None where there is none, or it cannot be told."""
    names = [s.name for s in weave.sections]
    here = weave.sections[names.index(section)]
    mine = _unit(weave, section)
    if here.kind != "body" or here.over or here.on or not mine:
        return None
    near: Arms | None = None
    for other in reversed(weave.sections[: names.index(section)]):
        theirs = _unit(weave, other.name) if other.kind == "body" and not other.over and not other.on else ()
        if not theirs or len(theirs) != len(mine):
            continue
        for mirrored in (False, True):
            as_seen = _from_left([mirror_of(k) for k in theirs]) if mirrored else theirs
            odd = [i for i, (a, b) in enumerate(zip(mine, as_seen, strict=True)) if a != b]
            if not odd:
                return Arms(other.name, mirrored)
            if len(odd) == 1 and len(mine) >= NEARLY and near is None:
                near = Arms(other.name, mirrored, odd[0])
    return near


def _unit(weave: Weave, section: str) -> tuple[Signature, ...]:
    """What every knot of a unit does; () where it cannot be told."""
    one = trace(weave, section=section, units=period_of(weave, section))
    if one.problems:
        return ()
    knots = [signature(one, a, b) for a, b in runs(one)]
    return _from_left(knots) if knots and all(knots) else ()


def _from_left(knots: list[Signature]) -> tuple[Signature, ...]:
    """With places counted from the leftmost tail that is worked, so that it does not matter what else hangs there."""
    used = [p for k in knots for step in k for p in _places(step)] or [0]
    first, many = min(used), max(used) - min(used) + 1

    def moved(place: object) -> object:
        if isinstance(place, tuple):
            return tuple(moved(p) for p in place)
        return place - first if isinstance(place, int) and place >= 0 else place

    out = []
    for k in knots:
        steps = []
        for _, places, tension, *hops in k:
            told = []
            for h in hops:
                assert isinstance(h, tuple)
                told.append((*h[:3], moved(h[3]), *h[4:]) if h[0] == "t" else (*h[:4], moved(h[4])))
            steps.append((many, moved(places), tension, *told))
        out.append(tuple(steps))
    return tuple(out)


def _places(step: tuple[object, ...]) -> list[int]:
    """Every place that a step speaks of."""
    _, places, _, *hops = step
    out = list(places) if isinstance(places, tuple) else []
    for h in hops:
        assert isinstance(h, tuple)
        if h[0] == "t":
            out += [h[3]] if h[3] >= 0 else []
        else:
            out += h[4]
    return out
