"""Ties that do not fit what the others say: which reading, what probably happened, and the tie as it would be then.

A tie is held against what all other ties expect of it (posterior predictive). Where less than one in a hundred would lie
further off, the slips that makers make are tried in turn: the one that makes the tie likeliest, if it does so by far more
than a slip is rarer than none, is named. Nothing is ever changed by itself.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from dim_ladder.base import format_length
from dim_ladder.calibrate.belief import Belief
from dim_ladder.calibrate.model import Calibration
from dim_ladder.calibrate.observe import LENGTH
from dim_ladder.calibrate.ties import Reading, Tie
from dim_ladder.calibrate.without import Predicted, predicted, without

RARE = 0.01  # a tie that fits worse than this part of all does not fit
CONVINCED = 2.5  # by how much (log) a slip must explain it better, its rarity counted
LIKELY = {
    "swap": -4.5,
    "other": 1.0,
    "inch": -5.0,
    "ten": -5.5,
    "count": -4.5,
    "half": -5.5,
}  # log odds against none; two leftovers that are the same to the millimetre are a sign in themselves
INCH, TWICE = 25.4 / 10, 1.0


@dataclass(frozen=True, slots=True)
class Misfit:
    """tie : its id. chance : how many fit worse. reading : which row stands out, by name; length : whether that is the tied length. expected_mm, read_mm : of that.
    cause : what probably happened, "" where nothing explains it. fixed : the tie as it would be then."""

    tie: str
    chance: float
    reading: str
    expected_mm: float
    read_mm: float
    length: bool
    cause: str = ""
    fixed: Tie | None = None

    @property
    def words(self) -> str:
        low = "less" if self.read_mm < self.expected_mm else "more"
        took = f"{self.reading} is" if self.length else f"{self.reading} took"
        fits = (
            "fewer than 1 in 1,000" if self.chance < 1e-3 else f"about 1 in {1 / max(self.chance, 1e-9):.0f}"
        )
        what = (
            f"{self.tie} does not fit: {took} {format_length(self.read_mm)}, {low} than the "
            f"{format_length(self.expected_mm)} that all else says. {fits.capitalize()} ties would lie so far off."
        )
        return f"{what} Probably {self.cause}." if self.cause else what


def misfits(calibration: Calibration, ties: tuple[Tie, ...]) -> tuple[Misfit, ...]:
    """Every tie that does not fit, the worst first."""
    found = [m for t in ties if (m := misfit_of(calibration, ties, t)) is not None]
    return tuple(sorted(found, key=lambda m: m.chance))


def misfit_of(calibration: Calibration, ties: tuple[Tie, ...], tie: Tie) -> Misfit | None:
    """What is wrong with one tie, one in the calibration or one that is being typed; None where it fits."""
    b = without(calibration, ties, tie.id) if tie.id in calibration.data.ids else calibration.belief
    now = predicted(calibration, b, tie)
    if now is None:
        return None
    chance = _chance(now)
    if chance >= RARE:
        return None
    row, expected = _stands_out(now)
    found = now.data.rows[row]
    read = found.value
    if found.cut:  # of what was weighed, the cord that was used is what a maker knows
        read, expected = found.cut - read, found.cut - expected
    cause, fixed = _explained(calibration, b, tie, now)
    return Misfit(tie.id, chance, found.name, expected, read, found.kind == LENGTH, cause, fixed)


def _chance(p: Predicted) -> float:
    """How many ties would lie further off than this one: of the squared distance, over the grid."""
    from scipy.special import chdtrc  # of chi squared; slow to load

    off = p.data.value - p.mean
    far = (off * np.linalg.solve(p.cov, off[..., None])[..., 0]).sum(1)
    return float(p.weight @ chdtrc(off.shape[1], far))


def _stands_out(p: Predicted) -> tuple[int, float]:
    """The row that fits the others of its tie worst, and what they and all else say it should be."""
    inverse = np.linalg.inv(p.cov)
    off = p.data.value - p.mean
    pulled = (inverse @ off[..., None])[..., 0]
    own = np.einsum("cii->ci", inverse)
    far = p.weight @ np.abs(pulled / np.sqrt(own))
    row = int(np.argmax(far))
    return row, float(p.data.value[row] - p.weight @ (pulled / own)[:, row])


def _explained(calibration: Calibration, b: Belief, tie: Tie, now: Predicted) -> tuple[str, Tie | None]:
    """The likeliest slip and the tie without it."""
    best = now.log_density() + CONVINCED
    found: tuple[str, Tie | None] = ("", None)
    for kind, words, fixed, typed in slips(tie):
        then = predicted(calibration, b, fixed)
        if then is None or len(then.data.value) < len(now.data.value) - 1:
            continue
        log = then.log_density() + LIKELY[kind] + typed
        # A reading that is taken out explains nothing by itself: it is compared as if anything had been read.
        log += (len(now.data.value) - len(then.data.value)) * ANYTHING
        if log > best and _chance(then) > RARE:
            best, found = log, (words, fixed)
    return found


ANYTHING = -np.log(400.0)  # a reading somewhere within 40 cm


def slips(tie: Tie) -> Iterator[tuple[str, str, Tie, float]]:
    """Slips that could have led to a tie: kind, words, the tie as it would have been, and the logarithm of by how much the
    typed value is finer than the true one."""
    rs = tie.readings
    for i, j in combinations(range(len(rs)), 2):
        a, b = rs[i], rs[j]
        if (a.left_mm, a.left_g) != (b.left_mm, b.left_g) and len(a.ends) == len(b.ends):
            swapped = {
                i: a.model_copy(update={"left_mm": b.left_mm, "left_g": b.left_g}),
                j: b.model_copy(update={"left_mm": a.left_mm, "left_g": a.left_g}),
            }
            yield (
                "swap",
                f"what was left of {_name(a)} and of {_name(b)} is exchanged",
                _with(tie, swapped),
                0.0,
            )
            if a.cut_mm != b.cut_mm:
                both = {i: b.model_copy(update={"ends": a.ends}), j: a.model_copy(update={"ends": b.ends})}
                yield "swap", f"{_name(a)} and {_name(b)} are exchanged", _with(tie, both), 0.0
        if a.left_mm is not None and b.left_mm is not None and abs(a.left_mm - b.left_mm) < TWICE:
            for k, r in ((i, a), (j, b)):
                words = f"the leftover of {_name(rs[j if k == i else i])} was written for {_name(r)} too: measure it again"
                yield "other", words, _with(tie, {k: r.model_copy(update={"left_mm": None})}), 0.0
    for factor, kind, words in (
        (INCH, "inch", "read in inches and written as centimetres"),
        (1 / INCH, "inch", "read in centimetres and written as inches"),
        (10.0, "ten", "a decimal point too far left, or centimetres written as millimetres"),
        (0.1, "ten", "a decimal point too far right, or millimetres written as centimetres"),
    ):
        log = float(np.log(factor))
        for k, r in enumerate(rs):
            if r.left_mm:
                made = r.model_copy(update={"left_mm": r.left_mm * factor})
                yield kind, f"what was left of {_name(r)} was {words}", _with(tie, {k: made}), log
            if r.cut_mm and (r.left_mm is not None or r.left_g is not None):
                made = r.model_copy(update={"cut_mm": r.cut_mm * factor})
                yield kind, f"the cut of {_name(r)} was {words}", _with(tie, {k: made}), log
        if tie.length_mm:
            made_tie = tie.model_copy(update={"length_mm": tie.length_mm * factor})
            yield kind, f"the tied length was {words}", made_tie, log
    for section, n in tie.counts.items():
        if not n:
            continue
        others = (
            [("count", n + d) for d in (-2, -1, 1, 2)]
            + [("half", 2 * n)]
            + ([("half", n // 2)] if n % 2 == 0 else [])
        )
        for kind, m in others:
            if m > 0:
                words = f"{section} was miscounted: {m} units, not {n}"
                yield kind, words, tie.model_copy(update={"counts": {**tie.counts, section: m}}), 0.0


def _with(tie: Tie, readings: dict[int, Reading]) -> Tie:
    return tie.model_copy(update={"readings": tuple(readings.get(k, r) for k, r in enumerate(tie.readings))})


def _name(r: Reading) -> str:
    return " and ".join(r.ends)
