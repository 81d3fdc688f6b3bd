"""Ranks to places on paper: cords keep their order at every row, run as straight as they can, evenly spaced.

Straight first: every upright piece gets one place, as the mean of the leftmost and the rightmost packing that keep
every order (the mean of two feasible packings is feasible). Work that wanders, such as a plait, would spread without
end that way; then at every row (a level) the upright pieces that stand there keep their order from the trace, at least one spacing
apart. Their places are relaxed towards those of the same piece one level up and down, which straightens cords, and
weakly towards the middle, which keeps the work from spreading. The rule is the same in a mirror, so mirrored work is
drawn mirrored.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from dim_ladder.base.budget import spend
from dim_ladder.notation import Add, Span
from dim_ladder.picture.loops import loop_lengths, loop_side
from dim_ladder.trace.value import Trace

SWEEPS = 24
TO_MIDDLE = 0.02
SPREAD = 1.3  # how much wider than its fullest row straight work may be
PICTURE = 20_000  # units of work for laying out and painting one, and a little for every row


@dataclass(frozen=True, slots=True)
class Layout:
    """A window of rows laid out, in cord spacings.

    levels : per level lane -> x; level 0 is above the window, 1.. are its rows, the last is below it.
    left, right : extent of x. lines : number of rows.
    """

    levels: tuple[dict[int, float], ...]
    left: float
    right: float
    lines: int

    def at(self, lane: int, level: float) -> float | None:
        """x of a lane at a height given in levels (a fraction lies between two rows); None where it is not."""
        n = len(self.levels) - 1
        lo = min(max(int(level), 0), n)
        a = self.levels[lo].get(lane)
        b = self.levels[min(lo + 1, n)].get(lane)
        if a is None or b is None or a == b:
            x = b if a is None else a
            return self._nearest(lane, lo) if x is None else x
        # Cubic Hermite with the slopes of the neighbours: cords drift without kinks.
        before = self.levels[lo - 1].get(lane) if lo else None
        after = self.levels[lo + 2].get(lane) if lo + 2 <= n else None
        m0 = b - a if before is None else (b - before) / 2
        m1 = b - a if after is None else (after - a) / 2
        f = min(max(level - lo, 0.0), 1.0)
        g = 1 - f
        return g * g * (1 + 2 * f) * a + f * g * g * m0 + f * f * (3 - 2 * f) * b - f * f * g * m1

    def _nearest(self, lane: int, level: int) -> float | None:
        for k in sorted(range(len(self.levels)), key=lambda k: abs(k - level)):
            if lane in self.levels[k]:
                return self.levels[k][lane]
        return None


def window_rows(trace: Trace, first_step: int, last_step: int) -> tuple[int, int]:
    """Ranks of the highest and lowest row that these steps drew; (0, -1) when they drew none."""
    ranks: list[int] = []
    for s in trace.steps[first_step : last_step + 1]:
        for end, start, stop in ((s.end, s.path_start, s.path_stop), *s.others):
            path = trace.paths[end]
            ranks += [trace.row_rank[path[i]] for i in range(start, stop) if i % 2]
        ranks += [trace.row_rank[p.row] for p in s.placed]
        if isinstance(s.deed, Span):
            ranks.append(trace.row_rank[s.placed[0].row] + 1)
        elif isinstance(s.deed, Add):
            ranks += [trace.row_rank[trace.tops[e]] for e in s.ends]
    return (min(ranks), max(ranks)) if ranks else (0, -1)


def layout(trace: Trace, top: int, bottom: int) -> Layout:
    """Place the rows with ranks top..bottom (none when bottom < top) and every lane that stands among them."""
    spend(PICTURE + 20 * (bottom - top + 1))
    count = len(trace.row_rank)
    span = max(0, bottom - top + 1)
    members: list[list[tuple[float, int]]] = [[] for _ in range(span + 2)]
    for end, path in enumerate(trace.paths):
        first_row, tip = trace.tops[end], trace.tips[end]
        for i in range(0, len(path), 2):
            if not i and len(path) > 1 and first_row == path[1]:
                continue  # the fold of a cord that was laid in: no lane of its own
            above = trace.row_rank[path[i - 1]] if i else trace.row_rank[first_row] if first_row >= 0 else -1
            below = (
                trace.row_rank[path[i + 1]]
                if i + 1 < len(path)
                else trace.row_rank[tip]
                if tip >= 0
                else count
            )
            a, b = min(above, below), max(above, below)
            if b < top or a > max(bottom, top - 1):
                continue
            first = a - top + 1 if a >= top else 0
            last = b - top + 1 if b <= bottom else span + 1
            for level in range(max(first, 0), last + 1):
                members[level].append((trace.lane_rank[path[i]], path[i]))
    loops = _make_room(trace, members, top)
    levels: list[dict[int, float]] = []
    for lane_list in members:
        lane_list.sort()
        middle = (len(lane_list) - 1) / 2
        levels.append({lane: i - middle for i, (_, lane) in enumerate(lane_list)})
    fullest = max((len(m) for m in members), default=1)
    straight = _straight(members)
    if max(straight.values(), default=0.0) <= (fullest - 1) * SPREAD + 1 + loops:
        levels = [{lane: straight[lane] for _, lane in m} for m in members]
        return _layout(levels, span)
    middles = [dict(level) for level in levels]
    for sweep in range(SWEEPS):
        order = range(len(levels)) if sweep % 2 == 0 else range(len(levels) - 1, -1, -1)
        for k in order:
            _relax(levels, middles[k], k)
    return _layout(levels, span)


def _make_room(trace: Trace, members: list[list[tuple[float, int]]], top: int) -> int:
    """Lanes that nothing runs on, where a loop stands beside its turn. Gives their number."""
    free = -2
    for (row, lane), length in loop_lengths(trace).items():
        level = trace.row_rank[row] - top + 1
        if not 1 <= level <= len(members) - 2:
            continue
        wide, side = math.ceil(length / 2), loop_side(trace, row, lane)
        for near in (level - 1, level, level + 1):
            for k in range(wide):
                members[near].append((trace.lane_rank[lane] + side * (k + 1) / (wide + 1), free - k))
        free -= wide
    return -2 - free


def _layout(levels: list[dict[int, float]], span: int) -> Layout:
    places = [x for level in levels for x in level.values()] or [0.0]
    return Layout(tuple(levels), min(places), max(places), span)


def _straight(members: list[list[tuple[float, int]]]) -> dict[int, float]:
    """One place per lane: the mean of the leftmost and the rightmost packing."""
    reach: dict[tuple[float, int], list[int]] = {}
    for level, lane_list in enumerate(members):
        for key in lane_list:
            reach.setdefault(key, [level, level])[1] = level
    lanes = sorted(reach)
    spans = [(lane, reach[r, lane][0], reach[r, lane][1]) for r, lane in lanes]
    left = _pack(spans, len(members))
    right = _pack(spans[::-1], len(members))
    width = max((*left.values(), *right.values()), default=0.0)
    return {lane: (left[lane] + width - right[lane]) / 2 for lane in left}


def _pack(lanes: list[tuple[int, int, int]], levels: int) -> dict[int, float]:
    skyline = [0.0] * levels
    out: dict[int, float] = {}
    for lane, a, b in lanes:
        at = max(skyline[a : b + 1])
        out[lane] = at
        skyline[a : b + 1] = [at + 1.0] * (b + 1 - a)
    return out


def _relax(levels: list[dict[int, float]], middle: dict[int, float], k: int) -> None:
    here = levels[k]
    above = levels[k - 1] if k else {}
    below = levels[k + 1] if k + 1 < len(levels) else {}
    wanted = []
    for lane, centre in middle.items():
        total, weight = TO_MIDDLE * centre, TO_MIDDLE
        a = above.get(lane)
        if a is not None:
            total, weight = total + a, weight + 1
        b = below.get(lane)
        if b is not None:
            total, weight = total + b, weight + 1
        wanted.append(total / weight)
    for lane, x in zip(middle, _apart(wanted), strict=True):
        here[lane] = x


def _apart(wanted: list[float]) -> list[float]:
    """Places nearest to the wanted ones (least squares) with neighbours at least 1 apart: isotonic regression
    by pooling adjacent violators on the places less their index."""
    blocks: list[list[float]] = []  # sum, count
    for i, w in enumerate(wanted):
        blocks.append([w - i, 1.0])
        while len(blocks) > 1 and blocks[-2][0] * blocks[-1][1] > blocks[-1][0] * blocks[-2][1]:
            s, n = blocks.pop()
            blocks[-1][0] += s
            blocks[-1][1] += n
    out: list[float] = []
    for s, n in blocks:
        mean = s / n
        for _ in range(int(n)):
            out.append(mean + len(out))
    return out
