"""Sections in which nothing crosses: beads that are threaded between two knots, and ends that are only made fast."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.notation import Weave
from dim_ladder.trace import trace


@dataclass(frozen=True, slots=True)
class Threaded:
    """A bead. end : on which it is. down : mm from where the section begins to its middle. radius : mm."""

    end: str
    down: float
    radius: float
    colour: str


@dataclass(frozen=True, slots=True)
class Uncrossed:
    """ends : from left to right. long : mm that its beads take."""

    ends: tuple[str, ...]
    long: float
    beads: tuple[Threaded, ...]


def uncrossed(weave: Weave, section: str) -> Uncrossed | None:
    """What is in a section in which nothing crosses; None where anything does, or it cannot be tied."""
    t = trace(weave, section=section, units=1)
    if t.problems or t.crossings:
        return None
    known = {b.name: b for b in weave.beads}
    so_far: dict[int, float] = {}
    beads = []
    for p in (p for s in t.steps for p in s.placed if p.kind == "bead" and p.text in known and p.ends):
        bead = known[p.text]
        begin = max(so_far.get(e, 0.0) for e in p.ends)
        # On several ends it is drawn on the middle one of them.
        end = t.ends[p.ends[len(p.ends) // 2]]
        beads.append(Threaded(end, begin + bead.diameter / 2, bead.diameter / 2, bead.colour))
        for e in p.ends:
            so_far[e] = begin + bead.diameter
    return Uncrossed(tuple(t.ends[e] for e in t.order), max(so_far.values(), default=0.0), tuple(beads))
