"""Operations to a drawing: binds places and names to ends, and has a pen carry out every hop."""

from __future__ import annotations

from collections.abc import Callable

from dim_ladder.notation import (
    Add,
    Call,
    Cross,
    Curl,
    Drop,
    Follow,
    Hop,
    Leave,
    Loop,
    Ref,
    Rotate,
    Round,
    Span,
    Step,
    Thread,
    Through,
    To,
    Turn,
    flipped,
    mirrored,
)
from dim_ladder.trace.axis import Axis
from dim_ladder.trace.drawing import HANGS, Bend, Drawing, Mark, Named, StepError
from dim_ladder.trace.expand import (
    MAX_STEPS,
    Nested,
    Op,
    Rehang,
    Solved,
    bind,
    bindings,
    resolve,
    under_layer,
)
from dim_ladder.trace.parallel import double_back, follow_back, follow_own, move_along
from dim_ladder.trace.pen import Pen
from dim_ladder.trace.regions import beside
from dim_ladder.trace.value import HopRecord, Placed, StepRecord

__all__ = ["Axis", "Builder", "BuilderMark", "StepError"]
Ends = dict[str, tuple[int, ...]]


class BuilderMark:
    """A moment of the builder, to come back to."""

    __slots__ = ("drawing", "names", "steps", "turned")

    def __init__(self, b: Builder) -> None:
        self.drawing: Mark = b.d.mark()
        self.steps = len(b.steps)
        self.names = len(b.names)
        self.turned = b.turned


class Builder:
    """The trace under construction. Ends are numbered by their place at the start, later ones as they come."""

    def __init__(self, ends: tuple[str, ...]) -> None:
        self.hung = len(ends)
        self.names: list[str] = list(ends)
        self.number = {e: i for i, e in enumerate(ends)}
        self.d = Drawing(len(ends))
        self.steps: list[StepRecord] = []
        self.turned = False
        self.before: tuple[int, ...] = ()  # tails before the step in hand
        self.begun: dict[int, tuple[str, ...]] = {}  # order of tails when a section began

    @property
    def crossings(self) -> int:
        return len(self.d.crossings)

    def mark(self) -> BuilderMark:
        return BuilderMark(self)

    def back_to(self, mark: BuilderMark) -> None:
        self.d.back_to(mark.drawing)
        del self.steps[mark.steps :]
        if len(self.names) > mark.names:
            del self.names[mark.names :]
            self.number = {e: i for i, e in enumerate(self.names)}
        self.turned = mark.turned

    # -- operations ----------------------------------------------------------------------------------

    def order_names(self) -> tuple[str, ...]:
        """Tails as they hang, left to right, as seen from the side that lies up."""
        names = self.names
        out = [names[e] for e in self.d.order]
        return tuple(reversed(out) if self.turned else out)

    def run(self, op: Op) -> None:
        """Carry out one operation; on StepError the drawing may hold a part of it: take it back to a mark."""
        if op.section not in self.begun:
            self.begun[op.section] = self.order_names()
        try:
            self._run(op)
        except ValueError as e:
            raise StepError(str(e)) from e

    def _run(self, op: Op) -> None:
        value = op.value
        self.before = tuple(self.d.order)
        if op.finish:
            self._finish(op)
        elif isinstance(value, Call):
            assert op.knot is not None
            for _ in range(value.repeat):
                for binding in bind(value, op.knot, self._seen(op)):
                    ends = {k: tuple([self.number[e] for e in v]) for k, v in binding.items()}
                    self._knot(op, op.knot, ends, 0)
        elif isinstance(value, Step):
            self._make_step(op, value, None, -1)
        elif isinstance(value, Turn):
            self.turned = not self.turned
            self._deed(op, ())
        elif isinstance(value, Rotate):
            self._rotate(op, value)
        elif isinstance(value, Rehang):
            self._rehang(op, value)
        elif isinstance(value, Span):
            self._span(op, value)
        elif isinstance(value, Add):
            self._add(op, value)
        elif isinstance(value, Drop):
            dropped = tuple(self.number[resolve(r, self._seen(op))] for r in value.refs)
            if len(set(dropped)) != len(dropped):
                raise StepError("an end is laid aside twice", "Name each once")
            self.d.stop(dropped)
            self._deed(op, dropped)
        else:
            raise StepError(
                "that is done on a round former only", "Begin the section with: on former, leads 3 bights 5"
            )

    def _seen(self, op: Op) -> tuple[str, ...]:
        """Tails that an operation can speak of: work that is only shown again does not see a stitching end."""
        order = self.order_names()
        return tuple(e for e in order if e not in op.unseen) if op.unseen else order

    def _knot(self, op: Op, knot: Solved, ends: Ends, count: int) -> int:
        for part in knot.steps:
            if isinstance(part, Nested):
                groups = [tuple(e for r in g for e in ends[str(r)]) for g in part.call.groups]
                if part.backwards and part.call.each >= 0:
                    groups[part.call.each] = groups[part.call.each][::-1]
                for _ in range(part.call.repeat):
                    for binding in bindings(part.knot, groups, part.call.each, self._name):
                        count = self._knot(op, part.knot, binding, count)
            else:
                self._make_step(op, part, ends, count)
                count += 1
        return count

    def _name(self, end: int) -> str:
        return self.names[end]

    def _note(self, record: StepRecord) -> None:
        if len(self.steps) >= MAX_STEPS:
            raise StepError(f"this makes more than {MAX_STEPS:,} steps", "Lower the count of the section")
        self.steps.append(record)

    def _deed(self, op: Op, ends: tuple[int, ...], placed: tuple[Placed, ...] = ()) -> None:
        n = self.crossings
        value = op.value
        assert not isinstance(value, Step | Call | Rehang)
        self._note(
            StepRecord(
                op, -1, ends[0] if ends else -1, (), tuple(self.d.order), n, n, ends,
                deed=value, placed=placed, turned=self.turned, before=self.before,
            )
        )  # fmt: skip

    def _finish(self, op: Op) -> None:
        assert isinstance(op.value, Call)
        order = self._seen(op)
        ends = tuple(self.number[resolve(r, order)] for g in op.value.groups for r in g)
        if not ends:
            raise StepError(f"{op.finish} names no end", f"Write it as: {op.finish} (1 | {len(order)})")
        n = self.crossings
        self._note(
            StepRecord(
                op,
                -1,
                ends[0],
                (),
                tuple(self.d.order),
                n,
                n,
                ends,
                op.finish,
                turned=self.turned,
                before=self.before,
            )
        )

    # -- the whole work ------------------------------------------------------------------------------

    def _hang_anew(self, names: tuple[str, ...]) -> None:
        """All that hangs is laid aside; these hang from here, left to right, as fresh ends."""
        d = self.d
        d.stop(tuple(d.order))
        row = -1
        for name in names:
            lane = d.lanes.append()
            if row < 0:
                row = d.rows.append()
                end = d.new_end(lane, row)
                d.row(row, lane, lane, end)
            else:
                end = d.new_end(lane, row)
            self.names.append(name)
            self.number[name] = end
            d.order.append(end)

    def _rotate(self, op: Op, value: Rotate) -> None:
        order = self.order_names()
        if value.refs:
            names = tuple(resolve(r, order) if isinstance(r, int) else r for r in value.refs)
        elif value.how == "half":
            cords = dict.fromkeys(e.rpartition(".")[0] for e in order)
            here = set(order)
            names = tuple(
                other for c in reversed(list(cords)) for x in "ab" if (other := f"{c}.{x}") not in here and c
            )
            if not names:
                raise StepError(
                    "both ends of every cord hang already",
                    "Say which are worked from now on: rotate (4 3 2 1)",
                )
        else:
            names = order
        for name in names:
            if self._weave_end(op, name) is None:
                raise StepError(f"there is no end “{name}”")
        if len(set(names)) != len(names):
            raise StepError("an end stands twice in this rotation", "Name each once")
        self.turned = False
        self._hang_anew(names)
        self._deed(op, tuple(self.d.order))

    def _weave_end(self, op: Op, name: str) -> str | None:
        cord, _, letter = name.partition(".")
        return name if name in self.number or (cord in op.cords and letter in ("a", "b")) else None

    def _rehang(self, op: Op, value: Rehang) -> None:
        if value.layer:
            names = under_layer(self.order_names(), value.layer)
            self.turned = False
            self._hang_anew(names)
        else:
            self.turned = False
            self._hang_anew(self.begun.get(value.section, self.order_names()))

    def _span(self, op: Op, value: Span) -> None:
        d = self.d
        order = self._seen(op)
        ends = tuple(self.number[resolve(r, order)] for r in value.refs) if value.refs else tuple(d.order)
        if not ends:
            raise StepError("nothing hangs here")
        rows = []
        for _ in range(2):
            row = d.rows.append()
            lane = d.tail_lane(ends[0])
            d.row(row, lane, lane, ends[0])
            rows.append(row)
        self._deed(op, ends, (Placed("span", "", value.mm, rows[0], -1, ends),))

    def _add(self, op: Op, value: Add) -> None:
        d = self.d
        names = value.ends
        for name in names:
            if name in self.number and self.number[name] in d.order:
                raise StepError(f"{name} hangs already", "Add another end, or drop it first")
        order = self._seen(op)
        count = len(d.order)
        if value.refs:
            tails = sorted(d.order.index(self.number[resolve(r, order)]) for r in value.refs)
            lo, hi = tails[0], tails[-1] + 1
            if tails != list(range(lo, hi)):
                raise StepError("the cord lies across neighbouring tails only", "Name all tails between them")
        else:
            if value.at > count + 1:
                raise StepError(f"there is no place {value.at}", f"Places to add at are 1 to {count + 1}")
            at = value.at - 1
            lo = hi = count - at if self.turned else at
        left = d.lanes.before(d.tail_lane(d.order[lo])) if lo < count else d.lanes.append()
        row = d.rows.append()
        if len(names) == 1:
            end = d.new_end(left, row)
            d.row(row, left, left, end)
            made = [end]
            self.names.append(names[0])
        else:
            pair = names[::-1] if self.turned else names
            after = d.tail_lane(d.order[hi - 1]) if hi > lo else left
            a = len(d.paths)
            d.lane(left, row, a)
            right = d.lanes.after(after)
            d.lane(right, row, a + 1)
            stub = d.lanes.after(right)
            d.lane(stub, row, a, row)
            d.row(row, left, stub, a)
            for path in ([stub, row, left], [right]):
                d.paths.append(path)
                d.tips.append(HANGS)
                d.bends.append(())
            d.folds.append((a, a + 1))
            for tail in d.order[lo:hi]:
                d.cross(d.tail_lane(tail), row, value.over == self.turned)
            self.names += pair
            made = [a, a + 1]
        n = self.crossings - (hi - lo if len(names) == 2 else 0)
        for new in made:
            d.hang(new)
            self.number[self.names[new]] = new
        self._note(
            StepRecord(
                op,
                -1,
                made[0],
                (),
                tuple(d.order),
                n,
                self.crossings,
                tuple(made),
                deed=value,
                turned=self.turned,
                before=self.before,
            )
        )

    # -- steps ---------------------------------------------------------------------------------------

    def _group(self, ref: Ref, ends: Ends | None, places: tuple[str, ...]) -> tuple[int, ...]:
        if ends is not None:
            if ref not in ends:
                raise StepError(f"“{ref}” is not a place of this knot")
            return ends[str(ref)]
        return (self.number[resolve(ref, places)],)

    def _make_step(self, op: Op, step: Step, ends: Ends | None, knot_step: int) -> None:
        d = self.d
        before = tuple(d.order)
        places = self._seen(op) if ends is None else ()

        def group(ref: Ref) -> tuple[int, ...]:
            return self._group(ref, ends, places)

        hops = step.hops
        if self.turned:
            hops = mirrored(flipped(step)).hops
        movers = list(group(step.end))
        if len(movers) != 1:
            raise StepError(
                f"“{step.end}” stands for {len(movers)} ends; a step moves one", "Name each in its own step"
            )
        for ref in step.more:
            movers += group(ref)
        if any(m not in d.order for m in movers):
            raise StepError(f"{self.names[movers[0]]} does not hang here now")
        sides = self._side_by_side(movers) if step.more else []
        begun = [len(d.paths[e]) for e in movers]
        first = self.crossings
        pen = Pen(d, movers[0], self._name, movers[1:])
        if op.unseen:
            pen.pass_silently = {self.number[n] for n in op.unseen if n in self.number}
        runner = _Hops(self, op, pen, group, begun[0])
        records = runner.all(hops)
        pen.rest()
        d.bends[pen.end] = tuple(pen.bends)
        leader = [movers[0], movers[0]]
        for e, side in zip(movers[1:], sides, strict=True):
            at = 0 if side < 0 else 1
            move_along(d, e, leader[at], begun[movers.index(leader[at])], side > 0)
            leader[at] = e
        for name, bend in runner.names:
            d.named.append(Named(name, bend, pen.end, op.section, op.unit))
        others = tuple(
            (e, b, len(d.paths[e])) for e, b in zip(movers[1:], begun[1:], strict=True) if len(d.paths[e]) > b
        )
        self._note(
            StepRecord(
                op, knot_step, pen.end, tuple(records), tuple(d.order), first, self.crossings, tuple(movers), "",
                step, begun[0], len(d.paths[pen.end]), others, tuple(runner.placed), self.turned, op.quiet, before,
            )
        )  # fmt: skip

    def _side_by_side(self, movers: list[int]) -> list[int]:
        """For every end that moves along: -1 on the leader's left, +1 on its right; nearest first on either side."""
        order = self.d.order
        at = [order.index(e) for e in movers]
        if len(set(movers)) != len(movers):
            raise StepError("an end stands twice among those that move together", "Name each once")
        if max(at) - min(at) != len(at) - 1:
            names = " and ".join(self.names[e] for e in movers)
            raise StepError(f"{names} do not hang side by side", "Ends that move as one are neighbours")
        rest = sorted(movers[1:], key=lambda e: abs(order.index(e) - at[0]))
        movers[1:] = rest
        return [1 if order.index(e) > at[0] else -1 for e in rest]


class _Hops:
    """The hops of one step, one after the other."""

    __slots__ = ("at_top", "b", "begun", "group", "names", "op", "path_start", "pen", "placed")

    def __init__(
        self, b: Builder, op: Op, pen: Pen, group: Callable[[Ref], tuple[int, ...]], path_start: int
    ) -> None:
        self.b, self.op, self.pen, self.group, self.path_start = b, op, pen, group, path_start
        self.placed: list[Placed] = []
        self.names: list[tuple[str, Bend]] = []
        self.at_top = False
        self.begun = 0  # crossings before the pass in hand

    def all(self, hops: tuple[Hop, ...]) -> list[HopRecord]:
        out = []
        crossings = self.b.d.crossings
        for i, hop in enumerate(hops):
            if self.at_top and not (isinstance(hop, Follow) and hop.ref is None):
                raise StepError(
                    "the end is at the top of what it followed",
                    "Go on with: follow own left, or say how far: back 6",
                )
            start = len(crossings)
            if isinstance(hop, Cross):
                ends, side, edge = self._cross(hop)
            else:
                ends, side, edge = self._one(hop, hops[i + 1] if i + 1 < len(hops) else None)
            out.append(HopRecord(hop, ends, start, len(crossings), side, edge))
        if self.at_top:
            raise StepError(
                "the end is at the top of what it followed", "Go on with: follow own left, or say: back 6"
            )
        return out

    def _one(self, hop: Hop, nxt: Hop | None) -> tuple[tuple[int, ...], int, int]:
        pen = self.pen
        if isinstance(hop, Through):
            return self._through(hop, nxt)
        if isinstance(hop, Round):
            tails = tuple(e for r in hop.refs for e in self.group(r))
            turned = len(pen.bends)
            for _ in range(hop.turns):
                pen.cross(tails, hop.over)
                pen.cross(tails[::-1], not hop.over)
            self._name(hop.name, turned)
            return tails, 0, -1
        if isinstance(hop, Curl):
            turned = len(pen.bends)
            n = pen.curl(hop.over, hop.left)
            self._name(hop.name, turned)
            return (pen.end,), -1 if hop.left else 1, n
        if isinstance(hop, Follow):
            return self._follow(hop)
        if isinstance(hop, To):
            self._to(hop)
            return (), 0, -1
        self._mark(hop)
        return (), 0, -1

    def _name(self, name: str, turned: int) -> None:
        """Name the first turn made since; where no turn was made, the latest."""
        bends = self.pen.bends
        if name and bends:
            self.names.append((name, bends[min(turned, len(bends) - 1)]))

    def _cross(self, hop: Cross) -> tuple[tuple[int, ...], int, int]:
        pen, d = self.pen, self.b.d
        turned = len(pen.bends)
        if len(hop.refs) == 1 and not hop.bight and not hop.name:
            return tuple(pen.cross(self.group(hop.refs[0]), hop.over)), pen.side, -1
        crossed: list[int] = []
        if hop.bight:
            if pen.row >= 0:
                pen.land()
            leg, order = len(d.paths[pen.end]), list(d.order)
            for ref in hop.refs:
                crossed += pen.cross(self.group(ref), hop.over)
            side = pen.side
            pen.land()
            tip, row = d.paths[pen.end][-1], d.paths[pen.end][-2]
            d.bottom[tip] = row
            d.order = order
            self._bight(leg, hop.name)
            return tuple(crossed), side, -1
        for ref in hop.refs:
            crossed += pen.cross(self.group(ref), hop.over)
        self._name(hop.name, turned)
        return tuple(crossed), pen.side, -1

    def _bight(self, leg: int, name: str) -> None:
        bend = double_back(self.pen, leg)
        if name:
            self.names.append((name, bend))

    def _through(self, hop: Through, nxt: Hop | None) -> tuple[tuple[int, ...], int, int]:
        pen, d = self.pen, self.b.d
        if hop.loop.kind == "gap":
            return self._gap(hop)
        if pen.with_it and (hop.bight or hop.turns > 1):
            raise StepError(
                "several ends at once pass a loop once, tips first", "Move them one after the other"
            )
        owner, bend = self._loop(hop.loop)
        turned = len(pen.bends)
        if hop.bight:
            if pen.row >= 0:
                pen.land()
            leg = len(d.paths[pen.end])
            edge = pen.into(bend, hop.up)
            self._bight(leg, hop.name)
            pen.front = hop.up
            return (owner,), 0, edge
        place = self._place(nxt) if isinstance(nxt, To) else None
        self.begun = self.b.crossings
        # Falling in front only to go on in front would be a way there and back.
        stay = (
            isinstance(nxt, Through)
            and nxt.up != hop.up
            and not nxt.bight
            and nxt.loop.kind != "gap"
            and not pen.with_it
            and hop.turns == 1
        )
        edge = pen.through(bend, hop.up, place, stay)
        for _ in range(hop.turns - 1):
            edge, bend = self._once_more(bend, edge, hop.up, place)
        self._name(hop.name, max(turned, len(pen.bends) - 1))
        return (owner,), 0, edge

    def _once_more(self, bend: Bend, edge: int, up: bool, place: int | None) -> tuple[int, Bend]:
        """One more turn about the same edge, beyond the turns that are there."""
        d = self.b.d
        if not bend.by_row:
            key = d.rows.key
            mine = {
                d.crossings[edge].row,
                *(d.crossings[n].row for n in d.lane_crossings[bend.lane] if n >= self.begun),
            }
            bend = Bend(bend.lane, min(mine, key=key.__getitem__), bend.side)
        return self.pen.through(bend, up, place), bend

    def _gap(self, hop: Through) -> tuple[tuple[int, ...], int, int]:
        """Behind (or in front of) the tails between here and the gap, and to rest in it."""
        pen, d = self.pen, self.b.d
        assert hop.loop.ref is not None
        assert hop.loop.other is not None
        (a,), (b,) = self.group(hop.loop.ref), self.group(hop.loop.other)
        order = [e for e in d.order if e != pen.end]
        for e in (a, b):
            if e not in order:
                raise StepError(f"{self.b.names[e]} does not hang here beside a gap")
        i, j = sorted((order.index(a), order.index(b)))
        if i == j:
            raise StepError("a gap lies between two tails", "Write it as: up gap 2 3")
        if j != i + 1:
            between = self.b.names[order[i + 1]]
            raise StepError(
                f"there is no gap between {self.b.names[a]} and {self.b.names[b]}: {between} hangs there"
            )
        pen.front = not hop.up
        pen.move_to(j)
        pen.front = hop.up
        return (a, b), pen.side, -1

    def _loop(self, loop: Loop) -> tuple[int, Bend]:
        b, pen = self.b, self.pen
        d = b.d
        if loop.kind == "name":
            found = [n for n in d.named if n.name == loop.name]
            here = [n for n in found if (n.section, n.unit) == (self.op.section, self.op.unit)]
            mine = [Named(n, bend, pen.end, 0, 0) for n, bend in self.names if n == loop.name]
            pool = here + mine if loop.bend > 1 or here or mine else found
            if not pool or (loop.bend > 1 and loop.bend > len(pool)):
                raise StepError(
                    f"no loop is called @{loop.name} here"
                    if not pool
                    else f"there is no {loop.bend}. @{loop.name} here",
                    f"Name one when it is made, as in: over 2 @{loop.name}",
                )
            named = pool[loop.bend - 1] if loop.bend > 1 else pool[-1]
            return named.end, named.bend
        if loop.kind == "beside":
            assert loop.ref is not None
            (owner,) = self._one_end(loop.ref)
            if pen.row >= 0:
                pen.land()
                d.hang(pen.end)
            if owner == pen.end and loop.bend == 0:
                raise StepError(
                    f"{b.names[owner]} cannot pass its own tail", "Make a loop first: over own left"
                )
            return owner, beside(d, owner, loop.left, loop.bend, b.names[owner])
        if loop.ref is None:
            owner, bends = pen.end, tuple(pen.bends)
            if not bends:
                raise StepError(
                    f"{b.names[owner]} has no loop of its own yet", "Let it cross something first"
                )
        else:
            (owner,) = self._one_end(loop.ref)
            bends = d.bends[owner]
            if not bends:
                raise StepError(
                    f"{b.names[owner]} has made no step yet, so it has no loop",
                    "Move it first, or pass another loop",
                )
        if loop.bend > len(bends):
            raise StepError(
                f"{b.names[owner]} has no {loop.bend}. turn: its latest step has {len(bends)}",
                f"Count up to {len(bends)}",
            )
        return owner, bends[loop.bend - 1]

    def _one_end(self, ref: Ref) -> tuple[int, ...]:
        found = self.group(ref)
        if len(found) != 1:
            raise StepError(f"“{ref}” stands for {len(found)} ends; a loop belongs to one")
        return found

    def _follow(self, hop: Follow) -> tuple[tuple[int, ...], int, int]:
        pen = self.pen
        if hop.ref is None:
            if not self.at_top:
                raise StepError(
                    "an end can follow its own path only from the top, behind the other end of its cord",
                    "Write it as: follow B left back, follow own right",
                )
            follow_own(pen, self.path_start, hop.left)
            self.at_top = False
            return (pen.end,), 0, -1
        (other,) = self._one_end(hop.ref)
        if other == pen.end:
            raise StepError(f"{self.b.names[other]} cannot run beside its own tail", "Use: follow own")
        if hop.back:
            self.at_top = follow_back(pen, other, hop.left, hop.most)
            return (other,), 0, -1
        self._follow_step(other, hop.left)
        return (other,), 0, -1

    def _follow_step(self, other: int, left: bool) -> None:
        """Make the latest step of another end beside it."""
        b, pen, d = self.b, self.pen, self.b.d
        me, it = b.names[pen.end], b.names[other]
        latest = next((s for s in reversed(b.steps) if s.end == other and s.path_stop > s.path_start), None)
        side = "left" if left else "right"
        if latest is None or pen.row >= 0 or len(d.paths[pen.end]) != self.path_start:
            raise StepError(
                f"{it} has made no step that {me} could make beside it", "Follow at once, as the first hop"
            )
        came = d.paths[other][latest.path_start - 1]
        turn = d.paths[other][latest.path_start]
        key = d.lanes.key
        mine = pen.from_lane
        near = [
            e
            for e in d.order
            if e != pen.end and min(key[mine], key[came]) < key[d.tail_lane(e)] < max(key[mine], key[came])
        ]
        late = [n for n in d.lane_crossings[mine] if d.rows.key[d.crossings[n].row] >= d.rows.key[turn]]
        since = d.top[mine] >= 0 and d.rows.key[d.top[mine]] >= d.rows.key[turn]
        looped = since or any(n >= latest.start for n in d.lane_crossings[came])
        if (key[mine] < key[came]) != left or near or late or looped:
            raise StepError(
                f"{me} does not hang where it could make the step of {it} on its {side}",
                f"Let it follow at once, from beside the place {it} came from; or move them as one: {it}+{me}",
            )
        move_along(d, pen.end, other, latest.path_start, not left)
        pen.from_lane, pen.row, pen.side, pen.last = d.paths[pen.end][-1], -1, 0, -1

    def _place(self, to: To) -> int:
        n = len(self.b.d.order)
        if to.where == "left":
            return 0
        if to.where == "right":
            return n - 1
        if isinstance(to.where, int):
            if not 1 <= to.where <= n:
                raise StepError(f"there is no place {to.where}: {n} tails hang")
            return n - to.where if self.b.turned else to.where - 1
        raise StepError(f"“{to.where}” is not a place to rest at", "left, right or a place number")

    def _to(self, hop: To) -> None:
        pen = self.pen
        place = self._place(hop)
        if pen.index != place:
            pen.move_to(place)

    def _mark(self, hop: Hop) -> None:
        """A bead or slack: a place on the path, nothing crossed."""
        pen, d = self.pen, self.b.d
        movers = (pen.end, *pen.with_it)
        if isinstance(hop, Leave):
            if not pen.bends:
                raise StepError(
                    "there is no turn yet to leave slack in", "Write it after a hop: over 2, leave 25 mm"
                )
            bend = pen.bends[-1]
            self.placed.append(Placed("leave", "", hop.mm, bend.row, bend.lane, movers))
            return
        assert isinstance(hop, Thread)
        if pen.row >= 0:
            pen.rest()
        lane = pen.from_lane
        row = d.rows.append()
        d.row(row, lane, lane, pen.end)
        self.placed.append(Placed("bead", hop.bead, 0.0, row, lane, movers))
