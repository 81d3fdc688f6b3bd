"""What keeps a weave from being made at all, said before anything is counted, drawn or published."""

from __future__ import annotations

from dataclasses import replace

from dim_ladder.base import Problem
from dim_ladder.notation import (
    Add,
    Drop,
    Follow,
    Parsed,
    Past,
    Rotate,
    Section,
    Through,
    Weave,
    item_refs,
    working_ends,
)
from dim_ladder.trace.expand import Rehang
from dim_ladder.trace.roles import roles
from dim_ladder.trace.tracer import Tracer, trace
from dim_ladder.trace.value import StepRecord

AGAIN = 3  # units after which a body has shown whether it can go on; every other one may be a mirror of the one before


def unmade(weave: Weave, parsed: Parsed | None = None) -> tuple[Problem, ...]:
    """Steps that cannot be tied, bodies in which ends come and go and that cannot be tied again below themselves, nothing that is
    tied: each with its place.

    parsed : where its parts stand in a script.
    """
    found = trace(weave, parsed=parsed).problems
    if found:
        return found
    if not any(s.former for s in weave.sections) and not roles(weave).sections:
        return (Problem("there is no section with a step yet", "Record a unit first"),)
    every = range(len(weave.sections))
    return tuple(p for i in every if comes_and_goes(weave.sections[i]) for p in once_only(weave, i, parsed))


def once_only(weave: Weave, section: int, parsed: Parsed | None = None) -> tuple[Problem, ...]:
    """What keeps a body that is worked as often as the size needs from being tied again below itself. A size in which it is worked
    once may do; where it is worked more often, later stages refuse for it. Empty where nothing does."""
    s = weave.sections[section]
    if s.former is not None or s.count.kind == "repeat" or not may_break(weave, section):
        return ()
    # Where ends are laid aside, all may be before the size is made.
    units = AGAIN + (len(working_ends(weave)) if any(isinstance(i, Drop) for i in s.items) else 0)
    counts = {o.name: 1 for o in weave.sections} | {s.name: units}
    problems = Tracer().trace(weave, counts=counts, parsed=parsed).problems
    return tuple(
        replace(p, message=f"{s.name} cannot be tied again below itself: {p.message}") for p in problems[:1]
    )


def comes_and_goes(section: Section) -> bool:
    """Whether other ends hang after a unit than before."""
    return any(isinstance(i, Add | Drop | Rotate) for i in section.items)


def may_break(weave: Weave, section: int) -> bool:
    """Whether what can be tied once may not be tied again below itself: because other ends hang after a unit than before, or
    because it speaks of what lies further up, counts crossings, names ends, or needs them to lie side by side."""
    return any(_reaches(r) for r in trace(weave).steps if r.op.section == section)


def _reaches(r: StepRecord) -> bool:
    if isinstance(r.deed, Add | Drop | Rotate) or len(r.ends) > 1:
        return True
    if (
        any(isinstance(ref, str) for ref in item_refs(r.op.value))
        if not isinstance(r.op.value, Rehang)
        else True
    ):
        return True
    return any(
        isinstance(h.hop, Past | Follow)
        or (isinstance(h.hop, Through) and h.hop.loop.kind in ("beside", "gap", "name", "edge"))
        for h in r.hops
    )
