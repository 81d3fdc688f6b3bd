"""What keeps a weave from being made at all, said before anything is counted, drawn or published."""

from __future__ import annotations

from dataclasses import replace

from dim_ladder.base import Problem
from dim_ladder.notation import Add, Drop, Follow, Parsed, Past, Rotate, Through, Weave, working_ends
from dim_ladder.trace.roles import roles
from dim_ladder.trace.tracer import Tracer, trace
from dim_ladder.trace.value import StepRecord

AGAIN = 3  # units after which a body has shown whether it can go on; every other one may be a mirror of the one before


def unmade(weave: Weave, parsed: Parsed | None = None) -> tuple[Problem, ...]:
    """Steps that cannot be tied, bodies that cannot be tied again below themselves, nothing that is tied: each with its place.
    Later stages refuse for these and for no other reason but the size that is asked for.

    parsed : where its parts stand in a script.
    """
    found = trace(weave, parsed=parsed).problems
    if found:
        return found
    if not any(s.former for s in weave.sections) and not roles(weave).sections:
        return (Problem("there is no section with a step yet", "Record a unit first"),)
    again = []
    for index, s in enumerate(weave.sections):
        if s.former is None and s.count.kind != "repeat" and may_break(weave, index):
            # Where ends are laid aside, all may be before the size is made.
            again_and_again = AGAIN + (
                len(working_ends(weave)) if any(isinstance(i, Drop) for i in s.items) else 0
            )
            counts = {o.name: 1 for o in weave.sections} | {s.name: again_and_again}
            problems = Tracer().trace(weave, counts=counts, parsed=parsed).problems
            again += [
                replace(p, message=f"{s.name} cannot be tied again below itself: {p.message}")
                for p in problems[:1]
            ]
    return tuple(again)


def may_break(weave: Weave, section: int) -> bool:
    """Whether what can be tied once may not be tied again below itself: because other ends hang after a unit than before, or
    because it speaks of what lies further up, counts crossings, or needs ends to lie side by side."""
    return any(_reaches(r) for r in trace(weave).steps if r.op.section == section)


def _reaches(r: StepRecord) -> bool:
    if isinstance(r.deed, Add | Drop | Rotate) or len(r.ends) > 1:
        return True
    return any(
        isinstance(h.hop, Past | Follow)
        or (isinstance(h.hop, Through) and h.hop.loop.kind in ("beside", "gap", "name", "edge"))
        for h in r.hops
    )
