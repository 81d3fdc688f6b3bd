"""The drawing under construction: lanes, rows, crossings, and the path of every end on them.

Every lane holds exactly one vertical piece of one end, every row exactly one horizontal piece; both axes are
insertable. A crossing is decided once, when the later piece is laid. Everything can be taken back to a mark.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from dim_ladder.trace.axis import Axis
from dim_ladder.trace.value import Bend, Crossing

HANGS = -1  # a lane's bottom while its end hangs; a lane's top at the bar


class StepError(Exception):
    """A step that cannot be made here; message and hint for the person."""

    def __init__(self, message: str, hint: str = "") -> None:
        super().__init__(message)
        self.message, self.hint = message, hint


class Named(NamedTuple):
    """A loop that was given a name, in which unit of which section."""

    name: str
    bend: Bend
    end: int
    section: int
    unit: int


@dataclass(frozen=True, slots=True)
class Mark:
    """A moment of the drawing. tips : per end the row at which its tail stops, HANGS while it hangs."""

    lanes: int
    rows: int
    crossings: int
    names: int
    folds: int
    order: tuple[int, ...]
    paths: tuple[int, ...]
    tips: tuple[int, ...]
    bends: tuple[tuple[Bend, ...], ...]


class Drawing:
    """Lanes, rows and crossings. Ends are numbered by their place at the start, later ones in order of coming."""

    def __init__(self, count: int) -> None:
        self.lanes, self.rows = Axis(), Axis()
        self.top: list[int] = []  # per lane: row where its piece starts, HANGS at the bar
        self.bottom: list[int] = []  # per lane: row where it ends, HANGS while it hangs
        self.left: list[int] = []  # per row: leftmost lane of its piece
        self.right: list[int] = []
        self.row_end: list[int] = []  # per row: whose piece it holds
        self.lane_end: list[int] = []
        self.lane_crossings: list[list[int]] = []
        self.row_crossings: list[list[int]] = []
        self.crossings: list[Crossing] = []
        self.order = list(range(count))
        self.paths: list[list[int]] = []
        self.tips: list[int] = []
        self.bends: list[tuple[Bend, ...]] = []
        self.named: list[Named] = []
        self.folds: list[tuple[int, int]] = []  # ends of one cord that was laid in by its fold
        for _ in range(count):
            self.new_end(self.lanes.append(), HANGS)

    # -- marks -----------------------------------------------------------------------------------

    def mark(self) -> Mark:
        return Mark(
            len(self.lanes),
            len(self.rows),
            len(self.crossings),
            len(self.named),
            len(self.folds),
            tuple(self.order),
            tuple(map(len, self.paths)),
            tuple(self.tips),
            tuple(self.bends),
        )

    def back_to(self, mark: Mark) -> None:
        for _ in range(len(self.crossings) - mark.crossings):
            c = self.crossings.pop()
            self.lane_crossings[c.lane].pop()
            self.row_crossings[c.row].pop()
        del self.paths[len(mark.paths) :]
        del self.tips[len(mark.paths) :]
        del self.bends[len(mark.paths) :]
        for end, length in enumerate(mark.paths):
            path = self.paths[end]
            del path[length:]
            self.bottom[path[-1]] = self.tips[end] = mark.tips[end]
        while len(self.lanes) > mark.lanes:
            self.lanes.pop()
            self.top.pop()
            self.bottom.pop()
            self.lane_end.pop()
            self.lane_crossings.pop()
        while len(self.rows) > mark.rows:
            self.rows.pop()
            self.left.pop()
            self.right.pop()
            self.row_end.pop()
            self.row_crossings.pop()
        del self.named[mark.names :]
        del self.folds[mark.folds :]
        self.order = list(mark.order)
        self.bends = list(mark.bends)

    # -- pieces ----------------------------------------------------------------------------------

    def new_end(self, lane: int, top: int) -> int:
        """A further end, hanging from a row or the bar on a lane just taken from the axis."""
        end = len(self.paths)
        self.lane(lane, top, end)
        self.paths.append([lane])
        self.tips.append(HANGS)
        self.bends.append(())
        return end

    def lane(self, lane: int, top: int, end: int, bottom: int = HANGS) -> int:
        """Note the vertical piece of an end on a lane just taken from the axis."""
        self.top.append(top)
        self.bottom.append(bottom)
        self.lane_end.append(end)
        self.lane_crossings.append([])
        return lane

    def row(self, row: int, a: int, b: int, end: int) -> int:
        """Note the horizontal piece of an end on a row just taken from the axis, between lanes a and b."""
        self.left.append(a)
        self.right.append(b)
        self.row_end.append(end)
        self.row_crossings.append([])
        self.span(row, a, b)
        return row

    def span(self, row: int, a: int, b: int) -> None:
        """Let a row's piece reach from lane a to lane b, whichever lies left."""
        key = self.lanes.key
        self.left[row], self.right[row] = (a, b) if key[a] <= key[b] else (b, a)

    def cross(self, lane: int, row: int, lane_over: bool) -> None:
        n = len(self.crossings)
        self.crossings.append(Crossing(lane, row, lane_over, self.lane_end[lane], self.row_end[row]))
        self.lane_crossings[lane].append(n)
        self.row_crossings[row].append(n)

    def rows_spanning(self, lane: int, top: int, bottom: int) -> list[int]:
        """Rows strictly between two rows (bottom HANGS: to the end) whose piece crosses a lane, upwards."""
        key = self.lanes.key
        k = key[lane]
        rows = self.rows
        out = []
        r = rows.last if bottom < 0 else rows.prev(bottom)
        while r != top and r >= 0:
            if key[self.left[r]] < k < key[self.right[r]]:
                out.append(r)
            r = rows.prev(r)
        return out

    def lanes_spanning(self, row: int, a: int, b: int) -> list[int]:
        """Lanes strictly between lanes a and b whose piece crosses a row, from a towards b."""
        key, rk = self.lanes.key, self.rows.key
        k = rk[row]
        step = self.lanes.next if key[a] < key[b] else self.lanes.prev
        out = []
        lane = step(a)
        while lane != b and lane >= 0:
            if lane < len(self.top):
                t, u = self.top[lane], self.bottom[lane]
                if (t == HANGS or rk[t] < k) and (u == HANGS or rk[u] > k):
                    out.append(lane)
            lane = step(lane)
        return out

    def tail_lane(self, end: int) -> int:
        return self.paths[end][-1]

    def cut(self, end: int, row: int) -> int:
        """End the hanging lane of an end at a row; the lane."""
        lane = self.paths[end][-1]
        self.bottom[lane] = self.tips[end] = row
        return lane

    def hang(self, end: int) -> None:
        """Let the last lane of an end hang, and put the end where that lane falls among the tails."""
        lane = self.paths[end][-1]
        self.bottom[lane] = self.tips[end] = HANGS
        key = self.lanes.key
        order = self.order
        if end in order:
            order.remove(end)
        k = key[lane]
        at = next((i for i, e in enumerate(order) if key[self.paths[e][-1]] > k), len(order))
        order.insert(at, end)

    def stop(self, ends: Sequence[int]) -> None:
        """Take hanging ends out of the tails: their lanes stop at a fresh row below everything."""
        if not ends:
            return
        row = self.rows.append()
        first = self.paths[ends[0]][-1]
        self.row(row, first, first, ends[0])
        for end in ends:
            self.order.remove(end)
            self.bottom[self.paths[end][-1]] = self.tips[end] = row

    def heading(self, end: int, i: int) -> int:
        """Direction of piece i of an end's path, walked from the bar: lanes +1 down, -1 up; rows +1 right, -1 left."""
        path = self.paths[end]
        if i % 2:
            key = self.lanes.key
            return 1 if key[path[i + 1]] > key[path[i - 1]] else -1
        if i == 0 or i == len(path) - 1:
            return 1
        key = self.rows.key
        return 1 if key[path[i + 1]] > key[path[i - 1]] else -1
