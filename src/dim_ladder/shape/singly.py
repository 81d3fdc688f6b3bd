"""Whether doubled work turns: as the same work tied with single ends does.

Pairs lie in each other in more ways than single ends do, and a little cord is saved by turning however such work is tied. Hands turn nothing
that would not turn by itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from dim_ladder.notation import Call, Cord, Count, Hang, Ref, Section, Span, Weave
from dim_ladder.shape.value import Job
from dim_ladder.trace import trace


def singly(weave: Weave, section: str) -> Weave | None:
    """A section by itself, tied with one end for every so many that it moves side by side as one; None where not all of it is tied so, by
    places that tell which ends are one."""
    s = weave.section(section)
    calls = [i for i in s.items if isinstance(i, Call)] if s is not None else []
    bundles = {len(c.groups[k]) for c in calls for k in c.as_one}
    if (
        s is None
        or len(bundles) != 1
        or len(calls) + sum(isinstance(i, Span) for i in s.items) < len(s.items)
    ):
        return None
    many = bundles.pop()
    each = [[_one_of(group, many) for group in c.groups] for c in calls]
    one = trace(weave, section=section, units=1)
    if one.problems or len(one.start) % many or any(not refs for groups in each for refs in groups):
        return None
    tied = {id(c): replace(c, groups=tuple(g), as_one=()) for c, g in zip(calls, each, strict=True)}
    first = [weave.cord_of(one.ends[e]) for e in one.start[::many]]
    cords = tuple(Cord(f"e{k}", c.kind, c.colour) for k, c in enumerate(first) if c is not None)
    if len(cords) < len(first):
        return None
    items = tuple(tied.get(id(i), i) for i in s.items)
    only = Section(s.name, "body", Count("fit"), items, alternate=s.alternate)
    hang = Hang(tuple(f"{c.name}.a" for c in cords))
    return Weave(weave.name, cords, hang, weave.knots, (only,))


def lying(job: Job) -> Job:
    """The job as it is drawn up where it does not turn, however it is drawn up."""
    return replace(
        job,
        lies=True,
        single=None,
        also=lying(job.also) if job.also is not None else None,
        otherwise=lying(job.otherwise) if job.otherwise is not None else None,
    )


def _one_of(refs: Sequence[Ref], many: int) -> tuple[Ref, ...]:
    """Places of single ends, for places each so many of which are one; none where they are not."""
    places = [r for r in refs if isinstance(r, int)]
    begins = places[::many]
    whole = len(places) == len(refs) and not len(places) % many
    if not whole or any((p - 1) % many for p in begins):
        return ()
    beside = all(b == a + 1 for k, (a, b) in enumerate(pairwise(places)) if (k + 1) % many)
    return tuple((p - 1) // many + 1 for p in begins) if beside else ()
