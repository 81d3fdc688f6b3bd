"""A row across many ends as a hand lays it: level. Traced, every hitch lies below the one before, and the row hangs as a long stair."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from dim_ladder.shape.lift import Lifted
from dim_ladder.shape.rope import Array, along_of

CLEAR = 2.0  # diameters of upright tail between a row and where its tails lean together
NARROWER = (
    0.75  # of how far apart the diagram has its hitches: there is room for each, and less to be drawn in
)
SHORTER = 0.6  # of the height over which tails lean together in the diagram


def levelled(lifted: Lifted, across: int) -> Lifted:
    """Lifted work moved along y, everything at one x by as much, until the row on strand `across` lies level, and drawn in along it: what hangs
    stays upright, what is in front stays there, and no cord passes another. Tails begin and end as they did, nearer to the row."""
    row = np.array(
        [_point(lifted.strands[h.strand], h.part) for h in lifted.held_straight if h.strand == across]
    )
    hanging = [line for k, line in enumerate(lifted.strands) if k != across]
    if len(row) < 2 or not np.ptp(row[:, 0]) or any(len(line) < 5 for line in hanging):
        return lifted
    slope = float(np.polyfit(row[:, 0], row[:, 1], 1)[0])
    left, right = float(row[:, 0].min()), float(row[:, 0].max())
    middle = (left + right) / 2
    bottom = max(float(line[-3, 1]) for line in hanging)

    def down(line: Array) -> Array:
        return np.asarray(line[:, 1] - slope * (np.clip(line[:, 0], left, right) - left))

    crossed = np.vstack([line[line[:, 2] != 0] for line in lifted.strands])
    top, foot = float(down(crossed).min()) - CLEAR, float(down(crossed).max()) + CLEAR

    def move(line: Array) -> Array:
        out = line.copy()
        y = line[:, 1]
        above, below = y <= 0, y >= bottom
        out[:, 1] = np.where(
            above, y * SHORTER + top, np.where(below, (y - bottom) * SHORTER + foot, down(line))
        )
        tail = (y < 0) | (y > bottom)  # which begin and end as far apart as they hung
        out[:, 0] = np.where(tail, line[:, 0], middle + (line[:, 0] - middle) * NARROWER)
        return out

    return _moved(lifted, move)


def _moved(lifted: Lifted, move: Callable[[Array], Array]) -> Lifted:
    """With every corner moved, and what lies on the cords where it lay between them."""
    after = tuple(move(line) for line in lifted.strands)

    def at(strand: int, part: float) -> float:
        a, b = along_of(lifted.strands[strand]), along_of(after[strand])
        return float(np.interp(part * a[-1], a, b) / b[-1])

    return replace(
        lifted,
        strands=after,
        beads=tuple((k, at(k, part), name, of) for k, part, name, of in lifted.beads),
        standing=tuple(s._replace(part=at(s.strand, s.part)) for s in lifted.standing),
        held_straight=tuple(
            h._replace(part=at(h.strand, h.part), other_part=at(h.other, h.other_part)) for h in lifted.held_straight
        ),
        bights=tuple((k, at(k, part), named) for k, part, named in lifted.bights),
    )  # fmt: skip


def _point(line: Array, part: float) -> Array:
    along = along_of(line)
    return np.array([np.interp(part * along[-1], along, line[:, a]) for a in range(3)])
