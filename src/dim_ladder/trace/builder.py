"""Operations to a drawing: binds places and names to ends, and has a pen carry out every hop."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from dim_ladder.base.budget import STEP_WORK, TRACE_WORK, TooMuch, metered
from dim_ladder.notation import (
    NOMINAL_GIRTH,
    Add,
    Call,
    Drop,
    Ref,
    Rotate,
    Span,
    Step,
    To,
    Turn,
    flipped,
    free_length,
    is_strung,
    mirrored,
)
from dim_ladder.trace.axis import Axis
from dim_ladder.trace.drawing import HANGS, Mark, Named, StepError
from dim_ladder.trace.expand import AsOne, Op, Rehang, bind, resolve, under_layer, unrolled
from dim_ladder.trace.following import followed
from dim_ladder.trace.hops import LEAST_FREE, Hops
from dim_ladder.trace.parallel import move_along
from dim_ladder.trace.pen import Pen
from dim_ladder.trace.solved import LOWER, MAX_STEPS
from dim_ladder.trace.together import as_one, single
from dim_ladder.trace.underway import Underway
from dim_ladder.trace.value import Placed, StepRecord

__all__ = ["Axis", "Builder", "BuilderMark", "StepError"]
Ends = dict[str, tuple[int, ...]]


class BuilderMark:
    """A moment of the builder, to come back to."""

    __slots__ = ("drawing", "names", "steps", "turned", "work")

    def __init__(self, b: Builder) -> None:
        self.drawing: Mark = b.d.mark()
        self.steps = len(b.steps)
        self.names = len(b.names)
        self.turned = b.turned
        self.work = b.work


class Builder(Underway):
    """The trace under construction. Ends are numbered by their place at the start, later ones as they come."""

    def __init__(self, ends: tuple[str, ...]) -> None:
        super().__init__(ends)
        self.before: tuple[int, ...] = ()  # tails before the step in hand
        self.begun: dict[int, tuple[str, ...]] = {}  # order of tails when a section began
        self.work = 0  # units that all steps took: see base/budget.py
        self.model: Builder | None = None  # the knot that is being tied, with single ends: see together.py

    def mark(self) -> BuilderMark:
        return BuilderMark(self)

    def back_to(self, mark: BuilderMark) -> None:
        self.d.back_to(mark.drawing)
        del self.steps[mark.steps :]
        if len(self.names) > mark.names:
            del self.names[mark.names :]
            self.number = {e: i for i, e in enumerate(self.names)}
        self.turned, self.work = mark.turned, mark.work

    # -- operations ----------------------------------------------------------------------------------

    def order_names(self) -> tuple[str, ...]:
        """Tails as they hang, left to right, as seen from the side that lies up."""
        names = self.names
        out = [names[e] for e in self.d.order]
        return tuple(reversed(out) if self.turned else out)

    def run(self, op: Op) -> None:
        """Carry out one operation at once. See steps_of."""
        for _ in self.steps_of(op):
            pass

    def steps_of(self, op: Op) -> Iterator[None]:
        """Carry out one operation, step by step; on StepError the drawing may hold a part of it: take it back to a mark."""
        if op.section not in self.begun:
            self.begun[op.section] = self.order_names()
        try:
            yield from self._run(op)
        except ValueError as e:
            raise StepError(str(e)) from e
        yield

    def _run(self, op: Op) -> Iterator[None]:
        value = op.value
        self.before = tuple(self.d.order)
        if op.finish:
            self._finish(op)
        elif isinstance(value, Call):
            assert op.knot is not None
            for _ in range(value.repeat):
                for binding in bind(value, op.knot, self._seen(op)):
                    self.model = single(self, binding)
                    ends = {
                        k: (AsOne if isinstance(v, AsOne) else tuple)(self.number[e] for e in v)
                        for k, v in binding.items()
                    }
                    yield from self._tie(op, ends)
            self.model = None
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

    def _tie(self, op: Op, ends: Ends) -> Iterator[None]:
        """A knot, step by step; with ends that move as one, doubled step by step where that can be, else by following."""
        assert op.knot is not None
        whole = self.mark() if self.model is not None else None
        try:
            for count, (step, own) in enumerate(unrolled(op.knot, ends, self._name)):
                self._make_step(op, step, own, count)
                if whole is None:
                    yield
        except StepError:
            if whole is None:
                raise
            self.back_to(whole)
            yield from self._metered(followed(self, op, ends, self._note))

    def _metered(self, steps: Iterator[None]) -> Iterator[None]:
        """Steps that make themselves, none of them beyond what a step may take."""
        while True:
            try:
                with metered(STEP_WORK, what="This step") as meter:
                    done = next(steps, self) is self
            except TooMuch as e:
                raise StepError(e.message, e.hint) from None
            self._spent(STEP_WORK - meter.left)
            if done:
                return
            yield

    def _seen(self, op: Op) -> tuple[str, ...]:
        """Tails that an operation can speak of: work that is only shown again does not see a stitching end."""
        order = self.order_names()
        if op.mirrored:
            order = order[::-1]
        return tuple(e for e in order if e not in op.unseen) if op.unseen else order

    def _name(self, end: int) -> str:
        return self.names[end]

    def _note(self, record: StepRecord) -> None:
        if len(self.steps) >= MAX_STEPS:
            raise StepError(f"this makes more than {MAX_STEPS:,} steps", LOWER)
        self.steps.append(record)

    def _deed(self, op: Op, ends: tuple[int, ...], placed: tuple[Placed, ...] = ()) -> None:
        n = self.crossings
        value = op.value
        assert not isinstance(value, Step | Call | Rehang)
        self._note(
            StepRecord(
                op, -1, ends[0] if ends else -1, (), tuple(self.d.order), n, n, ends,
                deed=value, placed=placed, turned=self.turned, before=self.before, quiet=op.quiet,
            )
        )  # fmt: skip

    def _finish(self, op: Op) -> None:
        assert isinstance(op.value, Call)
        order = self._seen(op)
        ends = tuple(self.number[resolve(r, order)] for g in op.value.groups for r in g)
        for e in ends:
            if is_strung(self.names[e]):
                raise StepError(
                    f"{self.names[e]} is strung between two points: it is fast already", "Leave it out"
                )
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
                other
                for c in reversed(list(cords))
                for other in ([f"{c}.s"] if f"{c}.s" in here else [f"{c}.a", f"{c}.b"])
                if c and (other not in here or is_strung(other))
            )
            if not [n for n in names if not is_strung(n)]:
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
        mm = free_length(value.mm, value.share, NOMINAL_GIRTH)
        self._deed(op, ends, (Placed("span", "", max(mm, LEAST_FREE), rows[0], -1, ends),))

    def _add(self, op: Op, value: Add) -> None:
        d = self.d
        names = value.ends
        for name in names:
            if name in self.number and self.number[name] in d.order:
                raise StepError(f"{name} hangs already", "Add another end, or drop it first")
        self._lead_together(op, value)
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
            lo = hi = count - at if self.turned != op.mirrored else at
        left = d.lanes.before(d.tail_lane(d.order[lo])) if lo < count else d.lanes.append()
        row = d.rows.append()
        if len(names) == 1:
            end = d.new_end(left, row)
            d.row(row, left, left, end)
            made = [end]
            self.names.append(names[0])
        else:
            pair = names[::-1] if self.turned != op.mirrored else names
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
                quiet=op.quiet,
                before=self.before,
            )
        )

    def _lead_together(self, op: Op, value: Add) -> None:
        """Tails that are named for a cord to lie across, led side by side: what hung on the other side of the work comes round
        from the left, and each passes in front to lie beside the one that is named before it."""
        if not value.refs or not all(isinstance(r, str) for r in value.refs):
            return
        names = [str(r) for r in value.refs]
        for name in names:
            if name not in self.order_names() and name.partition(".")[0] in {
                n.partition(".")[0] for n in self.names
            }:
                self._add(op._replace(value=Add((name,), 1)), Add((name,), 1))
                self.before = tuple(self.d.order)
        for before, name in pairwise(names):
            order = [e for e in self._seen(op) if e != name]
            place = order.index(resolve(before, tuple(order))) + 2
            if self._seen(op).index(resolve(name, self._seen(op))) + 1 != place:
                self._make_step(op, Step(name, (To(place),)), None, -1)
                self.before = tuple(self.d.order)

    # -- steps ---------------------------------------------------------------------------------------

    def _group(self, ref: Ref, ends: Ends | None, places: tuple[str, ...]) -> tuple[int, ...]:
        if ends is not None:
            if ref not in ends:
                raise StepError(f"“{ref}” is not a place of this knot")
            return ends[str(ref)]
        return (self.number[resolve(ref, places)],)

    def _make_step(self, op: Op, step: Step, ends: Ends | None, knot_step: int) -> None:
        try:
            with metered(STEP_WORK, what="This step") as meter:
                if self.model is not None and ends is not None:
                    as_one(self, self.model, op, step, ends, knot_step)
                else:
                    self.move(op, step, ends, knot_step)
        except TooMuch as e:
            raise StepError(e.message, e.hint) from None
        self._spent(STEP_WORK - meter.left)

    def _spent(self, work: int) -> None:
        self.work += work
        if self.work > TRACE_WORK:
            raise StepError("up to here this weave asks for more work than it can be given", TooMuch().hint)

    def move(self, op: Op, step: Step, ends: Ends | None, knot_step: int) -> None:
        d = self.d
        before = tuple(d.order)
        places = self._seen(op) if ends is None else ()

        def group(ref: Ref) -> tuple[int, ...]:
            return self._group(ref, ends, places)

        hops = step.hops
        if self.turned:
            hops = mirrored(flipped(step)).hops
        first_named = group(step.end)
        for e in (*first_named, *(e for r in step.more for e in group(r))):
            if is_strung(self.names[e]):
                raise StepError(
                    f"{self.names[e]} is strung between two points: it cannot be led",
                    "Lead the others round it",
                )
        movers = list(first_named)
        if len(movers) != 1 and not isinstance(first_named, AsOne):
            raise StepError(
                f"“{step.end}” stands for {len(movers)} ends; a step moves one", "Name each in its own step"
            )
        for ref in step.more:
            movers += group(ref)
        if any(m not in d.order for m in movers):
            raise StepError(f"{self.names[movers[0]]} does not hang here now")
        sides = self._side_by_side(movers) if len(movers) > 1 else []
        begun = [len(d.paths[e]) for e in movers]
        first = self.crossings
        pen = Pen(d, movers[0], self._name, movers[1:])
        if op.unseen:
            pen.pass_silently = {self.number[n] for n in op.unseen if n in self.number}
        own = frozenset(d.order if ends is None else (e for g in ends.values() for e in g))
        runner = Hops(self, op, pen, group, begun[0], own)
        records = runner.all(hops)
        pen.rest()
        d.bends[pen.end] = tuple(pen.bends)
        leader = [movers[0], movers[0]]
        for e, side in zip(movers[1:], sides, strict=True):
            at = 0 if side < 0 else 1
            start, own_start = begun[movers.index(leader[at])], begun[movers.index(e)]
            waiting = [d.tail_lane(o) for o in movers[movers.index(e) + 1 :]]
            move_along(d, e, leader[at], start, side > 0, waiting)
            # Its turns lie beside the leader's: it has loops of its own that can be passed.
            beside = dict(zip(d.paths[leader[at]][start - 1 :], d.paths[e][own_start - 1 :], strict=False))
            d.bends[e] = tuple(
                b._replace(lane=beside[b.lane], row=beside[b.row])
                for b in d.bends[leader[at]]
                if b.lane in beside and b.row in beside
            )
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
