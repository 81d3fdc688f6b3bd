"""The same rope with other nodes on it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dim_ladder.shape.rope import Array, Rope, along_of, rope


def respaced(old: Rope, step: float, kept: Sequence[tuple[float, float]] = ()) -> Rope:
    """The same shape with nodes about `step` apart, at rest. kept : by strand, from where to where along it, as parts of its length, it goes on
    being pulled; all of it where nothing is said."""
    c = old.curves
    strands, held, beads = tuple(old.strands()), old.straight(), old.threaded()
    between = old.straight(old.between)
    if kept:
        strands = tuple(_between(x, a, b) for x, (a, b) in zip(strands, kept, strict=True))

        def now_at(strand: int, part: float) -> float:
            a, b = kept[strand]
            return float(np.clip((part - a) / (b - a), 0.0, 1.0))

        held, between = (
            tuple(
                h._replace(part=now_at(h.strand, h.part), other_part=now_at(h.other, h.other_part))
                for h in pairs
            )
            for pairs in (held, between)
        )
        beads = tuple(b._replace(part=now_at(b.strand, b.part)) for b in beads)
    now = rope(
        replace(c, strands=strands, held=held, beads=beads, between=between), step, old.pitch, old.angle
    )
    now.under = old.under
    return now


def _between(line: Array, a: float, b: float) -> Array:
    """A line from one part of its length to another."""
    along = along_of(line)
    low, high = a * along[-1], b * along[-1]
    ends = np.column_stack([np.interp([low, high], along, line[:, k]) for k in range(3)])
    return np.vstack([ends[:1], line[(along > low) & (along < high)], ends[1:]])
