"""Ties that do not fit what the others say: which reading, what probably happened, and the tie as it would be then.

A tie is held against what all other ties expect of it (posterior predictive). Where less than one in a hundred would lie
further off, the slips that makers make (calibrate/mistakes.py) are tried in turn: the one that makes the tie likeliest, if it does
so by far more than a slip is rarer than none, is named. The worst is named first, and the others are judged again without it: one
slip makes sound ties look wrong. Nothing is ever changed by itself.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dim_ladder.base import format_length
from dim_ladder.calibrate.belief import Belief, Fitted, fitted
from dim_ladder.calibrate.doubt import ANYTHING, RARE, WORTH_A_LOOK
from dim_ladder.calibrate.mistakes import CONVINCED, mistakes
from dim_ladder.calibrate.model import Calibration
from dim_ladder.calibrate.observe import LENGTH, meant_by
from dim_ladder.calibrate.ties import Tie, said
from dim_ladder.calibrate.without import Predicted, chances, predicted, without

MOST = 5  # that are looked for one after the other
CLOSE = 3  # ties that fit worst, of which the one that a slip explains best goes first


@dataclass(frozen=True, slots=True)
class Misfit:
    """tie : its id, "" for all of them. chance : how many fit worse. reading : which row stands out, by name; length : whether that is
    the tied length. expected_mm, read_mm : of that. cause : what probably happened, "" where nothing explains it. repairs : ties
    as they would be then. drop : whether the tie is to be taken out instead."""

    tie: str
    chance: float
    reading: str
    expected_mm: float
    read_mm: float
    length: bool
    cause: str = ""
    repairs: tuple[Tie, ...] = ()
    drop: bool = False

    @property
    def fixed(self) -> Tie | None:
        return self.repairs[0] if len(self.repairs) == 1 else None

    @property
    def words(self) -> str:
        if not self.reading:
            return f"{self.tie or 'All ties'}: {self.cause}."
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


def misfits(calibration: Calibration) -> tuple[Misfit, ...]:
    """What is wrong with all ties together, and every tie that does not fit, the worst first."""
    f = calibration.whole
    out = [*_misspelt(f), *_twice(f)]
    together = [Misfit("", 0.0, "", 0.0, 0.0, False, x.cause, x.repairs) for x in calibration.common]
    for _ in range(MOST):
        found = _worst(f)
        if found is None:
            break
        out.append(found)
        f = fitted(f.prior, [t for t in f.ties if t.id != found.tie], f.known)
    return (*together, *out)


def misfit_of(calibration: Calibration, tie: Tie) -> Misfit | None:
    """What is wrong with one tie, one in the calibration or one that is being typed; None where it fits."""
    f = calibration.whole
    first = next((m for m in (*_misspelt(f, tie), *_twice(f)) if m.tie == tie.id), None)
    if first is not None:
        return first
    found = _held(f, tie)
    return found[0] if found else None


def _worst(f: Fitted) -> Misfit | None:
    by_id = {t.id: t for t in f.ties}
    short = chances(f)
    order = [k for k in np.argsort(short).tolist() if short[k] < WORTH_A_LOOK][:CLOSE]
    found = [x for k in order if (x := _held(f, by_id[f.data.ids[k]])) is not None]
    # Of many ties one or the other lies far off by chance: without a cause it has to lie so much further.
    found = [x for x in found if x[0].cause or x[0].chance < RARE / f.data.ties]
    if not found:
        return None
    if len(found) == 1:
        return found[0][0]
    # What a slip explains well is a slip; the others may only be held against it. So: which repair makes most of all ties.
    ranked = []
    for m, log in found:
        there = {t.id: t for t in m.repairs}
        then = fitted(f.prior, [there.get(t.id, t) for t in f.ties], f.known) if there else f
        ranked.append(
            (then.evidence + log + (len(f.data.value) - len(then.data.value)) * ANYTHING, -m.chance, m)
        )
    return max(ranked, key=lambda x: x[:2])[2]


def _held(f: Fitted, tie: Tie) -> tuple[Misfit, float] | None:
    """A tie that does not fit, and how likely its cause is before anything is read (log), 0 without."""
    b = without(f, tie)
    now = predicted(f, b, tie)
    if now is None:
        return None
    chance = now.chance()
    if chance >= RARE:
        return None
    row, expected = _stands_out(now)
    found = now.data.rows[row]
    read = found.value
    if found.cut:  # of what was weighed, the cord that was used is what a maker knows
        read, expected = found.cut - read, found.cut - expected
    cause, fixed, log = _explained(f, b, tie, now)
    repairs = () if fixed is None else (fixed,)
    return Misfit(tie.id, chance, found.name, expected, read, found.kind == LENGTH, cause, repairs), log


def _stands_out(p: Predicted) -> tuple[int, float]:
    """The row that fits the others of its tie worst, and what they and all else say it should be."""
    inverse = np.linalg.inv(p.cov)
    off = p.data.value - p.mean
    pulled = (inverse @ off[..., None])[..., 0]
    own = np.einsum("cii->ci", inverse)
    far = p.weight @ np.abs(pulled / np.sqrt(own))
    row = int(np.argmax(far))
    return row, float(p.data.value[row] - p.weight @ (pulled / own)[:, row])


def _explained(f: Fitted, b: Belief, tie: Tie, now: Predicted) -> tuple[str, Tie | None, float]:
    """The likeliest slip, the tie without it, and how likely such a slip is (log)."""
    best = now.log_density() + CONVINCED
    found: tuple[str, Tie | None, float] = ("", None, 0.0)
    for m in mistakes(tie):
        then = predicted(f, b, m.fixed)
        if then is None or len(then.data.value) < len(now.data.value) - 1:
            continue
        # A reading that is taken out explains nothing by itself: it is compared as if anything had been read.
        log = then.log_density() + m.log + (len(now.data.value) - len(then.data.value)) * ANYTHING
        if log > best and then.chance() > RARE:
            best, found = log, (m.words, m.fixed, m.log)
    return found


def _misspelt(f: Fitted, typed: Tie | None = None) -> list[Misfit]:
    """Ties that name a section which there is not."""
    prior, out = f.prior, []
    for tie in (typed,) if typed is not None else f.ties:
        for name, n in tie.counts.items():
            if n and name not in prior.sections and name not in prior.uncounted:
                near = meant_by(prior, name)
                if near and near not in tie.counts:
                    counts = {near if s == name else s: k for s, k in tie.counts.items()}
                    cause = f"there is no section “{name}”; probably “{near}” is meant, and until then the tie is left out"
                    made = tie.model_copy(update={"counts": counts})
                    out.append(Misfit(tie.id, 0.0, "", 0.0, 0.0, False, cause, (made,)))
    return out


def _twice(f: Fitted) -> list[Misfit]:
    """Ties that say what an earlier one says, to the millimetre."""
    seen: dict[object, str] = {}
    out = []
    for tie in f.ties:
        key = said(tie)
        if key in seen:
            cause = f"it says to the millimetre what {seen[key]} says: probably it was entered twice"
            out.append(Misfit(tie.id, 0.0, "", 0.0, 0.0, False, cause, (), True))
        elif key is not None:
            seen[key] = tie.id
    return out
