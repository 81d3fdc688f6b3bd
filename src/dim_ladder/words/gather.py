"""Instructions with what repeats said once: "Repeat 3 and 4 on the other side", "Repeat 1 to 3 with C, then D and E"."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.signature import Signature, flip_of, mirror_of, runs, signature
from dim_ladder.trace.value import Trace
from dim_ladder.words.phrases import listing
from dim_ladder.words.sentences import step_heading, step_sentence


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
