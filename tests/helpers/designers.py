"""Simulated designers, drawn from what the calibration assumes: their true rates, their ties, and what a further piece
really takes."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dim_ladder.calibrate import Prior, Reading, Tie
from dim_ladder.calibrate.expected import END_SPREAD, FIXED_MM, FIXED_SD
from dim_ladder.calibrate.grid import FAR, SELDOM, SITTING_SCALE, TAU_SCALE, TENSION_CORRELATION, UNIT_SCALE
from dim_ladder.calibrate.observe import GRAMS_SPREAD, READING_MM, SCALE_G
from dim_ladder.calibrate.prior import OVERHEAD_SPREAD
from dim_ladder.library import cord_kind

RECORDS = ("per end", "per cord", "mass only", "mixed")
Pairs = tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Designer:
    """One maker. tie(name, units, record) : a tie logged in that way, each in a sitting of its own or all in one. piece(units) :
    what one more takes, by end, and its length. until(mm) : the same, tied until it is so long."""

    tie: Callable[[str, int, str], Tie]
    piece: Callable[[int], tuple[dict[str, float], float]]
    until: Callable[[float], tuple[dict[str, float], float]]
    tau: float
    rates: dict[str, float]


def designer(
    rng: np.random.Generator, prior: Prior, section: str = "bar", *, one_sitting: bool = False
) -> Designer:
    """A maker drawn from the prior of a weave with one section and one kind of cord."""
    far = FAR if rng.random() < SELDOM else 1.0
    (spread,) = far * prior.spread
    half = spread / math.sqrt(2)
    (kind,) = set(prior.kind_of.values())
    mean, sd = prior.softness.kind(kind)
    soft = math.exp(mean + far * sd * rng.standard_normal() + half * rng.standard_normal())
    r = len(prior.roles)
    b = prior.unit[:, 0] * np.exp(half * rng.standard_normal(r)) * soft
    p = prior.pitch[0] * math.exp(half * rng.standard_normal()) * soft
    a = prior.overhead * np.exp(OVERHEAD_SPREAD * rng.standard_normal(r))
    each = {e: math.exp(END_SPREAD * rng.standard_normal()) for e in prior.role_of}
    fixed = FIXED_MM + FIXED_SD * rng.standard_normal()
    grams = cord_kind(kind).grams_per_metre / 1000 * math.exp(GRAMS_SPREAD * rng.standard_normal())
    tau = abs(TAU_SCALE * rng.standard_normal())
    sat = abs(SITTING_SCALE * rng.standard_normal())
    unit = abs(UNIT_SCALE * rng.standard_normal())

    def both(size: float) -> tuple[float, float]:
        t = rng.standard_normal()
        u = TENSION_CORRELATION * t + math.sqrt(1 - TENSION_CORRELATION**2) * rng.standard_normal()
        return size * t, size * u

    first = both(sat)

    def worked(n: float, day: tuple[float, float]) -> tuple[dict[str, float], float]:
        t, u = (x + y for x, y in zip(both(tau), day, strict=True))
        return used(n, t), float(
            p * n * math.exp(u) + fixed + unit * p * math.sqrt(n) * rng.standard_normal()
        )

    def used(n: float, t: float) -> dict[str, float]:
        out = {}
        for e, role in prior.role_of.items():
            i = prior.roles.index(role)
            rate = b[i] * each[e] * prior.own[list(prior.role_of).index(e), 0]
            out[e] = float(
                (a[i] + rate * n) * math.exp(t) + unit * rate * math.sqrt(n) * rng.standard_normal()
            )
        return out

    def piece(n: int) -> tuple[dict[str, float], float]:
        return worked(n, both(sat))

    def until(mm: float) -> tuple[dict[str, float], float]:
        t, u = (x + y for x, y in zip(both(tau), both(sat), strict=True))
        n = (mm - fixed) / (p * math.exp(u))
        n *= 1 + unit * rng.standard_normal() / math.sqrt(n)
        return used(n, t), mm

    def tie(name: str, n: int, record: str) -> Tie:
        cord, length = worked(n, first if one_sitting else both(sat))
        if record == "mixed":
            record = str(rng.choice(["per end", "per cord", "mass only", "total", "uncounted"]))
        pairs: Pairs = tuple((e,) for e in cord)
        if record in ("per cord", "mass only", "uncounted"):
            cords = dict.fromkeys(e.split(".")[0] for e in cord)
            pairs = tuple(tuple(e for e in cord if e.split(".")[0] == c) for c in cords)
        elif record == "total":
            pairs = (tuple(cord),)
        readings = []
        for ends in pairs:
            cut = 4000.0 * len(ends)
            left = cut - sum(cord[e] for e in ends)
            noise = READING_MM * math.sqrt(len(ends)) * rng.standard_normal()
            if record == "mass only":
                g = (left + noise) * grams + SCALE_G * rng.standard_normal()
                readings.append(Reading(ends=ends, cut_mm=cut, left_g=max(g, 0.0)))
            else:
                readings.append(Reading(ends=ends, cut_mm=cut, left_mm=min(max(left + noise, 0.0), cut - 1)))
        counts = {} if record == "uncounted" else {section: n}
        tied = max(1.0, length + 2.0 * rng.standard_normal())
        day = 1 if one_sitting else 1 + int("0" + "".join(c for c in name if c.isdigit()))
        return Tie(
            id=name, date=f"2026-01-{day:02d}", counts=counts, length_mm=tied, readings=tuple(readings)
        )

    rates = {
        role: float(b[i] * np.mean([each[e] for e, x in prior.role_of.items() if x == role]))
        for i, role in enumerate(prior.roles)
    }
    return Designer(tie, piece, until, tau, rates)
