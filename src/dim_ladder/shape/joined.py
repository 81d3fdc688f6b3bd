"""The whole piece from its sections: what it hangs on, start, body in all its units, finish, arms that are worked after the work was turned.

Each section is pulled tight by itself; between two of them cords are led over by a smooth curve. That is a picture of how
the piece looks and how long it is, not of how its sections press on each other. What is worked after the work was turned end for end
goes on from its other end; after a quarter turn it goes aside.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType

import numpy as np

from dim_ladder.library import cord_kind
from dim_ladder.library.kinds import BULGE
from dim_ladder.notation import Rotate, Section, Turn, Weave, working_ends
from dim_ladder.shape.chained import runs_of
from dim_ladder.shape.closing import even
from dim_ladder.shape.eased import Cord, cords, eased
from dim_ladder.shape.faces import Bead, Cords, Strand, beads_of, strands_of
from dim_ladder.shape.folds import folded, folds, other_end, same_place
from dim_ladder.shape.frames import HANGING, Frame, hangs_straight, led, round_oval, turned_about, turned_to
from dim_ladder.shape.hung import added, fitting, hung, laps
from dim_ladder.shape.rope import Array
from dim_ladder.shape.several import Beside, hang_beside
from dim_ladder.shape.sheath import NOBODY, Look, look_in
from dim_ladder.shape.spaced import opened
from dim_ladder.shape.stitched import laid, passages
from dim_ladder.shape.taut import drawn_taut
from dim_ladder.shape.uncrossed import Uncrossed, laid_straight, uncrossed
from dim_ladder.shape.value import TightShape
from dim_ladder.shape.whole import Whole
from dim_ladder.shape.worked import TRIM, by_end, idle_ends, tails_with, worked_part
from dim_ladder.trace.exchanged import Exchange, exchanged
from dim_ladder.trace.roles import period_of

JOIN = 0.6  # diameters between two sections
FAR = 14.0  # diameters, from which on an end is not led there in the picture: it is brought round, as to close a ring


def whole(
    weave: Weave, shapes: Mapping[str, TightShape], counts: Mapping[str, int], fastening: str = "none",
    free: Mapping[str, Sequence[float]] = MappingProxyType({}), adds_mm: float | None = None,
) -> Whole:  # fmt: skip
    """The whole piece. shapes : of the sections that have one. counts : units of each. fastening : what closes it. free : mm of free
    cord in a unit of each, above its first knot, between its knots that stand apart, and below. adds_mm : what the fastening adds, None as usual."""
    names = working_ends(weave)
    unit = max((s.unit_mm for s in shapes.values()), default=4.0)
    look = {e: look_in(weave, e) for e in names}
    size = {e: (cord_kind(c.kind).across if (c := weave.cord_of(e)) else unit) / unit for e in names}
    spread = {e: cord_kind(c.kind).spreads for e in names if (c := weave.cord_of(e))}
    made = _Piece(
        weave, shapes, names, unit, look, size, added(fastening, adds_mm) / unit, beside=hang_beside(weave), folds=folds(weave),
        others=exchanged(weave, counts),
    )  # fmt: skip
    runs = runs_of(weave, shapes, counts)
    as_one = {name for run in runs.values() for name in run[1]}
    for s in weave.sections:
        if s.name in runs:
            shape, parts = runs[s.name]
            made.run(s, shape, [free.get(n, (0.0, 0.0)) for n in (*parts, s.name)])
        elif s.name not in as_one:
            made.section(s, counts.get(s.name, 1), free.get(s.name, (0.0, 0.0)))
    hanging = names[: len(weave.hang.ends)] if weave.hang.ends else tuple(made.parts)
    tops = {e: p[0][0] for e, p in made.parts.items() if e in hanging and e not in made.above}
    out: list[Strand] = []
    fittings: list[Strand] = []
    legs: dict[str, Array] = {}
    if made.parts:
        # Where a layer was tied back over the work, its foot is where that was turned.
        feet = [
            np.array([p[-1][-1][0], made.low, 0.0]) if e in made.back else made.foot(e)
            for e, p in made.parts.items()
            if e in made.back or float(made.frame_of[e].down[1]) > 0.5
        ]
        fit = fitting(weave, fastening, shapes)
        fittings, balls, legs = hung(tops, feet, look, unit, fit, fastening, adds_mm)
        made.beads += balls
    ends = [(e, cord) for e in made.parts for cord in made.runs(e)]
    hung_up = [
        cord.below(legs[e], led(legs[e], cord.line)) if e in legs and (not k or ends[k - 1][0] != e) else cord
        for k, (e, cord) in enumerate(ends)
    ]
    for (e, cord), x in zip(ends, drawn_taut(hung_up, eased(hung_up)), strict=True):
        number = names.index(e) if e in names else 0
        out.append(Strand(x, look.get(e, NOBODY), cord.thick, number, spread.get(e, BULGE)))
    every, long = (*out, *fittings), made.low - made.high
    lap = laps(every, long + added(fastening, adds_mm) / unit)
    return Whole(every, unit, long * unit, tuple(made.left_out), tuple(made.beads), made.high, lap)


@dataclass(slots=True)
class _Piece:
    """The piece as far as it is made. parts : by end, its lines one after the other; ways : which of them lead from one to the next, idle : how many points of them
    only hang, at head and foot; out : points of the
    last one that only a hand held out aside. frame : how the work lies for whoever goes on with
    it, y : and how far down. above : ends whose cord goes on upwards in its other end. brought : by end, before which of its parts it is
    brought round, and how it hung; round_it : cord that it has there, as what closes the piece is long. back : ends of a layer that was tied back, and stitching. at, laid : by section its shape, how it lies, and where it
    ends; or the middle of its top, where it begins, its units, and free cord between them. beside : bodies that hang beside others. rows : by the first of such
    bodies, how the work lay and how far down it began. hangs : by end, free cord below all that is worked. others : which end
    does in a section what another does where that is traced by itself. passed : ends that are not led on for now. high, low : how far the piece reaches."""

    weave: Weave
    shapes: Mapping[str, TightShape]
    names: tuple[str, ...]
    unit: float
    look: Mapping[str, Look]
    size: Mapping[str, float]
    round_it: float = 0.0
    parts: dict[str, list[Array]] = field(default_factory=dict)
    ways: dict[str, set[int]] = field(default_factory=dict)
    idle: dict[str, dict[int, tuple[int, int]]] = field(default_factory=dict)
    frame: Frame = HANGING
    y: float = 0.0
    frame_of: dict[str, Frame] = field(default_factory=dict)
    out: dict[str, int] = field(default_factory=dict)
    above: set[str] = field(default_factory=set)
    brought: dict[str, list[tuple[int, Array]]] = field(default_factory=dict)
    back: set[str] = field(default_factory=set)
    at: dict[str, tuple[TightShape, Frame, float]] = field(default_factory=dict)
    laid: dict[str, tuple[TightShape, Frame, Array, float, int, float]] = field(default_factory=dict)
    beads: list[Bead] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)
    beside: Mapping[str, Beside] = field(default_factory=dict)
    folds: Mapping[str, int] = field(default_factory=dict)
    others: Exchange = field(default_factory=dict)
    rows: dict[str, tuple[Frame, float]] = field(default_factory=dict)
    hangs: dict[str, float] = field(default_factory=dict)
    passed: frozenset[str] = frozenset()
    high: float = 0.0
    low: float = 0.0
    # Free cord above the first knot of a section, and below its last: led over it from wherever each end hangs.
    lead: float = 0.0
    trail: float = 0.0

    def section(self, s: Section, count: int, free: Sequence[float]) -> None:
        """One section. free : mm of free cord in as many units of it as take it to be the same again: above, between and below its knots."""
        gap = sum(free) / self.unit / period_of(self.weave, s.name)
        shape = self.shapes.get(s.name)
        for i in s.items:
            if isinstance(i, Rotate):
                self._turn(i)
        laid = bool(s.over or s.on)
        units = 1
        if shape is None and not laid and s.former is None:
            bare = uncrossed(self.weave, s.name)
            if bare is None:
                self.left_out.append(s.name)
            if bare is not None and bare.beads:
                for _ in range(max(1, count)):
                    self._threaded(bare)
                gap = max(0.0, gap - bare.long / self.unit)
            if gap > 0:
                self._down(gap * max(1, count))
                for e in self.parts:
                    self.hangs[e] = self.hangs.get(e, 0.0) + gap * max(1, count)
        elif s.on:
            if not self._stitched(s, count):
                self.left_out.append(s.name)
        elif shape is None or shape.cells or shape.kind == "closed" or (s.over and s.over not in self.at):
            self.left_out.append(s.name)
        else:
            units = max(1, round(count / shape.period))
            often = shape.period / period_of(self.weave, s.name)
            shape = replace(shape, free=tuple(mm * often for mm in free))  # in the size that is asked for
            apart = [mm / self.unit for mm in shape.free]
            if shape.kind == "held":  # what is straight above and below it is cut off: free cord is led on
                if shape.seams:
                    shape = opened(replace(shape, free=(0.0, *shape.free[1:-1], 0.0)))
                    apart = [apart[0], apart[-1]]
            elif not any(o.on == s.name for o in self.weave.sections):
                # A thread is laid on units that stand by themselves.
                shape, closed = opened(shape), shape
                self.lead, self.trail = (apart[0], apart[-1]) if shape is not closed else (0.0, 0.0)
                self.trail = (
                    0.0 if shape.beads else self.trail
                )  # its cord runs through them, wherever they are
                apart = [mm / self.unit for mm in shape.free]
            self._in_row(s, shape, units, apart)
        if sum(isinstance(i, Turn) for i in s.items) * max(1, count) % 2:
            self.frame = self.frame.over()

    def run(self, s: Section, shape: TightShape, free: Sequence[Sequence[float]]) -> None:
        """A chain with its begin and its lock. free : mm of free cord above, between and below the knots of each of the three."""
        above, below = (sum(map(sum, of)) / self.unit for of in (free[:1], free[1:]))
        self._tied(s, shape, 1, (above, below))

    def _in_row(self, s: Section, shape: TightShape, units: int, free: Sequence[float]) -> None:
        """So many units of a section, beginning where the body did beside which it hangs."""
        lies = self.beside.get(s.name)
        if lies is None:
            self._tied(s, shape, units, free)
            return
        before = self.y
        frame, top = self.rows.setdefault(lies.first, (self.frame, self.y))
        if frame.down @ self.frame.down > 0.5 and np.allclose(frame.origin, self.frame.origin):
            self.y = top
            self.passed = lies.others if s.name == lies.first else frozenset(self.names) - lies.own
        self._tied(s, shape, units, free)
        self.passed = frozenset()
        self.y = max(before, self.y)

    def _tied(self, s: Section, shape: TightShape, units: int, free: Sequence[float]) -> None:
        """So many units of a section. free : cord above and below each that is free and not in the shape yet, in diameters."""
        core = None
        if s.over:  # the work is turned end for end, and tied back over what is there
            core, lay, far = self.at[s.over]
            self.frame, self.y = lay.about(lay.place(far)).halved(), 0.0
        of = self.others.get(s.name, {})
        holder = ["+".join(of.get(e, e) for e in name.split("+")) for name in shape.ends]
        # Where cord is left free in a unit, or a loop stands out of it, every unit stands by itself.
        alone = sum(free) > 0 or shape.kind == "held"
        first = None
        for _ in range(units if alone else 1):
            self._down(sum(free[:1]), on=core is not None)
            self._units(s.name, s.over, shape, holder, 1 if alone else units, core)
            first = first or self.laid.get(s.name)
            self._down(sum(free[1:]), on=core is not None)
            holder = shape.handed_on(holder)
        for e in (e for of in holder for e in of.split("+") if sum(free[1:]) > 0 and e in self.parts):
            self.hangs[e] = sum(free[1:])
        if first is not None:
            self.laid[s.name] = (*first[:4], units, sum(free))
        self.at[s.name] = shape, self.frame, self.y
        self.y += JOIN

    def _units(
        self, name: str, over: str, shape: TightShape, holder: list[str], units: int, core: TightShape | None
    ) -> None:
        """Units of a section that go on in each other. holder : whose each strand is. core : the finished work that they are tied over."""
        scale = shape.unit_mm / self.unit
        looks = [self.look.get(e.split("+")[0], NOBODY) for e in shape.ends]
        held = beads_of(shape, self.weave, units)
        tails = tails_with(held, shape.lines, TRIM)
        drawn = [x.line for x in strands_of(shape, Cords(looks), units, tails)]
        lines = [(even(x) if shape.kind == "held" else x) * scale for x in drawn]
        lines = worked_part(shape, lines, scale, held) if core is None else lines
        # A cord that was laid in by its fold begins and ends below.
        tops = [line[0, 1] for e, line in zip(holder, lines, strict=True) if "+" not in e]
        top = float(np.mean(tops) if tops else min(line[:, 1].min() for line in lines))
        # What stands out to a side is beside the work: it hangs below where its ends come from.
        hangs = [x[[0, -1], 0] if shape.standing else x[:, 0] for x in lines]
        middle = np.array([np.mean([x.mean() for x in hangs]), top, 0.0])
        lines = [x[int(np.argmax(x[:, 1] - x[0, 1] >= 0.9 * self.lead)) :] for x in lines]
        lines = [x[: len(x) - int(np.argmax(x[::-1, 1] - x[-1, 1] <= -0.9 * self.trail))] for x in lines]
        if shape.kind == "held" and core is None and not shape.standing:
            angle = self._turned(holder, lines)
            lines = [turned_about(x, middle, angle) for x in lines]
            held = [replace(b, at=turned_about(b.at[None], middle / scale, angle)[0]) for b in held]
        if core is None:
            self._down(self._lean(holder, [line - middle for line in lines]))
            if shape.kind == "cell":
                self.laid[name] = shape, self.frame, middle, self.y, units, 0.0
        else:
            thick = [d * scale for d in shape.diameter]
            lines = round_oval(lines, holder.index(over), core, core.unit_mm / self.unit, thick)
        stays = {e for e, x in zip(holder, drawn, strict=True) if core is not None and hangs_straight(x)}
        idle = dict(zip(holder, idle_ends(shape, drawn, lines, scale), strict=True))
        for end, own, out in by_end(shape, holder, lines, scale):
            # Not the finished work that it is tied over, nor what is led on elsewhere, nor what stays at its foot.
            if end in self.names and end not in self.passed and end not in stays:
                self._goes_on(end, self.frame.lay(own - middle, self.y))
                self.out[end] = out
                if any(ends := idle.get(end, (0, 0))):
                    self.idle.setdefault(end, {})[len(self.parts[end]) - 1] = ends
                if self.trail > 0:
                    self.hangs[end] = 0.9 * self.trail
                if core is not None:
                    self.back.add(end)
        self.lead = self.trail = 0.0
        for b in held:
            at = self.frame.lay((b.at * scale - middle)[None], self.y)[0]
            self.beads.append(replace(b, at=at, radius=b.radius * scale))
        # Where a unit of a body ends not all its cords do: it is as long as it says.
        whole_units = shape.kind == "cell"
        long = units * shape.pitch * scale if whole_units else max(float(x[-1, 1]) for x in lines) - top
        self._down(long, on=core is not None)

    def _turned(self, holder: Sequence[str], lines: Sequence[Array]) -> float:
        """By which angle a knot of these lines is turned to where all of its ends were left; 0 where some hung nowhere yet."""
        left = [self.parts[e][-1][-1] for e in holder if e in self.parts and e not in self.passed]
        if len(left) < len(holder):
            return 0.0
        return turned_to(np.array([x[0] for x in lines]), self.frame.seen(np.array(left)))

    def _lean(self, holder: Sequence[str], lines: Sequence[Array]) -> float:
        """How much further down work begins whose ends come from further aside: they lean together, and lie on no edge."""
        come = [k for k, e in enumerate(holder) if e in self.parts and e not in self.passed]
        left = [self.parts[holder[k]][-1][-1] for k in come]
        return self.frame.lean([self.frame.lay(lines[k][:1], self.y)[0] for k in come], left)

    def _stitched(self, s: Section, count: int) -> bool:
        """A thread on finished work; whether it could be laid there."""
        found = self.laid.get(s.on)
        if found is None:
            return False
        shape, frame, middle, y, units, free = found
        scale = shape.unit_mm / self.unit
        lay = passages(self.weave, s.name, shape, count, units)
        for end, past in lay.items():
            if len(past) > 1 and end in self.names:
                line = laid(shape, units, past, self.size[end] / scale, free / scale) * scale
                self.frame_of[end] = frame
                self.parts.setdefault(end, []).append(frame.lay(line - middle, y))
                self.back.add(end)
        return any(len(past) > 1 for past in lay.values())

    def _threaded(self, bare: Uncrossed) -> None:
        """Ends that hang straight, with beads on them: in one on several ends these lie side by side, about its middle."""
        long = bare.long / self.unit
        x = {
            e: self.frame.aside(found[-1][-1])
            if (found := self.parts.get(e))
            else k - (len(bare.ends) - 1) / 2
            for k, e in enumerate(bare.ends)
        }
        lines, balls = laid_straight(bare, x, self.size, self.unit)
        for e, line in lines.items():
            self._goes_on(e, self.frame.lay(even(line), self.y))
        for at, ball in balls:
            self.beads.append(Bead(self.frame.lay(at[None], self.y)[0], ball.radius / self.unit, ball.colour))
        self._down(long)

    def _goes_on(self, end: str, line: Array) -> None:
        """The next part of an end: led there from where it was left, or from where the other end of its cord began."""
        hung = self.frame_of.get(end, self.frame)
        self.frame_of[end] = self.frame
        self.hangs.pop(end, None)
        found, other = self.parts.get(end), other_end(end)
        if found is not None and (out := self.out.pop(end, 0)):
            found[-1] = found[-1][:-out]
        if found is None:
            self.parts[end] = [line]
            begun = self.parts.get(other)
            if self.frame.turned and begun and self.frame_of[other] is not self.frame:
                before = begun[0][::-1]
                self.parts[end] = [np.vstack([before[-1:], led(before, line)]), line]
                self.ways.setdefault(end, set()).add(0)
                self.above |= {end, other}
            elif begun and end in self.folds and not same_place(begun[0][0], line[0]):
                self.parts[end] = [folded(begun[0], line, self.frame, self.folds[end]), line]
                self.ways.setdefault(end, set()).add(0)
            return
        if self.frame.turned and float(np.linalg.norm(line[0] - found[-1][-1])) > FAR:
            self.brought.setdefault(end, []).append((len(found), hung.down))
        else:
            self.ways.setdefault(end, set()).add(len(found))
            found.append(led(found[-1], line))
        found.append(line)

    def foot(self, end: str) -> Array:
        """Where an end stops below all that it is worked in, and what of it is left free."""
        return np.asarray(
            self.parts[end][-1][-1] + self.hangs.get(end, 0.0) * self.frame_of[end].down, np.float64
        )

    def runs(self, end: str) -> list[Cord]:
        """An end as one cord, or several where it is brought round; each with a stub where it stops."""
        cuts = [(n, way, self.round_it) for n, way in self.brought.get(end, [])]
        cuts.append((len(self.parts[end]), self.frame_of[end].down, self.hangs.get(end, 0.0)))
        return cords(
            self.parts[end], self.ways.get(end, set()), cuts, self.size.get(end, 1.0), self.idle.get(end, {})
        )

    def _down(self, by: float, *, on: bool = False) -> None:
        """Further down in the work as it lies. on : on finished work, which is as long as it was."""
        self.y += by
        if on:
            return
        at = float(self.frame.place(self.y)[1])
        self.high, self.low = min(self.high, at), max(self.low, at)

    def _turn(self, t: Rotate) -> None:
        """Turn the work; it goes on where the ends are that are worked then."""
        turned = self.frame.halved() if t.how == "half" else self.frame.quartered(t.how == "left")
        named = [r for r in t.refs if isinstance(r, str) and r in self.parts]
        if named:
            places = [self.parts[e][-1][-1] for e in named]
        elif fresh := [p[0][0] for e, p in self.parts.items() if other_end(e) not in self.parts]:
            places = fresh
        else:
            ways = {e: float(f.down @ turned.down) for e, f in self.frame_of.items()}
            places = [p[-1][-1] for e, p in self.parts.items() if ways[e] > 0.5]
        at = np.mean(places, axis=0) if places else self.frame.place(self.y)
        if t.how == "half":  # the arms of a piece lie in one line
            at = self.frame.place(float((at - self.frame.origin) @ self.frame.down))
        self.frame, self.y = turned.about(at), JOIN
