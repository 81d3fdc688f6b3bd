"""Sections in which nothing crosses: beads that are threaded between two knots, and ends that are only made fast."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dim_ladder.notation import Weave
from dim_ladder.shape.rope import Array
from dim_ladder.trace import trace

BEGINS = 0.2  # diameters below the knot above


@dataclass(frozen=True, slots=True)
class Threaded:
    """A bead. name : of its sort. ends : on which it is. down : mm from where the section begins to its middle. radius : mm."""

    name: str
    ends: tuple[str, ...]
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
        ends = tuple(t.ends[e] for e in t.order if e in p.ends)
        beads.append(Threaded(bead.name, ends, begin + bead.diameter / 2, bead.diameter / 2, bead.colour))
        for e in p.ends:
            so_far[e] = begin + bead.diameter
    return Uncrossed(tuple(t.ends[e] for e in t.order), max(so_far.values(), default=0.0), tuple(beads))


def laid_straight(
    bare: Uncrossed, x: Mapping[str, float], size: Mapping[str, float], unit_mm: float
) -> tuple[dict[str, Array], list[tuple[Array, Threaded]]]:
    """Its ends straight down, in one bead side by side about its middle: lines by end, and (3,) middles of its beads, in diameters. x : where each
    hangs above it. size : of every end."""
    points: dict[str, list[tuple[float, float]]] = {e: [] for e in bare.ends}
    balls = []
    for b in bare.beads:
        middle, down, radius = (float(np.mean([x[e] for e in b.ends])), b.down / unit_mm, b.radius / unit_mm)
        for k, e in enumerate(b.ends):
            aside = middle + (k - (len(b.ends) - 1) / 2) * size[e]
            points[e] += [(max(BEGINS, down - radius), aside), (down + radius, aside)]
        balls.append((np.array([middle, down, 0.0]), b))
    lines = {}
    for e, found in points.items():
        found = found or [(BEGINS, x[e])]
        down = max(bare.long / unit_mm, found[-1][0]) + 0.1
        lines[e] = np.array([[across, y, 0.0] for y, across in [*found, (down, found[-1][1])]])
    return lines, balls
