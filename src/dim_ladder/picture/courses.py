"""The courses of ends on paper: where lanes and rows of a window lie, and the points along every end."""

from __future__ import annotations

import math

from dim_ladder.base.lengths import mm_words
from dim_ladder.picture.display import Command, Ink
from dim_ladder.picture.layout import Layout, layout, window_rows
from dim_ladder.picture.look import Style
from dim_ladder.picture.loops import loop_lengths, loop_points, loop_side
from dim_ladder.picture.windows import part_start
from dim_ladder.trace.ends import end_colours, end_patterns, end_widths
from dim_ladder.trace.value import Crossing, Placed, Trace

LOOP_HIGH = 0.55  # half the height of a standing loop, in rows: it stays between its neighbours
SIZE_TEXT = 1.2  # height of a size written in a loop, in radii of the discs with letters


class Courses:
    """Where lanes, rows and ends run on paper, for a window of rows as it is when a step is done."""

    def __init__(
        self, trace: Trace, first: int, step: int, ink: Ink, style: Style, last: int, focus: bool
    ) -> None:
        first = max(first, part_start(trace, step))
        last = max(last, step)
        self.t, self.first, self.step, self.ink, self.s, self.focus = trace, first, step, ink, style, focus
        self.loops = loop_lengths(trace)
        top, bottom = window_rows(trace, first, last)
        if bottom < top:  # nothing drawn here yet: just the tails below what came before
            done = window_rows(trace, 0, last)
            top, bottom = done[1] + 1, done[1]
        self.top = top
        self.lay: Layout = layout(trace, top, bottom)
        self.colours, self.patterns = end_colours(trace), end_patterns(trace)
        self.thick = end_widths(trace)
        self.lengths = self._path_lengths()
        ranks, last_row = trace.row_rank, top + self.lay.lines
        # Crossings of the window, found once: a long weave has thousands outside it.
        self.seen = [n for n, c in enumerate(trace.crossings) if top <= ranks[c.row] < last_row]
        self.record = trace.steps[step] if 0 <= step < len(trace.steps) else None
        # Work that was turned over is drawn as it lies: seen from its back.
        self.back = (self.record is not None and self.record.turned) != style.behind
        self.now = self.record.order if self.record is not None else trace.start
        self.resting = self._resting()
        u = style.unit
        self.head = u * (1.15 if style.labels else 0.7)
        self.foot = u * (1.9 if style.labels else 1.2)
        self.height = self.head + max(self.lay.lines - 1, 0) * style.row + self.foot
        # Later steps of the same knot share the layout; below what is there by now, tails hang straight.
        lines = self._lines_now()
        self.limit = lines + 1.0
        self.floor = self.head + max(lines - 1, 0) * style.row + self.foot
        placed = [p for s in trace.steps[self.first : step + 1] for p in s.placed]
        # Sizes stand in the margin where they would cover something: of free cord, and of small loops.
        small = any(p.kind == "leave" and not self.size_fits(p) for p in placed)
        self.pad = u * 2.0 if small or any(p.kind == "span" for p in placed) else 0.0
        self.width = (
            self.pad + 2 * style.margin + (self.lay.right - self.lay.left) * u + (u * 2.0 if small else 0.0)
        )

    def size_fits(self, p: Placed) -> bool:
        """Whether the size of a standing loop can be written in it."""
        return self.loops[p.row, p.lane] / 2 > len(mm_words(p.mm)) * SIZE_TEXT * self.s.letter * 0.75

    def _path_lengths(self) -> list[int]:
        """Pieces of every end's path that are there by now; 0 for an end that has not come in."""
        t = self.t
        out = [1] * t.hung + [0] * (len(t.ends) - t.hung)
        late = len(t.ends) > t.hung
        for s in t.steps[: self.step + 1]:
            if s.path_stop:
                out[s.end] = s.path_stop
            for end, _, stop in s.others:
                out[end] = stop
            if late:
                for e in s.order:
                    out[e] = out[e] or self._first_pieces(e)
        return out

    def _lines_now(self) -> int:
        """Rows of the window that are there by now."""
        rows = [window_rows(self.t, self.first, self.step)[1]]
        rows += [self.t.row_rank[self.t.tops[e]] for e in self.now if self.t.tops[e] >= 0]
        return min(max(max(rows, default=-1) - self.top + 1, 0), self.lay.lines)

    def _first_pieces(self, end: int) -> int:
        path = self.t.paths[end]
        return 3 if len(path) > 2 and self.t.tops[end] == path[1] else 1

    def _resting(self) -> set[int]:
        """Ends that only did work which was finished before: drawn quietly."""
        if len(self.t.ends) == self.t.hung:  # stitching lays an end in, so there is none
            return set()
        steps = self.t.steps[: self.step + 1]
        quiet = {e for s in steps if s.quiet for e in (s.end, *(h for hop in s.hops for h in hop.ends))}
        return quiet - {e for s in steps if not s.quiet and s.hops for e in s.ends}

    # -- places ----------------------------------------------------------------------------------

    def level(self, y: float) -> float:
        """Height in levels of the layout, of a y on the picture."""
        return 1 + (y - self.head) / self.s.row

    def px(self, lane: int, y: float) -> float:
        x = self.lay.at(lane, min(self.level(y), self.limit))
        x = 0.0 if x is None else x
        return (
            self.pad + self.s.margin + (self.lay.right - x if self.back else x - self.lay.left) * self.s.unit
        )

    def lane_over(self, c: Crossing) -> bool:
        """Whether the upright piece is in front, as seen from the side that lies up."""
        return c.lane_over != self.back

    def over_end(self, c: Crossing) -> int:
        return c.lane_end if self.lane_over(c) else c.row_end

    def py(self, row: int) -> float:
        return self.head + (self.t.row_rank[row] - self.top) * self.s.row

    def shows(self, row: int) -> bool:
        return 0 <= self.t.row_rank[row] - self.top < self.lay.lines

    def upright(self, lane: int, y0: float, y1: float) -> list[tuple[float, float]]:
        """Points along a lane from y0 to y1, both included; more than the two only where the layout shifts it."""
        down = y1 > y0
        out = [(self.px(lane, y0), y0)]
        lo, hi = sorted((self.level(y0), self.level(y1)))
        for k in range(max(int(lo), 0), int(hi) + 1):  # what lies above the picture is not laid out
            if k + 1 >= len(self.lay.levels):
                break
            a, b = self.lay.levels[k].get(lane), self.lay.levels[k + 1].get(lane)
            if a is None or b is None or abs(a - b) < 1e-3:
                continue
            for f in (0.0, 0.2, 0.4, 0.6, 0.8):
                if lo + 0.3 < k + f < hi - 0.3:  # corners keep room to turn
                    y = self.head + (k + f - 1) * self.s.row
                    out.append((self.px(lane, y), y))
        body = sorted(out[1:], key=lambda p: p[1], reverse=not down)
        return [out[0], *body, (self.px(lane, y1), y1)]

    # -- paths -----------------------------------------------------------------------------------

    def run(self, end: int, start: int, stop: int, y_from: float | None = None) -> list[tuple[float, float]]:
        """Points of an end from piece start to the tip of piece stop - 1 (a lane, down to its tip).

        y_from : where to begin on the first lane; by default at the top of the picture.
        """
        path = self.t.paths[end]
        out: list[tuple[float, float]] = []
        fold = bool(stop > 1 and self.t.tops[end] == path[1])
        y = self._top_y(end) if y_from is None else y_from
        for i in range(start, stop):
            if i % 2:
                continue
            lane = path[i]
            last = i + 1 >= stop
            if not i and fold:  # a cord laid in: it begins at its other end
                other = next((b for a, b in self.t.folds if a == end), end)
                y = self.py(path[1])
                out.append((self.px(self.t.paths[other][0], y), y))
                continue
            if not last and self.t.row_rank[path[i + 1]] < self.top:
                out.clear()
                y = 0.0
                continue
            y1 = self._tip_y(end, i) if last else self.py(path[i + 1])
            if last and y1 < y:
                break
            before = path[i - 1] if i > start else -1
            after = -1 if last else path[i + 1]
            out += self._with_loops(lane, before, after, self.upright(lane, y, y1))
            y = y1
        return out

    def earlier(self, end: int, stop: int) -> list[list[tuple[float, float]]]:
        """Where an end, before its piece `stop`, came into the picture and went out of it again at the top."""
        path, out = self.t.paths[end], []
        y, pts = self._top_y(end), list[tuple[float, float]]()
        for i in range(2 if stop > 1 and self.t.tops[end] == path[1] else 0, stop - 1, 2):
            lane, row = path[i], path[i + 1]
            if self.t.row_rank[row] >= self.top:
                before = path[i - 1] if i else -1
                pts += self._with_loops(lane, before, row, self.upright(lane, y, self.py(row)))
                y = self.py(row)
                continue
            if pts:
                out.append([*pts, *self.upright(lane, y, 0.0)])
            y, pts = 0.0, []
        return out

    def _with_loops(
        self, lane: int, before: int, after: int, pts: list[tuple[float, float]]
    ) -> list[tuple[float, float]]:
        """Points of a lane between two rows (-1: none), with the loops that stand in its turns."""
        for row, at in ((before, 0), (after, -1)):
            length = self.loops.get((row, lane))
            if length is None:
                continue
            (x, y), side = pts[at], loop_side(self.t, row, lane) * (-1 if self.back else 1)
            loop = loop_points(x, y, side * length / 2 * self.s.unit, LOOP_HIGH * self.s.row)
            # It leaves the lane above the row where the lane comes from above, and comes back to the row.
            from_above = pts[0][1] < pts[-1][1] if at else pts[-1][1] < pts[0][1]
            loop = loop if from_above == (at == -1) else [(a, 2 * y - b) for a, b in loop]
            pts = [*pts[:-1], *loop] if at else [*loop[::-1], *pts[1:]]
        return pts

    def whole(self, end: int) -> list[tuple[float, float]]:
        return self.run(end, 0, self.lengths[end])

    def _top_y(self, end: int) -> float:
        row = self.t.tops[end]
        return 0.0 if row < 0 else max(0.0, self.py(row))

    def _tip_y(self, end: int, i: int) -> float:
        tip = self.t.tips[end]
        if end not in self.now and tip >= 0 and i == len(self.t.paths[end]) - 1:
            return min(self.py(tip), self.floor)  # it was dropped
        room = self.s.unit * (0.95 if self.s.labels else 0.2)
        moving = self.record is not None and bool(self.record.hops) and end in self.record.ends
        return self.floor - room - (0.12 * self.s.unit if moving and self.focus else 0.0)

    def new_part(self, end: int, start: int, stop: int) -> list[tuple[float, float]]:
        """From where a moving end left its tail, to its tip."""
        if start >= stop:
            return []
        turn = self.py(self.t.paths[end][start])
        return self.run(end, start - 1, stop, max(turn - self.s.row * 0.75, 0.0))

    def rounded(self, pts: list[tuple[float, float]]) -> tuple[Command, ...]:
        r = self.s.unit * 0.42
        out: list[Command] = [("M", pts[0])]
        for i in range(1, len(pts) - 1):
            (ax, ay), (bx, by), (cx, cy) = pts[i - 1], pts[i], pts[i + 1]
            la, lc = math.hypot(ax - bx, ay - by), math.hypot(cx - bx, cy - by)
            if la < 1e-6 or lc < 1e-6:
                continue
            # A corner turns at its row; the points between are already a smooth curve.
            corner = (abs(ay - by) < 1e-6) != (abs(cy - by) < 1e-6)
            k = min(
                r, la / 2 if abs(ay - by) < 1e-6 else la * 0.95, lc / 2 if abs(cy - by) < 1e-6 else lc * 0.95
            )
            if not corner or k < 0.5:
                out.append(("L", (bx, by)))
                continue
            out.append(("L", (bx + (ax - bx) / la * k, by + (ay - by) / la * k)))
            out.append(("Q", (bx, by, bx + (cx - bx) / lc * k, by + (cy - by) / lc * k)))
        out.append(("L", pts[-1]))
        return tuple(out)

    def _without_new(self, end: int, new: tuple[int, int] | None) -> list[tuple[float, float]]:
        if new is None or new[0] >= new[1]:
            return self.whole(end)
        path, start = self.t.paths[end], new[0]
        stop = max(self.py(path[start]) - self.s.row * 0.4, 1.0)
        lane = path[start - 1]
        top = self._top_y(end) if start == 1 else 0.0
        keep: list[tuple[float, float]] = []
        if start > 1 and self.shows(path[start - 2]):
            top = self.py(path[start - 2])
            keep = self._until_row(end, start)
        return [*keep, *self.upright(lane, top, stop)]

    def _until_row(self, end: int, stop: int) -> list[tuple[float, float]]:
        """Points up to the row before the lane at stop - 1."""
        path = self.t.paths[end]
        out: list[tuple[float, float]] = []
        y = self._top_y(end)
        fold = self.t.tops[end] == path[1]
        for i in range(0, stop - 1, 2):
            if not i and fold:
                other = next((b for a, b in self.t.folds if a == end), end)
                y = self.py(path[1])
                out.append((self.px(self.t.paths[other][0], y), y))
                continue
            if self.t.row_rank[path[i + 1]] < self.top:
                out.clear()
                y = 0.0
                continue
            y1 = self.py(path[i + 1])
            out += self.upright(path[i], y, y1)
            y = y1
        return out

    def _lane_at(self, end: int, row: int, otherwise: int) -> int:
        path = self.t.paths[end]
        rank = self.t.row_rank
        for i in range(0, len(path), 2):
            a = rank[path[i - 1]] if i else -1
            b = rank[path[i + 1]] if i + 1 < len(path) else 1 << 60
            if min(a, b) <= rank[row] <= max(a, b):
                return path[i]
        return otherwise
