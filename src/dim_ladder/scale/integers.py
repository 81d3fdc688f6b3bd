"""Whole units of several sections at once: integers by HiGHS, where trying them all would take too long.

The least error to the room there is; among answers within half a millimetre of that, the most even one; then the nearest that are
longer and shorter.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

SAME = 0.5  # mm: lengths that nobody tells apart
SECONDS = 2.0


def nearest_counts(
    room: float, steps: Sequence[float], keep: int = 3, between: Sequence[tuple[int, int]] = ()
) -> tuple[tuple[int, ...], ...]:
    """How often each step is taken so that together they come nearest to `room`, mm; the next nearest lengths after it. between : how
    often each may be taken, the most below 0 for no end; once at the least where nothing is said. steps : mm that one step more
    adds, all above nothing. Empty where nothing was found in time."""
    between = between or [(1, -1)] * len(steps)
    best = _solve(room, steps, between, -np.inf, np.inf)
    if best is None:
        return ()
    found = [best]
    length = _length(best, steps)
    for low, high in ((length + SAME, np.inf), (-np.inf, length - SAME)):
        other = _solve(room, steps, between, low, high)
        if other is not None:
            found.append(other)
    found[1:] = sorted(found[1:], key=lambda k: abs(_length(k, steps) - room))
    return tuple(found[:keep])


def _length(counts: Sequence[int], steps: Sequence[float]) -> float:
    return float(np.dot(counts, steps))


def _solve(
    room: float, steps: Sequence[float], between: Sequence[tuple[int, int]], low: float, high: float
) -> tuple[int, ...] | None:
    """Variables: counts, error, the longest and the shortest section."""
    from scipy.optimize import Bounds, LinearConstraint, milp

    n = len(steps)
    mm = np.array(steps, np.float64)
    wide = n + 3
    rules = []

    def rule(entries: dict[int, float], least: float, most: float) -> None:
        row = np.zeros(wide)
        for k, v in entries.items():
            row[k] = v
        rules.append((row, least, most))

    every = {k: float(v) for k, v in enumerate(mm)}
    rule({**every, n: -1.0}, -np.inf, room)  # length - error <= room
    rule({**every, n: 1.0}, room, np.inf)
    rule(every, low, high)
    for k in range(n):
        rule({k: float(mm[k]), n + 1: -1.0}, -np.inf, 0.0)
        rule({k: float(mm[k]), n + 2: -1.0}, 0.0, np.inf)
    matrix = np.array([r for r, _, _ in rules])
    least, most = (np.array([r[i] for r in rules]) for i in (1, 2))
    whole = np.array([1.0] * n + [0.0] * 3)
    few, many = [float(a) for a, _ in between], [float(b) if b >= 0 else np.inf for _, b in between]
    bounds = Bounds(np.array([*few, 0.0, 0.0, 0.0]), np.array([*many, np.inf, np.inf, np.inf]))
    error, uneven = np.zeros(wide), np.zeros(wide)
    error[n], uneven[n + 1], uneven[n + 2] = 1.0, 1.0, -1.0

    def run(aim: np.ndarray, more: list[LinearConstraint]) -> np.ndarray | None:
        found = milp(
            aim, integrality=whole, bounds=bounds, constraints=[LinearConstraint(matrix, least, most), *more],
            options={"time_limit": SECONDS, "mip_rel_gap": 0.0},
        )  # fmt: skip
        return None if found.x is None else np.asarray(found.x, np.float64)

    first = run(error, [])
    if first is None:
        return None
    even = run(uneven, [LinearConstraint(error[None, :], 0.0, first[n] + SAME)])
    counts = first if even is None else even
    return tuple(round(float(x)) for x in counts[:n])
