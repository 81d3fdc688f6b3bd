"""Addresses of regions: a loop's written address to the place in the drawing where an end can enter it, and back.

A region is named by what borders it: the turn of a step, a name, a gap between tails, or the side of an end counted
in crossings from its tail. None of these depends on what was drawn further up, so an address lives through an edit.
"""

from __future__ import annotations

from heapq import heappop, heappush

from dim_ladder.trace.drawing import HANGS, Drawing, StepError
from dim_ladder.trace.parallel import Piece, backwards, crossings_along, pieces_of
from dim_ladder.trace.value import Bend


def beside(d: Drawing, end: int, left: bool, count: int, name: str) -> Bend:
    """The region on one side of an end, as it hangs, above its `count`-th crossing counted from its tail."""
    seen = 0
    spare: Bend | None = None
    for p in backwards(pieces_of(d, end, 0, len(d.paths[end]))):
        met = crossings_along(d, p)
        j = count - seen
        if 0 <= j <= len(met):
            bend = _portion(d, p, met, j, left)
            if not bend.by_row:
                return bend
            spare = spare or bend
        elif spare is not None:
            break
        seen += len(met)
    if spare is None:
        raise StepError(f"{name} has only {seen} crossings above its tail", f"Count up to {seen}")
    return spare


def at_edge(d: Drawing, left: bool, number: int, since: int, ends: frozenset[int]) -> Bend:
    """The loop that stands out at one edge of the work, the `number`-th from above (below 0: from below): where a strand comes out
    to that side and goes back in, and somewhere on its way nothing lies further out.

    since : only loops made from this row on, -1 for all. ends : whose; all where there are none.
    """
    rank = d.rows.key
    spans = []
    for lane in range(len(d.top)):
        a, b = d.top[lane], d.bottom[lane]
        if a != HANGS and b != HANGS and min(a, b) >= since and (not ends or d.lane_end[lane] in ends):
            spans.append((min(rank[a], rank[b]), max(rank[a], rank[b]), lane))
    edge = d.left if left else d.right
    found = [
        lane
        for lane in _outline(d, spans, left)
        if all(edge[r] == lane and d.left[r] != d.right[r] for r in (d.top[lane], d.bottom[lane]))
    ]
    side = "left" if left else "right"
    if not 1 <= abs(number) <= len(found):
        many = f"only {len(found)} loop{'s' if len(found) != 1 else ''}" if found else "no loop"
        raise StepError(
            f"there is {many} at the {side} edge here",
            f"Count up to {len(found)}" if found else "Name another loop",
        )
    lane = found[number - 1 if number > 0 else number]
    lower = max(d.top[lane], d.bottom[lane], key=rank.__getitem__)
    return Bend(lane, lower, 1 if left else -1)


def _outline(d: Drawing, spans: list[tuple[int, int, int]], left: bool) -> list[int]:
    """Lanes that lie furthest out anywhere, from above. spans : (upper row, lower row, lane), rows by their keys."""
    key = d.lanes.key
    waiting = sorted(spans)
    open_now: list[tuple[int, int, int]] = []
    out: dict[int, None] = {}
    at = 0
    for row in sorted({r for a, b, _ in spans for r in (a, b)}):
        while at < len(waiting) and waiting[at][0] <= row:
            _, low, lane = waiting[at]
            heappush(open_now, (key[lane] if left else -key[lane], low, lane))
            at += 1
        while open_now and open_now[0][1] <= row:
            heappop(open_now)
        if open_now:
            out.setdefault(open_now[0][2])
    return list(out)


def _portion(d: Drawing, p: Piece, met: list[int], j: int, left: bool) -> Bend:
    """Beside the part of a piece before its j-th crossing, walked from the tail up."""
    down = (
        p.heading < 0
    )  # the end itself goes the other way: down where the walk goes up, left where it goes right
    if p.lane:
        side = -1 if left == down else 1
        if down:
            row = d.crossings[met[j - 1]].row if j else d.bottom[p.ident]
        else:
            row = d.crossings[met[j]].row if j < len(met) else d.bottom[p.ident]
        return Bend(p.ident, row if row != HANGS else -1, side)
    key = d.lanes.key
    lanes = [d.left[p.ident], *(d.crossings[n].lane for n in met), d.right[p.ident]]
    lanes.sort(key=key.__getitem__)
    lane = lanes[j] if p.heading > 0 else lanes[len(met) - j]
    goes_right = p.heading < 0
    return Bend(lane, p.ident, 1, below=left == goes_right, by_row=True)
