"""From the traced diagram of one unit to strands in space that are the same weave, loose and without any contact.

Unit of length: the cord's diameter. x to the right, y down the band, z towards the viewer.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from dim_ladder.base import InputError
from dim_ladder.trace import Trace

Array = NDArray[np.float64]
GAP = 1.6  # between lanes and between rows: cords that lie side by side do not touch
HEIGHT = 0.7  # of a crossing's over above the middle, and of its under below: 1.4 diameters apart
ROOM = 1.6  # below the last row, for the way to the next unit's places


@dataclass(frozen=True, slots=True)
class Lifted:
    """strands : (n, 3) points of every end, from its place at the top to the place it comes to at the bottom.
    follow : by end, the end whose strand of the next unit goes on from there. height : of the unit."""

    strands: tuple[Array, ...]
    follow: tuple[int, ...]
    height: float


def lift(t: Trace) -> Lifted:
    """One unit of a section, as a cell that repeats. Raises InputError where it cannot repeat as it is."""
    if t.problems:
        raise InputError(str(t.problems[0]), "Mend that step first")
    if not t.settled or any(s.deed is not None or s.quiet for s in t.steps):
        raise InputError(
            "this section does not repeat with the same ends in the same lie",
            "Its size is guessed from the drawing",
        )
    if not t.crossings:
        raise InputError("nothing crosses here", "Record a step first")
    x = {lane: rank * GAP for lane, rank in enumerate(t.lane_rank)}
    y = {row: (rank + 1) * GAP for row, rank in enumerate(t.row_rank)}
    bottom = (len(t.row_rank) + 1) * GAP
    on_lane: dict[tuple[int, int], list[tuple[float, float]]] = {}
    on_row: dict[tuple[int, int], list[tuple[float, float]]] = {}
    for c in t.crossings:
        up = HEIGHT if c.lane_over else -HEIGHT
        on_lane.setdefault((c.lane_end, c.lane), []).append((y[c.row], up))
        on_row.setdefault((c.row_end, c.row), []).append((x[c.lane], -up))
    tops = [x[p[0]] for p in t.paths]
    places = sorted(tops)
    strands = []
    follow = [0] * len(t.ends)
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
        points.append((places[place], bottom + ROOM, 0.0))
        follow[end] = tops.index(places[place])
        distinct = [points[0], *(q for p, q in pairwise(points) if p != q)]
        strands.append(np.array(distinct))
    return Lifted(tuple(strands), tuple(follow), bottom + ROOM)


def _between(met: list[tuple[float, float]], a: float, b: float) -> list[tuple[float, float]]:
    """Crossings on a piece that goes from a to b, in the order in which they are met."""
    inside = [m for m in met if min(a, b) < m[0] < max(a, b)]
    return sorted(inside, reverse=b < a)
