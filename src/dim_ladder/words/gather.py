"""Instructions with what repeats said once: "Repeat 3 and 4 on the other side", "Repeat 1 to 3 with C, then D and E"."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dim_ladder.notation import Cross, Round, Through
from dim_ladder.trace.look import letter_of
from dim_ladder.trace.value import Trace
from dim_ladder.trace.words import listing, step_heading, step_sentence

Signature = tuple[tuple[object, ...], ...]


@dataclass(frozen=True, slots=True)
class Line:
    """A line of instructions, as numbered for the reader. step : the traced step it says, or with which the repetition
    that it says begins (repeats), and `last` with which it ends."""

    number: int
    heading: str
    sentence: str
    step: int
    repeats: bool = False
    last: int = -1


def gathered(
    trace: Trace,
    voice: str = "plain",
    lie: str = "hanging",
    only: Sequence[int] | None = None,
    after: int = 0,
) -> tuple[Line, ...]:
    """The steps of a trace (or only these of it) with what repeats said once: "Repeat 3 and 4 on the other side."

    after : the number of the line before the first.
    """
    chosen = None if only is None else set(only)
    out: list[Line] = []
    known: list[tuple[Signature, int, int]] = []  # what a run of lines did, and their numbers
    number = after
    for first, stop in runs(trace):
        if chosen is not None and first not in chosen:
            continue
        here = signature(trace, first, stop)
        said = ""
        if stop - first > 1:  # one step is as soon said as repeated
            for sign, a, b in reversed(known):
                lines = _lines(a, b)
                if sign == here:
                    said = f"Repeat {lines}."
                elif mirror_of(sign) == here:
                    said = f"Repeat {lines} on the other side."
                elif flip_of(sign) == here:
                    said = f"Repeat {lines} from behind: over becomes under, up becomes down."
                if said:
                    break
        heading = step_heading(trace, first, voice)
        if said:
            number += 1
            out.append(Line(number, heading, said, first, True, stop - 1))
            continue
        begin = number + 1
        period = _period(trace, first, stop)
        for i in range(first, first + period):
            number += 1
            head = heading if i == first else step_heading(trace, i, voice)
            out.append(Line(number, head, step_sentence(trace, i, voice, lie), i, False, i))
        if period < stop - first:
            lines = _lines(begin, number)
            number += 1
            said = f"Repeat {lines} {_with_whom(trace, first, stop, period)}."
            out.append(Line(number, "", said, first + period, True, stop - 1))
        if here and all(s for s in here):
            known.append((here, begin, number))
    return tuple(out)


def _lines(a: int, b: int) -> str:
    return f"{a}" if a == b else f"{a} and {b}" if b == a + 1 else f"{a} to {b}"


def _period(trace: Trace, first: int, stop: int) -> int:
    """After how many steps of a run it does the same again further on, with other ends: a bar of hitches has three."""
    count = stop - first
    for period in range(1, count // 2 + 1):
        if count % period == 0:
            parts = [_relative(trace, i, i + period) for i in range(first, stop, period)]
            if parts[0] and all(p == parts[0] for p in parts):
                return period
    return count


def _relative(trace: Trace, first: int, stop: int) -> Signature:
    """What steps do, by places counted from that of the first end moved."""
    sign = signature(trace, first, stop)
    if not sign:
        return ()
    base = sign[0][1]
    assert isinstance(base, tuple)
    start = base[0]

    def moved(p: object) -> object:
        if isinstance(p, tuple):
            return tuple(moved(x) for x in p)
        return p - start if isinstance(p, int) else p

    out: list[tuple[object, ...]] = []
    for _, places, tension, *hops in sign:
        new: list[object] = []
        for h in hops:
            assert isinstance(h, tuple)
            if h[0] == "t":
                new.append((*h[:3], moved(h[3]), *h[4:]))
            else:
                new.append((*h[:4], moved(h[4])))
        out.append((moved(places), tension, *new))
    return tuple(out)


def _with_whom(trace: Trace, first: int, stop: int, period: int) -> str:
    """Which ends take their turn in the repetitions: those that are not in every one of them."""
    parts = []
    for i in range(first, stop, period):
        steps = trace.steps[i : i + period]
        parts.append(
            list(dict.fromkeys(e for s in steps for e in (*s.ends, *(x for h in s.hops for x in h.ends))))
        )
    common = set(parts[0]).intersection(*parts[1:])
    others = [
        listing([letter_of(trace, e) for e in part if e not in common] or ["the same"]) for part in parts[1:]
    ]
    if len(others) == 1:
        return f"with {others[0]}"
    return f"with {others[0]}, then {listing(others[1:])}"


def runs(trace: Trace) -> list[tuple[int, int]]:
    """Steps that belong to one knot; bare steps one by one."""
    out: list[tuple[int, int]] = []
    for i, r in enumerate(trace.steps):
        if r.quiet:
            continue
        before = trace.steps[i - 1] if i else None
        same = before is not None and before.op is r.op and r.knot_step > before.knot_step >= 0
        if same and out and out[-1][1] == i:
            out[-1] = (out[-1][0], i + 1)
        else:
            out.append((i, i + 1))
    return out


def signature(trace: Trace, first: int, stop: int) -> Signature:
    """What steps do, by places and sides, not by ends: (tails, places, hops...) per step; () where it cannot be told."""
    out: list[tuple[object, ...]] = []
    for i in range(first, stop):
        r = trace.steps[i]
        order = trace.order_before(i)
        if not r.hops or r.turned:
            return ()
        hops: list[object] = []
        for h in r.hops:
            hop = h.hop
            if isinstance(hop, Cross):
                hops.append(("x", hop.over, hop.bight, h.side, tuple(order.index(e) for e in h.ends)))
            elif isinstance(hop, Through) and hop.loop.kind == "bend":
                at = order.index(h.ends[0]) if h.ends[0] in order else -1
                hops.append(("t", hop.up, hop.bight, at, hop.loop.bend, hop.turns))
            elif isinstance(hop, Round):
                hops.append(("r", hop.over, hop.turns, 0, tuple(order.index(e) for e in h.ends)))
            else:
                return ()
        if any(e not in order for e in r.ends):
            return ()
        out.append(
            (len(order), tuple(order.index(e) for e in r.ends), r.step.tension if r.step else "", *hops)
        )
    return tuple(out)


def mirror_of(sign: Signature) -> Signature:
    out = []
    for count, places, tension, *hops in sign:
        assert isinstance(count, int)

        def other(p: object, n: int = count) -> object:
            if isinstance(p, tuple):
                return tuple(other(x, n) for x in p)
            return n - 1 - p if isinstance(p, int) and p >= 0 else p

        new: list[object] = []
        for h in hops:
            assert isinstance(h, tuple)
            if h[0] == "x":
                new.append((h[0], h[1], h[2], -h[3], other(h[4])))
            elif h[0] == "t":
                new.append((h[0], h[1], h[2], other(h[3]), *h[4:]))
            else:
                new.append((*h[:4], other(h[4])))
        out.append((count, other(places), tension, *new))
    return tuple(out)


def flip_of(sign: Signature) -> Signature:
    return tuple(
        (count, places, tension, *((h[0], not h[1], *h[2:]) for h in hops if isinstance(h, tuple)))
        for count, places, tension, *hops in sign
    )
