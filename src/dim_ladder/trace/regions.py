"""Addresses of regions: a loop's written address to the place in the drawing where an end can enter it, and back.

A region is named by what borders it: the turn of a step, a name, a gap between tails, or the side of an end counted
in crossings from its tail. None of these depends on what was drawn further up, so an address lives through an edit.
"""

from __future__ import annotations

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
