"""From the traced diagram to strands in space that are the same weave, loose and without any contact.

A body that repeats becomes a cell that goes on in itself; a start, a finish or a single knot has its ends held.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.notation import Turn
from dim_ladder.shape.rope import Array
from dim_ladder.trace import Trace

GAP = 1.6  # between lanes and between rows, in diameters: cords that lie side by side do not touch
HEIGHT = 0.7  # of a crossing's over above the middle, and of its under below: 1.4 diameters apart
ROOM = 1.6  # below the last row, for the way to the next unit's places
BESIDE = 1.3  # between held ends, which hang side by side
SLANT = 1.5  # down for every diameter aside, on the way to places: slanting side by side they do not touch
LEAD = 3.0  # of straight cord above and below what is held


@dataclass(frozen=True, slots=True)
class Lifted:
    """strands : (n, 3) points of every end, from its place at the top to the place it comes to at the bottom.
    follow : by end, the end whose strand of the next unit goes on from there; -1 where ends are held. height : of the
    unit."""

    strands: tuple[Array, ...]
    follow: tuple[int, ...]
    height: float

    @property
    def held(self) -> bool:
        return -1 in self.follow


def repeats(t: Trace) -> bool:
    """Whether one unit can go on in the next as it is."""
    return t.settled and not t.turned and _plain(t)


def _plain(t: Trace) -> bool:
    return not any(s.quiet or (s.deed is not None and not isinstance(s.deed, Turn)) for s in t.steps)


def lift(t: Trace, *, held: bool = False) -> Lifted:
    """One unit of a section. held : its ends are held, it does not go on. Raises InputError where it cannot be made."""
    if t.problems:
        raise InputError(str(t.problems[0]), "Mend that step first")
    if held and not (t.settled and _plain(t)):
        raise InputError(
            "ends come, go or are laid anew in this section", "Its size is guessed from the drawing"
        )
    if not held and not repeats(t):
        raise InputError(
            "this section does not repeat with the same ends in the same lie",
            "Its size is guessed from the drawing",
        )
    if not t.crossings:
        raise InputError("nothing crosses here", "Record a step first")
    x, y = compact(t)
    bottom = max(y.values()) + GAP
    on_lane: dict[tuple[int, int], list[tuple[float, float]]] = {}
    on_row: dict[tuple[int, int], list[tuple[float, float]]] = {}
    for c in t.crossings:
        up = HEIGHT if c.lane_over else -HEIGHT
        on_lane.setdefault((c.lane_end, c.lane), []).append((y[c.row], up))
        on_row.setdefault((c.row_end, c.row), []).append((x[c.lane], -up))
    tops = [x[p[0]] for p in t.paths]
    places = sorted(tops)
    middle = sum(places) / len(places)
    side = [middle + (k - (len(places) - 1) / 2) * BESIDE for k in range(len(places))]
    feet = [x[p[-1]] for p in t.paths]
    goal = side if held else places
    up = max(ROOM, SLANT * max(abs(a - b) for a, b in zip(side, places, strict=True)))
    room = max(ROOM, SLANT * max(abs(feet[e] - goal[k]) for k, e in enumerate(t.order)))
    strands = []
    follow = [-1] * len(t.ends)
    for end, path in enumerate(t.paths):
        points = [(tops[end], 0.0, 0.0)]
        for i, piece in enumerate(path):
            if i % 2 == 0:
                a, b = points[-1][1], y[path[i + 1]] if i + 1 < len(path) else bottom
                met = _between(on_lane.get((end, piece), []), a, b)
                points += [(x[piece], at, z) for at, z in met]
                points.append((x[piece], b, 0.0))
            else:
                a, b = x[path[i - 1]], x[path[i + 1]]
                met = _between(on_row.get((end, piece), []), a, b)
                points += [(at, y[piece], z) for at, z in met]
                points.append((b, y[piece], 0.0))
        place = t.order.index(end)
        if held:
            first = places.index(tops[end])
            points[:0] = [(side[first], -up - LEAD, 0.0), (side[first], -up, 0.0)]
            points += [(side[place], bottom + room, 0.0), (side[place], bottom + room + LEAD, 0.0)]
        else:
            points.append((places[place], bottom + room, 0.0))
            follow[end] = tops.index(places[place])
        distinct = [points[0], *(q for p, q in pairwise(points) if p != q)]
        strands.append(np.array(distinct))
    return Lifted(tuple(strands), tuple(follow), bottom + room)


def compact(t: Trace) -> tuple[dict[int, float], dict[int, float]]:
    """Places of lanes and rows, as near as what they hold allows: what was tied side by side lies side by side.

    Only pieces that share some of their way must keep their distance; longest paths, rows first, then lanes.
    """
    ranks = t.lane_rank
    wide: dict[int, tuple[int, int]] = {}
    for path in t.paths:
        for i in range(1, len(path), 2):
            a, b = ranks[path[i - 1]], ranks[path[i + 1]]
            wide[path[i]] = min(a, b), max(a, b)
    y: dict[int, float] = {}
    for row in sorted(wide, key=t.row_rank.__getitem__):
        a, b = wide[row]
        y[row] = max((y[r] for r in y if wide[r][0] <= b and a <= wide[r][1]), default=0.0) + GAP
    bottom = max(y.values(), default=0.0) + GAP
    tall: dict[int, tuple[float, float]] = {}
    for path in t.paths:
        for i in range(0, len(path), 2):
            ends = (y[path[i - 1]] if i else 0.0, y[path[i + 1]] if i + 1 < len(path) else bottom)
            tall[path[i]] = min(ends), max(ends)
    x: dict[int, float] = {}
    for lane in sorted(tall, key=ranks.__getitem__):
        top, foot = tall[lane]
        left = [x[k] for k in x if tall[k][0] <= foot + GAP / 2 and top <= tall[k][1] + GAP / 2]
        x[lane] = max(left, default=-GAP) + GAP
    return x, y


def _between(met: list[tuple[float, float]], a: float, b: float) -> list[tuple[float, float]]:
    """Crossings on a piece that goes from a to b, in the order in which they are met."""
    inside = [m for m in met if min(a, b) < m[0] < max(a, b)]
    return sorted(inside, reverse=b < a)
