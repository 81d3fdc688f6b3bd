"""What the calibration is worth to makers of another world (tests/helpers/world.py): coverage, chance met, cord over what somebody
would cut who knows the maker, and what a rule of thumb and least squares would cut at the same chance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.calibrate import Prior, Tie, calibrate
from dim_ladder.calibrate.misfit import misfits
from helpers.weaves import PLAIT, SPIRAL, TERN
from helpers.world import CHAIN, DEPARTURES, Maker, Table, maker, spoiled, ties_of

WEAVES = {
    "band": (TERN, "bar"),
    "spiral": (SPIRAL, "bar"),
    "plait": (PLAIT, "reed"),
    "chain": (CHAIN, "chain"),
}
LEVELS = ((0, 1), (1, 1), (3, 1), (3, 3), (10, 1), (10, 5))  # ties, sittings
CORD_MM = 1900.0  # that the hungriest end of a piece takes by the table
SOUND = tuple(d for d in DEPARTURES if d != "slips")
RISK = 0.02
PIECES = 40  # further pieces of a maker, each in a sitting of its own


@dataclass(frozen=True)
class Trial:
    """Of one maker and end. covered : parts of 90 % intervals that hold: cord for a length, cord and length of a unit. short :
    part of the pieces that run short when cut by us. ours, oracle, rule, line : mm that are cut; rule and line without a margin.
    used : (pieces,) mm."""

    covered: tuple[float, float, float]
    short: float
    ours: float
    oracle: float
    rule: float
    line: float
    used: np.ndarray


def table_of(prior: Prior, section: str) -> Table:
    """What the shape says, as a table."""
    k = prior.sections.index(section)
    ends = list(prior.role_of)
    roles = [prior.roles.index(r) for r in prior.role_of.values()]
    cord = {
        e: float(prior.unit[r, k] * prior.own[i, k]) for i, (e, r) in enumerate(zip(ends, roles, strict=True))
    }
    return Table(cord, float(prior.pitch[k]), section)


def length_of(table: Table) -> float:
    """A piece whose hungriest end takes CORD_MM by the table."""
    return (CORD_MM - table.start) * table.pitch / max(table.ends.values())


def trial(
    rng: np.random.Generator, prior: Prior, table: Table, many: int, sittings: int,
    on: Sequence[str] = DEPARTURES, soft: tuple[float, float] = (0.8, 1.2),
) -> Trial:  # fmt: skip
    """One maker ties so many test pieces, cuts the hungriest end for a piece, and ties it often."""
    m, mm = maker(rng, table, on, soft), length_of(table)
    logged = ties_of(m, many, sittings)
    c = calibrate(None, logged, prior)
    end = max(table.ends, key=lambda e: table.ends[e])
    section = table.section
    units = max(1, round((mm - c.fixed_mm) / c.pitch(section).median))
    counts = {section: float(units)}
    need = c.need(end, counts, mm)
    pieces = np.array([m.until(mm, m.day())[end] for _ in range(PIECES)])
    ours = need.quantile(1 - RISK)
    alike = [e for e in table.ends if prior.role_of[e] == prior.role_of[end]]
    rate = float(np.mean([table.ends[e] * m.soft * m.rate * m.skew[e] for e in alike]))
    covered = (
        float(np.mean([0.05 <= need.chance_below(x) <= 0.95 for x in pieces])),
        float(0.05 <= c.per_unit(prior.role_of[end], section).chance_below(rate) <= 0.95),
        float(0.05 <= c.pitch(section).chance_below(table.pitch * m.soft) <= 0.95),
    )
    return Trial(
        covered, float((pieces > ours).mean()), ours, float(np.quantile(_known(m, end, mm), 1 - RISK)),
        table.start + mm * table.ends[end] / table.pitch, _line(logged, end, mm, table), pieces,
    )  # fmt: skip


def _known(m: Maker, end: str, mm: float) -> np.ndarray:
    """What somebody knows who saw the maker tie four hundred pieces."""
    return np.array([m.until(mm, m.day())[end] for _ in range(400)])


def _line(ties: Sequence[Tie], end: str, mm: float, table: Table) -> float:
    """Least squares of cord against length through the ties; through nothing where there are too few."""
    found = [
        (t.length_mm or 0.0, next(u for r in t.readings if r.ends == (end,) and (u := r.used_mm)))
        for t in ties
    ]
    if len(found) < 2:
        return sum(u / x for x, u in found) * mm if found else float("nan")
    x, y = np.array(found).T
    if len(found) < 3 or np.ptp(x) < 20:
        return float((y / x).mean() * mm)
    slope, start = np.polyfit(x, y, 1)
    return float(start + slope * mm)


@dataclass(frozen=True)
class Row:
    """Over many makers: part of 90 % intervals that hold, chance of running short and its standard error, mm over the oracle; and that
    of the rule of thumb and of least squares, each with the margin at which they run short as often."""

    covered: tuple[float, float, float]
    short: float
    sure: float
    worst: float
    over: float
    rule: float
    line: float


def row(found: Sequence[Trial]) -> Row:
    short = float(np.mean([t.short for t in found]))
    oracle = np.array([t.oracle for t in found])

    def at_equal_risk(cuts: np.ndarray) -> float:
        if not np.isfinite(cuts).all():
            return float("nan")
        low, high = 0.3, 6.0
        for _ in range(50):
            k = (low + high) / 2
            missed = np.mean([float((t.used > k * cut).mean()) for t, cut in zip(found, cuts, strict=True)])
            low, high = (k, high) if missed > short else (low, k)
        return float((high * cuts - oracle).mean())

    return Row(
        tuple(float(np.mean([t.covered[k] for t in found])) for k in range(3)),  # type: ignore[arg-type]
        short,
        float(np.std([t.short for t in found]) / np.sqrt(len(found))),
        float(np.mean([t.short > 0.1 for t in found])),
        float(np.mean([t.ours for t in found] - oracle)),
        at_equal_risk(np.array([t.rule for t in found])),
        at_equal_risk(np.array([t.line for t in found])),
    )


SLIPS = {
    "exchanged": "exchanged",
    "inch": "inches",
    "tie inches": "whole tie was read in inches",
    "all leftovers inches": "all that was left over was read in inches",
    "duplicate": "entered twice",
}


@dataclass(frozen=True)
class Judged:
    """Of one maker with one slip. found : the tie does not fit. named : with its cause. first : before any other. accused : how
    many sound ties are said not to fit; impossible : how many repairs cannot be."""

    found: bool
    named: bool
    first: bool
    accused: int
    impossible: int


def judged(rng: np.random.Generator, prior: Prior, table: Table, slip: str, many: int = 4, sittings: int = 1, on: Sequence[str] = DEPARTURES) -> Judged:  # fmt: skip
    """slip : one of SLIPS, "" for none; nobody slips but there."""
    m = maker(rng, table, [d for d in on if d != "slips"])
    logged = ties_of(m, many, sittings)
    bad = ""
    if slip == "duplicate":
        bad = "again"
        logged.append(logged[int(rng.integers(many))].model_copy(update={"id": bad}))
    elif slip:
        k = int(rng.integers(many))
        bad, logged[k] = logged[k].id, spoiled(logged[k], slip, rng)
    found = misfits(calibrate(None, logged, prior))
    mine = next((f for f in found if f.tie == bad), None) if bad else None
    repairs = [t for f in found for t in f.repairs]
    wrong = sum((r.left_mm or 0) >= (r.cut_mm or np.inf) for t in repairs for r in t.readings)
    return Judged(
        mine is not None, mine is not None and SLIPS[slip] in mine.cause, bool(found) and found[0].tie == bad,
        sum(f.tie != bad for f in found), wrong,
    )  # fmt: skip
