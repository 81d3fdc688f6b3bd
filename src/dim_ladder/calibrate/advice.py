"""What to tie next: of the test ties one could make, those that narrow the planned cut most for the cord they take.

The expected gain is that of the normal equations: what a tie with so many units, measured in such a way, would add to them
(Chaloner & Verdinelli 1995, Stat. Sci. 10:273-304). That it would also tell more about the spread from tie to tie is left out.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dim_ladder.calibrate.belief import Belief
from dim_ladder.calibrate.expected import COUNT_SD, own_of, predict
from dim_ladder.calibrate.grid import correlated, tension_cov
from dim_ladder.calibrate.model import Calibration
from dim_ladder.calibrate.observe import collect
from dim_ladder.calibrate.prior import Array
from dim_ladder.calibrate.ties import Reading, Tie

UNITS = (2, 3, 4, 6, 8, 12, 16, 24)
HAND_MM = 60.0  # of an end, to hold
SHORT_OF = 2.05  # standard deviations that are cut beyond what is likeliest, at 1 in 50
# Pieces of a design that are tied: after the first ties, and while more is learned than cord.
PIECES, MANY = 60, 500
FIRST = 2  # ties
WORTH = 0.1  # of the gain, below which measuring every end by itself is not worth its while


@dataclass(frozen=True, slots=True)
class Candidate:
    """A test tie that could be made. units : of which section, "" for a whole piece. apart : every end measured by itself, else the ends of a
    cord together. before_mm, after_mm : spread (sd) of the planned piece's cord. cord_mm : what it takes. saves_mm : of all cords of every piece after
    it, at a chance of 1 in 50. gain : mm of spread that a metre takes away, where as much cord as the planned piece takes is spent on ties like it: the first tie of few
    units looks cheap, the fifth of them does not."""

    section: str
    units: int
    apart: bool
    before_mm: float
    after_mm: float
    cord_mm: float
    gain: float
    saves_mm: float

    @property
    def pays_after(self) -> int:
        """Pieces after which it has saved the cord it takes."""
        return math.ceil(self.cord_mm / max(self.saves_mm, 1e-6))

    @property
    def counts(self) -> dict[str, float]:
        return {self.section: float(self.units)} if self.section else {}

    @property
    def words(self) -> str:
        how = "measure every end by itself" if self.apart else "measure both ends of a cord together"
        what = f"{self.units} × {self.section}" if self.section else "one whole piece"
        return (
            f"Tie {what} and {how}: takes {self.cord_mm / 1000:.1f} m and saves {self.saves_mm / 10:.0f} cm of every piece "
            f"after it: paid back after {self.pays_after} pieces"
        )


def advice(calibration: Calibration, planned: Mapping[str, float], most: int = 3) -> tuple[Candidate, ...]:
    """The best few, by gain for a metre; none where a tie would hardly narrow anything. planned : units by section."""
    found: list[Candidate] = []
    prior = calibration.prior
    grows = [s for s in prior.fits if planned.get(s, 0) > 0]
    cords = [e.split(".")[0] for e in prior.role_of]
    ways = (True, False) if len(set(cords)) < len(cords) else (True,)
    if not grows and any(planned.get(s, 0) > 0 for s in prior.sections):
        # Nothing grows with the size: a piece is tied whole.
        whole = [_candidate(calibration, planned, "", 1, apart) for apart in reversed(ways)]
        found += whole
    for section in grows:
        for apart in ways:
            own = [_candidate(calibration, planned, section, n, apart) for n in UNITS]
            found.append(max(own, key=lambda c: c.gain))
            found += [c for c in own if c not in found and c.gain > 0.6 * found[-1].gain]
    worth = [c for c in found if c.after_mm < 0.98 * c.before_mm and c.pays_after <= patience(calibration)]
    best: list[Candidate] = []
    for c in sorted(worth, key=lambda c: -c.gain * (1 - WORTH * c.apart)):
        # One suggestion a section and way of measuring: others differ by a unit or two. The more laborious way must pay.
        same = [b for b in best if b.section == c.section]
        if all(b.apart != c.apart and abs(b.gain - c.gain) > WORTH * b.gain for b in same):
            best.append(c)
    return tuple(best[:most])


def patience(calibration: Calibration) -> int:
    """Pieces within which a tie has to save its own cord to be worth its while; the first ones say more than that: how long a unit
    is, and whether the shape is right at all."""
    return PIECES if calibration.data.ties >= FIRST else MANY


def enough(calibration: Calibration, planned: Mapping[str, float]) -> str:
    """Why no tie is advised any more; "" where one is, or nothing can be said."""
    if advice(calibration, planned) or not calibration.data.ties:
        return ""
    grows = [s for s in calibration.prior.fits if planned.get(s, 0) > 0]
    every = [_candidate(calibration, planned, s, n, True) for s in grows for n in UNITS]
    if not every:
        return ""
    best = min(every, key=lambda c: c.pays_after)
    return (
        f"Enough tested: another {best.units} × {best.section} would take {best.cord_mm / 1000:.1f} m and save "
        f"{best.saves_mm:.0f} mm of a piece: paid back after {best.pays_after:,} pieces"
    )


def example(calibration: Calibration, section: str, units: int, apart: bool) -> Tie:
    """A tie as it would be logged, with readings of the right kind and any values."""
    prior = calibration.prior
    if apart:
        groups: list[tuple[str, ...]] = [(e,) for e in prior.role_of]
    else:
        cords = dict.fromkeys(e.split(".")[0] for e in prior.role_of)
        groups = [tuple(e for e in prior.role_of if e.split(".")[0] == c) for c in cords]
    readings = tuple(Reading(ends=g, cut_mm=2.0, left_mm=1.0) for g in groups)
    counts = {s: n for s, n in prior.fixed.items() if s in prior.sections}
    if section:
        counts[section] = units
    return Tie(id="next", counts=counts, length_mm=1.0, readings=readings)


def _candidate(
    calibration: Calibration, planned: Mapping[str, float], section: str, units: int, apart: bool
) -> Candidate:
    tie = example(calibration, section, units, apart)
    b = calibration.belief
    part = contribution(calibration, b, tie)
    ends = tuple(calibration.prior.role_of)
    cord = calibration.roughly(ends, tie.counts).median + HAND_MM * len(ends)
    budget = max(cord, calibration.roughly(ends, planned).median + HAND_MM * len(ends))
    known = np.linalg.inv(b.cov)

    def left(times: float) -> float:
        cov = np.asarray(np.linalg.inv(known + times * part), np.float64)
        return spread(calibration, Belief(b.weight, b.grid, b.mean, cov), planned)

    before = spread(calibration, b, planned)
    gain = (before - left(budget / cord)) / (budget / 1000)
    after = left(1.0)
    return Candidate(section, units, apart, before, after, cord, gain, SHORT_OF * (before - after))


def contribution(calibration: Calibration, b: Belief, tie: Tie) -> Array:
    """(c, n, n): what a tie of this kind would add to the precision of the shared parameters, whatever is read."""
    data = collect(calibration.prior, (tie,), calibration.whole.known)
    many = own_of(data)
    z = np.zeros((len(b.weight), 1, many))
    _, jac, own, variance = predict(calibration.layout, data, b.mean, z, b.grid.unit)
    # In a sitting of its own.
    tension = tension_cov(b.grid.tau, many, COUNT_SD)
    tension[:, :2, :2] += correlated(b.grid.sitting)
    around = own @ tension @ np.swapaxes(own, 1, 2) + variance[..., None] * np.eye(len(data.value))
    return np.asarray(np.swapaxes(jac, 1, 2) @ np.linalg.inv(around) @ jac, np.float64)


def spread(calibration: Calibration, b: Belief, planned: Mapping[str, float]) -> float:
    """Sum over the cords of the sd of what a planned piece takes, mm, tied until it is as long as it should be."""
    out = 0.0
    mm = calibration.length(planned).median
    tension = np.sqrt(b.grid.tau**2 + b.grid.sitting**2)
    for cord in dict.fromkeys(e.split(".")[0] for e in calibration.prior.role_of):
        ends = tuple(e for e in calibration.prior.role_of if e.split(".")[0] == cord)
        taken = calibration.totals(b, ends, planned, mm)
        slope = (taken.total[..., None] * taken.slope).sum(1)
        variance = ((slope[:, None] @ b.cov)[:, 0] * slope).sum(1)
        variance = variance + (tension * taken.total.sum(1)) ** 2
        variance = variance + (b.grid.unit[:, None] ** 2 * taken.wobble * taken.total**2).sum(1)
        out += float(b.weight @ np.sqrt(variance))
    return out
