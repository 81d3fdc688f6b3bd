"""Slack that is left standing: loops and picots, drawn to their length where they come out of the tight work.

The work is drawn up without them, as the knots on both sides are; a loop that is left takes nothing from them and adds its own cord.
"""

from __future__ import annotations

import numpy as np

from dim_ladder.shape.rope import Array, along_of
from dim_ladder.shape.value import Standing, TightShape

WITHIN = 0.25  # of the strand, to either side of where it was led, in which the turn is looked for
FOOT = 0.45  # diameters to either side of the turn, between which the loop stands
BENT = 0.35  # of its way aside, from which cord is no tail that hangs straight
SLIM = 0.42  # how wide a loop is, of its height
POINTS = 60
LEAST = 1.5  # diameters of cord, less than which does not stand


def with_loops(shape: TightShape) -> tuple[Array, ...]:
    """The lines of a shape with all that stands. The further part of a line first, so that what is nearer stays where it is."""
    lines = list(shape.lines)
    for at, s in sorted(((turn_of(lines[s.strand], s), s) for s in shape.standing), key=lambda x: -x[0]):
        long = s.mm / shape.unit_mm
        if long >= LEAST:
            lines[s.strand] = _loop(lines[s.strand], at, s.side, long, shape.diameter[s.strand])
    return tuple(lines)


def turn_of(line: Array, s: Standing) -> int:
    """The point of a line in the turn on its side, where slack stands."""
    along = along_of(line)
    if s.here:
        return int(np.searchsorted(along, s.part * along[-1]))
    near = np.abs(along / along[-1] - s.part) <= WITHIN
    way = np.gradient(line, axis=0)
    turns = np.hypot(way[:, 0], way[:, 2]) > BENT * np.linalg.norm(way, axis=1)
    if (near & turns).any():
        near &= turns  # and no tail
    return int(np.argmax(np.where(near, s.side * line[:, 0], -np.inf)))


def _loop(line: Array, at: int, side: int, long: float, diameter: float) -> Array:
    """A line with a loop of so much cord at one of its points. side : to which it stands."""
    along = along_of(line)
    a = int(np.searchsorted(along, along[at] - FOOT * diameter))
    b = min(int(np.searchsorted(along, along[at] + FOOT * diameter)), len(line) - 1)
    a, b = max(0, min(a, at - 1)), max(b, at + 1)
    if b >= len(line):
        return line
    first, last = line[a], line[b]
    u = np.linspace(0.0, 1.0, POINTS)[:, None]
    straight = first + (last - first) * u
    up = 1.0 if last[1] >= first[1] else -1.0
    height = _height(long + float(np.linalg.norm(last - first)), float(np.linalg.norm(last - first)))
    way = np.array([float(side), 0.0, 0.0])
    down = np.array([0.0, up, 0.0])
    # Out and back, wider in its middle than at its foot, as cord springs open.
    loop = straight + height * np.sin(np.pi * u) * way - 0.5 * SLIM * height * np.sin(2 * np.pi * u) * down
    return np.vstack([line[:a], loop, line[b + 1 :]])


def _height(long: float, foot: float) -> float:
    """How far out a loop stands that has so much cord. foot : between its two feet."""
    u = np.linspace(0.0, 1.0, 400)
    low, high = 0.0, long
    for _ in range(40):
        h = (low + high) / 2
        x, y = h * np.sin(np.pi * u), foot * u - 0.5 * SLIM * h * np.sin(2 * np.pi * u)
        if float(np.hypot(np.diff(x), np.diff(y)).sum()) < long:
            low = h
        else:
            high = h
    return (low + high) / 2
