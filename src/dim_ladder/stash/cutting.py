"""What is cut from what: fewest new metres, offcuts before spools, one lot within a piece, remnants that can still be used.

Every offcut takes a pattern, a set of lengths that fits on it (Gilmore and Gomory 1961, Oper. Res. 9:849-859): all that fit are
written down, which bounds tightly what offcuts can take. Spools, and offcuts that hold too many, are pools of so many millimetres as can
be filled at all. Solved in whole numbers by HiGHS; where the time does not do, by how much a better answer could undercut it is said.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dim_ladder.stash.patterns import Pattern, all_patterns, fullest

Array = NDArray[np.float64]
NEW = "new"  # the lot that is bought, one for all
FEW = 800  # patterns of a length, beyond which it is a pool
ALL = 12_000  # of all lengths
DEARER = 20.0  # so many millimetres off a spool rather than one that is bought
LONG = 1e5  # mm2: the worth of a remnant goes with the square of its length, so that long ones stay long


@dataclass(frozen=True, slots=True)
class Shelf:
    """Lengths that are alike: so many, each so long, of one lot. spool : cut only where offcuts do not do."""

    key: str
    mm: int
    lot: str
    spool: bool
    count: int = 1


@dataclass(frozen=True, slots=True)
class Alike:
    """Pieces that take the same lengths. takes : by length in mm, how many of it one piece takes, all of one lot."""

    takes: Mapping[int, int]
    count: int


@dataclass(frozen=True, slots=True)
class Used:
    """One length off the shelf, the nth of those alike; key "" where it is bought. cuts : (which of the pieces that are alike, mm)."""

    key: str
    nth: int
    lot: str
    mm: int
    cuts: tuple[tuple[int, int], ...]


@dataclass(frozen=True, slots=True)
class Cutting:
    """used : every length that is cut. new_mm : that must be bought; spool_mm : off spools. gap : by what part of new and spool metres
    (new ones counting more) a better answer could undercut this one at the very most; 0 where it is the best. lots : of pieces
    alike, how many of each lot."""

    used: tuple[Used, ...]
    new_mm: int
    spool_mm: int
    gap: float
    lots: tuple[Mapping[str, int], ...] = field(default=())

    @property
    def proven(self) -> bool:
        return self.gap == 0.0


def cut_stock(
    pieces: Sequence[Alike], shelf: Sequence[Shelf], *, keep_mm: int = 300, loss_mm: int = 0, seconds: float = 10.0,
    stop: Callable[[], bool] = lambda: False,
) -> Cutting:  # fmt: skip
    """Cut pieces of one kind and colour. keep_mm : a remnant below that is waste. loss_mm : that every cut takes. Raises ValueError for
    lengths of nothing or less."""
    if any(s.mm < 0 for s in shelf) or any(mm <= 0 for p in pieces for mm in p.takes):
        raise ValueError("lengths must be more than nothing")
    model = _Model(pieces, [s for s in shelf if s.count > 0], keep_mm, loss_mm)
    if not model.items:
        return Cutting((), 0, 0, 0.0, tuple({} for _ in pieces))
    end = time.monotonic() + seconds
    greedy = model.greedy()
    aim = model.costs("fresh")
    best, bound = (None, 0.0) if stop() else model.solve(aim, 0.75 * (end - time.monotonic()))
    if best is None or aim @ greedy < aim @ best - 0.5:
        best = greedy
    value = float(aim @ best)
    if not stop() and time.monotonic() < end:
        tidier, _ = model.solve(model.costs("waste"), end - time.monotonic(), (aim, value))
        best = best if tidier is None or aim @ tidier > value + 0.5 else tidier
    gap = 0.0 if value - bound < 1.0 else (value - bound) / value
    return model.read(best, gap)


class _Model:
    """Columns: patterns on offcuts, lengths off a spool, lengths that are bought, pieces of a lot."""

    def __init__(self, pieces: Sequence[Alike], shelf: Sequence[Shelf], keep: int, loss: int) -> None:
        self.pieces, self.shelf, self.keep_mm, self.loss = pieces, shelf, keep, loss
        self.items = sorted({mm for p in pieces if p.count for mm in p.takes}, reverse=True)
        self.sizes = [mm + loss for mm in self.items]
        self.total = [sum(p.takes.get(mm, 0) * p.count for p in pieces) for mm in self.items]
        if any(s.lot == NEW for s in shelf):
            raise ValueError(f"no lot may be called “{NEW}”")
        self.lots = [*dict.fromkeys(s.lot for s in shelf), NEW]
        self.offcuts = [
            k for k, s in enumerate(shelf) if not s.spool and self.sizes and s.mm >= self.sizes[-1]
        ]
        self.columns: list[tuple[int, Pattern]] = []  # shelf, pattern
        self.seen: set[tuple[int, Pattern]] = set()
        pools = [k for k, s in enumerate(shelf) if s.spool]
        for k in self.offcuts:
            found = all_patterns(shelf[k].mm, self.sizes, self.total, FEW)
            if found is None or len(self.columns) + len(found) > ALL:
                pools.append(k)
                continue
            for p in found:
                self.add(k, p)
        self.pooled = frozenset(pools)
        self.room = {k: fullest(shelf[k].mm, self.sizes, self.total) for k in pools}
        self.pools = [
            (k, n, i) for k in pools
            for n in range(shelf[k].count) for i, size in enumerate(self.sizes) if size <= shelf[k].mm
        ]  # fmt: skip
        self.chosen = [(p, lot) for p in range(len(pieces)) for lot in range(len(self.lots))]

    def add(self, shelf: int, pattern: Pattern) -> bool:
        if (shelf, pattern) in self.seen or not any(pattern):
            return False
        self.seen.add((shelf, pattern))
        self.columns.append((shelf, pattern))
        return True

    # -- the rules, over columns as they are by now --------------------------------------------------

    @property
    def parts(self) -> tuple[int, int, int, int]:
        """Where patterns end, spools end, new ones end, all ends."""
        a = len(self.columns)
        b = a + len(self.pools)
        c = b + len(self.items)
        return a, b, c, c + len(self.chosen)

    def costs(self, aim: str) -> Array:
        a, b, c, size = self.parts
        out = np.zeros(size)
        if aim == "fresh":
            out[a:b] = [self.items[i] if self.shelf[k].spool else 0 for k, _, i in self.pools]
            out[b:c] = [DEARER * mm for mm in self.items]
        else:
            for v, (k, p) in enumerate(self.columns):
                left = self.shelf[k].mm - sum(n * s for n, s in zip(p, self.sizes, strict=True))
                out[v] = (self.shelf[k].mm ** 2 - (left**2 if left >= self.keep_mm else 0)) / LONG
        return out

    def rules(self) -> tuple[Any, Array, Array]:
        """A matrix, and the least and most of its rows."""
        from scipy.sparse import coo_matrix

        a, b, c, size = self.parts
        items, lots = len(self.items), len(self.lots)
        place = {(lot, i): lot * items + i for lot in range(lots) for i in range(items)}
        row = lots * items
        entries: list[tuple[int, int, float]] = []
        low, high = [0.0] * row, [np.inf] * row
        lot_of = [self.lots.index(s.lot) for s in self.shelf]
        for v, (k, pattern) in enumerate(self.columns):
            entries += [(place[lot_of[k], i], v, float(n)) for i, n in enumerate(pattern) if n]
        for v, (k, _, i) in enumerate(self.pools):
            entries.append((place[lot_of[k], i], a + v, 1.0))
        entries += [(place[lots - 1, i], b + i, 1.0) for i in range(items)]
        for v, (p, lot) in enumerate(self.chosen):
            entries += [
                (place[lot, self.items.index(mm)], c + v, -float(n))
                for mm, n in self.pieces[p].takes.items()
                if mm in self.items
            ]
        at = {k: row + n for n, k in enumerate(k for k in self.offcuts if k not in self.pooled)}
        entries += [(at[k], v, 1.0) for v, (k, _) in enumerate(self.columns)]
        low += [0.0] * len(at)
        high += [float(self.shelf[k].count) for k in at]
        row += len(at)
        pools = {key: row + n for n, key in enumerate(dict.fromkeys((k, n) for k, n, _ in self.pools))}
        entries += [(pools[k, n], a + v, float(self.sizes[i])) for v, (k, n, i) in enumerate(self.pools)]
        low += [0.0] * len(pools)
        high += [float(self.room[k]) for k, _ in pools]
        row += len(pools)
        for p, piece in enumerate(self.pieces):
            entries += [(row + p, c + v, 1.0) for v, (q, _) in enumerate(self.chosen) if q == p]
            low.append(float(piece.count))
            high.append(float(piece.count))
        row += len(self.pieces)
        table = np.array(entries, np.float64)
        at_row, at_column = table[:, 0].astype(np.int64), table[:, 1].astype(np.int64)
        matrix = coo_matrix((table[:, 2], (at_row, at_column)), shape=(row, size)).tocsr()
        return matrix, np.array(low), np.array(high)

    def solve(
        self, aim: Array, seconds: float, kept: tuple[Array, float] | None = None
    ) -> tuple[Array | None, float]:
        """In whole numbers: the best that is found, and the least it can come to with these patterns. kept : an aim that is not to
        become worse."""
        from scipy.optimize import Bounds, LinearConstraint, milp

        matrix, low, high = self.rules()
        rules = [LinearConstraint(matrix, low, high)]
        if kept is not None:
            rules.append(LinearConstraint(kept[0][None, :], -np.inf, kept[1] + 0.5))
        found = milp(
            aim, integrality=np.ones(len(aim)), bounds=Bounds(0, np.inf), constraints=rules,
            options={"time_limit": max(seconds, 0.05), "mip_rel_gap": 0.0},
        )  # fmt: skip
        if found.x is None:
            return None, 0.0
        return np.round(found.x), float(found.mip_dual_bound or 0.0)

    # -- answers -------------------------------------------------------------------------------------

    def greedy(self) -> Array:
        """Piece by piece, the longest lengths first, each on the shortest length of the lot that takes it: what there is at the least."""
        taken: dict[tuple[int, int], list[int]] = {}
        lots: dict[tuple[int, int], int] = {}
        bought = [0] * len(self.items)
        rooms = {(k, n): s.mm for k, s in enumerate(self.shelf) for n in range(s.count)}
        order = sorted(range(len(self.pieces)), key=lambda p: -max(self.pieces[p].takes, default=0))
        for p in order:
            need = sorted((mm for mm, n in self.pieces[p].takes.items() for _ in range(n)), reverse=True)
            for _ in range(self.pieces[p].count):
                placed = min(
                    (found for lot in self.lots[:-1] if (found := self._fit(lot, need, rooms)) is not None),
                    key=lambda f: (f[0], f[1]), default=None,
                )  # fmt: skip
                lot = len(self.lots) - 1
                if placed is None:
                    for mm in need:
                        bought[self.items.index(mm)] += 1
                else:
                    lot = self.lots.index(self.shelf[placed[2][0][0][0]].lot)
                    for where, mm in placed[2]:
                        rooms[where] -= mm + self.loss
                        taken.setdefault(where, []).append(mm)
                lots[p, lot] = lots.get((p, lot), 0) + 1
        for (k, _), cuts in taken.items():
            if k not in self.pooled:
                self.add(k, tuple(cuts.count(mm) for mm in self.items))
        a, b, c, size = self.parts
        x = np.zeros(size)
        column = {col: v for v, col in enumerate(self.columns)}
        spool = {col: a + v for v, col in enumerate(self.pools)}
        for (k, n), cuts in taken.items():
            if k in self.pooled:
                for mm in cuts:
                    x[spool[k, n, self.items.index(mm)]] += 1
            else:
                x[column[k, tuple(cuts.count(mm) for mm in self.items)]] += 1
        x[b:c] = bought
        for v, pair in enumerate(self.chosen):
            x[c + v] = lots.get(pair, 0)
        return x

    def _fit(
        self, lot: str, need: Sequence[int], rooms: Mapping[tuple[int, int], int]
    ) -> tuple[int, int, list[tuple[tuple[int, int], int]]] | None:
        """Where a piece fits on lengths of a lot: mm off spools, room left where it is cut, and which cut where."""
        mine = {w: mm for w, mm in rooms.items() if self.shelf[w[0]].lot == lot}
        out, off_spool, left = [], 0, 0
        for mm in need:
            fits = [(self.shelf[w[0]].spool, room, w) for w, room in mine.items() if room >= mm + self.loss]
            if not fits:
                return None
            spool, room, where = min(fits)
            mine[where] -= mm + self.loss
            out.append((where, mm))
            off_spool += mm if spool else 0
            left += 0 if spool else room - mm
        return off_spool, left, out

    def read(self, x: Array, gap: float) -> Cutting:
        """Which piece gets which length; a pattern that has more than is needed is cut for less."""
        a, b, c, _ = self.parts
        waiting: dict[tuple[int, int], list[int]] = {}
        lots: list[dict[str, int]] = [{} for _ in self.pieces]
        for v, (p, lot) in enumerate(self.chosen):
            many = int(x[c + v])
            if many:
                lots[p][self.lots[lot]] = many
                for mm, n in self.pieces[p].takes.items():
                    waiting.setdefault((lot, mm), []).extend([p] * (n * many))

        def take(lot: int, item: int) -> list[tuple[int, int]]:
            there = waiting.get((lot, self.items[item]), [])
            return [(there.pop(0), self.items[item])] if there else []

        used: list[Used] = []
        nth: dict[int, int] = {}
        new = off_spool = 0
        for v, (k, pattern) in enumerate(self.columns):
            for _ in range(int(x[v])):
                lot = self.lots.index(self.shelf[k].lot)
                cuts = [cut for i, n in enumerate(pattern) for _ in range(n) for cut in take(lot, i)]
                if cuts:
                    nth[k] = nth.get(k, -1) + 1
                    used.append(self._used(k, nth[k], cuts))
        pools: dict[tuple[int, int], list[tuple[int, int]]] = {}
        for v, (k, n, i) in enumerate(self.pools):
            for _ in range(int(x[a + v])):
                cuts = take(self.lots.index(self.shelf[k].lot), i)
                pools.setdefault((k, n), []).extend(cuts)
                off_spool += sum(mm for _, mm in cuts) if self.shelf[k].spool else 0
        used += [self._used(k, n, cuts) for (k, n), cuts in pools.items() if cuts]
        bought = [
            cut
            for i in range(len(self.items))
            for _ in range(int(x[b + i]))
            for cut in take(len(self.lots) - 1, i)
        ]
        if bought:
            new = sum(mm for _, mm in bought)
            used.append(Used("", 0, NEW, new, tuple(bought)))
        assert not any(waiting.values())
        return Cutting(tuple(used), new, off_spool, gap, tuple(lots))

    def _used(self, k: int, nth: int, cuts: Sequence[tuple[int, int]]) -> Used:
        s = self.shelf[k]
        return Used(s.key, nth, s.lot, s.mm, tuple(cuts))
