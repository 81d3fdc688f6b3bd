"""The diagram as a picture: cords in their colours, gaps at unders, the moving end strong, loop passages ringed."""

from __future__ import annotations

import math
from dataclasses import dataclass

from dim_ladder.base.colours import lightness, mix
from dim_ladder.library import cord_kind
from dim_ladder.notation import Through
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
from dim_ladder.trace.value import Crossing, Placed, StepRecord, Trace
from dim_ladder.trace.windows import part_start, window_of


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


def mm_words(mm: float) -> str:
    return f"{mm:.10g} mm"


def letter(end: int) -> str:
    """A, B, ..., Z, AA, AB, ... by place at the start."""
    return chr(65 + end) if end < 26 else letter(end // 26 - 1) + letter(end % 26)


def letter_of(trace: Trace, end: int) -> str:
    """The letter of an end: by its place when it first hung; none for a finished layer that hangs as one."""
    number = trace.numbers[end]
    return letter(number) if number >= 0 else ""


def end_colours(trace: Trace) -> list[str]:
    return [c.colour if (c := trace.weave.cord_of(e)) else "#888888" for e in trace.ends]


def end_patterns(trace: Trace) -> list[int]:
    names = [c.name for c in trace.weave.cords]
    return [names.index(n) if (n := e.split(".")[0]) in names else 0 for e in trace.ends]


LAYER_WIDTH = 1.7  # a finished section that hangs as one tail, in cords
THINNEST = 0.45


def end_widths(trace: Trace) -> list[float]:
    """How wide each end is drawn: its cord's diameter as a part of the thickest's; a finished layer wider than all."""
    diameters = [cord_kind(c.kind).diameter if (c := trace.weave.cord_of(e)) else 0.0 for e in trace.ends]
    most = max(diameters, default=0.0)
    return [max(THINNEST, d / most) if d else LAYER_WIDTH for d in diameters]


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
    return Painter(trace, first, step, ink, style, step if layout_to is None else layout_to, focus).picture()


class Painter:
    def __init__(
        self, trace: Trace, first: int, step: int, ink: Ink, style: Style, last: int, focus: bool
    ) -> None:
        first = max(first, part_start(trace, step))
        last = max(last, step)
        self.t, self.first, self.step, self.ink, self.s, self.focus = trace, first, step, ink, style, focus
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
        self.back = self.record is not None and self.record.turned
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
        kinds = {p.kind for s in trace.steps[self.first : step + 1] for p in s.placed}
        # Sizes stand in the margin, where they cover nothing: free cord on the left, slack on the right.
        self.pad = u * 2.0 if "span" in kinds else 0.0
        self.work_right = self.pad + 2 * style.margin + (self.lay.right - self.lay.left) * u
        self.width = self.work_right + (u * 2.0 if "leave" in kinds else 0.0)

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
            out += self.upright(lane, y, y1)
            y = y1
        return out

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

    # -- drawing ---------------------------------------------------------------------------------

    def picture(self) -> Picture:
        shapes: list[Shape] = []
        t, r = self.t, self.record
        focus = r is not None and self.focus and not r.finish and bool(r.hops)
        movers = (
            {e: (a, b) for e, a, b in ((r.end, r.path_start, r.path_stop), *r.others)} if focus and r else {}
        )
        strength = self.s.quiet if self.focus else 1.0
        for end in range(len(t.ends)):
            if not self.lengths[end]:
                continue
            power = self.s.quiet * 0.8 if end in self.resting else strength
            pts = self._without_new(end, movers.get(end))
            if len(pts) > 1:
                shapes += self._cord(self.rounded(pts), end, power)
        stop = r.stop if r is not None else 0
        start = r.start if r is not None and focus else stop
        for n in self.seen:
            if n < start:
                shapes += self._bridge(n, self._power(n, strength))
        if focus and r is not None:
            for end, (a, b) in reversed(movers.items()):
                pts = self.new_part(end, a, b)
                if len(pts) > 1:
                    shapes += self._cord(self.rounded(pts), end, 1.0)
                    shapes += self._arrow(pts[-1], end)
            for n in self.seen:
                if start <= n < stop:
                    end = self.over_end(t.crossings[n])
                    new = end in movers and self._is_new(n, end, movers[end])
                    shapes += self._bridge(n, 1.0 if new else self._power(n, strength))
            shapes += self._rings(r)
        for s in t.steps[self.first : self.step + 1]:
            for p in s.placed:
                shapes += self._placed(p)
        if self.s.labels:
            shapes += self._labels(set(movers))
        return Picture(self.width, self.height, tuple(shapes), "", self.ink.paper, self._anchors())

    def _power(self, n: int, strength: float) -> float:
        return self.s.quiet * 0.8 if self.over_end(self.t.crossings[n]) in self.resting else strength

    def _rings(self, r: StepRecord) -> list[Shape]:
        """A ring where an end passes over the edge of a loop."""
        out: list[Shape] = []
        for hop in r.hops:
            if hop.edge >= 0 and isinstance(hop.hop, Through):
                c = self.t.crossings[hop.edge]
                if self.shows(c.row):
                    y = self.py(c.row)
                    x = self.px(c.lane, y)
                    out.append(Disc(x, y, self.s.unit * 0.52, "", self.ink.signal, 2.0, "pass"))
        return out

    def _placed(self, p: Placed) -> list[Shape]:
        """A bead on its end, slack in a turn, or free cord, with its size."""
        if p.row >= 0 and not self.shows(p.row):
            return []
        y = self.py(p.row)
        u = self.s.unit
        if p.kind == "span":
            x = self.pad - u * 0.1
            a, b = y - u * 0.5, y + self.s.row + u * 0.4
            lines: list[Shape] = [Line((("M", (x, a)), ("L", (x, b))), 1.4, self.ink.ink)]
            for end_y in (a, b):
                lines.append(Line((("M", (x - 4, end_y)), ("L", (x + 4, end_y))), 1.4, self.ink.ink))
            text = Label(
                x - 7, (a + b) / 2 + u * 0.15, mm_words(p.mm), u * 0.44, self.ink.ink, "end", tag="size"
            )
            return [*lines, text]
        x = self.px(p.lane, y)
        if p.kind == "leave":
            edge = self.work_right - u * 0.3
            return [
                Line(
                    (("M", (x + u * 0.2, y)), ("L", (edge, y))),
                    1.0,
                    self.ink.signal,
                    False,
                    (3.0, 3.0),
                    "size",
                ),
                Disc(x, y, u * 0.2, self.ink.paper, self.ink.signal, 1.6, "leave"),
                Label(edge + 4, y + u * 0.15, mm_words(p.mm), u * 0.44, self.ink.ink, "start", tag="size"),
            ]
        bead = self.t.weave.bead(p.text)
        fill = bead.colour if bead else "#f4f2ec"
        xs = [self.px(self._lane_at(e, p.row, p.lane), y) for e in p.ends]
        x = sum(xs) / len(xs)
        r = self.s.cord * (0.85 + 0.35 * (len(xs) - 1))
        return [
            Disc(x, y, r, fill, mix(fill, "#000000", 0.5), 1.6, "bead"),
            Disc(x, y, r * 0.3, mix(fill, "#000000", 0.55), "", 0.0, "bead"),
        ]

    def _lane_at(self, end: int, row: int, otherwise: int) -> int:
        path = self.t.paths[end]
        rank = self.t.row_rank
        for i in range(0, len(path), 2):
            a = rank[path[i - 1]] if i else -1
            b = rank[path[i + 1]] if i + 1 < len(path) else 1 << 60
            if min(a, b) <= rank[row] <= max(a, b):
                return path[i]
        return otherwise

    def _anchors(self) -> tuple[Anchor, ...]:
        t = self.t
        out: list[Anchor] = []
        for end in self.now:
            y = self.floor - self.s.unit * 0.33 - 1.5
            out.append(Anchor("tail", end, self.px(t.paths[end][self.lengths[end] - 1], y), y))
        latest = {s.end: s for s in t.steps[: self.step + 1] if s.path_stop > s.path_start}
        for end, s in latest.items():
            path = t.paths[end]
            row = path[s.path_start]
            if not self.shows(row):
                continue
            y = self.py(row)
            x = self.px(path[s.path_start - 1], y)
            side = 1 if self.px(path[s.path_start + 1], y) > x else -1
            out.append(Anchor("loop", end, x + side * self.s.unit * 0.5, y - self.s.row * 0.45))
        for n in self.seen:
            c = t.crossings[n]
            if self.record is not None and n < self.record.stop:
                y = self.py(c.row)
                out.append(Anchor("crossing", n, self.px(c.lane, y), y))
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

    def _cord(self, path: tuple[Command, ...], end: int, strength: float) -> list[Line]:
        return cord_lines(
            path,
            self.colours[end],
            self.s.cord * self.thick[end],
            self.ink,
            pattern=self.patterns[end],
            strength=strength,
            tag=f"end{end}",
        )

    def _bridge(self, n: int, power: float) -> list[Shape]:
        """The over piece of a crossing once more, on a gap."""
        c = self.t.crossings[n]
        y = self.py(c.row)
        x = self.px(c.lane, y)
        end = self.over_end(c)
        under_end = c.row_end if self.lane_over(c) else c.lane_end
        half = self.s.cord * 0.5 * max(1.0, self.thick[under_end]) + self.s.unit * 0.1
        # The gap stops a little short of the cord on it, else its soft ends would nick the cord beyond.
        path = self._along(c, x, y, half + 0.5)
        under = self._along(c, x, y, half - 0.7)
        gap = Line(under, self.s.cord * self.thick[end] + self.s.unit * 0.2, self.ink.paper, False, (), "gap")
        return [gap, *self._cord(path, end, power)]

    def _along(self, c: Crossing, x: float, y: float, half: float) -> tuple[Command, ...]:
        """The over piece of a crossing, `half` to both sides of it."""
        if not self.lane_over(c):
            return (("M", (x - half, y)), ("L", (x + half, y)))
        pts = self.upright(c.lane, y - half, y + half)
        return (("M", pts[0]), *(("L", p) for p in pts[1:]))

    def _is_new(self, n: int, end: int, new: tuple[int, int]) -> bool:
        """Whether the over piece belongs to this step (an end can pass over its own older part)."""
        c = self.t.crossings[n]
        parity, piece = (0, c.lane) if self.lane_over(c) else (1, c.row)
        path = self.t.paths[end]
        return any(path[i] == piece for i in range(*new) if i % 2 == parity)

    def _arrow(self, tip: tuple[float, float], end: int) -> list[Shape]:
        x, y = tip
        w, h = self.s.cord * 0.95, self.s.cord * 1.15
        dark = mix(self.colours[end], "#000000", 0.45)
        outer = ((x - w, y - h * 0.35), (x + w, y - h * 0.35), (x, y + h))
        inner = ((x - w * 0.62, y - h * 0.15), (x + w * 0.62, y - h * 0.15), (x, y + h * 0.68))
        return [Area(outer, dark, "arrow"), Area(inner, self.colours[end], "arrow")]

    def _labels(self, movers: set[int]) -> list[Shape]:
        out: list[Shape] = []
        r = self.s.unit * 0.33
        for end in self.now:
            text = letter_of(self.t, end)
            if not text:
                continue
            tail = self.t.paths[end][self.lengths[end] - 1]
            y = self.floor - r - 1.5
            x = self.px(tail, y)
            strong = not movers or end in movers
            fill = self.colours[end] if strong else mix(self.ink.paper, self.colours[end], 0.55)
            pen = "#ffffff" if lightness(fill) < 0.62 else "#1c2328"
            out.append(Disc(x, y, r, fill, mix(self.colours[end], "#000000", 0.4), 1.0, "label"))
            out.append(Label(x, y + r * 0.42, text, r * 1.25, pen, "middle", True, "label"))
        return out
