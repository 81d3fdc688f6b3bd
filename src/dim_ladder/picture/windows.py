"""Which steps are shown together with a step."""

from __future__ import annotations

from dim_ladder.trace.value import StepRecord, Trace


def part_start(trace: Trace, step: int) -> int:
    """The first step with the ends that hang at this one: work that hangs anew is a picture of its own."""
    if not 0 <= step < len(trace.steps) or len(trace.ends) == trace.hung:
        return 0
    here = set(trace.steps[step].order)
    while step > 0 and here & set(trace.steps[step].before) and here & set(trace.steps[step - 1].order):
        step -= 1
    return step


BLOCK = 6  # steps of one long knot that share a picture's layout


def window_of(trace: Trace, step: int) -> int:
    """First step to show with a step: its knot from the start (of a long one, its block of steps), or for bare steps
    the few before it."""
    if not 0 <= step < len(trace.steps):
        return max(0, step)
    record = trace.steps[step]
    op = record.op
    first = step
    while first > 0 and trace.steps[first - 1].op is op and trace.steps[first].knot_step != 0:
        first -= 1
    if record.knot_step >= 0:
        return max(first, step - record.knot_step % BLOCK)
    while first > 0 and step - first < 3 and _together(trace.steps[first - 1], record):
        first -= 1
    return first


def window_end(trace: Trace, step: int) -> int:
    """The last step shown in the same window."""
    first, last = window_of(trace, step), step
    while last + 1 < len(trace.steps) and window_of(trace, last + 1) == first:
        last += 1
    return last


def _together(before: StepRecord, record: StepRecord) -> bool:
    """Whether an earlier bare step is shown with a later one: of the same unit, with nothing done to the whole
    between."""
    return (before.op.section, before.op.unit) == (record.op.section, record.op.unit) and before.deed is None
