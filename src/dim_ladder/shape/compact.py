"""Where the lanes and rows of a diagram lie, as near to each other as cords can."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dim_ladder.trace import Trace

GAP = 1.6  # between lanes and between rows, in diameters: cords that lie side by side do not touch


def compact(
    t: Trace, size: Sequence[float], *, short: bool = False
) -> tuple[dict[int, float], dict[int, float]]:
    """Places of lanes and rows, as near as what they hold allows: what was tied side by side lies side by side.

    size : of every end. short : rows as short as they can be, every tail near its own knot, instead of all as far left as they can be. Only
    pieces that share some of their way must keep their distance; longest paths, rows first, then lanes.
    """
    ranks = t.lane_rank
    wide: dict[int, tuple[int, int]] = {}
    thick: dict[tuple[bool, int], float] = {}
    for end, path in enumerate(t.paths):
        for i, piece in enumerate(path):
            thick[i % 2 == 0, piece] = size[end]
    for end, path in enumerate(t.paths):
        for i in range(1, len(path), 2):
            a, b = ranks[path[i - 1]], ranks[path[i + 1]]
            wide[path[i]] = min(a, b), max(a, b)
        for row, lane in ((t.tips[end], path[-1]), (t.tops[end], path[0])):
            if row >= 0 and row not in path[1::2]:  # where it is dropped, or laid in
                a, b = wide.get(row, (ranks[lane], ranks[lane]))
                wide[row] = min(a, ranks[lane]), max(b, ranks[lane])
                thick[False, row] = max(size[end], thick.get((False, row), 0.0))
    y: dict[int, float] = {}
    for row in sorted(wide, key=t.row_rank.__getitem__):
        a, b = wide[row]
        own = thick[False, row]
        above = [y[r] + GAP * (thick[False, r] + own) / 2 for r in y if wide[r][0] <= b and a <= wide[r][1]]
        y[row] = max(above, default=GAP * own)
    bottom = max(y.values(), default=0.0) + GAP
    tall: dict[int, tuple[float, float]] = {}
    for end, path in enumerate(t.paths):
        begin = y[t.tops[end]] if end >= t.hung and t.tops[end] in y else 0.0
        for i in range(0, len(path), 2):
            foot = y[t.tips[end]] if t.tips[end] >= 0 else bottom
            span = (y[path[i - 1]] if i else begin, y[path[i + 1]] if i + 1 < len(path) else foot)
            tall[path[i]] = min(span), max(span)
    x: dict[int, float] = {}
    keep: list[tuple[int, int, float]] = []
    for lane in sorted(tall, key=ranks.__getitem__):
        top, foot = tall[lane]
        own = thick[True, lane]
        near = GAP / 2 * max(size)
        left = [
            (k, lane, GAP * (thick[True, k] + own) / 2)
            for k in x
            if tall[k][0] <= foot + near and top <= tall[k][1] + near
        ]
        x[lane] = max((x[k] + gap for k, _, gap in left), default=0.0)
        keep += left
    if short:
        rows = [(path[i - 1], path[i + 1]) for path in t.paths for i in range(1, len(path), 2)]
        x = _short(x, keep, rows)
    return x, y


def _short(
    x: dict[int, float], keep: Sequence[tuple[int, int, float]], rows: Sequence[tuple[int, int]]
) -> dict[int, float]:
    """Places of lanes with the shortest rows between them. keep : two lanes and how far the second is to the right of the first, at least.
    As they were where no such places are found."""
    from scipy.optimize import linprog  # slow to load, and only rows that are tied once ask
    from scipy.sparse import lil_array

    column = {lane: k for k, lane in enumerate(x)}
    n, m = len(column), len(rows)
    apart = lil_array((len(keep) + 2 * m, n + m))
    least = np.zeros(len(keep) + 2 * m)
    for k, (a, b, gap) in enumerate(keep):
        apart[k, column[a]], apart[k, column[b]], least[k] = 1.0, -1.0, -gap
    for k, (a, b) in enumerate(rows):
        if a == b:
            continue
        for sign, at in ((1.0, len(keep) + 2 * k), (-1.0, len(keep) + 2 * k + 1)):
            apart[at, column[a]], apart[at, column[b]], apart[at, n + k] = sign, -sign, -1.0
    cost = np.concatenate([np.zeros(n), np.ones(m)])
    found = linprog(cost, A_ub=apart.tocsr(), b_ub=least, bounds=(0, None), method="highs-ds")
    if found.status != 0:
        return x
    return {lane: float(found.x[k]) for lane, k in column.items()}
