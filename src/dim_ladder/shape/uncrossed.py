"""Sections in which nothing crosses: beads that are threaded between two knots, and ends that are only made fast."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.notation import Weave
from dim_ladder.shape.rope import Array
from dim_ladder.trace import trace

BEGINS = 0.2  # diameters below the knot above
ROW = 0.45  # of its diameter, that cord in a bead lies before or behind its middle, where three and more run through it


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
    """ends : from left to right. long : mm that its beads take, with cord that is left free beside them."""

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
    for p in (p for s in t.steps for p in s.placed if p.ends):
        if p.kind == "span":
            so_far |= {e: so_far.get(e, 0.0) + p.mm for e in p.ends}
        if p.kind != "bead" or p.text not in known:
            continue
        bead = known[p.text]
        begin = max(so_far.get(e, 0.0) for e in p.ends)
        ends = tuple(t.ends[e] for e in t.order if e in p.ends)
        beads.append(Threaded(bead.name, ends, begin + bead.diameter / 2, bead.diameter / 2, bead.colour))
        for e in p.ends:
            so_far[e] = begin + bead.diameter
    long = max(so_far.values(), default=0.0) if beads else 0.0
    return Uncrossed(tuple(t.ends[e] for e in t.order), long, tuple(beads))


def in_bead(sizes: Sequence[float]) -> list[tuple[float, float]]:
    """(across, to the front) where ends lie in one bead, from left to right: two side by side, more of them in two rows, each in the gap of the
    other. sizes : their diameters."""
    if len(sizes) < 3:
        return [((k - (len(sizes) - 1) / 2) * d, 0.0) for k, d in enumerate(sizes)]
    return [((k - (len(sizes) - 1) / 2) * d / 2, (-1) ** k * ROW * d) for k, d in enumerate(sizes)]


def laid_straight(
    bare: Uncrossed, x: Mapping[str, float], size: Mapping[str, float], unit_mm: float
) -> tuple[dict[str, Array], list[tuple[Array, Threaded]]]:
    """Its ends straight down, those in one bead about its middle: lines by end, and (3,) middles of its beads, in diameters. x : where each
    hangs above it. size : of every end."""
    points: dict[str, list[tuple[float, float, float]]] = {e: [] for e in bare.ends}
    balls = []
    for b in bare.beads:
        middle, down, radius = (float(np.mean([x[e] for e in b.ends])), b.down / unit_mm, b.radius / unit_mm)
        for e, (aside, front) in zip(b.ends, in_bead([size[e] for e in b.ends]), strict=True):
            at = middle + aside
            points[e] += [(at, max(BEGINS, down - radius), front), (at, down + radius, front)]
        balls.append((np.array([middle, down, 0.0]), b))
    lines = {}
    for e, found in points.items():
        found = found or [(x[e], BEGINS, 0.0)]
        at, low, front = found[-1]
        lines[e] = np.array([*found, (at, max(bare.long / unit_mm, low) + 0.1, front)])
    return lines, balls
