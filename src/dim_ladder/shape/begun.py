"""A section as far as it can be taken by itself: as the work lies when its first knot is tied, and as it is before cord comes in."""

from __future__ import annotations

from dataclasses import replace

from dim_ladder.notation import Add, Call, Drop, Rotate, Section, Step, Weave
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.alike import alike_ends


def as_it_lies(weave: Weave, s: Section) -> Weave:
    """The weave with a section begun as the work lies when its first knot is tied: what turns it before that is a section of its own."""
    turns = [k for k, i in enumerate(s.items) if isinstance(i, Rotate)]
    many = s.kind == "body" and (s.count.kind, s.count.number) != ("repeat", 1)
    if not turns or many:
        return weave
    before, rest = s.items[: turns[-1] + 1], s.items[turns[-1] + 1 :]
    if not rest or any(isinstance(i, Step | Call) for i in before):
        return weave
    turn = Section(f"{s.name}, turned", "start", items=before)
    at = weave.sections.index(s)
    return replace(
        weave, sections=(*weave.sections[:at], turn, replace(s, items=rest), *weave.sections[at + 1 :])
    )


def treated_alike(weave: Weave, s: Section, one: Trace) -> tuple[tuple[int, ...], ...]:
    """Ends that a unit treats alike. Where cord comes in or goes, those that are alike in what is tied before, and are not led again."""
    if one.settled:
        return alike_ends(one)
    many = next((k for k, i in enumerate(s.items) if isinstance(i, Add | Drop)), 0)
    if not many or s.kind == "body":
        return ()
    at = weave.sections.index(s)
    begun = replace(
        weave,
        sections=(*weave.sections[:at], replace(s, items=s.items[:many]), *weave.sections[at + 1 :]),
    )
    before = trace(begun, section=s.name, units=1)
    led = {one.ends[e] for step in one.steps[len(before.steps) :] if step.leads for e in step.ends if e >= 0}
    groups = (tuple(before.ends[e] for e in g) for g in alike_ends(before))
    return tuple(tuple(one.ends.index(e) for e in g) for g in groups if not led & set(g))
