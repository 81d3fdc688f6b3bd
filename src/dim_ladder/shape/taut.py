"""Cord that hangs idle beside work and is taken up again below it is drawn there the shortest way past what lies between.

A section that is worked on other ends says only that an end hangs beside it. On the table it runs from the knot that it was left by to the one that
takes it up, straight, or leaning on the work.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dim_ladder.shape.eased import Cord
from dim_ladder.shape.rope import Array, along_of

ROOM = 0.92  # of half of both thicknesses, as near as it comes to other cord
AWAY = 2.0  # diameters from where it is held, over which it comes free of what holds it
APART = (0.85, 0.42)  # diameters between the points it is drawn by: no cord is passed between them
ROUNDS = 5.0  # times that they are drawn on, by how many they are
STEP = 0.25  # diameters that one goes at most


def drawn_taut(cords: Sequence[Cord], lines: Sequence[Array]) -> list[Array]:
    """Lines of cords, what hangs idle in each drawn taut past the others. cords : which of their points do (Cord.idle)."""
    out = list(lines)
    for k, c in enumerate(cords):
        idle = np.concatenate([[False], c.idle[1:-1], [False]])
        edges = np.flatnonzero(np.diff(idle.astype(np.int8)))
        for a, b in edges.reshape(-1, 2)[::-1].tolist():
            others = [(x, o.thick) for n, (x, o) in enumerate(zip(out, cords, strict=True)) if n != k]
            way = _taut(out[k][a : b + 2], c.thick, others)
            out[k] = np.vstack([out[k][:a], way, out[k][b + 2 :]])
    return out


def _taut(line: Array, thick: float, others: Sequence[tuple[Array, float]]) -> Array:
    """The shortest way from the first point of a line to its last that can be come to from it past other cords."""
    from scipy.spatial import cKDTree  # slow to load, and nothing is drawn before a window stands

    if not others:
        return np.linspace(line[0], line[-1], len(line))
    points = np.vstack([x for x, _ in others])
    room = ROOM * (np.concatenate([np.full(len(x), t) for x, t in others]) + thick) / 2
    tree = cKDTree(points)
    x = line
    for apart in APART:
        along = along_of(x)
        many = max(8, int(along[-1] / apart))
        at = np.linspace(0.0, along[-1], many)
        x = np.column_stack([np.interp(at, along, x[:, k]) for k in range(3)])
        part = np.minimum(1.0, np.minimum(at, along[-1] - at)[1:-1] / (AWAY * thick))
        # What goes on as it went comes to rest in as many rounds as there are points, and not in their square.
        keeps, went = 1 - 3 / many, np.zeros((many - 2, 3))
        for _ in range(int(ROUNDS * many)):
            before = x[1:-1].copy()
            step = keeps * went + ((x[:-2] + x[2:]) / 2 - before)
            far = np.linalg.norm(step, axis=1)
            x[1:-1] += step * np.minimum(1.0, STEP / np.maximum(far, 1e-9))[:, None]
            gap, near = tree.query(x[1:-1])
            way = (x[1:-1] - points[near]) / np.maximum(gap, 1e-9)[:, None]
            x[1:-1] += way * np.maximum(room[near] * part - gap, 0.0)[:, None]
            went = x[1:-1] - before
    return x
