"""Where a thread that is stitched on finished work runs: past every cord that it crosses, in front of it or behind, as the work lies.

The trace says between which two crossings of the band's own cord it passes; in the tight band it passes as far along that cord.
It is laid there, not pulled: nothing of the band gives way to it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.library import cord_kind
from dim_ladder.notation import Weave
from dim_ladder.shape.closing import even
from dim_ladder.shape.lift import lift
from dim_ladder.shape.rope import Array, along_of, turned
from dim_ladder.shape.value import TightShape
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.diagram import Visit, visits

CLOSE = 0.85  # of both their radii, how far from a cord a thread lies that is drawn up on it
EVERY = 0.2  # diameters between points of it
MOST_UNITS = 60  # of stitching that are traced
COUNTED = (4, 8)  # units, between which a thread takes what it takes in all that follow


class Past(NamedTuple):
    """A thread passes a cord of the band. unit, strand : in which unit of the band, and which of its strands there. part : how far along
    that, as a part of its length. in_front : of it."""

    unit: int
    strand: int
    part: float
    in_front: bool


def passages(weave: Weave, section: str, shape: TightShape, units: int, long: int) -> dict[str, list[Past]]:
    """For every stitching end what it passes, from where it is laid in. shape : of the band, one unit of it or as many as it takes to come
    round. units : of the stitching; long : such shapes one after the other. Empty where that cannot be told."""
    s = weave.section(section)
    if s is None or shape.kind != "cell" or shape.places or units > MOST_UNITS:
        return {}
    t, ground = trace(weave, section=section, units=units), trace(weave, section=s.on, units=shape.period)
    try:
        parts = _parts(ground)
    except InputError:
        return {}
    if t.problems or len(parts) != len(shape.lines):
        return {}
    quiet = {n for step in t.steps if step.quiet for n in range(step.start, step.stop)}
    walks = visits(t)
    where = {
        (n, e): past for e in range(t.hung) for n, past in _along(walks[e], e, quiet, parts, shape.follow)
    }
    out: dict[str, list[Past]] = {}
    for e in range(t.hung, len(t.ends)):
        found = [where.get((v.crossing, _band(t, v.crossing, e))) for v in walks[e]]
        out[t.ends[e]] = [p for p in found if p is not None and p.unit < long]
    return out


def thread_in_unit(weave: Weave, section: str, shape: TightShape, free: float = 0.0) -> dict[str, float]:
    """Thread that a unit of stitching takes by stitching end, in diameters of the band's thickest cord, as it is laid far down the band. shape : of
    the band; free : cord between two units of that. Empty where it cannot be laid."""
    s = weave.section(section)
    few, many = COUNTED
    long = -(-many * (s.every if s is not None else 1) // shape.period) + 1
    some, all_of = (passages(weave, section, shape, n, long) for n in COUNTED)
    out = {}
    for end, past in all_of.items():
        if len(past) > len(some.get(end, ())) > 1 and (cord := weave.cord_of(end)) is not None:
            size = cord_kind(cord.kind).across / shape.unit_mm
            ways = [along_of(laid(shape, long, way, size, free))[-1] for way in (some[end], past)]
            out[end] = float(ways[1] - ways[0]) / (many - few)
    return out


def _along(
    walk: Sequence[Visit],
    strand: int,
    quiet: set[int],
    parts: Sequence[Sequence[float]],
    follow: Sequence[int],
) -> list[tuple[int, Past]]:
    """What crosses an end of the band besides the band itself, and where on it. walk : its passages, unit after unit. quiet : crossings of
    the band with itself. parts : how far along each strand of a unit those lie."""
    out: list[tuple[int, Past]] = []
    waiting: list[tuple[int, bool]] = []
    unit, at, before = 0, 0, 0.0
    ends: list[tuple[int, bool] | None] = [
        (v.crossing, v.over) if v.crossing not in quiet else None for v in walk
    ]
    for v in [*ends, None]:
        if v is not None:
            waiting.append(v)
            continue
        here = parts[strand][at] if at < len(parts[strand]) else 1.0
        for k, (n, over) in enumerate(waiting):
            part = before + (here - before) * (k + 1) / (len(waiting) + 1)
            out.append((n, Past(unit, strand, part, not over)))
        waiting.clear()
        if at == len(parts[strand]):  # this passage of the band is of its next unit
            unit, strand, at = unit + 1, follow[strand], 0
            here = parts[strand][0] if parts[strand] else 1.0
        before, at = here, at + 1
    return out


def _band(t: Trace, crossing: int, thread: int) -> int:
    c = t.crossings[crossing]
    return c.row_end if c.lane_end == thread else c.lane_end


def _parts(ground: Trace) -> list[list[float]]:
    """By strand of a unit, how far along it each of its passages lies."""
    out = []
    for line in lift(ground).strands:
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
        out.append([float(x) for x in along[np.abs(line[:, 2]) > 0] / along[-1]])
    return out


def laid(shape: TightShape, units: int, past: Sequence[Past], size: float, free: float = 0.0) -> Array:
    """(n, 3) the line of a thread in the band as its units lie from the first one down, in diameters of the band's thickest cord. size : of
    the thread, in those. free : cord between two units, over which the thread goes on; each then stands by itself."""
    points = []
    for unit, strand, part, in_front in past:
        cord = shape.lines[strand]
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(cord, axis=0), axis=1))])
        at = np.array([np.interp(part * along[-1], along, cord[:, k]) for k in range(3)])
        if free > 0:
            at = turned(at[None], 1, -shape.angle / 2, 0.0)[0] + np.array(
                [0.0, unit * (shape.pitch + free), 0.0]
            )
        else:
            at = turned(turned(at[None], 1, -units * shape.angle / 2, 0.0), unit, shape.angle, shape.pitch)[0]
        off = CLOSE * (shape.diameter[strand] + size) / 2
        points.append(at + np.array([0.0, 0.0, off if in_front else -off]))
    line: Array = np.array(points)
    steps = np.linalg.norm(np.diff(line, axis=0), axis=1)
    line = line[np.concatenate([[True], steps > 1e-6])]
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    if len(line) < 2:
        return line
    u = np.linspace(0.0, along[-1], max(4, round(along[-1] / EVERY)))
    from scipy.interpolate import PchipInterpolator  # slow to load, and little is stitched

    smooth: Array = np.asarray(PchipInterpolator(along, line)(u), np.float64)
    return even(smooth)
