"""Simulated designers, drawn from what the calibration assumes: their true rates, their ties, and what a further piece
really takes."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dim_ladder.calibrate import Prior, Reading, Tie
from dim_ladder.calibrate.fit import FIXED_MM, FIXED_SD, TAU_SCALE, TENSION_CORRELATION, UNIT_SCALE
from dim_ladder.calibrate.observe import GRAMS_SPREAD, READING_MM, SCALE_G
from dim_ladder.calibrate.prior import OVERHEAD_SPREAD
from dim_ladder.library import cord_kind

RECORDS = ("per end", "per cord", "mass only", "mixed")
Pairs = tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Designer:
    """One maker. tie(name, units, record) : a tie logged in that way. piece(units) : what one more takes, by end, its length."""

    tie: Callable[[str, int, str], Tie]
    piece: Callable[[int], tuple[dict[str, float], float]]
    tau: float
    rates: dict[str, float]


def designer(rng: np.random.Generator, prior: Prior, section: str = "bar") -> Designer:
    """A maker drawn from the prior of a weave with one section and one kind of cord."""
    (spread,) = prior.spread
    half = spread / math.sqrt(2)
    (kind,) = set(prior.kind_of.values())
    mean, sd = prior.softness.kind(kind)
    soft = math.exp(mean + sd * rng.standard_normal())
    r = len(prior.roles)
    b = prior.unit[:, 0] * np.exp(half * rng.standard_normal() + half * rng.standard_normal(r)) * soft
    p = prior.pitch[0] * math.exp(half * rng.standard_normal() + half * rng.standard_normal()) * soft
    a = prior.overhead * np.exp(OVERHEAD_SPREAD * rng.standard_normal(r))
    fixed = FIXED_MM + FIXED_SD * rng.standard_normal()
    grams = cord_kind(kind).grams_per_metre / 1000 * math.exp(GRAMS_SPREAD * rng.standard_normal())
    tau = abs(TAU_SCALE * rng.standard_normal())
    unit = abs(UNIT_SCALE * rng.standard_normal())

    def piece(n: int) -> tuple[dict[str, float], float]:
        t = tau * rng.standard_normal()
        u = TENSION_CORRELATION * t + math.sqrt(1 - TENSION_CORRELATION**2) * tau * rng.standard_normal()
        used = {}
        for e, role in prior.role_of.items():
            i = prior.roles.index(role)
            used[e] = float(
                (a[i] + b[i] * n) * math.exp(t) + unit * b[i] * math.sqrt(n) * rng.standard_normal()
            )
        length = p * n * math.exp(u) + fixed + unit * p * math.sqrt(n) * rng.standard_normal()
        return used, float(length)

    def tie(name: str, n: int, record: str) -> Tie:
        used, length = piece(n)
        if record == "mixed":
            record = str(rng.choice(["per end", "per cord", "mass only", "total", "uncounted"]))
        pairs: Pairs = tuple((e,) for e in used)
        if record in ("per cord", "mass only", "uncounted"):
            cords = dict.fromkeys(e.split(".")[0] for e in used)
            pairs = tuple(tuple(e for e in used if e.split(".")[0] == c) for c in cords)
        elif record == "total":
            pairs = (tuple(used),)
        readings = []
        for ends in pairs:
            cut = 4000.0 * len(ends)
            left = cut - sum(used[e] for e in ends)
            noise = READING_MM * math.sqrt(len(ends)) * rng.standard_normal()
            if record == "mass only":
                g = (left + noise) * grams + SCALE_G * rng.standard_normal()
                readings.append(Reading(ends=ends, cut_mm=cut, left_g=max(g, 0.0)))
            else:
                readings.append(Reading(ends=ends, cut_mm=cut, left_mm=min(max(left + noise, 0.0), cut - 1)))
        counts = {} if record == "uncounted" else {section: n}
        tied = max(1.0, length + 2.0 * rng.standard_normal())
        return Tie(id=name, counts=counts, length_mm=tied, readings=tuple(readings))

    return Designer(tie, piece, tau, {role: float(b[i]) for i, role in enumerate(prior.roles)})
