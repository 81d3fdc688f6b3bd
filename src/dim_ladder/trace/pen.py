"""One end on its way through a step: passes through loops, and where the tail falls.

A run of over/under is a row below everything, so only tails cross it. A pass goes wholly behind (or in front of)
everything into a region, out across one edge of it in front (behind), and down the same way: up to isotopy it is
settled by the regions it joins, so the router may take the way with the fewest crossings. What could rest on either
side is settled by one rule, the same in a mirror: a moved end rests as close as possible beyond the last tail it
crossed; an end that came out of a loop falls straight down, as close as possible outside the loop's edge.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from dim_ladder.trace.drawing import HANGS, StepError
from dim_ladder.trace.grid import DOWN, LEFT, MOST_ROWS, RIGHT, UP, Cell, Grid, Source, heading_of
from dim_ladder.trace.runs import Runs
from dim_ladder.trace.value import Bend


class Pen(Runs):
    """An end that can do every hop."""

    __slots__ = ()

    def rest(self) -> None:
        self.settle()
        if self.row >= 0:
            row, side = self.row, self.side
            self.land()
            self.bends.append(Bend(self.from_lane, row, -side, below=True))

    # -- passes ----------------------------------------------------------------------------------------

    def through(self, bend: Bend, up: bool, place: int | None = None, stay: bool = False) -> int:
        """Into a region from behind (`up`) or from the front, out across its edge; the crossing with the edge.

        place : where the tail is to rest among all tails, from 0; None: where it falls. stay : do not let it fall,
        because the next hop goes on from here on the same side of the work.
        """
        self._check_edge(bend)
        edge = self._quick(bend, up) if place is None and not stay and not self.open else -1
        if edge < 0:
            edge = self.into(bend, up)
            if stay:
                self.open = True
            else:
                self.fall(up, place)
        self.front = up
        return edge

    def _check_edge(self, bend: Bend) -> None:
        d = self.d
        own = [self.from_lane] if self.row < 0 else []
        for e in self.with_it:
            own.append(d.tail_lane(e))
        if bend.lane in own and not bend.by_row and (bend.below or bend.row < 0):
            raise StepError(
                f"{self.name(self.end)} cannot pass over its own tail",
                "Make a loop first, as in: over own left @eye",
            )

    def _quick(self, bend: Bend, up: bool) -> int:
        """The plain leg beside the bend, where nothing can be shorter; -1 where something might be."""
        d = self.d
        if bend.below or bend.by_row or bend.row < 0:
            return -1
        key = d.lanes.key
        edges = self._edges(bend)
        inner = d.lanes.after(edges[0]) if bend.side > 0 else d.lanes.before(edges[0])
        outer = d.lanes.before(edges[-1]) if bend.side > 0 else d.lanes.after(edges[-1])
        here = self.last if self.row >= 0 and self.last >= 0 else self.from_lane
        side = 1 if key[inner] > key[here] else -1
        order, i = d.order, self.index
        met = 2 if side == bend.side else 0  # it would come in over or under the very edge it goes out by
        while 0 <= i + side < len(order) and (key[d.paths[order[i + side]][-1]] - key[inner]) * side < 0:
            i += side
            met += 1
        strip = self.strip[side]
        if (
            self.row < 0
            and self.from_lane == self.start_lane
            and strip
            and (key[inner] - key[strip[-1]]) * side < 0
        ):
            met = 2  # a strip turns as a whole, past its outermost lane
        above = d.rows.prev(bend.row)
        rising = d.rows_spanning(inner, above, HANGS)
        if self.row >= 0:
            rising = [r for r in rising if r != self.row]
        if met + len(rising) > 1 or d.rows_spanning(outer, above, HANGS):
            d.lanes.pop()
            d.lanes.pop()
            return -1
        d.lane(inner, HANGS, self.end)
        d.lane(outer, HANGS, self.end)
        behind = up
        turned = self.row >= 0 and side != self.side  # the row it was on gets an end, and may be met
        if self.row < 0 or turned:
            self._begin_row(side)
        base = self.row
        i = self.index
        while 0 <= i + side < len(order) and (key[d.paths[order[i + side]][-1]] - key[inner]) * side < 0:
            i += side
            d.cross(d.paths[order[i]][-1], base, behind)
        path = d.paths[self.end]
        d.span(base, path[-2], inner)
        row = d.rows.before(bend.row)
        d.row(row, inner, outer, self.end)
        d.top[inner], d.bottom[inner], d.top[outer] = row, base, row
        for r in d.rows_spanning(inner, row, base) if turned else rising:
            d.cross(inner, r, not behind)
        edge = len(d.crossings)
        for lane in edges:
            d.cross(lane, row, not behind)
        path += [inner, row, outer]
        if turned:
            for r in reversed(d.rows_spanning(outer, row, HANGS)):
                d.cross(outer, r, behind)
        self._come_out(outer, row, bend.side)
        d.hang(self.end)
        return edge

    def _edges(self, bend: Bend) -> list[int]:
        """Lanes to pass over on the way out of a loop, from inside: one, or for a strip's own first turn all of it."""
        if bend.by_row or bend.below or bend.lane != self.start_lane:
            return [bend.lane]
        return [*reversed(self.strip[bend.side]), bend.lane, *self.strip[-bend.side]]

    def _come_out(self, lane: int, row: int, side: int) -> None:
        self.bends.append(Bend(lane, row, side, below=True))
        self.from_lane, self.row, self.side, self.last = lane, -1, 0, -1

    def past(self, sides: tuple[Bend, Bend], over: bool) -> None:
        """Over or under a strand that borders the region the end is in, and stay on its far side.

        sides : the regions on either side of the strand.
        """
        if self.row >= 0:
            self.land()
            self.d.hang(self.end)
        for bend in sides:
            self._check_edge(bend)
        for bend in sides:
            if self._free(bend):
                self.into(bend, over)
                self.open, self.front = True, over
                return
        raise StepError(
            f"{self.name(self.end)} does not lie beside that strand now", "Cross what lies between them first"
        )

    def _free(self, bend: Bend) -> bool:
        """Whether a region can be reached without crossing anything."""
        grid, cell, sources = self._field(bend)
        ways = grid.search(sources, lambda c: c == cell)
        return ways is not None and not any(grid.wall(a, heading_of(a, b)) for a, b in pairwise(ways))

    def _field(self, bend: Bend) -> tuple[Grid, Cell, list[Source]]:
        """The part of the drawing between here and a region, the region's cell, and where ways begin."""
        d = self.d
        if self.row >= 0:
            last = self.last if self.last >= 0 else self.from_lane
            d.span(self.row, d.paths[self.end][-2], last)
        first = bend.row if bend.row >= 0 else d.rows.last
        if self.open and d.rows.key[d.top[self.from_lane]] < d.rows.key[first]:
            first = d.top[self.from_lane]
        edges = self._edges(bend)
        grid = Grid(d, first, [*edges, *self.strip[-1], *self.strip[1]])
        if len(grid.rows) > MOST_ROWS:
            raise StepError(
                "that loop lies too far up to be reached", f"Pass a loop among the last {MOST_ROWS} rows"
            )
        cell = grid.beside(edges[0], bend.side, bend.row, bend.below)
        if not self.open:
            return grid, cell, self._sources(grid)
        lane, top = self.from_lane, d.top[self.from_lane]
        below, above = grid.beside(lane, -1, top, True), grid.beside(lane, -1, top, False)
        return grid, cell, [Source(below, DOWN), Source(above, UP, 1)]

    def settle(self, place: int | None = None) -> None:
        """Let an end that stayed where it came out fall to the bottom, in front or behind as its last hop went."""
        if self.open:
            self.open = False
            self.fall(self.front, place)

    def into(self, bend: Bend, up: bool, doubled: bool = False) -> int:
        """Lay the way into a region and across its edge by the router, to an open lane outside; the edge crossing.

        doubled : it goes there as a bight, whose legs must not be twisted about each other on the way.
        """
        self._check_edge(bend)
        d = self.d
        path = d.paths[self.end]
        grid, cell, sources = self._field(bend)
        edges = self._edges(bend)
        if bend.by_row:
            out = UP if bend.below else DOWN
        else:
            out = LEFT if bend.side > 0 else RIGHT
        open_to = DOWN
        towards = RIGHT if bend.side < 0 else LEFT
        ways = None
        if doubled and not self.open:
            # Of one that turns round inside: see _turn_round.
            back = {LEFT: -2, RIGHT: 2, UP: -2, DOWN: 2}[out]
            ways = grid.untwisted(sources, cell, out, back, towards)
        ways = ways or grid.search(sources, lambda c: c == cell, towards)
        if self.open and ways:
            open_to, self.open = UP if ways[0] == sources[1].cell else DOWN, False
            if open_to == UP and self.bends and self.bends[-1].lane == self.from_lane:
                self.bends[-1] = self.bends[-1]._replace(below=False)
        if ways is None:
            raise StepError("there is no way to that loop")
        outside = (cell[0] + (out == RIGHT) - (out == LEFT), cell[1] + (out == DOWN) - (out == UP))
        if not grid.inside(outside):
            raise StepError("there is nothing to pass over at that loop", "Name another loop")
        further = [outside]
        for lane in edges[1:]:
            further.append((grid.column[lane] + (1 if out == RIGHT else 0), outside[1]))
        back = len(ways) > 1 and heading_of(ways[-2], ways[-1]) == out ^ 1
        if back:  # it came in over the edge it goes out by: turn round inside
            self._lay(grid, ways, lambda i: not up, open_to)
            self._turn_round(bend.by_row)
            for lane in [path[-1]] if bend.by_row else edges:
                d.cross(lane, bend.row if bend.by_row else path[-1], up if bend.by_row else not up)
        else:
            self._lay(grid, [*ways, *further], lambda i: up if i >= len(ways) - 1 else not up, open_to)
        edge = len(d.crossings) - len(further)
        c = d.crossings[edge]
        if (c.row if bend.by_row else c.lane) != (bend.row if bend.by_row else edges[0]):
            raise StepError("there is nothing to pass over at that loop", "Name another loop")
        if len(path) % 2:  # it left upwards or downwards, on a lane: give it a row to turn on
            lane = path[-1]
            row = d.rows.before(bend.row) if out == UP else d.rows.after(bend.row)
            d.row(row, lane, lane, self.end)
            (d.top if out == UP else d.bottom)[lane] = row
            d.tips[self.end] = row
            path.append(row)
            lane2 = d.lanes.after(lane) if bend.side > 0 else d.lanes.before(lane)
        else:
            row = path[-1]
            hug = edges[-1]
            lane2 = d.lanes.before(hug) if out == LEFT else d.lanes.after(hug)
        d.lane(lane2, row, self.end, row)
        path.append(lane2)
        d.span(row, path[-3], lane2)
        self._come_out(lane2, row, 1 if out == LEFT else -1 if out == RIGHT else -bend.side)
        return edge

    def _turn_round(self, on_lane: bool) -> None:
        """Turn back the way the open piece came, right beside it and below it (left of it)."""
        d = self.d
        path = d.paths[self.end]
        if on_lane:
            lane, going_up = path[-1], self.heading == UP
            past = d.crossings[d.lane_crossings[lane][-1]].row if d.lane_crossings[lane] else path[-2]
            row = d.rows.before(past) if going_up else d.rows.after(past)
            d.row(row, lane, lane, self.end)
            (d.top if going_up else d.bottom)[lane] = row
            back = d.lanes.before(lane)
            d.lane(back, HANGS if not going_up else row, self.end, row if not going_up else HANGS)
            path += [row, back]
            d.span(row, lane, back)
            return
        row = path[-1]
        left = self.heading == LEFT
        met = [d.crossings[n].lane for n in d.row_crossings[row]]
        last = met[-1] if met else path[-2]
        lane = d.lanes.before(last) if left else d.lanes.after(last)
        below = d.rows.after(row)
        d.lane(lane, row, self.end, below)
        d.row(below, lane, lane, self.end)
        d.span(row, path[-2], lane)
        path += [lane, below]

    def _sources(self, grid: Grid) -> list[Source]:
        if self.row >= 0 and self.last >= 0:
            column = grid.column[self.last] + (1 if self.side > 0 else 0)
            ahead = RIGHT if self.side > 0 else LEFT
            return [Source((column, grid.bottom), ahead), Source((column, grid.bottom), DOWN, 1)]
        # A strip turns as a whole: past the outermost of its lanes on the side it turns to.
        left = right = self.from_lane
        if self.from_lane == self.start_lane:
            left = self.strip[-1][-1] if self.strip[-1] else left
            right = self.strip[1][-1] if self.strip[1] else right
        return [
            Source((grid.column[left], grid.bottom), LEFT, 1),
            Source((grid.column[right] + 1, grid.bottom), RIGHT, 1),
        ]

    def _lay(self, grid: Grid, cells: list[Cell], front: Callable[[int], bool], open_to: int = DOWN) -> None:
        """Draw a way through cells; front(i) says whether its i-th move goes in front of what it meets."""
        d = self.d
        path = d.paths[self.end]
        heading = (RIGHT if self.side > 0 else LEFT) if self.row >= 0 else open_to
        if self.row >= 0 and len(cells) > 1 and heading_of(cells[0], cells[1]) == heading ^ 1:
            self.land()
            heading = DOWN
        elif self.row < 0 and d.bottom[self.from_lane] == HANGS:
            # Still hanging: turn to the side the way begins on.
            side = 1 if cells[0][0] > grid.column[self.from_lane] else -1
            self._begin_row(side)
            heading = RIGHT if side > 0 else LEFT
        on_row = self.row >= 0
        for i in range(len(cells) - 1):
            h = heading_of(cells[i], cells[i + 1])
            wall = grid.wall(cells[i], h)
            column, gap = cells[i]
            if h in (LEFT, RIGHT):
                if not on_row:
                    lane = path[-1]
                    row = d.rows.append() if gap == grid.bottom else d.rows.before(grid.rows[gap])
                    d.row(row, lane, lane, self.end)
                    (d.top if heading == UP else d.bottom)[lane] = row
                    d.tips[self.end] = row
                    path.append(row)
                    if heading == DOWN:
                        self._turned(lane, row, 1 if h == RIGHT else -1)
                    on_row = True
                if wall:
                    d.cross(grid.lanes[column if h == RIGHT else column - 1], path[-1], not front(i))
            else:
                if on_row:
                    row = path[-1]
                    lane = grid.insert_lane(d, column, h)
                    d.lane(lane, row, self.end, row)
                    (d.bottom if h == DOWN else d.top)[lane] = HANGS
                    d.span(row, path[-2], lane)
                    path.append(lane)
                    on_row = False
                if wall:
                    d.cross(path[-1], grid.rows[gap if h == DOWN else gap - 1], front(i))
            heading = h
        self.heading = heading
        self.row, self.last = -1, -1

    def fall(self, up: bool, place: int | None) -> None:
        """From an open lane outside a loop down to the bottom, in front (`up`) or behind."""
        d = self.d
        lane = self.from_lane
        key = d.lanes.key
        order = [e for e in d.order if e != self.end]
        top = d.top[lane]
        falling = d.rows_spanning(lane, top, HANGS)
        gap = sum(1 for e in order if key[d.paths[e][-1]] < key[lane])
        if falling or (place is not None and place != gap):
            want = gap if place is None else place
            grid = Grid(d, top, [lane])
            if len(grid.rows) <= MOST_ROWS:
                lo = grid.column[d.paths[order[want - 1]][-1]] if want > 0 else -1
                hi = grid.column[d.paths[order[want]][-1]] if want < len(order) else len(grid.lanes)
                below, above = grid.beside(lane, -1, top, True), grid.beside(lane, -1, top, False)
                cells = grid.search(
                    [Source(below, DOWN), Source(above, UP, 1)],
                    lambda c: c[1] == grid.bottom and lo < c[0] <= hi,
                    RIGHT,
                )
                crossings = sum(grid.wall(a, heading_of(a, b)) for a, b in pairwise(cells)) if cells else 0
                if cells and (want != gap or crossings < len(falling)):
                    self._fall_along(grid, cells, up, UP if cells[0] == above else DOWN)
                    return
        d.bottom[lane] = HANGS
        for r in reversed(falling):
            d.cross(lane, r, up)
        d.hang(self.end)

    def _fall_along(self, grid: Grid, cells: list[Cell], up: bool, heading: int) -> None:
        d = self.d
        bends = list(self.bends)
        if heading == UP and bends and bends[-1].lane == self.from_lane:
            bends[-1] = bends[-1]._replace(below=False)
        self._lay(grid, cells, lambda i: up, heading)
        self.bends = bends
        path = d.paths[self.end]
        if len(path) % 2 == 0:
            row = path[-1]
            lane = grid.insert_lane(d, cells[-1][0], DOWN)
            d.lane(lane, row, self.end)
            d.span(row, path[-2], lane)
            path.append(lane)
        self.from_lane = path[-1]
        d.hang(self.end)
