"""The diagram painted: cords in their colours, gaps at unders, the moving end strong, loop passages ringed."""

from __future__ import annotations

import math

from dim_ladder.base.colours import lightness, mix
from dim_ladder.base.lengths import mm_words
from dim_ladder.notation import Through
from dim_ladder.picture.courses import LOOP_HIGH, SIZE_TEXT, Courses
from dim_ladder.picture.display import Anchor, Command, Disc, Ink, Label, Line, Picture, Shape, cord_lines
from dim_ladder.picture.loops import loop_side
from dim_ladder.picture.parts import Mover, Parts, Point, assemble, flattened, passed_at
from dim_ladder.trace.ends import letter_of
from dim_ladder.trace.value import Crossing, Placed, StepRecord


class Painter(Courses):
    """Shapes for the courses of ends."""

    # -- drawing ---------------------------------------------------------------------------------

    def picture(self) -> Picture:
        return assemble(self.parts())

    def parts(self) -> Parts:
        t, r = self.t, self.record
        focus = r is not None and self.focus and not r.finish and bool(r.hops)
        movers = (
            {e: (a, b) for e, a, b in ((r.end, r.path_start, r.path_stop), *r.others)} if focus and r else {}
        )
        strength = self.s.quiet if self.focus else 1.0
        waiting = self._waiting()
        under: list[Shape] = []
        for end in range(len(t.ends)):
            if not self.lengths[end]:
                continue
            power = self.s.quiet * 0.8 if end in self.resting else strength
            pts = self._without_new(end, movers.get(end))
            if end in waiting:
                pts = self._held_up(pts, waiting[end])
            first = movers[end][0] if end in movers else self.lengths[end]
            for run in (*self.earlier(end, first), pts):
                if len(run) > 1:
                    under += self._cord(self.rounded(run), end, power)
        stop = r.stop if r is not None else 0
        start = r.start if r is not None and focus else stop
        for n in self.seen:
            if n < start:
                under += self._bridge(n, self._power(n, strength))
        labels = self._labels(set(movers)) if self.s.labels else {}
        moving: list[Mover] = []
        fresh: list[tuple[float, tuple[Shape, ...]]] = []
        over: list[Shape] = []
        if focus and r is not None:
            for end, (a, b) in reversed(movers.items()):
                pts = self.new_part(end, a, b)
                if len(pts) > 1:
                    moving.append(self._mover(end, self.rounded(pts), (0.0, 1.0), labels.pop(end, ())))
            ways = [flattened(m.path) for m in moving]
            for n in self.seen:
                if start <= n < stop:
                    end = self.over_end(t.crossings[n])
                    new = end in movers and self._is_new(n, end, movers[end])
                    bridge = self._bridge(n, 1.0 if new else self._power(n, strength))
                    fresh.append((self._reached(n, ways), tuple(bridge)))
            fresh += self._rings(r, ways)
        for i, s in enumerate(t.steps[self.first : self.step + 1], self.first):
            for p in s.placed:
                if i == self.step and moving:
                    fresh.append((1.0, tuple(self._placed(p))))
                else:
                    over += self._placed(p)
        for shapes in labels.values():
            over += shapes
        return Parts(
            self.width,
            self.height,
            self.ink,
            tuple(under),
            tuple(moving),
            tuple(fresh),
            tuple(over),
            self._anchors(),
        )

    def _waiting(self) -> dict[int, float]:
        """Ends that wait while others tie a knot, which they follow then -> how far down they are held out of the way."""
        out: dict[int, float] = {}
        for i, s in enumerate(self.t.steps[: self.step + 1]):
            if s.waits:
                knot = [x for x in self.t.steps[i:] if x.op is s.op]
                rows = [self.py(c.row) for c in self.t.crossings[s.stop : knot[-1].stop]]
                out |= dict.fromkeys(s.ends, min(rows, default=self.floor) - self.s.row * 0.8)
            elif s.hops:
                for e in (s.end, *(e for e, _, _ in s.others)):
                    out.pop(e, None)
        return out

    def _held_up(self, pts: list[Point], y: float) -> list[Point]:
        below = next((k for k in range(len(pts) - 1, -1, -1) if pts[k][1] <= y), -1)
        return [*pts[: below + 1], (pts[below][0], y)] if below >= 0 else []

    def _mover(self, end: int, path: tuple[Command, ...], head: Point, label: tuple[Shape, ...]) -> Mover:
        return Mover(
            end, path, head, self.colours[end], self.s.cord * self.thick[end], self.patterns[end], self.s.cord,
            label, letter_of(self.t, end) if self.s.labels else "",
        )  # fmt: skip

    def _spot(self, n: int) -> Point:
        """Where a crossing is."""
        c = self.t.crossings[n]
        y = self.py(c.row)
        return self.px(c.lane, y), y

    def _reached(self, n: int, ways: list[list[Point]]) -> float:
        """The part of the way at which a mover has come past a crossing."""
        spot, near = self._spot(n), self.s.unit * 0.2
        return max((at for way in ways if (at := passed_at(way, spot, near)) is not None), default=1.0)

    def _power(self, n: int, strength: float) -> float:
        return self.s.quiet * 0.8 if self.over_end(self.t.crossings[n]) in self.resting else strength

    def _rings(self, r: StepRecord, ways: list[list[Point]]) -> list[tuple[float, tuple[Shape, ...]]]:
        """A ring where an end passes over the edge of a loop."""
        out: list[tuple[float, tuple[Shape, ...]]] = []
        for hop in r.hops:
            if hop.edge >= 0 and isinstance(hop.hop, Through) and self.shows(self.t.crossings[hop.edge].row):
                x, y = self._spot(hop.edge)
                ring = Disc(x, y, self.s.unit * 0.52, "", self.ink.signal, 2.0, "pass")
                out.append((self._reached(hop.edge, ways), (ring,)))
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
                x - 7,
                (a + b) / 2 + u * 0.15,
                mm_words(p.mm),
                u * self.s.letter * 1.35,
                self.ink.ink,
                "end",
                tag="size",
            )
            return [*lines, text]
        x = self.px(p.lane, y)
        if p.kind == "leave":
            out = self.loops[p.row, p.lane] / 2 * loop_side(self.t, p.row, p.lane) * (-1 if self.back else 1)
            words, size, inside = mm_words(p.mm), u * SIZE_TEXT * self.s.letter, self.size_fits(p)
            at = x + out * u * 0.55 if inside else x + out * u + math.copysign(u * 0.3, out)
            where = "middle" if inside else "start" if out > 0 else "end"
            return [
                Label(
                    at,
                    y - LOOP_HIGH * self.s.row * 0.27 + size * 0.35,
                    words,
                    size,
                    self.ink.ink,
                    where,
                    tag="size",
                )
            ]
        if p.kind in ("pass", "twist"):
            xs = [self.px(self._lane_at(e, p.row, p.lane), y) for e in p.ends]
            return (
                _passed(xs, y, self.s.cord, self.ink)
                if p.kind == "pass"
                else _turned(xs, y, self.s.cord, self.ink)
            )
        bead = self.t.weave.bead(p.text)
        fill = bead.colour if bead else "#f4f2ec"
        xs = [self.px(self._lane_at(e, p.row, p.lane), y) for e in p.ends]
        x = sum(xs) / len(xs)
        r = self.s.cord * (0.85 + 0.35 * (len(xs) - 1))
        return [
            Disc(x, y, r, fill, mix(fill, "#000000", 0.5), 1.6, "bead"),
            Disc(x, y, r * 0.3, mix(fill, "#000000", 0.55), "", 0.0, "bead"),
        ]

    def _anchors(self) -> tuple[Anchor, ...]:
        t = self.t
        out: list[Anchor] = []
        for end in self.now:
            y = self.floor - self.s.unit * self.s.letter - 1.5
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

    def _labels(self, movers: set[int]) -> dict[int, tuple[Shape, ...]]:
        """The letter of every tail, on a disc at its end."""
        out: dict[int, tuple[Shape, ...]] = {}
        r = self.s.unit * self.s.letter
        for end in self.now:
            if letter_of(self.t, end):
                tail = self.t.paths[end][self.lengths[end] - 1]
                y = self.floor - r - 1.5
                out[end] = self._letter(end, self.px(tail, y), y, r, not movers or end in movers)
        return out

    def _letter(self, end: int, x: float, y: float, r: float, strong: bool) -> tuple[Shape, ...]:
        fill = self.colours[end] if strong else mix(self.ink.paper, self.colours[end], 0.55)
        pen = "#ffffff" if lightness(fill) < 0.62 else "#1c2328"
        return (
            Disc(x, y, r, fill, mix(self.colours[end], "#000000", 0.4), 1.0, "label"),
            Label(x, y + r * 0.42, letter_of(self.t, end), r * 1.25, pen, "middle", True, "label"),
        )


def _passed(xs: list[float], y: float, cord: float, ink: Ink) -> list[Shape]:
    """A bar that an end goes round and comes back from: in front of it above, behind it below."""
    a, b = min(xs) - cord * 1.1, max(xs) + cord * 1.1
    bar = (("M", (a, y)), ("L", (b, y)))
    return [
        Line(bar, cord * 0.95, mix(ink.paper, ink.ink, 0.75), tag="fitting"),
        Line(bar, cord * 0.55, mix(ink.paper, ink.ink, 0.35), tag="fitting"),
    ]


def _turned(xs: list[float], y: float, cord: float, ink: Ink) -> list[Shape]:
    """A flat cord that is turned about: a cross stroke from edge to edge."""
    out: list[Shape] = []
    for x in xs:
        r = cord * 0.5
        out.append(Line((("M", (x - r, y - r)), ("L", (x + r, y + r))), 1.6, ink.ink, tag="face"))
    return out
