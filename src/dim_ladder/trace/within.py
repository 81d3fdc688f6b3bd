"""Into and out of the loops a knot began with: what is seen of an end that is led through them."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from typing import NamedTuple

from dim_ladder.notation import Curl
from dim_ladder.trace.led import is_led
from dim_ladder.trace.value import Crossing, StepRecord, Trace

BESIDE = 0.25  # of a lane or row: near enough to a crossing for nothing to lie between


class Passage(NamedTuple):
    """A hop goes into a loop that `owner` has laid over or under itself, or out of it."""

    owner: int
    into: bool


class _Stop(NamedTuple):
    x: float
    y: float
    crossing: int  # -1 at a corner


def passages(trace: Trace, index: int) -> dict[int, Passage]:
    """hop -> the loop whose edge it crosses, for a step that is led: the first that an end of the same knot has made with itself."""
    r = trace.steps[index]
    if not is_led(r):
        return {}
    first = index
    while first and trace.steps[first - 1].op is r.op:
        first -= 1
    here = range(trace.steps[first].start, r.stop)
    eyes: dict[int, tuple[int, list[_Stop]]] = {}
    met_itself: set[int] = set()
    for s in trace.steps[first : index + 1]:
        for h in s.hops:
            if (
                isinstance(h.hop, Curl)
                and h.stop == h.start + 1
                and len(s.ends) == 1
                and s.end not in met_itself
            ):
                eyes[s.end] = h.start, _eye(trace, s, h.start, here)
            met_itself |= {c.lane_end for c in trace.crossings[h.start : h.stop] if c.lane_end == c.row_end}
    course = _course(trace, r, here)
    # Of two visits to one crossing the later is the mover's.
    at = {stop.crossing: k for k, stop in enumerate(course) if stop.crossing >= 0}
    out: dict[int, Passage] = {}
    for k, h in enumerate(r.hops):
        spot = at.get(h.stop - 1) if h.stop == h.start + 1 else None
        if spot is None or not 0 < spot < len(course) - 1:
            continue
        for owner, (own, eye) in eyes.items():
            before, after = (_inside(eye, *_near(course, spot, way)) for way in (-1, 1))
            if h.start > own and before != after:
                out.setdefault(k, Passage(owner, after))
    return out


def _course(trace: Trace, r: StepRecord, here: range) -> list[_Stop]:
    """A step's end on its way, corner by corner with what it crosses between; in ranks of lanes and rows."""
    path, lanes, rows = trace.paths[r.end], trace.lane_rank, trace.row_rank
    out: list[_Stop] = []
    for i in range(max(r.path_start - 1, 0), r.path_stop):
        piece = path[i]
        if i % 2:
            y = rows[piece]
            a, b = lanes[path[i - 1]], lanes[path[i + 1]] if i + 1 < len(path) else lanes[path[i - 1]]
            met = [(lanes[c.lane], n) for n, c in _of(trace, here) if c.row == piece and c.row_end == r.end]
            stops = [_Stop(x, y, n) for x, n in met if min(a, b) <= x <= max(a, b)]
            corners = _Stop(a, y, -1), _Stop(b, y, -1)
        else:
            x = lanes[piece]
            a = rows[path[i - 1]] if i else -1
            b = rows[path[i + 1]] if i + 1 < len(path) else len(rows)
            met = [(rows[c.row], n) for n, c in _of(trace, here) if c.lane == piece and c.lane_end == r.end]
            stops = [_Stop(x, y, n) for y, n in met if min(a, b) <= y <= max(a, b)]
            corners = _Stop(x, a, -1), _Stop(x, b, -1)
        stops.sort(reverse=b < a)
        out += [corners[0], *stops, corners[1]]
    return out


def _of(trace: Trace, here: range) -> Iterator[tuple[int, Crossing]]:
    return ((n, trace.crossings[n]) for n in here)


def _eye(trace: Trace, s: StepRecord, crossing: int, here: range) -> list[_Stop]:
    """The outline of a loop, from where its end crosses itself round to there."""
    course = _course(trace, s, here)
    visits = [k for k, stop in enumerate(course) if stop.crossing == crossing]
    return course[visits[0] : visits[-1]]


def _near(course: list[_Stop], spot: int, way: int) -> tuple[float, float]:
    """Just before a stop (way -1) or just behind it."""
    here = course[spot]
    k = spot + way
    while 0 < k < len(course) - 1 and course[k][:2] == here[:2]:
        k += way
    dx, dy = course[k].x - here.x, course[k].y - here.y
    size = max(abs(dx), abs(dy), 1)
    return here.x + dx / size * BESIDE, here.y + dy / size * BESIDE


def _inside(outline: list[_Stop], x: float, y: float) -> bool:
    """Whether a point lies within a closed line (the even-odd rule)."""
    odd = False
    for a, b in itertools.pairwise([*outline, *outline[:1]]):
        if (a.y > y) != (b.y > y) and x < a.x + (y - a.y) / (b.y - a.y) * (b.x - a.x):
            odd = not odd
    return odd
