"""Slips that makers make when they write a tie down, and the tie as it would have been without.

What could not be is never offered: more left over than was cut, nothing used, no unit at all.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from dim_ladder.calibrate.ties import Reading, Tie

INCH, SAME_MM = 25.4 / 10, 1.0
EMPTY_MM = 15.0  # an end of which no more is left ran out
# Log odds of each kind of slip against none; two leftovers that are the same to the millimetre are a sign in themselves.
LIKELY = {"swap": -4.5, "other": 1.0, "inch": -5.0, "all": -5.0, "ten": -5.5, "count": -4.5, "half": -5.5}
CONVINCED = 2.5  # by how much (log) a slip must explain ties better, its rarity counted
FACTORS = (
    (INCH, "inch", "read in inches and written as centimetres"),
    (1 / INCH, "inch", "read in centimetres and written as inches"),
    (10.0, "ten", "a decimal point too far left, or centimetres written as millimetres"),
    (0.1, "ten", "a decimal point too far right, or millimetres written as centimetres"),
)


@dataclass(frozen=True, slots=True)
class Mistake:
    """kind : one of LIKELY. words : what probably happened. fixed : the tie as it would have been. finer : logarithm of by how much
    the typed values are finer than the true ones together: a reading in inches takes up so much less of the scale."""

    kind: str
    words: str
    fixed: Tie
    finer: float = 0.0

    @property
    def log(self) -> float:
        return LIKELY[self.kind] + self.finer


def mistakes(tie: Tie) -> Iterator[Mistake]:
    """Every slip that could have led to a tie."""
    for m in (*_exchanged(tie), *_scaled(tie), *_whole(tie), *_miscounted(tie)):
        if possible(m.fixed):
            yield m


def possible(tie: Tie) -> bool:
    """Whether it can have been tied so."""
    for r in tie.readings:
        if r.cut_mm is not None and r.left_mm is not None and r.left_mm >= r.cut_mm:
            return False
    return all(n >= 0 for n in tie.counts.values())


def _exchanged(tie: Tie) -> Iterator[Mistake]:
    rs = tie.readings
    for i, j in combinations(range(len(rs)), 2):
        a, b = rs[i], rs[j]
        if (a.left_mm, a.left_g) != (b.left_mm, b.left_g) and len(a.ends) == len(b.ends):
            swapped = {
                i: a.model_copy(update={"left_mm": b.left_mm, "left_g": b.left_g}),
                j: b.model_copy(update={"left_mm": a.left_mm, "left_g": a.left_g}),
            }
            words = f"what was left of {name_of(a)} and of {name_of(b)} is exchanged"
            yield Mistake("swap", words, _with(tie, swapped))
            if a.cut_mm != b.cut_mm:
                both = {i: b.model_copy(update={"ends": a.ends}), j: a.model_copy(update={"ends": b.ends})}
                yield Mistake("swap", f"{name_of(a)} and {name_of(b)} are exchanged", _with(tie, both))
        if a.left_mm is not None and b.left_mm is not None and abs(a.left_mm - b.left_mm) < SAME_MM:
            for k, r, other in ((i, a, b), (j, b, a)):
                words = f"the leftover of {name_of(other)} was written for {name_of(r)} too: measure it again"
                yield Mistake("other", words, _with(tie, {k: r.model_copy(update={"left_mm": None})}))


def _scaled(tie: Tie) -> Iterator[Mistake]:
    for factor, kind, words in FACTORS:
        log = float(np.log(factor))
        for k, r in enumerate(tie.readings):
            if r.left_mm:
                made = r.model_copy(update={"left_mm": r.left_mm * factor})
                yield Mistake(kind, f"what was left of {name_of(r)} was {words}", _with(tie, {k: made}), log)
            if r.cut_mm and (r.left_mm is not None or r.left_g is not None):
                made = r.model_copy(update={"cut_mm": r.cut_mm * factor})
                yield Mistake(kind, f"the cut of {name_of(r)} was {words}", _with(tie, {k: made}), log)
        if tie.length_mm:
            fixed = tie.model_copy(update={"length_mm": tie.length_mm * factor})
            yield Mistake(kind, f"the tied length was {words}", fixed, log)


def _whole(tie: Tie) -> Iterator[Mistake]:
    """Everything, or everything that was left over, in the other measure."""
    rs = tie.readings
    for factor, _, words in FACTORS:
        log = float(np.log(factor))
        left = {
            k: r.model_copy(update={"left_mm": r.left_mm * factor}) for k, r in enumerate(rs) if r.left_mm
        }
        if len(left) > 1:
            yield Mistake("all", f"all that was left over was {words}", _with(tie, left), log * len(left))
        cut = {k: r.model_copy(update={"cut_mm": r.cut_mm * factor}) for k, r in enumerate(rs) if r.cut_mm}
        if len(cut) > 1:
            yield Mistake("all", f"every cut was {words}", _with(tie, cut), log * len(cut))
        every = {
            k: r.model_copy(
                update={
                    "cut_mm": r.cut_mm and r.cut_mm * factor,
                    "left_mm": r.left_mm and r.left_mm * factor,
                }
            )
            for k, r in enumerate(rs)
            if r.cut_mm
        }
        if every and tie.length_mm:
            fixed = _with(tie, every).model_copy(update={"length_mm": tie.length_mm * factor})
            yield Mistake("all", f"the whole tie was {words}", fixed, log * (len(every) + 1))


def _miscounted(tie: Tie) -> Iterator[Mistake]:
    ran_out = next((r for r in tie.readings if r.left_mm is not None and r.left_mm < EMPTY_MM), None)
    for section, n in tie.counts.items():
        if not n:
            continue
        doubled = [("half", 2 * n)] + ([("half", n // 2)] if n % 2 == 0 else [])
        fewer = [("count", n - d) for d in range(3, n)] if ran_out is not None else []
        for kind, m in [("count", n + d) for d in (-2, -1, 1, 2)] + doubled + fewer:
            if m > 0:
                words = f"{section} was miscounted: {m} units, not {n}"
                if ran_out is not None and m < n:
                    words = f"{name_of(ran_out)} ran out, and the tie ended early: {m} units of {section}, not {n}"
                yield Mistake(kind, words, tie.model_copy(update={"counts": {**tie.counts, section: m}}))


def _with(tie: Tie, readings: dict[int, Reading]) -> Tie:
    return tie.model_copy(update={"readings": tuple(readings.get(k, r) for k, r in enumerate(tie.readings))})


def name_of(r: Reading) -> str:
    """What is measured, for people."""
    return " and ".join(r.ends)
