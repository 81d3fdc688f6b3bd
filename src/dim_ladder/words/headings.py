"""What a step is headed by: the knot that begins with it, and knots inside that one."""

from __future__ import annotations

from dim_ladder.library import library_knot
from dim_ladder.notation import Call, Step
from dim_ladder.trace.solved import Nested, Solved
from dim_ladder.trace.value import Trace
from dim_ladder.words.phrases import vocabulary


def step_heading(trace: Trace, index: int, voice: str = "plain") -> str:
    """The knot that begins with this step, with those inside it that begin with it too; else ""."""
    r = trace.steps[index]
    if not isinstance(r.op.value, Call):
        return ""
    if r.finish:
        return r.finish.replace("-", " ").capitalize()
    words = vocabulary(voice)
    names = [words.knot(r.op.value.knot)] if r.knot_step in (0, -1) else []
    if r.knot_step >= 0 and r.op.knot is not None and not _derived(trace, r.op.value.knot):
        names += [words.knot(name) for name in begins_inside(r.op.knot, r.step)]
    said = ": ".join(dict.fromkeys(names))
    return said[:1].upper() + said[1:]


def _derived(trace: Trace, name: str) -> bool:
    """Whether a knot is another one in a mirror or from behind: what is tied inside goes by another name then."""
    knot = trace.weave.knot(name) or library_knot(name)
    return knot is not None and bool(knot.derive)


def begins_inside(knot: Solved, step: Step | None) -> list[str]:
    """Names of the knots inside this one that begin with a step, the outermost first."""
    for part in knot.steps:
        if not isinstance(part, Nested) or not part.knot.steps:
            continue
        first = part.knot.steps[0]
        if first is step:
            return [part.call.knot]
        inside = begins_inside(part.knot, step)
        if inside:
            deeper = isinstance(first, Nested) and begins_with(first.knot) is step
            return [part.call.knot, *inside] if deeper else inside
    return []


def begins_with(knot: Solved) -> Step | None:
    """The first step of a knot, however deep."""
    first = knot.steps[0] if knot.steps else None
    return begins_with(first.knot) if isinstance(first, Nested) else first
