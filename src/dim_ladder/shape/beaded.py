"""Beads between the knots of a unit, on all ends that these are tied on: the knots stand apart by them, and the ends hang straight through."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from dim_ladder.library import cord_kind
from dim_ladder.notation import Weave
from dim_ladder.shape.rope import Array, Curves, OnCord
from dim_ladder.shape.uncrossed import Uncrossed, in_bead, uncrossed
from dim_ladder.shape.value import Job, TightShape

EVERY = 0.2  # diameters between points of cord
AT_SEAM = 6  # points where cord comes out of a bead, or runs into it
PRESSED = 0.15  # diameters that a bead lies in cord that it touches


class Hung(NamedTuple):
    """A row of a unit as it hangs. lines : by strand of its job, from the top down."""

    job: Job
    lines: Sequence[Array]


def beads_alone(weave: Weave, section: str) -> Job | None:
    """A section of nothing but beads, to be hung between knots: nothing of it is drawn up. None where it is more, or has none."""
    bare = uncrossed(weave, section)
    if bare is None or not bare.beads:
        return None
    kinds = [cord_kind(c.kind) if (c := weave.cord_of(e)) else None for e in bare.ends]
    unit_mm = max((k.across for k in kinds if k is not None), default=4.0)
    each = [k.across / unit_mm if k is not None else 1.0 for k in kinds]
    spread = tuple(k.spreads if k is not None else 1.0 for k in kinds)
    flat = any(k is not None and k.thick for k in kinds)
    curves = Curves(
        tuple(_lines(bare, each, unit_mm)), tuple(range(len(each))), bare.long / unit_mm, tuple(each), (1.0,) * len(each),
        give=tuple(k.presses if k is not None else 0.0 for k in kinds), spread=spread if flat else (),
        beads=tuple(
            OnCord(n, bare.ends.index(b.ends[0]), b.down / bare.long, b.radius / unit_mm, b.radius / unit_mm, n)
            for n, b in enumerate(bare.beads)
        ),
    )  # fmt: skip
    beads = tuple(
        (bare.ends.index(e), b.down / bare.long, b.name, n) for n, b in enumerate(bare.beads) for e in b.ends
    )
    met = {e for b in bare.beads for e in b.ends}
    return Job("beads", bare.ends, curves, 0.0, unit_mm, beads, idle=tuple(e not in met for e in bare.ends))


def as_they_hang(job: Job) -> TightShape:
    """The shape of that: as long as its beads, and so is every cord."""
    c, long = job.curves, job.curves.pitch
    wide = max(float(x[0, 0] + d / 2) for x, d in zip(c.strands, c.diameter, strict=True))
    return TightShape(
        "cell", job.ends, long, 0.0, 2 * wide, 1.0, dict.fromkeys(job.ends, long), 0.0, 0.0, False, True, 0, c.strands, c.follow,
        c.diameter, (), job.unit_mm, job.beads, spread=c.spread,
    )  # fmt: skip


def more_room(above: Hung, below: Hung) -> float:
    """How much further down knots have to hang than right below beads, or beads than right below knots, until cord lies on them and not in them, in
    diameters."""
    return max(
        [0.0]
        + [_lies_on(ball, line[AT_SEAM:], 1.0) for ball in _balls(above) for line in below.lines]
        + [_lies_on(ball, line[:-AT_SEAM], -1.0) for ball in _balls(below) for line in above.lines]
    )


def _balls(of: Hung) -> list[tuple[Array, float]]:
    """(3,) middles and radii of what is nothing but beads."""
    if of.job.kind != "beads":
        return []
    out = []
    for b in of.job.curves.beads:
        places = [(of.lines[k], part) for k, part, _, n in of.job.beads if n == b.of]
        out.append((np.mean([x[round(part * (len(x) - 1))] for x, part in places], axis=0), b.radius))
    return out


def _lies_on(ball: tuple[Array, float], line: Array, way: float) -> float:
    """How much further down (1) or up (-1) a line has to lie, so as not to lie in a ball."""
    at, radius = ball
    reach = radius + (0.5 - PRESSED)
    off = line - at
    aside = off[:, 0] ** 2 + off[:, 2] ** 2
    near = aside < reach**2
    if not near.any():
        return 0.0
    return float((np.sqrt(reach**2 - aside[near]) - way * off[near, 1]).max())


def _across(bare: Uncrossed, each: list[float], unit_mm: float) -> list[float]:
    """Where along x each end hangs: side by side, those that no bead holds together as far apart as their beads take."""
    out = [0.0]
    for (a, da), (b, db) in pairwise(zip(bare.ends, each, strict=True)):
        apart = (da + db) / 2
        if not any({a, b} <= set(x.ends) for x in bare.beads):
            for end, other in ((a, db / 2), (b, da / 2)):
                apart = max([apart, *(x.radius / unit_mm + other for x in bare.beads if end in x.ends)])
            beside = [
                x.radius + y.radius
                for x in bare.beads if a in x.ends
                for y in bare.beads if b in y.ends and abs(x.down - y.down) < x.radius + y.radius
            ]  # fmt: skip
            apart = max([apart, *(v / unit_mm for v in beside)])
        out.append(out[-1] + apart)
    return [x - out[-1] / 2 for x in out]


def _lines(bare: Uncrossed, each: list[float], unit_mm: float) -> list[Array]:
    """By end, its line straight down."""
    long = bare.long / unit_mm
    down = np.linspace(0.0, long, max(4, round(long / EVERY)) + 1)
    x = dict(zip(bare.ends, _across(bare, each, unit_mm), strict=True))
    size, z = dict(zip(bare.ends, each, strict=True)), dict.fromkeys(bare.ends, 0.0)
    for b in bare.beads:
        middle = float(np.mean([x[e] for e in b.ends]))
        for e, (aside, front) in zip(b.ends, in_bead([size[e] for e in b.ends]), strict=True):
            x[e], z[e] = middle + aside, front
    return [np.column_stack([np.full(len(down), x[e]), down, np.full(len(down), z[e])]) for e in bare.ends]
