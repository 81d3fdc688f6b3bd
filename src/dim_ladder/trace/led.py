"""Steps that are led strand by strand through what is there: where they go is seen on a picture, not said by counting; and which of
a step's hops bear numbers, in its picture and in its sentence alike."""

from __future__ import annotations

from dim_ladder.notation import Follow, Past, Through, To
from dim_ladder.trace.value import StepRecord

MANY = 3  # hops of a step, beyond which they are numbered along the end
A_PICTURE = 2  # hops of what is led to a picture


def is_led(record: StepRecord) -> bool:
    """Whether an end is led strand by strand."""
    return any(
        isinstance(h.hop, Past)
        or (isinstance(h.hop, Through) and h.hop.loop.kind == "beside" and h.hop.loop.bend > 0)
        for h in record.hops
    )


def marks(record: StepRecord) -> dict[int, int]:
    """hop -> its number: of those that cross something, where there are many."""
    met = [k for k, h in enumerate(record.hops) if h.stop > h.start and not isinstance(h.hop, Follow | To)]
    if len(met) <= MANY and not is_led(record):
        return {}
    return {k: n for n, k in enumerate(met, 1)}


def led_parts(record: StepRecord) -> list[range | None]:
    """How a step is told: at once, or a few hops to a picture where it is led strand by strand."""
    count = len(record.hops)
    if not is_led(record) or count <= A_PICTURE:
        return [None]
    cuts, crossed = [0], 0
    for k, h in enumerate(record.hops):
        if crossed == A_PICTURE and h.stop > h.start:
            cuts.append(k)
            crossed = 0
        crossed += h.stop > h.start
    return [range(a, b) for a, b in zip(cuts, [*cuts[1:], count], strict=True)]
