"""Makers of a world that the calibration knows nothing of: how they tie, measure, write down, and what a further piece takes.

Nothing here is drawn from the model, and no spread is taken from it. Each departure can be switched on by itself (DEPARTURES).
Figures are what makers show: softness common to cord and length, ties of one sitting that drift, one hand that pulls harder for
good, tails that are heavier than a bell, tapes read to half a centimetre, stubs that are kept, starts and finishes that take half to three
times what a table says, slips.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from dim_ladder.calibrate import Reading, Tie

CHAIN = """weave "Sluice Chain"

cords
  sluice  polyester-1mm  #3f7a4a
  brine   polyester-1mm  #c22f2b

hang
  sluice.a sluice.b brine.a brine.b

section chain: body, fit
  2: over 3, under 4
  3: under 2, over 1
  1: over 2
  4: under 3
"""
DEPARTURES = (
    "soft",
    "sittings",
    "drift",
    "ends",
    "tails",
    "rounding",
    "stubs",
    "overheads",
    "persons",
    "lots",
    "slips",
)
SHORT_DAYS = ("2026-03-02", "2026-03-09", "2026-03-21", "2026-04-04", "2026-04-18", "2026-05-01", "2026-05-13", "2026-06-02", "2026-06-20", "2026-07-07")  # fmt: skip


@dataclass(frozen=True)
class Table:
    """What is said of a weave before anybody tied it: mm of every end in a unit, and of a unit. section : the one that grows.
    start : mm of every end that start and finish take."""

    ends: dict[str, float]
    pitch: float
    section: str
    start: float = 32.0


@dataclass
class Maker:
    """One maker. soft : cord and length of a unit against the table. skew : every end's cord against its share. start : mm of
    every end for start, finish and stubs. fixed : mm of tied length that are no units. spread : from tie to tie."""

    table: Table
    rng: np.random.Generator
    on: frozenset[str]
    soft: float = 1.0
    rate: float = 1.0
    skew: dict[str, float] = field(default_factory=dict)
    start: dict[str, float] = field(default_factory=dict)
    fixed: float = 4.0
    spread: float = 0.02
    unit: float = 0.03
    step: float = 1.0

    def day(self) -> tuple[float, float]:
        """How a sitting draws up: cord, and with it length; as logarithms. With it what a lot of cord gives way."""
        lot = 0.012 * self.rng.standard_normal() if "lots" in self.on else 0.0
        if "sittings" not in self.on:
            return lot, lot
        cord = 0.02 * self.rng.standard_normal()
        return cord + lot, 0.5 * cord + 0.017 * self.rng.standard_normal() + lot

    def other(self) -> tuple[float, float]:
        """How somebody else draws up, against the maker."""
        return 0.05 * self.rng.standard_normal(), 0.05 * self.rng.standard_normal()

    def draw(self) -> tuple[float, float]:
        """The tension of one tie on cord and length."""
        a, b = (self._bell() for _ in range(2))
        return self.spread * a, self.spread * (0.5 * a + 0.8 * b)

    def _bell(self) -> float:
        if "tails" in self.on:
            return float(self.rng.standard_t(4)) / math.sqrt(2.0)
        return float(self.rng.standard_normal())

    def worked(
        self, units: float, day: tuple[float, float], drift: float = 0.0
    ) -> tuple[dict[str, float], float]:
        """Cord of every end and length of a piece of so many units."""
        t, u = self.draw()
        t, u = t + day[0] + drift, u + day[1] + drift / 2
        return self._used(units, t), self._long(units, u)

    def until(self, mm: float, day: tuple[float, float]) -> dict[str, float]:
        """Cord of every end of a piece that is tied until it is so long."""
        t, u = self.draw()
        t, u = t + day[0], u + day[1]
        return self._used((mm - self.fixed) / (self.table.pitch * self.soft * math.exp(u)), t)

    def _used(self, units: float, t: float) -> dict[str, float]:
        wobble = self.unit * math.sqrt(max(units, 0.0))
        return {
            e: self.start[e] + mm * self.soft * self.rate * self.skew[e] * (units * math.exp(t) + wobble * self._bell())
            for e, mm in self.table.ends.items()
        }  # fmt: skip

    def _long(self, units: float, u: float) -> float:
        wobble = self.unit * math.sqrt(units) * self._bell()
        return self.fixed + self.table.pitch * self.soft * (units * math.exp(u) + wobble)

    def tie(
        self,
        name: str,
        units: int,
        day: tuple[float, float],
        date: str,
        drift: float = 0.0,
        together: bool = False,
    ) -> Tie:
        """A tie as it is written down. together : the ends of a cord are measured as one."""
        used, length = self.worked(units, day, drift)
        groups: list[tuple[str, ...]] = [(e,) for e in used]
        if together:
            cords = dict.fromkeys(e.split(".")[0] for e in used)
            groups = [tuple(e for e in used if e.split(".")[0] == c) for c in cords]
        readings = []
        for ends in groups:
            took = sum(used[e] for e in ends)
            cut = math.ceil((took * 1.15 + 80 * len(ends)) / 50) * 50.0
            readings.append(Reading(ends=ends, cut_mm=cut, left_mm=max(self.read(cut - took), 0.0)))
        return Tie(
            id=name, date=date, counts={self.table.section: units}, length_mm=max(self.read(length), 1.0), readings=tuple(readings)
        )  # fmt: skip

    def read(self, mm: float) -> float:
        """Off a tape."""
        mm += 1.5 * self.rng.standard_normal()
        return round(mm / self.step) * self.step


def maker(
    rng: np.random.Generator,
    table: Table,
    on: Sequence[str] = DEPARTURES,
    soft: tuple[float, float] = (0.8, 1.2),
) -> Maker:
    """soft : between which the size of a unit lies against the table, where that departs."""
    m = Maker(table, rng, frozenset(on))
    ends = list(table.ends)
    m.soft = float(rng.uniform(*soft)) if "soft" in on else 1.0
    m.rate = math.exp(
        0.05 * rng.standard_normal()
    )  # cord for a length of band, of which shapes are right within 2 to 6 %
    m.skew = {e: math.exp(0.03 * rng.standard_normal()) if "ends" in on else 1.0 for e in ends}
    times = float(np.exp(rng.uniform(math.log(0.5), math.log(3.0)))) if "overheads" in on else 1.0
    stub = 30.0 if "stubs" in on and rng.random() < 0.3 else 0.0
    m.start = {e: table.start * times * float(rng.uniform(0.9, 1.1)) + stub for e in ends}
    m.fixed = float(rng.uniform(0.0, 10.0))
    m.spread = float(np.clip(0.025 * math.exp(0.5 * rng.standard_normal()), 0.008, 0.07))
    m.step = float(rng.choice([5.0, 6.35, 1.0])) if "rounding" in on else 1.0
    return m


def ties_of(m: Maker, many: int, sittings: int = 1) -> list[Tie]:
    """So many test ties of 4 to 12 cm, in so many sittings, through each of which the maker drifts."""
    out: list[Tie] = []
    wren = m.other()
    for s in range(min(sittings, many)):
        mine = range(s, many, sittings)
        day, date = m.day(), SHORT_DAYS[s % len(SHORT_DAYS)]
        trend = 0.03 * m.rng.choice([-1.0, 1.0]) if "drift" in m.on else 0.0
        for k, i in enumerate(mine):
            drift = trend * (k / max(len(mine) - 1, 1) - 0.5)
            units = max(2, round(float(m.rng.uniform(40.0, 120.0)) / m.table.pitch))
            # Of every four ties one is somebody else's, where there are as many; never the last.
            helped = "persons" in m.on and i % 4 == 1 and i < many - 1
            pull = (day[0] + wren[0], day[1] + wren[1]) if helped else day
            tie = m.tie(f"T{i}", units, pull, date, drift)
            tie = tie.model_copy(update={"who": "Wren" if helped else "Plover", "lot": f"L{s}"})
            if "slips" in m.on and m.rng.random() < 0.02:
                tie = spoiled(tie, str(m.rng.choice(["exchanged", "inch", "tie inches"])), m.rng)
            out.append(tie)
    return out


def spoiled(tie: Tie, slip: str, rng: np.random.Generator) -> Tie:
    """A tie as somebody writes it down who slips. slip : "exchanged", "inch", "tie inches", "all leftovers inches", "duplicate"
    is made by the caller."""
    rs = list(tie.readings)
    if slip == "exchanged":
        order = sorted(range(len(rs)), key=lambda k: rs[k].left_mm or 0.0)
        a, b = order[0], order[-1]
        rs[a], rs[b] = (
            rs[a].model_copy(update={"left_mm": rs[b].left_mm}),
            rs[b].model_copy(update={"left_mm": rs[a].left_mm}),
        )
        return tie.model_copy(update={"readings": tuple(rs)})
    if slip == "inch":
        k = int(rng.integers(len(rs)))
        rs[k] = rs[k].model_copy(update={"left_mm": round((rs[k].left_mm or 0.0) / 2.54, 1)})
        return tie.model_copy(update={"readings": tuple(rs)})
    if slip == "all leftovers inches":
        rs = [r.model_copy(update={"left_mm": round((r.left_mm or 0.0) / 2.54, 1)}) for r in rs]
        return tie.model_copy(update={"readings": tuple(rs)})
    if slip == "tie inches":
        rs = [
            r.model_copy(
                update={
                    "cut_mm": round((r.cut_mm or 0.0) / 2.54, 1),
                    "left_mm": round((r.left_mm or 0.0) / 2.54, 1),
                }
            )
            for r in rs
        ]
        return tie.model_copy(
            update={"readings": tuple(rs), "length_mm": round((tie.length_mm or 0.0) / 2.54, 1)}
        )
    raise ValueError(slip)
