"""What of a diagram is the same in a mirror, from behind, turned over or turned end for end: told from its strands and crossings.

This is for work that is led through itself, or makes loops of its own, of which places and sides do not tell: a strand is laid on
its image, passage for passage, and every crossing must find its own.
"""

from __future__ import annotations

from collections.abc import Callable

from dim_ladder.trace.alike import least
from dim_ladder.trace.diagram import Tangle, tangle
from dim_ladder.trace.value import Trace

Order = Callable[[Tangle], list[int]]
# By kind: where the image of a strand begins, whether front and back change, and whether it is walked from its tail.
KINDS = {
    "mirror": (True, False, False),
    "flip": (False, True, False),
    "turn": (True, True, False),
    "end": (True, False, True),
}


def images(one: Trace) -> frozenset[str]:
    """Kinds of image that a unit is the same in: mirror, flip, turn (over, about its length), end (for end, as it lies)."""
    if not one.settled or not one.crossings:
        return frozenset()
    found = {kind for kind in KINDS if _same(tangle(one), kind)}
    real = least(one)
    if real is not None and real.crossings:
        found |= {kind for kind in KINDS if _same(real, kind)}
    return frozenset(found)


def _same(t: Tangle, kind: str) -> bool:
    """Whether a diagram is its own image, with its tails held."""
    across, swapped, backwards = KINDS[kind]
    if sorted(t.top) != sorted(t.bottom):
        return False
    there = t.bottom if backwards else t.top
    image = dict(zip(t.top, there[::-1] if across else there, strict=True))
    ends = t.top if backwards else t.bottom
    if [image[s] for s in t.bottom] != (ends[::-1] if across else ends):
        return False
    # A mirror, and an exchange of over and under, each change from which side the strand in front comes.
    changed = across != swapped and not backwards
    at: dict[int, int] = {}
    for s in t.top:
        walk, other = t.walks[s], t.walks[image[s]]
        if len(walk) != len(other):
            return False
        for (n, over), (m, over_there) in zip(walk, other[::-1] if backwards else other, strict=True):
            if over_there != (over != swapped) or at.setdefault(n, m) != m:
                return False
            if t.from_right[m] != (t.from_right[n] != changed):
                return False
    return len(set(at.values())) == len(at)
