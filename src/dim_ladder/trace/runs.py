"""One end on its way through a step, where it only meets tails or itself: runs of over and under, and curls.

A run of over/under is a row below everything, so only tails cross it. A moved end rests as close as possible beyond
the last tail it crossed.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from dim_ladder.trace.drawing import HANGS, Drawing, StepError
from dim_ladder.trace.grid import DOWN
from dim_ladder.trace.value import Bend


class Runs:
    """bends : the turns made so far, in order. front : whether the last hop went in front."""

    __slots__ = (
        "bends", "d", "end", "from_lane", "front", "heading", "last", "name", "open", "pass_silently", "row", "side",
        "start_lane", "strip", "with_it",
    )  # fmt: skip

    def __init__(self, d: Drawing, end: int, name: Callable[[int], str], with_it: Sequence[int] = ()) -> None:
        self.d = d
        self.end = end
        self.name = name
        self.with_it = tuple(with_it)  # ends that move along: out of the way until they are drawn beside
        self.row = -1  # the row being drawn, -1 while the end hangs
        self.side = 0
        self.from_lane = d.paths[end][-1]
        self.last = -1  # lane of the last tail crossed on this row
        self.bends: list[Bend] = []
        self.front = True
        self.heading = DOWN
        self.open = False  # outside a loop, not fallen yet
        self.pass_silently: set[int] = set()  # tails of a stitching end: the work beneath goes on behind them
        self.start_lane = self.from_lane
        # Lanes of ends that move along, nearest first, left and right of this one's: they are one strip with it.
        self.strip: dict[int, list[int]] = {-1: [], 1: []}
        if self.with_it:
            key, mine = d.lanes.key, self.from_lane
            for lane in sorted((d.tail_lane(e) for e in self.with_it), key=lambda n: abs(key[n] - key[mine])):
                self.strip[-1 if key[lane] < key[mine] else 1].append(lane)
            for e in self.with_it:
                d.order.remove(e)
                if d.rows.last >= 0:
                    d.cut(e, d.rows.last)

    @property
    def index(self) -> int:
        return self.d.order.index(self.end)

    # -- runs of over and under ------------------------------------------------------------------------

    def cross(self, tails: tuple[int, ...], over: bool) -> list[int]:
        """Cross these tails; the ends in the order in which they were crossed."""
        order = self.d.order
        if self.end in tails:
            raise StepError(
                f"{self.name(self.end)} cannot cross its own tail", "Name another end, or use: over own left"
            )
        for t in tails:
            if t not in order:
                raise StepError(f"{self.name(t)} does not hang here now", "Name an end that hangs")
        at = order.index(self.end)
        step = 1 if order.index(tails[0]) > at else -1
        if len(tails) == 1 and 0 <= at + step < len(order) and order[at + step] == tails[0]:
            self._cross_one(tails[0], over, step)
            order[at], order[at + step] = tails[0], self.end
            self.front = over
            return [tails[0]]
        wanted = set(tails)
        done: list[int] = []
        while wanted:
            i = at + step
            nxt = order[i] if 0 <= i < len(order) else -1
            if nxt in self.pass_silently:
                self._cross_one(nxt, False, step)
                order[at], order[i] = nxt, self.end
                at = i
                continue
            if nxt not in wanted:
                raise self._blocked(wanted, nxt, over, step)
            wanted.discard(nxt)
            self._cross_one(nxt, over, step)
            order[at], order[i] = nxt, self.end
            at = i
            done.append(nxt)
        self.front = over
        return done

    def _blocked(self, wanted: set[int], nxt: int, over: bool, step: int) -> StepError:
        order, name, at = self.d.order, self.name, self.index
        target = min(wanted, key=lambda e: abs(order.index(e) - at))
        me, verb = name(self.end), "over" if over else "under"
        to = order.index(target)
        if nxt < 0 or (to > at) != (step > 0):
            return StepError(
                f"{me} cannot go {verb} {name(target)} in the same go: it hangs on the other side"
            )
        lo, hi = sorted((at, to))
        between = [name(e) for e in order[lo + 1 : hi]]
        path = between if step > 0 else between[::-1]
        return StepError(
            f"{me} cannot go {verb} {name(target)} first: between them "
            + ("hangs " if len(between) == 1 else "hang ")
            + " and ".join(path),
            f"Cross {path[0]} first, as in: {verb} {' '.join([*path, name(target)])}",
        )

    def _begin_row(self, side: int) -> None:
        """Turn into a new row below everything, from where the end is now."""
        d = self.d
        if self.row >= 0:
            self.land()
        row = d.rows.append()
        d.row(row, self.from_lane, self.from_lane, self.end)
        d.bottom[self.from_lane] = d.tips[self.end] = row
        d.paths[self.end].append(row)
        self.row, self.side, self.last = row, side, -1
        self._turned(self.from_lane, row, side)

    def _turned(self, lane: int, row: int, side: int) -> None:
        self.bends.append(Bend(lane, row, side))

    def _cross_one(self, tail: int, over: bool, side: int) -> None:
        d = self.d
        if self.row < 0 or side != self.side:
            self._begin_row(side)
        lane = d.paths[tail][-1]
        d.cross(lane, self.row, not over)
        self.last = lane

    def land(self) -> None:
        """End the row on a fresh lane just beyond the last tail crossed, and hang from there."""
        d = self.d
        past = self.last if self.last >= 0 else self.from_lane
        lane = d.lanes.after(past) if self.side > 0 else d.lanes.before(past)
        d.lane(lane, self.row, self.end)
        path = d.paths[self.end]
        path.append(lane)
        d.span(self.row, path[-3], lane)
        d.tips[self.end] = HANGS
        self.from_lane, self.row = lane, -1

    def move_to(self, place: int) -> None:
        """Go on to a place (from 0, among all tails), in front or behind as the last hop went."""
        at = self.index
        if place != at:
            lo, hi = (at + 1, place + 1) if place > at else (place, at)
            self.cross(tuple(self.d.order[lo:hi]), self.front)

    # -- loops of its own ------------------------------------------------------------------------------

    def curl(self, over: bool, left: bool) -> int:
        """A loop of the end alone, then across its own standing part towards `left`; the crossing.

        It goes away to the other side, up, and back across its own lane on a row above the one it turned on.
        """
        d = self.d
        if self.row >= 0:
            self.land()
        side = -1 if left else 1
        lane0 = self.from_lane
        upper = d.rows.append()
        edges = [lane0]
        if lane0 == self.start_lane:
            edges = [*reversed(self.strip[-side]), lane0, *self.strip[side]]
        far = d.lanes.before(edges[0]) if side > 0 else d.lanes.after(edges[0])
        out = d.lanes.after(edges[-1]) if side > 0 else d.lanes.before(edges[-1])
        d.row(upper, lane0, lane0, self.end)
        lower = d.rows.append()
        d.row(lower, lane0, far, self.end)
        d.cut(self.end, lower)
        d.lane(far, upper, self.end, lower)
        d.lane(out, upper, self.end)
        d.span(upper, far, out)
        n = len(d.crossings)
        for lane in edges:
            d.cross(lane, upper, not over)
        d.paths[self.end] += [lower, far, upper, out]
        d.tips[self.end] = HANGS
        self.from_lane, self.row, self.side, self.last, self.front = out, -1, 0, -1, over
        self._turned(far, lower, side)
        d.hang(self.end)
        return n
