"""Strands of one unit that go on in the next one: nodes, their neighbours along the cord, and what they touch."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from dim_ladder.shape.lift import Array, Lifted

Ints = NDArray[np.int64]
NEAR = 1.25  # pairs within this are watched; beyond a diameter, so that they need not be looked for at every step
BEND = (
    np.pi / 2
)  # along the cord nothing nearer than this counts as another piece of it: a half turn of the tightest bend


class Cell:
    """Equally spaced nodes on every strand. pitch : how far down the next unit lies. step : spacing of nodes.

    x : (n, 3). strand : of every node, by end.
    """

    def __init__(self, lifted: Lifted, step: float) -> None:
        self.pitch = lifted.height
        self.step = step
        self.follow = lifted.follow
        self._set([_spaced(s, step)[:-1] for s in lifted.strands])

    def _set(self, strands: list[Array]) -> None:
        counts = [len(s) for s in strands]
        self.x = np.vstack(strands)
        self.at = np.concatenate([[0], np.cumsum(counts)])
        n = len(self.x)
        self.strand = np.repeat(np.arange(len(strands)), counts)
        self._next = np.arange(1, n + 1)
        self._next_down = np.zeros(n)
        for e, f in enumerate(self.follow):
            last = self.at[e + 1] - 1
            self._next[last] = self.at[f]
            self._next_down[last] = 1.0
        self._before = np.empty(n, np.int64)
        self._before[self._next] = np.arange(n)
        self._before_up = np.zeros(n)
        self._before_up[self._next] = self._next_down
        self._along(counts)
        self.pairs: tuple[Ints, Ints, Ints] = (np.empty(0, np.int64),) * 3

    def _along(self, counts: list[int]) -> None:
        """Where every node is along its cord: which cord, how far, in how manyth unit of it; and cords' totals."""
        n = len(self.x)
        self._cord, self._far, self._unit = np.empty(n, np.int64), np.empty(n), np.zeros(n, np.int64)
        totals: list[int] = []
        units: list[int] = []
        seen: set[int] = set()
        for e in range(len(counts)):
            k, far, unit = e, 0, 0
            if k in seen:
                continue
            while k not in seen:
                seen.add(k)
                own = slice(self.at[k], self.at[k + 1])
                self._cord[own] = len(totals)
                self._far[own] = far + np.arange(counts[k])
                self._unit[own] = unit
                far, unit, k = far + counts[k], unit + 1, self.follow[k]
            totals.append(far)
            units.append(unit)
        self._total, self._units = np.array(totals, float), np.array(units)

    def neighbours(self) -> tuple[Array, Array]:
        """The node before and after every node along its cord, (n, 3) each."""
        a, b = self.x[self._before].copy(), self.x[self._next].copy()
        a[:, 1] -= self._before_up * self.pitch
        b[:, 1] += self._next_down * self.pitch
        return a, b

    def lengths(self) -> Array:
        """Cord in one unit by the strand that begins at each end's place, (ends,)."""
        _, b = self.neighbours()
        pieces = np.linalg.norm(b - self.x, axis=1)
        return np.asarray(np.bincount(self.strand, pieces, len(self.follow)), np.float64)

    def strands(self) -> list[Array]:
        """Every strand's points, the last one where the next unit goes on."""
        out = []
        for e, f in enumerate(self.follow):
            end = self.x[self.at[f]] + np.array([0.0, self.pitch, 0.0])
            out.append(np.vstack([self.x[self.at[e] : self.at[e + 1]], end]))
        return out

    def space_out(self) -> None:
        """Nodes equally spaced again, as many as the cord is long."""
        self._set([_spaced(s, self.step)[:-1] for s in self.strands()])

    def look(self) -> None:
        """Find all pairs of nodes that are near, in this unit and its neighbours."""
        reach = NEAR
        low = self.x.min(axis=0) - reach
        size = np.floor((self.x - low) / reach).astype(np.int64)
        span = int(np.ceil((np.ptp(self.x[:, 1]) + 2 * reach) / max(self.pitch, 0.2)))
        found: list[tuple[Ints, Ints, Ints]] = []
        for s in range(span + 1):
            moved = self.x.copy()
            moved[:, 1] += s * self.pitch
            i, j = _close(self.x, size, moved, low, reach)
            keep = i < j if s == 0 else np.ones(len(i), bool)
            i, j = i[keep], j[keep]
            # The very same cord? Unit s of the image's strand, counted along the cord.
            units = self._units[self._cord[i]]
            ahead = s + self._unit[i] - self._unit[j]
            same = (self._cord[i] == self._cord[j]) & (ahead % units == 0)
            round_ = np.where(same, ahead // units, 0)
            along = np.abs(self._far[j] + round_ * self._total[self._cord[i]] - self._far[i]) * self.step
            other = ~same | (along > BEND)
            found.append((i[other], j[other], np.full(int(other.sum()), s, np.int64)))
        self.pairs = (
            np.concatenate([f[0] for f in found]),
            np.concatenate([f[1] for f in found]),
            np.concatenate([f[2] for f in found]),
        )

    def overlap(self) -> float:
        """How far the deepest pair lies in each other, in diameters; 0 where none does."""
        _, r, _ = self._apart()
        return float(max(0.0, 1.0 - r.min())) if len(r) else 0.0

    def _apart(self) -> tuple[Array, Array, Ints]:
        i, j, s = self.pairs
        d = self.x[j] - self.x[i]
        d[:, 1] += s * self.pitch
        return d, np.sqrt((d * d).sum(axis=1)), s

    def push(self, times: int, strength: float = 1.3) -> None:
        """Push apart what overlaps, every node by the mean of what pushes it."""
        i, j, _ = self.pairs
        for _ in range(times):
            d, r, _ = self._apart()
            deep = r < 1.0
            if not deep.any():
                return
            v = d[deep] * ((1.0 - r[deep]) / np.maximum(r[deep], 1e-6) * 0.5)[:, None]
            n = len(self.x)
            moved = np.zeros_like(self.x)
            for k in range(3):
                moved[:, k] = np.bincount(j[deep], v[:, k], n) - np.bincount(i[deep], v[:, k], n)
            many = np.bincount(i[deep], minlength=n) + np.bincount(j[deep], minlength=n)
            self.x += strength * moved / np.maximum(many, 1)[:, None]


def _close(x: Array, box: Ints, y: Array, low: Array, reach: float) -> tuple[Ints, Ints]:
    """Pairs of rows of x and y within reach, by boxes of that size: each row meets only those of 27 boxes."""
    other = np.floor((y - low) / reach).astype(np.int64)
    top = np.maximum(box.max(axis=0), other.max(axis=0)) + 2
    bottom = np.minimum(box.min(axis=0), other.min(axis=0)) - 1
    span = top - bottom + 1

    def key(b: Ints) -> Ints:
        b = b - bottom
        return np.asarray((b[:, 0] * span[1] + b[:, 1]) * span[2] + b[:, 2], np.int64)

    keys = key(other)
    order = np.argsort(keys, kind="stable")
    keys = keys[order]
    rows, partners = [], []
    for dx in (-1, 0, 1):
        for dy in (-1, 0, 1):
            for dz in (-1, 0, 1):
                wanted = key(box + np.array([dx, dy, dz]))
                a, b = np.searchsorted(keys, wanted, "left"), np.searchsorted(keys, wanted, "right")
                many = b - a
                i = np.repeat(np.arange(len(x)), many)
                first = np.repeat(a - np.concatenate([[0], np.cumsum(many)[:-1]]), many)
                rows.append(i)
                partners.append(order[first + np.arange(len(i))])
    i, j = np.concatenate(rows), np.concatenate(partners)
    d = x[i] - y[j]
    near = (d * d).sum(axis=1) < reach * reach
    return i[near], j[near]


def _spaced(points: Array, step: float) -> Array:
    """A line through these points, with equally spaced ones about `step` apart."""
    d = np.linalg.norm(np.diff(points, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(d)])
    u = np.linspace(0.0, along[-1], max(4, round(along[-1] / step)) + 1)
    return np.column_stack([np.interp(u, along, points[:, k]) for k in range(3)])
