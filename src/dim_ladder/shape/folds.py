"""Cords that are laid into the work by their fold, in the picture of the whole piece: from end to end they are one cord."""

from __future__ import annotations

import numpy as np

from dim_ladder.notation import Add, Weave
from dim_ladder.shape.frames import Frame, led
from dim_ladder.shape.rope import Array

FOLD = 0.7  # diameters that a fold lies above where its ends go down
BEHIND = 1.0  # and before or behind what it was laid across
APART = 0.05  # diameters, up to which two ends begin in one place


def other_end(end: str) -> str:
    """The other end of a cord."""
    return f"{end[:-1]}{'b' if end.endswith('a') else 'a'}"


def folds(weave: Weave) -> dict[str, int]:
    """Ends that hang from the fold of a cord that is laid in: before the work (1), behind it (-1), or between two tails (0)."""
    out: dict[str, int] = {}
    for i in (i for s in weave.sections for i in s.items if isinstance(i, Add) and len(i.ends) == 2):
        out |= dict.fromkeys(i.ends, (1 if i.over else -1) if i.refs else 0)
    return out


def same_place(one: Array, other: Array) -> bool:
    """Whether two ends begin in one place, and need no way from one to the other."""
    return float(np.linalg.norm(other - one)) < APART


def folded(one: Array, other: Array, frame: Frame, side: int) -> Array:
    """The way from where an end of a cord that was laid in by its fold goes down to where its other end does, with the first of these and without the
    last. side : before the work (1), behind it (-1), or between its cords (0)."""
    up = np.mean([one[0], other[0]], axis=0) - FOLD * frame.down + side * BEHIND * frame.front
    across = (other[0] - one[0]) - float((other[0] - one[0]) @ frame.down) * frame.down
    across = 0.2 * across / max(float(np.linalg.norm(across)), 1e-9)
    middle = np.array([up - across, up, up + across])
    return np.vstack([one[:1], led(one[::-1], middle), middle, led(middle, other)])
