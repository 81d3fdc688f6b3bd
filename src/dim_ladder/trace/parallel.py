"""Running beside a path: the same turns on one side of it, with the same overs and unders.

A piece laid right beside another meets exactly what that one meets, so crossings are copied, not looked for.
"""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

from dim_ladder.trace.drawing import Drawing, StepError
from dim_ladder.trace.pen import Pen
from dim_ladder.trace.value import Bend


class Piece(NamedTuple):
    """A lane or row to run beside. heading : of the one that runs; lanes +1 down, rows +1 right. most : how many of
    its crossings are run along, from where it is entered; -1 for all."""

    ident: int
    lane: bool
    heading: int
    most: int = -1


def pieces_of(d: Drawing, end: int, start: int, stop: int) -> list[Piece]:
    """Pieces start:stop of an end's path, walked from the bar down."""
    path = d.paths[end]
    return [Piece(path[i], i % 2 == 0, d.heading(end, i)) for i in range(start, stop)]


def backwards(pieces: list[Piece]) -> list[Piece]:
    return [Piece(p.ident, p.lane, -p.heading) for p in reversed(pieces)]


def crossings_along(d: Drawing, p: Piece) -> list[int]:
    """Crossings on a piece in the order in which they are met."""
    if p.lane:
        key = d.rows.key
        found = sorted(d.lane_crossings[p.ident], key=lambda n: key[d.crossings[n].row])
    else:
        key = d.lanes.key
        found = sorted(d.row_crossings[p.ident], key=lambda n: key[d.crossings[n].lane])
    if p.heading < 0:
        found.reverse()
    return found if p.most < 0 else found[: p.most]


def alongside(d: Drawing, end: int, pieces: list[Piece], left: bool) -> None:
    """Draw an end on beside pieces, on the left of the way it goes. Its path must end in a piece of the other kind
    than the first; the last piece stays as open as the one it runs beside."""
    path = d.paths[end]
    start = len(path)
    for p in pieces:
        far = left == (p.heading > 0)  # going down, left is to the right of the picture
        if p.lane:
            new = d.lanes.after(p.ident) if far else d.lanes.before(p.ident)
            d.lane(new, d.top[p.ident], end, d.bottom[p.ident])
        else:  # going right, left is above
            new = d.rows.before(p.ident) if left == (p.heading > 0) else d.rows.after(p.ident)
            d.row(new, d.left[p.ident], d.right[p.ident], end)
        path.append(new)
    for i in range(start, len(path)):
        p = pieces[i - start]
        before, after = path[i - 1], path[i + 1] if i + 1 < len(path) else -1
        if p.lane:
            ends = (before, after) if p.heading > 0 else (after, before)
            if i > start or ends[0] == before or ends[1] == before:
                if ends[0] >= 0:
                    d.top[path[i]] = ends[0]
                if ends[1] >= 0:
                    d.bottom[path[i]] = ends[1]
        else:
            d.span(path[i], before, after if after >= 0 else before)
            if i == start:
                join(d, before, path[i])
    for i in range(start, len(path)):
        p = pieces[i - start]
        for n in crossings_along(d, p):
            c = d.crossings[n]
            if p.lane:
                d.cross(path[i], c.row, c.lane_over)
            else:
                d.cross(c.lane, path[i], c.lane_over)


def join(d: Drawing, lane: int, row: int) -> None:
    """Let an open lane end at a row, above or below where it began."""
    t = d.top[lane]
    if t >= 0 and d.rows.key[row] < d.rows.key[t]:
        d.bottom[lane] = t
        d.top[lane] = row
    else:
        d.bottom[lane] = row
    d.tips[d.lane_end[lane]] = row


def move_along(
    d: Drawing, end: int, leader: int, start: int, left: bool, waiting: Collection[int] = ()
) -> None:
    """Let an end make the step that its neighbour has just made, beside it on the left of the way down.

    start : where the leader's new pieces begin in its path. waiting : lanes of those that are to move along after it.
    """
    pieces = pieces_of(d, leader, start, len(d.paths[leader]))
    if pieces:
        begin = len(d.paths[end])
        alongside(d, end, pieces, left)
        d.hang(end)
        if not sound(d, end, begin, waiting):
            raise StepError("these ends cannot lie side by side all the way", "Move them one after the other")
        return
    d.hang(end)


def sound(d: Drawing, end: int, begin: int, waiting: Collection[int] = ()) -> bool:
    """Whether the copied crossings of an end's new pieces are all there are: a strip can be too tight for a turn. waiting : lanes that nothing
    is to cross, for what hangs on them moves along."""
    path = d.paths[end]
    for i in range(begin - 1, len(path)):  # the lane it hung on reaches further now, too
        if i % 2:
            found = d.lanes_spanning(path[i], d.left[path[i]], d.right[path[i]])
            noted = [d.crossings[n].lane for n in d.row_crossings[path[i]]]
        else:
            found = d.rows_spanning(path[i], d.top[path[i]], d.bottom[path[i]])
            noted = [d.crossings[n].row for n in d.lane_crossings[path[i]]]
        if sorted(n for n in found if not i % 2 or n not in waiting) != sorted(noted):
            return False
    return True


def double_back(pen: Pen, start: int) -> Bend:
    """From the tip of a bight back along it to where the end hung, and hang there; the bend at the tip.

    The pen's path from `start` on is the leg, a last open lane its tip. The way back lies below the first row of the
    leg, so that the tail need not cross it.
    """
    d = pen.d
    leg = pieces_of(d, pen.end, start, len(d.paths[pen.end]) - 1)
    tip = d.paths[pen.end][-1]
    left = leg[0].heading < 0  # of the leg's own way: below a row that goes left
    alongside(d, pen.end, backwards(leg), not left)
    path = d.paths[pen.end]
    row = path[-1]
    old = path[start - 1]
    lane = d.lanes.after(old) if d.lanes.key[path[-2]] > d.lanes.key[old] else d.lanes.before(old)
    d.lane(lane, row, pen.end)
    path.append(lane)
    d.span(row, path[-3], lane)
    d.hang(pen.end)
    pen.from_lane, pen.row, pen.side, pen.last = lane, -1, 0, -1
    lower = d.bottom[tip]
    inner = 1 if d.lanes.key[path[start + len(leg) - 2]] > d.lanes.key[tip] else -1
    bend = Bend(tip, lower, inner)
    pen.bends = [b for b in pen.bends if b.lane != tip]  # coming out was no turn of its own: the bight is
    pen.bends.append(bend)
    return bend


def follow_back(pen: Pen, other: int, left: bool, most: int) -> bool:
    """From beside another end's tail back up its path, for `most` crossings or (0) as far as it goes.

    left : beside it on the left of the picture, as it hangs. True when it reached where the other one begins; the
    end is then open at the top, else it has fallen to the front and hangs.
    """
    d = pen.d
    if pen.row >= 0:
        pen.land()
    order = d.order
    at = order.index(other)
    if order.index(pen.end) != at + (-1 if left else 1):
        side = "left" if left else "right"
        raise StepError(
            f"{pen.name(pen.end)} does not hang next to {pen.name(other)} on its {side}",
            f"Bring it there first; then follow {pen.name(other)} {side}",
        )
    pieces, kept = backwards(pieces_of(d, other, 0, len(d.paths[other]))), []
    left_to_go = most
    for p in pieces:
        here = len(crossings_along(d, p))
        if most and here >= left_to_go:
            kept.append(p._replace(most=left_to_go))
            break
        left_to_go -= here
        kept.append(p)
    else:
        if most:
            raise StepError(f"{pen.name(other)} has only {most - left_to_go} crossings to follow")
    connect = d.rows.append()
    d.row(connect, pen.from_lane, pen.from_lane, pen.end)
    join(d, pen.from_lane, connect)
    path = d.paths[pen.end]
    path.append(connect)
    # Upwards, the picture's left is the left of the way.
    alongside(d, pen.end, kept, left)
    first = path[len(path) - len(kept)]
    d.span(connect, pen.from_lane, first)
    d.bottom[first] = connect
    if not most:
        return True
    _come_off(pen, kept[-1], left)
    return False


def _come_off(pen: Pen, last: Piece, left: bool) -> None:
    """Leave the path that was followed, behind the last crossing, and fall in front."""
    d = pen.d
    path = d.paths[pen.end]
    met = crossings_along(d, last)
    c = d.crossings[met[-1]]
    if last.lane:
        row = d.rows.after(c.row) if last.heading > 0 else d.rows.before(c.row)
        d.row(row, path[-1], path[-1], pen.end)
        (d.bottom if last.heading > 0 else d.top)[path[-1]] = row
        path.append(row)
        out = d.lanes.before(path[-2]) if left == (last.heading < 0) else d.lanes.after(path[-2])
    else:
        row = path[-1]
        out = d.lanes.after(c.lane) if last.heading > 0 else d.lanes.before(c.lane)
    d.lane(out, row, pen.end, row)
    path.append(out)
    d.span(row, path[-3], out)
    pen.from_lane, pen.row, pen.last = out, -1, -1
    pen.fall(True, None)


def follow_own(pen: Pen, stop: int, left: bool) -> None:
    """Open at the top beside the other end of its cord: down along its own path, to where the step began.

    stop : pieces of its own path that were there before the step. left : on the left of the picture at the start.
    """
    d = pen.d
    path = d.paths[pen.end]
    row = d.rows.before(d.rows.first)
    d.row(row, path[-1], path[0], pen.end)
    d.top[path[-1]] = row
    lane = path[-1]
    path.append(row)
    pieces = pieces_of(d, pen.end, 0, stop)
    begin = len(path)
    alongside(d, pen.end, pieces, not left)
    first = path[begin]
    d.top[first] = row
    d.span(row, lane, first)
    crossed = d.lanes_spanning(row, lane, first)
    if crossed:
        raise StepError(
            f"{pen.name(pen.end)} does not hang beside the other end of its cord",
            "Only the two ends of a folded cord that hang side by side can be doubled without a cut",
        )
    last = path[-1]
    pen.from_lane, pen.row, pen.last = last, -1, -1
    _hang_on(pen, last)


def _hang_on(pen: Pen, lane: int) -> None:
    """Let the last lane, drawn down beside one that was cut, go on to the bottom in front of what lies below."""
    d = pen.d
    mine = {d.crossings[n].row for n in d.lane_crossings[lane]}
    d.bottom[lane] = -1
    for r in d.rows_spanning(lane, d.top[lane], -1):
        if r not in mine:
            d.cross(lane, r, True)
    d.hang(pen.end)
