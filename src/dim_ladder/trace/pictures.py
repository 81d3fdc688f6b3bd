"""The diagram as a picture: cords in their colours, gaps at unders, the moving end strong, loop passages ringed."""

from __future__ import annotations

import math
from dataclasses import dataclass

from dim_ladder.base.colours import lightness, mix
from dim_ladder.trace.display import (
    PAPER,
    Anchor,
    Area,
    Command,
    Disc,
    Ink,
    Label,
    Line,
    Picture,
    Shape,
    cord_lines,
)
from dim_ladder.trace.layout import Layout, layout, window_rows
from dim_ladder.trace.value import Crossing, Trace


@dataclass(frozen=True, slots=True)
class Style:
    """Sizes in pixels. unit : spacing of cords; row : of rows; cord : drawn width of a cord."""

    unit: float = 26.0
    row: float = 28.0
    cord: float = 12.0
    quiet: float = 0.42
    labels: bool = True

    @property
    def margin(self) -> float:
        return self.unit * 0.8


def letter(end: int) -> str:
    """A, B, ..., Z, AA, AB, ... by place at the start."""
    return chr(65 + end) if end < 26 else letter(end // 26 - 1) + letter(end % 26)


def end_colours(trace: Trace) -> list[str]:
    return [c.colour if (c := trace.weave.cord_of(e)) else "#888888" for e in trace.ends]


def end_patterns(trace: Trace) -> list[int]:
    names = [c.name for c in trace.weave.cords]
    return [names.index(n) if (n := e.split(".")[0]) in names else 0 for e in trace.ends]


def window_of(trace: Trace, step: int) -> int:
    """First step to show with a step: its knot from the start, or for bare steps the few before it."""
    if not 0 <= step < len(trace.steps):
        return max(0, step)
    op = trace.steps[step].op
    first = step
    while first > 0 and trace.steps[first - 1].op is op:
        first -= 1
    if trace.steps[step].knot_step < 0:
        while first > 0 and step - first < 3 and trace.steps[first - 1].op.unit == op.unit:
            first -= 1
    return first


def step_picture(
    trace: Trace, step: int, ink: Ink = PAPER, style: Style | None = None, last: int | None = None
) -> Picture:
    """One step: what was there before quiet, the moving end strong with an arrow, its passages ringed.

    last : lay out as far as this step, so that the pictures of one knot have the same layout.
    """
    first = window_of(trace, step)
    if last is None:
        last = step
        while last + 1 < len(trace.steps) and window_of(trace, last + 1) == first:
            last += 1
    return diagram(trace, first, step, ink, style, layout_to=last, focus=True)


def diagram(
    trace: Trace,
    first: int,
    step: int,
    ink: Ink = PAPER,
    style: Style | None = None,
    *,
    layout_to: int | None = None,
    focus: bool = False,
) -> Picture:
    """The drawing of steps first..step as it is when `step` is done.

    focus : everything but the moving end is quiet. Otherwise all is in full colour.
    """
    style = style or Style()
    return _Painter(trace, first, step, ink, style, step if layout_to is None else layout_to, focus).picture()


class _Painter:
    def __init__(
        self, trace: Trace, first: int, step: int, ink: Ink, style: Style, last: int, focus: bool
    ) -> None:
        self.t, self.first, self.step, self.ink, self.s, self.focus = trace, first, step, ink, style, focus
        top, bottom = window_rows(trace, first, last)
        if bottom < top:  # nothing drawn here yet: just the tails below what came before
            done = window_rows(trace, 0, last)
            top, bottom = done[1] + 1, done[1]
        self.top = top
        self.lay: Layout = layout(trace, top, bottom)
        self.colours, self.patterns = end_colours(trace), end_patterns(trace)
        self.lengths = self._path_lengths()
        ranks, last_row = trace.row_rank, top + self.lay.lines
        # Crossings of the window, found once: a long weave has thousands outside it.
        self.seen = [n for n, c in enumerate(trace.crossings) if top <= ranks[c.row] < last_row]
        self.record = trace.steps[step] if 0 <= step < len(trace.steps) else None
        u = style.unit
        self.head = u * (1.15 if style.labels else 0.7)
        self.foot = u * (1.9 if style.labels else 1.2)
        self.height = self.head + max(self.lay.lines - 1, 0) * style.row + self.foot
        self.width = 2 * style.margin + (self.lay.right - self.lay.left) * u

    def _path_lengths(self) -> list[int]:
        out = [1] * len(self.t.ends)
        for s in self.t.steps[: self.step + 1]:
            if s.path_stop:
                out[s.end] = s.path_stop
        return out

    # -- places ----------------------------------------------------------------------------------

    def level(self, y: float) -> float:
        """Height in levels of the layout, of a y on the picture."""
        return 1 + (y - self.head) / self.s.row

    def px(self, lane: int, y: float) -> float:
        x = self.lay.at(lane, self.level(y))
        return self.s.margin + ((0.0 if x is None else x) - self.lay.left) * self.s.unit

    def py(self, row: int) -> float:
        return self.head + (self.t.row_rank[row] - self.top) * self.s.row

    def shows(self, row: int) -> bool:
        return 0 <= self.t.row_rank[row] - self.top < self.lay.lines

    def upright(self, lane: int, y0: float, y1: float) -> list[tuple[float, float]]:
        """Points along a lane from y0 to y1, both included; more than the two only where the layout shifts it."""
        down = y1 > y0
        out = [(self.px(lane, y0), y0)]
        lo, hi = sorted((self.level(y0), self.level(y1)))
        for k in range(int(lo), int(hi) + 1):
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
        y = 0.0 if y_from is None else y_from
        for i in range(start, stop):
            if i % 2:
                continue
            lane = path[i]
            last = i + 1 >= stop
            if not last and self.t.row_rank[path[i + 1]] < self.top:
                out.clear()
                y = 0.0
                continue
            y1 = self._tip_y(end) if last else self.py(path[i + 1])
            out += self.upright(lane, y, y1)
            y = y1
        return out

    def whole(self, end: int) -> list[tuple[float, float]]:
        return self.run(end, 0, self.lengths[end])

    def _tip_y(self, end: int) -> float:
        room = self.s.unit * (0.95 if self.s.labels else 0.2)
        moving = self.record is not None and not self.record.finish and self.record.end == end
        return self.height - room - (0.12 * self.s.unit if moving and self.focus else 0.0)

    def new_part(self, end: int) -> list[tuple[float, float]]:
        """From where the moving end left its tail, to its tip."""
        assert self.record is not None
        r = self.record
        if r.path_start >= r.path_stop:
            return []
        turn = self.py(self.t.paths[end][r.path_start])
        return self.run(end, r.path_start - 1, r.path_stop, max(turn - self.s.row * 0.75, 0.0))

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

    # -- drawing ---------------------------------------------------------------------------------

    def picture(self) -> Picture:
        shapes: list[Shape] = []
        t, r = self.t, self.record
        moving = r.end if r is not None and self.focus and not r.finish else -1
        strength = self.s.quiet if self.focus else 1.0
        for end in range(len(t.ends)):
            shapes += self._cord(self.rounded(self._without_new(end, moving)), end, strength)
        stop = r.stop if r is not None else 0
        start = r.start if r is not None and moving >= 0 else stop
        for n in self.seen:
            if n < start:
                shapes += self._bridge(n, strength, strength)
        if moving >= 0 and r is not None:
            pts = self.new_part(moving)
            if pts:
                shapes += self._cord(self.rounded(pts), moving, 1.0)
                shapes += self._arrow(pts[-1], moving)
            for n in self.seen:
                if start <= n < stop:
                    shapes += self._bridge(n, strength, 1.0, moving)
            for hop in r.hops:
                if hop.edge >= 0:
                    c = t.crossings[hop.edge]
                    if self.shows(c.row):
                        y = self.py(c.row)
                        ring = Disc(
                            self.px(c.lane, y), y, self.s.unit * 0.52, "", self.ink.signal, 2.0, "pass"
                        )
                        shapes.append(ring)
        if self.s.labels:
            shapes += self._labels(moving)
        return Picture(self.width, self.height, tuple(shapes), "", self.ink.paper, self._anchors())

    def _anchors(self) -> tuple[Anchor, ...]:
        t = self.t
        out: list[Anchor] = []
        for end in range(len(t.ends)):
            y = self.height - self.s.unit * 0.33 - 1.5
            out.append(Anchor("tail", end, self.px(t.paths[end][self.lengths[end] - 1], y), y))
        latest = {s.end: s for s in t.steps[: self.step + 1] if s.path_stop > s.path_start}
        for end, s in latest.items():
            path = t.paths[end]
            row = path[s.path_start]
            if not self.shows(row):
                continue
            y = self.py(row)
            x = self.px(path[s.path_start - 1], y)
            side = 1 if t.lane_rank[path[s.path_start + 1]] > t.lane_rank[path[s.path_start - 1]] else -1
            out.append(Anchor("loop", end, x + side * self.s.unit * 0.5, y - self.s.row * 0.45))
        for n in self.seen:
            c = t.crossings[n]
            if self.record is not None and n < self.record.stop:
                y = self.py(c.row)
                out.append(Anchor("crossing", n, self.px(c.lane, y), y))
        return tuple(out)

    def _without_new(self, end: int, moving: int) -> list[tuple[float, float]]:
        r = self.record
        if end != moving or r is None or r.path_start >= r.path_stop:
            return self.whole(end)
        path = self.t.paths[end]
        stop = max(self.py(path[r.path_start]) - self.s.row * 0.4, 1.0)
        lane = path[r.path_start - 1]
        top = 0.0
        keep: list[tuple[float, float]] = []
        if r.path_start > 1 and self.shows(path[r.path_start - 2]):
            top = self.py(path[r.path_start - 2])
            keep = self._until_row(end, r.path_start)
        return [*keep, *self.upright(lane, top, stop)]

    def _until_row(self, end: int, stop: int) -> list[tuple[float, float]]:
        """Points up to the row before the lane at stop - 1."""
        path = self.t.paths[end]
        out: list[tuple[float, float]] = []
        y = 0.0
        for i in range(0, stop - 1, 2):
            if self.t.row_rank[path[i + 1]] < self.top:
                out.clear()
                y = 0.0
                continue
            y1 = self.py(path[i + 1])
            out += self.upright(path[i], y, y1)
            y = y1
        return out

    def _cord(self, path: tuple[Command, ...], end: int, strength: float) -> list[Line]:
        return cord_lines(
            path,
            self.colours[end],
            self.s.cord,
            self.ink,
            pattern=self.patterns[end],
            strength=strength,
            tag=f"end{end}",
        )

    def _bridge(self, n: int, strength: float, moving_strength: float, moving: int = -1) -> list[Shape]:
        """The over piece of a crossing once more, on a gap."""
        c = self.t.crossings[n]
        y = self.py(c.row)
        x = self.px(c.lane, y)
        end = c.over_end
        half = self.s.cord * 0.5 + self.s.unit * 0.1
        # The gap stops a little short of the cord on it, else its soft ends would nick the cord beyond.
        path = self._along(c, x, y, half + 0.5)
        under = self._along(c, x, y, half - 0.7)
        power = moving_strength if end == moving and self._is_new(n, end) else strength
        gap = Line(under, self.s.cord + self.s.unit * 0.2, self.ink.paper, False, (), "gap")
        return [gap, *self._cord(path, end, power)]

    def _along(self, c: Crossing, x: float, y: float, half: float) -> tuple[Command, ...]:
        """The over piece of a crossing, `half` to both sides of it."""
        if not c.lane_over:
            return (("M", (x - half, y)), ("L", (x + half, y)))
        pts = self.upright(c.lane, y - half, y + half)
        return (("M", pts[0]), *(("L", p) for p in pts[1:]))

    def _is_new(self, n: int, end: int) -> bool:
        """Whether the over piece belongs to this step (an end can pass over its own older part)."""
        r = self.record
        if r is None:
            return False
        c = self.t.crossings[n]
        piece = c.lane if c.lane_over else c.row
        parity = 0 if c.lane_over else 1
        path = self.t.paths[end]
        return any(path[i] == piece for i in range(r.path_start, r.path_stop) if i % 2 == parity)

    def _arrow(self, tip: tuple[float, float], end: int) -> list[Shape]:
        x, y = tip
        w, h = self.s.cord * 0.95, self.s.cord * 1.15
        dark = mix(self.colours[end], "#000000", 0.45)
        outer = ((x - w, y - h * 0.35), (x + w, y - h * 0.35), (x, y + h))
        inner = ((x - w * 0.62, y - h * 0.15), (x + w * 0.62, y - h * 0.15), (x, y + h * 0.68))
        return [Area(outer, dark, "arrow"), Area(inner, self.colours[end], "arrow")]

    def _labels(self, moving: int) -> list[Shape]:
        out: list[Shape] = []
        r = self.s.unit * 0.33
        order = self.record.order if self.record is not None else tuple(range(len(self.t.ends)))
        for end in order:
            tail = self.t.paths[end][self.lengths[end] - 1]
            y = self.height - r - 1.5
            x = self.px(tail, y)
            strong = moving < 0 or end == moving
            fill = self.colours[end] if strong else mix(self.ink.paper, self.colours[end], 0.55)
            text = "#ffffff" if lightness(fill) < 0.62 else "#1c2328"
            out.append(Disc(x, y, r, fill, mix(self.colours[end], "#000000", 0.4), 1.0, "label"))
            out.append(Label(x, y + r * 0.42, letter(end), r * 1.25, text, "middle", True, "label"))
        return out
