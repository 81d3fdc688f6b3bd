"""What holds: which ends are locked, what would pull out, how many tucks stand between the work and a heap of cord."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dim_ladder.notation import Past, Through, Weave
from dim_ladder.trace.diagram import Tangle, tangle
from dim_ladder.trace.reduce import TooMuch, simplified
from dim_ladder.trace.tracer import trace
from dim_ladder.trace.value import Trace

MOST_CROSSINGS = 260  # above this the whole is not judged in one go
MOST_TUCKS = 8
WORK = 60_000  # passages looked at for one answer: about a quarter of a second


@dataclass(frozen=True, slots=True)
class Hold:
    """drawn, real : crossings as drawn, and as few as they could be made with the tails fixed. loose : ends that
    slip out without passing a tip. tucks : passes to undo before it falls apart; -1 where it is more than were tried.
    key : the crossing (of the trace) that holds it all, -1 for none. whole : whether a step to undo holds several of
    the tucks, so that fewer might do."""

    drawn: int
    real: int
    loose: tuple[int, ...]
    tucks: int
    key: int
    whole: bool = False


def upto(trace: Trace, step: int) -> Trace:
    """The trace as it was before a step: for work in which no end comes in or is laid aside. While ends wait to follow in a doubled
    knot there is no telling: it is as it was before that knot."""
    while 0 < step < len(trace.steps) and len(trace.order_before(step)) < trace.hung:
        step -= 1
    stops = dict.fromkeys(trace.start, 1)
    for s in trace.steps[:step]:
        for end, _, stop in ((s.end, s.path_start, s.path_stop), *s.others):
            if stop:
                stops[end] = stop
    start = trace.steps[step].start if step < len(trace.steps) else len(trace.crossings)
    return replace(
        trace,
        steps=trace.steps[:step],
        crossings=trace.crossings[:start],
        paths=tuple(p[: stops[e]] for e, p in enumerate(trace.paths)),
        order=trace.order_before(step),
    )


def hold(trace: Trace) -> Hold | None:
    """Judge a traced piece of work; None where that cannot be told (ends come in or go, or it is too large)."""
    if trace.problems or not trace.settled or not trace.crossings or len(trace.crossings) > MOST_CROSSINGS:
        return None
    drawn = tangle(trace)
    try:
        real = simplified(drawn, WORK)
    except TooMuch:
        return None
    loose = tuple(e for e in trace.start if not real.walks[e] and drawn.walks[e])
    tucks, key = _tucks(trace, real), -1
    if real.crossings and tucks:
        try:
            key = _key(drawn, real.crossings)
        except TooMuch:
            key = -1
    passes = _passes(trace)
    return Hold(drawn.crossings, real.crossings, loose, tucks, key, len(passes) != len(set(passes)))


def slipped(weave: Weave, section: str) -> bool | None:
    """Whether a section is a chain of bights that a later end locks; None where it is no chain: passes loops made before it with
    anything but bights, or none."""
    index = next(i for i, s in enumerate(weave.sections) if s.name == section)
    t = trace(weave, counts={s.name: 1 for s in weave.sections})
    through = [(s.op.section, h.hop) for s in t.steps for h in s.hops if isinstance(h.hop, Through)]
    own = [hop for at, hop in through if at == index]
    if t.problems or not own or not all(hop.bight for hop in own):
        return None
    return any(at > index and not hop.bight for at, hop in through)


def _passes(trace: Trace) -> list[int]:
    """Steps that tuck a tip, each as often as it does: through a loop, or led beneath strands of finished work."""
    out = []
    for i, s in enumerate(trace.steps):
        beneath = False
        for h in s.hops:
            if isinstance(h.hop, Through) and h.edge >= 0 and not h.hop.bight:
                out.append(i)
            # Beneath several strands on end is one tuck; at 0 only the tail is crossed, which needs no tip.
            goes_under = isinstance(h.hop, Past) and not h.hop.over and h.hop.count > 0
            if goes_under and not beneath:
                out.append(i)
            beneath = goes_under
    return out


def _tucks(trace: Trace, real: Tangle) -> int:
    """Passes to undo, from the last, until nothing is locked: no crossing is left, or only runs over and under."""
    passes = _passes(trace)
    if not real.crossings or not passes:
        return 0
    for count, step in enumerate(dict.fromkeys(reversed(passes)), 1):
        if count > MOST_TUCKS:
            return -1
        undone = sum(p >= step for p in passes)
        if undone == len(passes):
            return undone
        try:
            if not simplified(tangle(upto(trace, step)), WORK).crossings:
                return undone
        except TooMuch:
            return -1
    return len(passes)


def _key(drawn: Tangle, real: int) -> int:
    """The crossing that, the other way round, would let most go; -1 where none lets more than itself go."""
    best, least = -1, real // 2 + 1  # one that lets go of half the work or more
    if drawn.crossings > 24:
        return -1
    for n in drawn.from_right:
        other = Tangle(
            [[(c, over != (c == n)) for c, over in w] for w in drawn.walks],
            {c: r != (c == n) for c, r in drawn.from_right.items()},
            drawn.top,
            drawn.bottom,
            drawn.fresh,
        )
        left = simplified(other, WORK).crossings
        if left < least:
            best, least = n, left
    return best
