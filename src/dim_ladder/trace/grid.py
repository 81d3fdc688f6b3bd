"""Ways through the drawing: the route with the fewest crossings, then the fewest turns, then the shortest.

The lower part of the drawing is seen as a grid of cells between neighbouring lanes and rows. Going from cell to
cell costs a crossing where a piece lies between them. Because lanes and rows are insertable, any way through the
cells can be drawn.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass

from dim_ladder.base.budget import spend
from dim_ladder.trace.drawing import HANGS, Drawing

MARGIN = 6  # rows above the target that a route may use
MOST_ROWS = 600
CELL = 6  # units of work for a cell that is looked at
LEFT, RIGHT, UP, DOWN = 0, 1, 2, 3
_DX, _DY = (-1, 1, 0, 0), (0, 0, -1, 1)
_CROSSING, _TURN = 1 << 40, 1 << 20
# Heading before and after -> quarter turns to the left, as one goes.
_QUARTER = {(DOWN, RIGHT): 1, (RIGHT, UP): 1, (UP, LEFT): 1, (LEFT, DOWN): 1}
_QUARTER |= {(b, a): -1 for a, b in _QUARTER}
MOST_QUARTERS = 6  # more is a curl
Cell = tuple[int, int]  # column: left of lanes[i]; gap: above rows[j]
State = tuple[
    int, int, int, int
]  # a cell, the heading it was come to with, quarter turns to the left until then


@dataclass(frozen=True, slots=True)
class Source:
    """Where a route may begin: in a cell, heading somewhere, after `turns` turns. lead : cells on the way there."""

    cell: Cell
    heading: int
    turns: int = 0
    lead: tuple[Cell, ...] = ()


class Grid:
    """The rows from `top` downwards, and every lane that has a piece among them."""

    def __init__(self, d: Drawing, top: int, more: Iterable[int] = ()) -> None:
        rows: list[int] = []
        r = d.rows.last
        while r >= 0:
            rows.append(r)
            if r == top:
                break
            r = d.rows.prev(r)
        for _ in range(MARGIN):
            r = d.rows.prev(r) if r >= 0 else -1
            if r < 0:
                break
            rows.append(r)
        rows.reverse()
        self.rows = rows
        lanes = {path[-1] if len(path) % 2 else path[-2] for path in d.paths}
        lanes.update(more)
        for row in rows:
            lanes.add(d.left[row])
            lanes.add(d.right[row])
        self.lanes = sorted(lanes, key=d.lanes.key.__getitem__)
        self.column = {lane: i for i, lane in enumerate(self.lanes)}
        self.line = {row: j for j, row in enumerate(rows)}
        m, n = len(rows), len(self.lanes)
        spend(m + n + m * n // 50)
        self.upright = [bytearray(m + 1) for _ in range(n)]  # lane i stands in gap j
        key, first = d.rows.key, d.rows.key[rows[0]] if rows else 0
        for i, lane in enumerate(self.lanes):
            t, b = d.top[lane], d.bottom[lane]
            start = -1 if t == HANGS else self.line.get(t, -1 if key[t] < first else m)
            stop = m if b == HANGS else self.line.get(b, -1)
            for j in range(start + 1, stop + 1):
                self.upright[i][j] = 1
        self.across = [bytearray(n + 1) for _ in range(m)]  # row j lies in column i
        for j, row in enumerate(rows):
            for i in range(self.column[d.left[row]] + 1, self.column[d.right[row]] + 1):
                self.across[j][i] = 1

    @property
    def bottom(self) -> int:
        """The gap below all rows."""
        return len(self.rows)

    def insert_lane(self, d: Drawing, column: int, heading: int) -> int:
        """A fresh lane in a column (not yet noted in the drawing)."""
        if column < len(self.lanes):
            return d.lanes.before(self.lanes[column])
        return d.lanes.after(self.lanes[-1])

    def wall(self, cell: Cell, heading: int) -> bool:
        """Whether a piece lies on the way from a cell to the next one."""
        i, j = cell
        if heading == LEFT:
            return bool(self.upright[i - 1][j])
        if heading == RIGHT:
            return bool(self.upright[i][j])
        return bool(self.across[j - 1][i]) if heading == UP else bool(self.across[j][i])

    def inside(self, cell: Cell) -> bool:
        return 0 <= cell[0] <= len(self.lanes) and 0 <= cell[1] <= len(self.rows)

    def beside(self, lane: int, side: int, row: int, below: bool) -> Cell:
        """The cell beside a lane, just above or below a row (row -1: at the bottom)."""
        j = self.bottom if row < 0 else self.line[row] + (1 if below else 0)
        return self.column[lane] + (1 if side > 0 else 0), j

    def search(
        self, sources: list[Source], goal: Callable[[Cell], bool], towards: int = RIGHT
    ) -> list[Cell] | None:
        """Cells from a source to a goal, its lead included; None when there is no way.

        towards : which of left and right is tried first among equals, so that a mirror image is routed mirrored.
        """
        for state, came in self._cheapest(sources, towards, turning=False):
            if goal(state[:2]):
                return _way(state, came)
        return None

    def untwisted(
        self, sources: list[Source], goal: Cell, out: int, back: int, towards: int = RIGHT
    ) -> list[Cell] | None:
        """As `search`, of the ways to a goal that are left across its edge heading `out` the one that turns least from hanging straight
        down, to the left and to the right taken together; of those the cheapest. None where every way meets itself.

        back : quarter turns to the left of what comes to the goal heading against `out` and turns round.
        """
        found: dict[int, list[Cell]] = {}
        least = abs(quarter(DOWN, out))
        for state, came in self._cheapest(sources, towards, turning=True):
            heading, turned = state[2:]
            if state[:2] != goal:
                continue
            total = abs(turned + (back if heading == out ^ 1 else quarter(heading, out)))
            if total not in found:
                way = _way(state, came)
                if len(set(way)) == len(way):
                    found[total] = way
            if least in found:
                break
        return found[min(found)] if found else None

    def _cheapest(
        self, sources: list[Source], towards: int, *, turning: bool
    ) -> Iterator[tuple[State, dict[State, State | Source]]]:
        """Everything that can be reached, the cheapest first, and whence each was. turning : whether ways that turned otherwise are told
        apart where they meet."""
        headings = (RIGHT, LEFT, UP, DOWN) if towards == RIGHT else (LEFT, RIGHT, UP, DOWN)
        best: dict[State, int] = {}
        came: dict[State, State | Source] = {}
        heap: list[tuple[int, int, State]] = []
        count = popped = 0
        for s in sources:
            state = (*s.cell, s.heading, quarter(DOWN, s.heading) if turning else 0)
            cost = s.turns * _TURN
            if cost < best.get(state, 1 << 62):
                best[state], came[state] = cost, s
                heapq.heappush(heap, (cost, count, state))
                count += 1
        while heap:
            popped += 1
            if not popped % 128:
                spend(128 * CELL)
            cost, _, state = heapq.heappop(heap)
            if cost > best[state]:
                continue
            yield state, came
            i, j, heading, turned = state
            for h in headings:
                now = turned + quarter(heading, h) if turning else 0
                if h ^ 1 == heading or abs(now) > MOST_QUARTERS:
                    continue
                at = (i + _DX[h], j + _DY[h])
                if not self.inside(at):
                    continue
                step = cost + 1 + (h != heading) * _TURN + self.wall((i, j), h) * _CROSSING
                nxt = (*at, h, now)
                if step < best.get(nxt, 1 << 62):
                    best[nxt], came[nxt] = step, state
                    heapq.heappush(heap, (step, count, nxt))
                    count += 1


def _way(state: State, came: Mapping[State, State | Source]) -> list[Cell]:
    out: list[Cell] = []
    while True:
        out.append(state[:2])
        before = came[state]
        if isinstance(before, Source):
            return [*before.lead, *reversed(out)]
        state = before


def quarter(a: int, b: int) -> int:
    """Quarter turns to the left from one heading to another."""
    return _QUARTER.get((a, b), 0)


def heading_of(a: Cell, b: Cell) -> int:
    """The direction from a cell to its neighbour."""
    if a[0] != b[0]:
        return RIGHT if b[0] > a[0] else LEFT
    return DOWN if b[1] > a[1] else UP
