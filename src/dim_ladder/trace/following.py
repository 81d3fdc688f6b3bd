"""A knot doubled by following: one end of every pair ties it, the other waits and then runs beside it all the way, as a maker
doubles what is led strand by strand. Every crossing is copied from the strand that is followed, so what either end of a pair
ties is the knot itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Protocol

from dim_ladder.notation import Call, Drop, Follow, Step
from dim_ladder.trace.drawing import Drawing, StepError
from dim_ladder.trace.expand import AsOne, Op, unrolled
from dim_ladder.trace.parallel import alongside, pieces_of, sound
from dim_ladder.trace.value import HopRecord, StepRecord

Ends = dict[str, tuple[int, ...]]


class Tying(Protocol):
    """What ties: the builder."""

    names: list[str]
    d: Drawing
    steps: list[StepRecord]
    turned: bool

    def move(self, op: Op, step: Step, ends: Ends | None, knot_step: int) -> None: ...


def followed(b: Tying, op: Op, ends: Ends, note: Callable[[StepRecord], None]) -> Iterator[None]:
    """Tie the knot of a call with the first end of every pair, then let the others follow. Raises StepError."""
    d = b.d
    pairs = [v for v in ends.values() if isinstance(v, AsOne)]
    for v in pairs:
        at = sorted(d.order.index(e) for e in v)
        if at[-1] - at[0] != len(v) - 1:
            names = " and ".join(b.names[e] for e in v)
            raise StepError(f"{names} do not hang side by side", "Ends that move as one are neighbours")
    order = list(d.order)
    begun = {v[0]: len(d.paths[v[0]]) for v in pairs}
    near = {v: sorted(v[1:], key=lambda e, v=v: abs(order.index(e) - order.index(v[0]))) for v in pairs}  # type: ignore[misc]
    waits = {e: _wait(d, e) for v in pairs for e in near[v]}
    shown = tuple(order[::-1] if b.turned else order)
    aside = Drop(tuple(shown.index(e) + 1 for e in waits))
    n = len(d.crossings)
    note(
        StepRecord(
            op, 0, next(iter(waits)), (), tuple(d.order), n, n, tuple(waits), deed=aside, turned=b.turned,
            before=tuple(order), quiet=op.quiet,
        )
    )  # fmt: skip
    yield
    alone = {k: v[:1] if isinstance(v, AsOne) else v for k, v in ends.items()}
    count = 1
    assert isinstance(op.value, Call)
    assert op.knot is not None
    for step, own in unrolled(op.knot, alone, b.names.__getitem__):
        b.move(op, step, own, count)
        count += 1
        yield
    for name, v in ((name, v) for name, v in ends.items() if isinstance(v, AsOne)):
        beside = {-1: v[0], 1: v[0]}
        for e in near[v]:
            side = 1 if order.index(e) > order.index(v[0]) else -1
            leader, begin, first = beside[side], len(d.paths[e]), len(d.crossings)
            _beside(d, e, leader, begun[leader], waits[e], left=side < 0)
            begun[e], beside[side] = begin + 2, e  # from the lane it goes on on
            hop = Follow(name, side < 0)
            note(
                StepRecord(
                    op, count, e, (HopRecord(hop, (leader,), first, len(d.crossings)),), tuple(d.order), first, len(d.crossings), (e,), "",
                    Step(name, (hop,)), begin, len(d.paths[e]), (), (), b.turned, op.quiet, tuple(d.order),
                )
            )  # fmt: skip
            count += 1
            yield


def _wait(d: Drawing, end: int) -> int:
    """Lay an end aside, its lane cut at a row of its own, from which it will go on; the row."""
    lane = d.tail_lane(end)
    row = d.rows.append()
    d.row(row, lane, lane, end)
    d.cut(end, row)
    d.order.remove(end)
    return row


def _beside(d: Drawing, end: int, leader: int, start: int, row: int, *, left: bool) -> None:
    """From where it waits, down beside the lane that the leader hung on and then beside all it went since.

    start : pieces of the leader's path that were there before. left : on the left of the picture.
    """
    path, stood = d.paths[end], d.paths[end][-1]
    lane = d.paths[leader][start - 1]
    new = d.lanes.before(lane) if left else d.lanes.after(lane)
    d.lane(new, row, end, d.bottom[lane])
    path += [row, new]
    d.span(row, stood, new)
    if d.lanes_spanning(row, stood, new):
        raise StepError("these ends cannot lie side by side all the way", "Move them one after the other")
    key = d.rows.key
    for n in sorted(d.lane_crossings[lane], key=lambda n: key[d.crossings[n].row]):
        c = d.crossings[n]
        if key[c.row] > key[row]:
            d.cross(new, c.row, c.lane_over)
    begin = len(path)
    pieces = pieces_of(d, leader, start, len(d.paths[leader]))
    if pieces:
        alongside(d, end, pieces, not left)  # going down, the picture's left is the right of the way
    d.hang(end)
    if not sound(d, end, begin):
        raise StepError("these ends cannot lie side by side all the way", "Move them one after the other")
    was = dict(zip(d.paths[leader][start - 1 :], path[begin - 1 :], strict=False))
    d.bends[end] = tuple(
        b._replace(lane=was[b.lane], row=was[b.row])
        for b in d.bends[leader]
        if b.lane in was and b.row in was
    )
