"""Standing loops: slack left in a turn, drawn as long as it is, in one scale over the whole work."""

from __future__ import annotations

import math

from dim_ladder.library import cord_kind
from dim_ladder.trace.value import Trace

CORD = 0.46  # drawn width of a cord, in cord spacings
LONGEST = 7.0  # the cord of the longest loop on a picture, in cord spacings
SHORTEST = 1.6


def loop_lengths(trace: Trace) -> dict[tuple[int, int], float]:
    """(row, lane) of a turn -> cord that stands in it, in cord spacings. True to the cord's drawn width where the longest
    one fits, else all of them smaller by the same part."""
    found = {}
    for s in trace.steps:
        for p in s.placed:
            if p.kind == "leave":
                cord = trace.weave.cord_of(trace.ends[p.ends[0]])
                found[p.row, p.lane] = p.mm / (cord_kind(cord.kind).diameter if cord else 4.0) * CORD
    scale = min(1.0, LONGEST / max(found.values(), default=LONGEST))
    return {at: max(SHORTEST, n * scale) for at, n in found.items()}


def loop_side(trace: Trace, row: int, lane: int) -> int:
    """On which side of its lane a loop stands: away from where its row goes. 1 right, -1 left."""
    for path in trace.paths:
        for i in range(1, len(path), 2):
            if path[i] == row and lane in path[i - 1 : i + 2 : 2]:
                other = path[i + 1] if path[i - 1] == lane else path[i - 1]
                return 1 if trace.lane_rank[lane] > trace.lane_rank[other] else -1
    return 1


def loop_points(x: float, y: float, out: float, high: float) -> list[tuple[float, float]]:
    """A drop beside a turn at x, y: it leaves above the turn, reaches out to x + out and ends in the turn."""
    pts = []
    for k in range(25):
        t = k / 24
        along = math.sin(math.pi * t)
        wide = -math.cos(math.pi * t) * along**0.6
        pts.append((x + out * along**0.8, y - high * 0.55 * (1 - t) + high * wide))
    return pts
