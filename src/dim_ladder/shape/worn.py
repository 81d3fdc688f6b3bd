"""The whole piece closed round, as it is worn: bent so that its two ends meet, its front outside.

Its length is kept in the middle of its thickness, as it is counted where a size is solved; what lies outside is drawn out, what lies inside
pressed together.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dim_ladder.shape.rope import Array
from dim_ladder.shape.turning import Held, held
from dim_ladder.shape.value import TightShape
from dim_ladder.shape.whole import Whole

LEAST = 1.5  # of its thickness, that its inner side is at least away from its middle: what is shorter does not close
HALF_ROUND = (
    100.0  # mm, in which work turns halfway round at the most that lies now on its face and now on its edge
)
TIP = 28.0  # degrees, by which its upper rim is tipped towards the eye, so that it is seen to be round


def off_the_body(shape: TightShape) -> float:
    """How thick work is where it is worn, in diameters: twice as far as its middle keeps off a body, on average. What winds lies now on its face and now on
    its edge: that is the mean width of its cross-section, its girth over pi (Cauchy), which is taken for an oval (the girth of one by Ramanujan, 1914).
    """
    turned = (
        abs(shape.twist_deg) * HALF_ROUND / (shape.pitch * shape.unit_mm) if shape.kind == "cell" else 0.0
    )
    if turned < 180.0:
        return shape.thickness
    a, b = shape.width / 2, shape.thickness / 2
    h = ((a - b) / (a + b)) ** 2
    return float((a + b) * (1 + 3 * h / (10 + np.sqrt(4 - 3 * h))))


def worn(piece: Whole) -> Held | None:
    """The piece to be turned in the hand: upright its axis, in front the middle of its length. None where it is too short to close."""
    if not piece.strands:
        return None
    low = min(float(s.line[:, 1].min()) for s in piece.strands)
    high = max(float(s.line[:, 1].max()) for s in piece.strands)
    deep = max(float(np.abs(s.line[:, 2]).max() + s.diameter / 2) for s in piece.strands)
    radius = (high - low - piece.laps) / (2 * np.pi)
    if radius - deep < LEAST * deep:
        return None
    middle = (low + high) / 2
    return held(
        [replace(s, line=_bent(s.line, middle, radius)) for s in piece.strands],
        [replace(b, at=_bent(b.at[None], middle, radius)[0]) for b in piece.beads],
    )


def _bent(line: Array, middle: float, radius: float) -> Array:
    """Points of the piece laid round, with its start on the left. middle : of its length."""
    x, y, z = line.T
    turn, out = (y - middle) / radius, radius + z
    return np.column_stack([out * np.sin(turn), -x, out * np.cos(turn)])
