"""Flat weaves, led strand by strand through finished work, drawn as they would lie on a table: eased, not hung.

The steps of one knot share the lie of the whole knot: an end that is not led further yet stops where it will go on.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping

import numpy as np

from dim_ladder.base.lengths import mm_words
from dim_ladder.notation import Past
from dim_ladder.picture.display import Anchor, Command, Ink, Label, Line, Shape
from dim_ladder.picture.easing import MARK, PLAIN, Course, Stop, eased
from dim_ladder.picture.look import Style
from dim_ladder.picture.painter import Painter
from dim_ladder.picture.parts import Mover, Parts, Point, flattened
from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.value import StepRecord, Trace

MOST_CROSSINGS = 72  # beyond that easing takes seconds
MOST_ON_PAPER = 120  # where these are waited for
STRETCHED = ((1.0, 1.0), (1.25, 1.0), (1.0, 1.25))  # across, down: what it is eased from, one after the other
CLOSE = ((0.4, 0.4), (0.3, 0.3))  # the same of large work, which hangs too far apart to come together in time
OUT = 5.0  # nodes of its way, at least, from what an end last passes to its tip, where there is room
ASIDE = tuple(
    math.radians(a) for a in (0, 35, -35, 70, -70, 105, -105, 135, -135)
)  # of its tip, where the letter of an end may stand
OWN = 4  # nodes before its tip that do not stand in the way of its letter
FINE = 4  # points between two corners of the courses it begins from


def is_woven(trace: Trace, first: int, last: int, alone: bool = False) -> bool:
    """Whether steps first..last lead an end through finished work, and can be drawn lying flat. alone : on paper."""
    steps = trace.steps[first : last + 1]
    if not any(isinstance(h.hop, Past) for s in steps for h in s.hops):
        return False
    if any((s.deed is not None and not s.waits) or any(p.kind != "leave" for p in s.placed) for s in steps):
        return False
    return sum(s.stop - s.start for s in steps) <= (MOST_ON_PAPER if alone else MOST_CROSSINGS)


def woven_parts(
    trace: Trace, first: int, step: int, ink: Ink, style: Style, last: int, focus: bool, hops: range | None = None,
    alone: bool = False,
) -> Parts | None:  # fmt: skip
    """Steps first..step lying flat, as they will lie when step `last` is done; None where that cannot be drawn. hops : of the step,
    those that are shown being done; what it did before them was there before, and what it does then is still to come. alone :
    without what hangs idle beside it."""
    whole = Painter(trace, first, last, ink, style, last, False)
    laid = _Laid(whole, alone)
    if not laid.once:
        return None
    courses = None
    large = len(laid.seen) > MOST_CROSSINGS
    # On the screen nobody waits for a second try.
    for across, down in CLOSE if large else STRETCHED if alone else STRETCHED[:1]:
        strands = [[(x * across, y * down, key) for x, y, key in strand] for strand in laid.strands]
        courses = eased(strands, laid.slack)
        if courses is not None:
            break
    if courses is None:
        return None
    by_end = dict(zip(laid.present, courses, strict=True))
    return _Woven(trace, first, step, ink, style, last, focus, laid, by_end, hops).parts()


class _Laid:
    """The courses of all ends in a window, with their crossings, ready to be eased.

    marks : (end, piece) -> the corner after that piece. kinds : (end, crossing) -> whether the end is there on an
    upright piece, in the order of its visits. once : whether every end comes into the window just once.
    """

    def __init__(self, p: Painter, alone: bool = False) -> None:
        self.p = p
        self.strands: list[list[Stop]] = []
        self.marks: dict[tuple[int, int], int] = {}
        self.kinds: dict[tuple[int, int], list[bool]] = {}
        self.once = True
        on_lane: dict[int, list[int]] = {}
        on_row: dict[int, list[int]] = {}
        # What is done further down is not there yet, wherever it passes.
        self.seen = [n for n in p.seen if n < p.t.steps[p.step].stop]
        for n in self.seen:
            on_lane.setdefault(p.t.crossings[n].lane, []).append(n)
            on_row.setdefault(p.t.crossings[n].row, []).append(n)
        # Neither what was laid aside above nor what comes in below.
        busy = {e for n in self.seen for e in (p.t.crossings[n].lane_end, p.t.crossings[n].row_end)}
        self.present = [
            e for e in sorted(p.t.order_before(p.first)) if p.lengths[e] and (e in busy or not alone)
        ]
        for end in self.present:
            self.strands.append(self._strand(end, on_lane, on_row))
        self.slack = self._slack()

    def _strand(self, end: int, on_lane: dict[int, list[int]], on_row: dict[int, list[int]]) -> list[Stop]:
        p, t = self.p, self.p.t
        path, rank = t.paths[end][: p.lengths[end]], t.row_rank
        inside = [i for i in range(1, len(path), 2) if rank[path[i]] >= p.top]
        start = inside[0] - 1 if inside else len(path) - 1
        self.once &= inside == list(range(start + 1, len(path), 2))
        y = 0.0
        x = p.px(path[start], y)
        out: list[Stop] = [self._stop(x, y, PLAIN)]
        for i in range(start, len(path)):
            piece = path[i]
            if i % 2:
                x1 = p.px(path[i + 1], y)
                met = [
                    (p.px(t.crossings[n].lane, y), n)
                    for n in on_row.get(piece, ())
                    if t.crossings[n].row_end == end
                ]
                ways = [(a, y, n) for a, n in sorted(met, reverse=x1 < x)] + [(x1, y, PLAIN)]
            else:
                y1 = p.py(path[i + 1]) if i + 1 < len(path) else p.floor
                met = [
                    (p.py(t.crossings[n].row), n)
                    for n in on_lane.get(piece, ())
                    if t.crossings[n].lane_end == end
                ]
                # A lane of one end may stand in several pieces of its course: only what lies on this one.
                met = [(b, n) for b, n in met if min(y, y1) <= b <= max(y, y1)]
                ways = [(p.px(piece, b), b, n) for b, n in sorted(met, reverse=y1 < y)]
                ways.append((p.px(piece, y1), y1, PLAIN))
            for a, b, n in ways:
                for k in range(1, FINE):
                    f = k / FINE
                    yy = y + (b - y) * f
                    out.append(self._stop(p.px(piece, yy) if i % 2 == 0 else x + (a - x) * f, yy, PLAIN))
                if n >= 0:
                    self.kinds.setdefault((end, n), []).append(i % 2 == 0)
                    out.append(self._stop(a, b, n))
                x, y = a, b
            self.marks[end, i] = MARK - len(self.marks)
            out.append(self._stop(x, y, self.marks[end, i]))
        out.append(self._stop(x, y + p.s.row * 0.2, PLAIN))
        return out

    def _stop(self, x: float, y: float, key: int) -> Stop:
        return (x / self.p.s.unit, y / self.p.s.unit, key)

    def _slack(self) -> dict[int, float]:
        """By the mark of its turn, the cord that stands in a loop."""
        t, wanted = self.p.t, {}
        for (row, lane), length in self.p.loops.items():
            for end, path in enumerate(t.paths):
                for i in range(1, len(path), 2):
                    if path[i] == row and lane in path[i - 1 : i + 2 : 2]:
                        mark = self.marks.get((end, i - 1 if path[i - 1] == lane else i))
                        if mark is not None:
                            wanted[mark] = length
        return wanted


class _Woven(Painter):
    def __init__(
        self, trace: Trace, first: int, step: int, ink: Ink, style: Style, last: int, focus: bool,
        laid: _Laid, courses: Mapping[int, Course], hops: range | None = None,
    ) -> None:  # fmt: skip
        super().__init__(trace, first, step, ink, style, last, focus)
        self.laid, self.courses, self.hops = laid, courses, hops
        everything = np.vstack([c.points for c in courses.values()])
        low, high = everything.min(axis=0), everything.max(axis=0)
        u, margin = style.unit, style.unit * 1.1
        self.shift = np.array([margin, 0.0]) - low * np.array([u, u])
        self.width = float((high - low)[0] * u + 2 * margin)
        self.height = float((high - low)[1] * u + (u * 0.95 if style.labels else 0.0))
        self.ways = {e: c.points * u + self.shift for e, c in courses.items()}

    def _at(self, end: int, pieces: int) -> float:
        """Where on its way an end stops that has so many pieces: at its tip, or where it will go on."""
        mark = self.laid.marks.get((end, pieces - 1))
        last = float(len(self.ways[end]) - 1)
        if mark is None or pieces >= len(self.t.paths[end]):
            return last
        at = self.courses[end].marks[mark]
        # Its tip is seen beyond what it last passes, or another's would be taken for it.
        stops = [float(k) for ks in self.courses[end].stops.values() for k in ks]
        passed = max((k for k in stops if k <= at), default=0.0)
        coming = min((k for k in stops if k > at), default=last)
        return max(at, min(passed + OUT, (passed + coming) / 2))

    def _way(self, end: int, a: float, b: float) -> list[Point]:
        way = self.ways[end]
        i, j = math.ceil(a - 1e-9), math.floor(b + 1e-9)
        pts = [tuple(map(float, way[k])) for k in range(i, j + 1)]
        if i - a > 0.05:
            pts.insert(0, self._point(end, a))
        if b - j > 0.05:
            pts.append(self._point(end, b))
        return [(x, y) for x, y in pts]

    def _point(self, end: int, at: float) -> Point:
        way = self.ways[end]
        k = min(int(at), len(way) - 2)
        x, y = way[k] + (way[k + 1] - way[k]) * (at - k)
        return float(x), float(y)

    def parts(self) -> Parts:
        r = self.record
        focus = r is not None and self.focus and bool(r.hops)
        movers = (
            {e: (a, b) for e, a, b in ((r.end, r.path_start, r.path_stop), *r.others)} if focus and r else {}
        )
        strength = self.s.quiet if self.focus else 1.0
        tips = {e: self._at(e, self.lengths[e]) for e in self.courses}
        starts = {e: self._at(e, a) for e, (a, b) in movers.items() if a < b}
        begin_at, stop = (r.start, r.stop) if r is not None else (0, 0)
        if r is not None and self.hops is not None and r.end in starts:
            begin_at, stop, starts[r.end], tips[r.end] = self._part(r, self.hops, starts[r.end], tips[r.end])
        under: list[Shape] = []
        for end, tip in tips.items():
            pts = self._way(end, 0.0, starts.get(end, tip))
            if len(pts) > 1:
                under += self._cord(smooth(pts), end, strength)
        shown = [n for n in self.seen if n < stop]
        new = {n for n in shown if focus and n >= begin_at}
        for n in shown:
            if n not in new:
                under += self._crossing(n, tips, starts, strength)
        labels = self._tip_labels(tips, set(movers)) if self.s.labels else {}
        moving: list[Mover] = []
        for end, begin in starts.items():
            pts = self._way(end, max(0.0, begin - 1.0), tips[end])
            if len(pts) > 1:
                moving.append(self._mover(end, smooth(pts), heading(pts), labels.pop(end, ())))
        ways = [flattened(m.path) for m in moving]
        fresh = [
            (self._reached(n, ways), tuple(self._crossing(n, tips, starts, strength))) for n in sorted(new)
        ]
        over = [*self._sizes(tips), *(s for shapes in labels.values() for s in shapes)]
        return Parts(
            self.width, self.height, self.ink, tuple(under), tuple(moving), tuple(fresh), tuple(over),
            self._where(shown, tips), self.hops is not None,
        )  # fmt: skip

    def _part(self, r: StepRecord, hops: range, begin: float, tip: float) -> tuple[int, int, float, float]:
        """First and last crossing of some hops of a step, and where on the way of its end they begin and stop: half way between
        the crossings."""
        first, stop = r.start, r.stop
        inside = [n for n in range(r.start, r.stop) if n in self.courses[r.end].stops]
        if hops.start > 0:
            first = r.hops[hops.start].start
            begin = self._between(r.end, inside, first)
        if hops.stop < len(r.hops):
            stop = r.hops[hops.stop].start
            tip = self._between(r.end, inside, stop)
        return first, stop, begin, tip

    def _between(self, end: int, inside: list[int], n: int) -> float:
        at = {k: max(self.courses[end].stops[k]) for k in inside}
        after = min((at[k] for k in inside if k >= n), default=float(len(self.ways[end]) - 1))
        before = max((at[k] for k in inside if k < n), default=0.0)
        return (before + after) / 2

    def _spot(self, n: int) -> Point:
        end, at = self._over_visit(n)
        return self._point(end, float(at))

    def _over_visit(self, n: int) -> tuple[int, int]:
        """The end that is in front at a crossing, and its node there."""
        c = self.t.crossings[n]
        end, upright = self.over_end(c), self.lane_over(c)
        return end, self.courses[end].stops[n][self.laid.kinds[end, n].index(upright)]

    def _crossing(
        self, n: int, tips: dict[int, float], starts: dict[int, float], strength: float
    ) -> list[Shape]:
        end, at = self._over_visit(n)
        reach = 2.2
        pts = self._way(end, max(0.0, at - reach), min(tips[end], at + reach))
        if len(pts) < 2:
            return []
        new = end in starts and at >= starts[end] - 1.0
        path = smooth(pts)
        inner = smooth(self._way(end, max(0.0, at - reach + 0.4), min(tips[end], at + reach - 0.4)))
        gap = Line(inner, self.s.cord * self.thick[end] + self.s.unit * 0.2, self.ink.paper, False, (), "gap")
        return [gap, *self._cord(path, end, 1.0 if new else strength)]

    def _sizes(self, tips: dict[int, float]) -> list[Shape]:
        """What a standing loop measures, written in it."""
        out: list[Shape] = []
        for s in self.t.steps[self.first : self.step + 1]:
            for p in s.placed:
                for end in p.ends:
                    for i, piece in enumerate(self.t.paths[end]):
                        mark = self.laid.marks.get((end, i))
                        if piece in (p.row, p.lane) and mark in self.laid.slack:
                            at = self.courses[end].marks[mark]
                            if at <= tips[end]:
                                out.append(self._size(end, at, p.mm))
        return out

    def _size(self, end: int, at: float, mm: float) -> Shape:
        stops = sorted(k for ks in self.courses[end].stops.values() for k in ks)
        a = max((k for k in stops if k < at), default=0)
        b = min((k for k in stops if k > at), default=len(self.ways[end]) - 1)
        x, y = self.ways[end][a : b + 1].mean(axis=0)
        u = self.s.unit
        return Label(
            float(x),
            float(y) + u * 0.15,
            mm_words(mm),
            u * self.s.letter * 1.35,
            self.ink.ink,
            "middle",
            tag="size",
        )

    def _tip_labels(self, tips: dict[int, float], movers: set[int]) -> dict[int, tuple[Shape, ...]]:
        out: dict[int, tuple[Shape, ...]] = {}
        r = self.s.unit * self.s.letter
        taken: list[Point] = []
        for end in self.now:
            if not letter_of(self.t, end) or end not in self.courses:
                continue
            x, y = self._beyond(end, tips, r)
            while any(math.hypot(x - a, y - b) < 2 * r + 1 for a, b in taken):
                x += r  # two tips side by side: beside, never upon each other
            x = min(max(x, r), self.width - r)
            taken.append((x, y))
            out[end] = self._letter(end, x, y, r, not movers or end in movers)
        return out

    def _beyond(self, end: int, tips: Mapping[int, float], r: float) -> Point:
        """Where the letter of an end stands: in front of its tip, and as clear of cords as it can be there."""
        x, y = self._point(end, tips[end])
        ax, ay = self._point(end, max(0.0, tips[end] - 1.0))
        size = max(math.hypot(x - ax, y - ay), 1e-6)
        dx, dy = (x - ax) / size, (y - ay) / size
        away = r + self.s.cord * 1.2
        ways = [self.ways[e][: math.floor(tip) + 1] for e, tip in tips.items() if e != end]
        cords = np.vstack([*ways, self.ways[end][: max(1, math.floor(tips[end]) - OWN)]])
        others = np.array(
            [self._point(e, tip) for e, tip in tips.items() if e != end] or [(math.inf, math.inf)]
        )
        enough = r + self.s.cord
        best, most = (x, y), -math.inf
        for angle in ASIDE:
            c, s = math.cos(angle), math.sin(angle)
            spot = x + (c * dx - s * dy) * away, min(y + (s * dx + c * dy) * away, self.height - r - 1)
            clear = min(float(np.hypot(*(cords - spot).T).min()), enough)
            # Nearer to another tip than to its own it would be taken for that one's letter.
            clear += min(float(np.hypot(*(others - spot).T).min()), 1.5 * away) - abs(angle) * r * 0.15
            if clear > most:
                best, most = spot, clear
        return best

    def _where(self, shown: list[int], tips: dict[int, float]) -> tuple[Anchor, ...]:
        out = [
            Anchor("tail", e, *self._beyond(e, tips, self.s.unit * self.s.letter))
            for e in self.now
            if e in tips
        ]
        for n in shown:
            end, at = self._over_visit(n)
            out.append(Anchor("crossing", n, *self._point(end, float(at))))
        return tuple(out)


def heading(pts: list[Point]) -> Point:
    """The direction a way ends in."""
    (ax, ay), (x, y) = pts[-2], pts[-1]
    size = max(math.hypot(x - ax, y - ay), 1e-6)
    return (x - ax) / size, (y - ay) / size


def smooth(pts: list[Point]) -> tuple[Command, ...]:
    """A smooth line: through the middles of its pieces, bent at its points (a quadratic B-spline)."""
    out: list[Command] = [("M", pts[0])]
    for (x, y), (bx, by) in itertools.pairwise(pts[1:]):
        out.append(("Q", (x, y, (x + bx) / 2, (y + by) / 2)))
    out.append(("L", pts[-1]))
    return tuple(out)
