"""How thick the cords of a section are: each by its kind, finished work by its own tight shape; and when thick and thin are where they were."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Sequence

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.library import cord_kind
from dim_ladder.notation import Weave
from dim_ladder.shape.lift import repeats
from dim_ladder.shape.value import TightShape
from dim_ladder.trace import Trace

Tight = Callable[[Weave, str], TightShape]


def thick(weave: Weave, end: str, unit: float, tight: Tight) -> float:
    """mm of an end across. Finished work that is tied over is taken for round, with its own way round it."""
    cord = weave.cord_of(end)
    if cord is not None:
        return cord_kind(cord.kind).across
    for of, name, mm in tuple(_layers):
        if of is weave and name == end:
            return mm or unit
    mm = _layer_mm(weave, end, tight)
    _layers.append((weave, end, mm))
    return mm or unit


_layers: deque[tuple[Weave, str, float]] = deque(maxlen=64)  # every end of a layer asks for those below


def _layer_mm(weave: Weave, end: str, tight: Tight) -> float:
    """0 where it is not known."""
    inner = weave.section(end)
    if inner is None or inner.former is not None:
        return 0.0
    try:
        s = tight(weave, end)
    except InputError:
        return 0.0
    wide, low = max(s.width, s.thickness), min(s.width, s.thickness)
    return (2 * (wide - low) + np.pi * low) / np.pi * s.unit_mm


def thick_again(one: Trace, weave: Weave) -> int:
    """After how many units thick and thin cord hang where they hung: as many are one unit of the cell."""
    if one.problems or not one.settled or not repeats(one):
        return 1
    mm = [cord_kind(c.kind).across if (c := weave.cord_of(e)) else 0.0 for e in one.ends]
    to = {one.start.index(e): one.order.index(e) for e in one.order}
    begin = [mm[e] for e in one.start]
    now, times = list(range(len(begin))), 0
    while True:
        now, times = [to[p] for p in now], times + 1
        if all(begin[now[p]] == begin[p] for p in range(len(begin))):
            return times


def as_thick(groups: tuple[tuple[int, ...], ...], mm: Sequence[float]) -> tuple[tuple[int, ...], ...]:
    """Ends of those groups that are of one thickness: thick cord takes more in the same knot. mm : by end."""
    parted = (
        tuple(e for e in group if mm[e] == d) for group in groups for d in sorted({mm[e] for e in group})
    )
    return tuple(group for group in parted if len(group) > 1)
