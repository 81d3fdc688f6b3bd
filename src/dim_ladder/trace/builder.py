"""The exact trace: steps to an orthogonal drawing on insertable lanes (x) and rows (y), kept incrementally.

Every lane holds exactly one vertical piece of one end, every row exactly one horizontal piece. A run of
over/under hops is one row below everything, so only tails can cross it; a pass through a loop is drawn on fresh
lanes next to the loop's bend. A crossing is decided once, when the later piece is laid. Places that a piece
could have on either side of something are settled by one rule, the same in a mirror: a moved end rests as close
as possible beyond the last tail it crossed, an end that passed a loop as close as possible outside its edge.
"""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.notation import Cross, Step, Through
from dim_ladder.trace.expand import Op, bind, resolve
from dim_ladder.trace.value import Crossing, HopRecord, StepRecord

_GAP = 1 << 40


class StepError(Exception):
    """A step that cannot be made here; message and hint for the person."""

    def __init__(self, message: str, hint: str = "") -> None:
        super().__init__(message)
        self.message, self.hint = message, hint


class Axis:
    """Insertable exact order: a linked list of ids with integer keys, relabelled when a gap is used up."""

    __slots__ = ("_next", "_prev", "first", "key", "last")

    def __init__(self) -> None:
        self.key: list[int] = []
        self._prev: list[int] = []
        self._next: list[int] = []
        self.first = self.last = -1

    def __len__(self) -> int:
        return len(self.key)

    def append(self) -> int:
        return self.insert(self.last, -1)

    def after(self, i: int) -> int:
        return self.insert(i, self._next[i])

    def before(self, i: int) -> int:
        return self.insert(self._prev[i], i)

    def prev(self, i: int) -> int:
        return self._prev[i]

    def next(self, i: int) -> int:
        return self._next[i]

    def insert(self, a: int, b: int) -> int:
        """A new id between neighbours a and b (-1: the end of the order)."""
        new = len(self.key)
        if a < 0 and b < 0:
            k = 0
        elif b < 0:
            k = self.key[a] + _GAP
        elif a < 0:
            k = self.key[b] - _GAP
        else:
            k = (self.key[a] + self.key[b]) // 2
            if k == self.key[a]:
                self._relabel()
                k = (self.key[a] + self.key[b]) // 2
        self.key.append(k)
        self._prev.append(a)
        self._next.append(b)
        if a < 0:
            self.first = new
        else:
            self._next[a] = new
        if b < 0:
            self.last = new
        else:
            self._prev[b] = new
        return new

    def pop(self) -> None:
        """Take back the newest id."""
        a, b = self._prev.pop(), self._next.pop()
        self.key.pop()
        if a < 0:
            self.first = b
        else:
            self._next[a] = b
        if b < 0:
            self.last = a
        else:
            self._prev[b] = a

    def _relabel(self) -> None:
        i, k = self.first, 0
        while i >= 0:
            self.key[i] = k
            k += _GAP
            i = self._next[i]

    def ranks(self) -> list[int]:
        """Rank of every id, 0 first."""
        out = [0] * len(self.key)
        i, n = self.first, 0
        while i >= 0:
            out[i] = n
            n += 1
            i = self._next[i]
        return out


@dataclass(frozen=True, slots=True)
class _Bend:
    """The first bend of a step: down `lane`, then along `row` towards `side` (+1 right, -1 left)."""

    lane: int
    row: int
    side: int


@dataclass(frozen=True, slots=True)
class _Mark:
    lanes: int
    rows: int
    crossings: int
    steps: int
    order: tuple[int, ...]
    paths: tuple[int, ...]
    bends: tuple[_Bend | None, ...]


class Builder:
    """The drawing under construction. Ends are numbered by their place at the start."""

    def __init__(self, ends: tuple[str, ...]) -> None:
        self.names = ends
        self.number = {e: i for i, e in enumerate(ends)}
        self.lanes, self.rows = Axis(), Axis()
        self.top: list[int] = []  # per lane: row where its piece starts, -1 at the bar
        self.bottom: list[int] = []  # per lane: row where it ends, -1 while it hangs
        self.left: list[int] = []  # per row: leftmost lane of its piece
        self.right: list[int] = []
        self.row_end: list[int] = []  # per row: whose piece it holds
        self.lane_crossings: list[list[int]] = []
        self.row_crossings: list[list[int]] = []
        self.crossings: list[Crossing] = []
        self.order = list(range(len(ends)))
        self.paths: list[list[int]] = []
        self.bends: list[_Bend | None] = [None] * len(ends)
        self.steps: list[StepRecord] = []
        for _ in ends:
            self.paths.append([self._lane(self.lanes.append(), -1)])

    # -- marks: everything can be taken back to an earlier moment ------------------------------------

    def mark(self) -> _Mark:
        return _Mark(
            len(self.lanes),
            len(self.rows),
            len(self.crossings),
            len(self.steps),
            tuple(self.order),
            tuple(map(len, self.paths)),
            tuple(self.bends),
        )

    def back_to(self, mark: _Mark) -> None:
        for _ in range(len(self.crossings) - mark.crossings):
            c = self.crossings.pop()
            self.lane_crossings[c.lane].pop()
            self.row_crossings[c.row].pop()
        for path, length in zip(self.paths, mark.paths, strict=True):
            del path[length:]
            self.bottom[path[-1]] = -1
        while len(self.lanes) > mark.lanes:
            self.lanes.pop()
            self.top.pop()
            self.bottom.pop()
            self.lane_crossings.pop()
        while len(self.rows) > mark.rows:
            self.rows.pop()
            self.left.pop()
            self.right.pop()
            self.row_end.pop()
            self.row_crossings.pop()
        del self.steps[mark.steps :]
        self.order = list(mark.order)
        self.bends = list(mark.bends)

    # -- operations ----------------------------------------------------------------------------------

    def order_names(self) -> tuple[str, ...]:
        names = self.names
        return tuple([names[e] for e in self.order])

    def run(self, op: Op) -> None:
        """Carry out one operation; on StepError the drawing is as it was before the failing step."""
        order = self.order_names()
        try:
            if op.finish:
                self._finish(op, order)
            elif op.knot is not None and not isinstance(op.value, Step):
                binding = bind(op.value, op.knot, order)
                ends = {k: tuple([self.number[e] for e in v]) for k, v in binding.items()}
                for i, step in enumerate(op.knot.steps):
                    self._step(op, step, ends, i)
            elif isinstance(op.value, Step):
                self._step(op, op.value, None, -1)
        except ValueError as e:
            raise StepError(str(e)) from e

    def _finish(self, op: Op, order: tuple[str, ...]) -> None:
        assert not isinstance(op.value, Step)
        ends = tuple(self.number[resolve(r, order)] for g in op.value.groups for r in g)
        if not ends:
            raise StepError(f"{op.finish} names no end", f"Write it as: {op.finish} (1 | {len(order)})")
        self.steps.append(
            StepRecord(
                op,
                -1,
                ends[0],
                (),
                tuple(self.order),
                len(self.crossings),
                len(self.crossings),
                ends,
                op.finish,
            )
        )

    def _step(self, op: Op, step: Step, ends: dict[str, tuple[int, ...]] | None, knot_step: int) -> None:
        mark = self.mark()
        try:
            self._make_step(op, step, ends, knot_step)
        except (StepError, ValueError):
            self.back_to(mark)
            raise

    def _group(
        self, ref: int | str, ends: dict[str, tuple[int, ...]] | None, places: tuple[str, ...]
    ) -> tuple[int, ...]:
        if ends is not None:
            if ref not in ends:
                raise StepError(f"“{ref}” is not a place of this knot")
            return ends[str(ref)]
        return (self.number[resolve(ref, places)],)

    def _make_step(self, op: Op, step: Step, ends: dict[str, tuple[int, ...]] | None, knot_step: int) -> None:
        places = self.order_names() if ends is None else ()
        group = self._group(step.end, ends, places)
        if len(group) != 1:
            raise StepError(
                f"“{step.end}” stands for {len(group)} ends; a step moves one", "Name each in its own step"
            )
        pen = _Pen(self, group[0])
        first = len(self.crossings)
        path_start = len(self.paths[pen.end])
        hops: list[HopRecord] = []
        for hop in step.hops:
            start = len(self.crossings)
            if isinstance(hop, Cross):
                crossed: list[int] = []
                for ref in hop.refs:
                    tails = self._group(ref, ends, places)
                    crossed.extend(pen.cross(tails, hop.over))
                hops.append(HopRecord(hop, tuple(crossed), start, len(self.crossings), pen.side))
            else:
                assert isinstance(hop, Through)
                owner = pen.end if hop.loop.ref is None else self._owner(hop.loop.ref, ends, places)
                edge = pen.through(owner, hop.up, own=hop.loop.ref is None)
                hops.append(HopRecord(hop, (owner,), start, len(self.crossings), 0, edge))
        pen.rest()
        self.bends[pen.end] = pen.bend
        self.steps.append(
            StepRecord(
                op,
                knot_step,
                pen.end,
                tuple(hops),
                tuple(self.order),
                first,
                len(self.crossings),
                (pen.end,),
                "",
                step,
                path_start,
                len(self.paths[pen.end]),
            )
        )

    def _owner(self, ref: int | str, ends: dict[str, tuple[int, ...]] | None, places: tuple[str, ...]) -> int:
        group = self._group(ref, ends, places)
        if len(group) != 1:
            raise StepError(f"“{ref}” stands for {len(group)} ends; a loop belongs to one")
        return group[0]

    # -- drawing -------------------------------------------------------------------------------------

    def _lane(self, lane: int, top: int, bottom: int = -1) -> int:
        self.top.append(top)
        self.bottom.append(bottom)
        self.lane_crossings.append([])
        return lane

    def _row(self, row: int, a: int, b: int, end: int) -> int:
        """Note the horizontal piece of an end on a new row between lanes a and b."""
        self.left.append(a)
        self.right.append(b)
        self.row_end.append(end)
        self.row_crossings.append([])
        self._span(row, a, b)
        return row

    def _span(self, row: int, a: int, b: int) -> None:
        key = self.lanes.key
        self.left[row], self.right[row] = (a, b) if key[a] < key[b] else (b, a)

    def _crossing(self, lane: int, row: int, lane_over: bool, lane_end: int, row_end: int) -> None:
        n = len(self.crossings)
        self.crossings.append(Crossing(lane, row, lane_over, lane_end, row_end))
        self.lane_crossings[lane].append(n)
        self.row_crossings[row].append(n)

    def rows_spanning(self, lane: int, top: int, bottom: int) -> list[int]:
        """Rows strictly between two rows (bottom -1: to the end) whose piece crosses a lane, upwards."""
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


class _Pen:
    """One end on its way through a step."""

    def __init__(self, b: Builder, end: int) -> None:
        self.b = b
        self.end = end
        self.index = b.order.index(end)
        self.row = -1  # the row being drawn, -1 while the end still hangs
        self.side = 0
        self.from_lane = b.paths[end][-1]
        self.last = -1  # lane of the last tail crossed on this row
        self.bend: _Bend | None = None

    def cross(self, tails: tuple[int, ...], over: bool) -> list[int]:
        b = self.b
        order = b.order
        if self.end in tails:
            raise StepError(
                f"{b.names[self.end]} cannot cross its own tail", "Name another end, or use up own"
            )
        wanted = set(tails)
        done: list[int] = []
        right = order.index(tails[0]) > self.index
        step = 1 if right else -1
        while wanted:
            i = self.index + step
            nxt = order[i] if 0 <= i < len(order) else -1
            if nxt not in wanted:
                raise self._blocked(wanted, nxt, over, step)
            wanted.discard(nxt)
            self._cross_one(nxt, over, step)
            order[self.index], order[i] = nxt, self.end
            self.index = i
            done.append(nxt)
        return done

    def _blocked(self, wanted: set[int], nxt: int, over: bool, step: int) -> StepError:
        b = self.b
        names = b.names
        target = min(wanted, key=lambda e: abs(b.order.index(e) - self.index))
        me, verb = names[self.end], "over" if over else "under"
        at = b.order.index(target)
        if nxt < 0 or (at > self.index) != (step > 0):
            return StepError(
                f"{me} cannot go {verb} {names[target]} in the same go: it hangs on the other side"
            )
        lo, hi = sorted((self.index, at))
        between = [names[e] for e in b.order[lo + 1 : hi]]
        path = between if step > 0 else between[::-1]
        return StepError(
            f"{me} cannot go {verb} {names[target]} first: between them "
            + ("hangs " if len(between) == 1 else "hang ")
            + " and ".join(path),
            f"Cross {path[0]} first, as in: {verb} {' '.join([*path, names[target]])}",
        )

    def _begin_row(self, side: int) -> None:
        """Turn into a new row below everything, from where the end is now."""
        b = self.b
        if self.row >= 0:
            self._land()
        row = b.rows.append()
        b._row(row, self.from_lane, self.from_lane, self.end)
        b.bottom[self.from_lane] = row
        b.paths[self.end].append(row)
        self.row, self.side, self.last = row, side, -1
        if self.bend is None:
            self.bend = _Bend(self.from_lane, row, side)

    def _cross_one(self, tail: int, over: bool, side: int) -> None:
        b = self.b
        if self.row < 0 or side != self.side:
            self._begin_row(side)
        lane = b.paths[tail][-1]
        b._crossing(lane, self.row, not over, tail, self.end)
        self.last = lane

    def _land(self) -> None:
        """End the row on a fresh lane just beyond the last tail crossed, and hang from there."""
        b = self.b
        lane = b.lanes.after(self.last) if self.side > 0 else b.lanes.before(self.last)
        b._lane(lane, self.row)
        b.paths[self.end].append(lane)
        b._span(self.row, b.paths[self.end][-3], lane)
        self.from_lane, self.row = lane, -1

    def rest(self) -> None:
        if self.row >= 0:
            self._land()

    def through(self, owner: int, up: bool, own: bool) -> int:
        b = self.b
        bend = self.bend if own else b.bends[owner]
        name = b.names[owner]
        if bend is None:
            if own:
                raise StepError(f"{name} has no loop of its own yet", "Let it cross something first")
            raise StepError(
                f"{name} has made no step yet, so it has no loop", "Move it first, or pass another loop"
            )
        behind = up  # an `up` goes in behind everything and comes out in front
        inner = b.lanes.after(bend.lane) if bend.side > 0 else b.lanes.before(bend.lane)
        b._lane(inner, -1)
        self._go_to(inner, behind)
        # Up (or down) into the loop, to a fresh row just above the bend.
        start_row = self.row
        row = b.rows.before(bend.row)
        b._row(row, inner, inner, self.end)
        for r in b.rows_spanning(inner, row, start_row):
            b._crossing(inner, r, not behind, self.end, b.row_end[r])
        b.top[inner], b.bottom[inner] = row, start_row
        # Out across the loop's edge, and down to the bottom.
        outer = b.lanes.before(bend.lane) if bend.side > 0 else b.lanes.after(bend.lane)
        b._lane(outer, row)
        b._span(row, inner, outer)
        edge = len(b.crossings)
        b._crossing(bend.lane, row, not behind, owner, self.end)
        b.paths[self.end] += [row, outer]
        for r in reversed(b.rows_spanning(outer, row, -1)):
            b._crossing(outer, r, behind, self.end, b.row_end[r])
        self.from_lane, self.row, self.side, self.last = outer, -1, 0, -1
        self._settle(outer)
        return edge

    def _go_to(self, lane: int, behind: bool) -> None:
        """Along a bottom row to a lane, crossing the tails on the way; the row stays open at that lane."""
        b = self.b
        key = b.lanes.key
        here = self.last if self.row >= 0 and self.last >= 0 else self.from_lane
        side = 1 if key[lane] > key[here] else -1
        if self.row < 0 or side != self.side:
            self._begin_row(side)
        target = key[lane]
        order = b.order
        while True:
            i = self.index + side
            if not 0 <= i < len(order):
                break
            tail_lane = b.paths[order[i]][-1]
            if (key[tail_lane] - target) * side >= 0:
                break
            tail = order[i]
            b._crossing(tail_lane, self.row, behind, tail, self.end)
            order[self.index], order[i] = tail, self.end
            self.index = i
        b._span(self.row, b.paths[self.end][-2], lane)
        b.paths[self.end].append(lane)

    def _settle(self, lane: int) -> None:
        """Put the end where its new lane falls among the tails."""
        b = self.b
        key = b.lanes.key
        b.order.remove(self.end)
        k = key[lane]
        self.index = next((i for i, e in enumerate(b.order) if key[b.paths[e][-1]] > k), len(b.order))
        b.order.insert(self.index, self.end)
