"""Trials over simulated designers: cord wasted, slips found, advice followed. The tests run few, the benchmark many."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dim_ladder.calibrate import Calibration, Prior, Tie, calibrate
from dim_ladder.calibrate.advice import UNITS, advice, spread
from dim_ladder.calibrate.misfit import misfit_of
from dim_ladder.scale.cuts import limits_for
from helpers.designers import Designer, designer

COUNTS = {"bar": 11}
SLIPS = ("exchanged", "inches", "other end", "miscounted")


BUOY = ("buoy.a", "buoy.b")
RISK = 0.02


SURE = (
    0.12  # of chance from either end, between which a rough answer will do, and of running short, above which
)
Judged = tuple[bool, bool, bool, float, float]


def covered(rng: np.random.Generator, prior: Prior, ties: int, record: str) -> Judged:
    """As `judged`, for a designer with so many ties."""
    who = designer(rng, prior)
    logged = [who.tie(f"T{i}", int(rng.integers(4, 13)), record) for i in range(ties)]
    return judged(calibrate(None, logged, prior), [who.piece(COUNTS["bar"])])


def judged(c: Calibration, pieces: Sequence[tuple[dict[str, float], float]]) -> Judged:
    """Whether 90 % intervals hold for an end, a cord and the length of the first of some pieces; and in how many of them, 0 to
    1, an end ran short that is cut for a risk of 1 in 50, and any end of a cord that is cut and folded for it."""
    (used, length), *_ = pieces
    within = [_inside(c, (BUOY[0],), used[BUOY[0]]), _inside(c, BUOY, sum(used[e] for e in BUOY))]
    held = 0.05 <= c.length(COUNTS).chance_below(length) <= 0.95
    return within[0], within[1], held, *ran_short(c, [u for u, _ in pieces])


def _inside(c: Calibration, ends: tuple[str, ...], used: float) -> bool:
    # The rough answer is off by a few in a hundred at most: what it puts well inside need not be worked out.
    if SURE < c.roughly(ends, COUNTS).chance_below(used) < 1 - SURE:
        return True
    return 0.05 <= c.together(ends, COUNTS).chance_below(used) <= 0.95


def ran_short(c: Calibration, pieces: Sequence[dict[str, float]]) -> tuple[float, float]:
    """See `judged`."""
    rough = {e: c.roughly((e,), COUNTS).quantile(1 - SURE) for e in BUOY}
    if not any(used[e] > rough[e] for used in pieces for e in BUOY):
        return 0.0, 0.0
    c.foresee([(e,) for e in BUOY], COUNTS)
    alone = c.need(BUOY[0], COUNTS).quantile(1 - RISK)
    limits = limits_for(c, BUOY, COUNTS, RISK)
    end = [used[BUOY[0]] > alone for used in pieces]
    cord = [any(used[e] > limits[e] for e in BUOY) for used in pieces]
    return float(np.mean(end)), float(np.mean(cord))


def cuts(rng: np.random.Generator, prior: Prior, ties: int) -> tuple[float, float, float, float]:
    """What a leader's end really takes in one more piece, and what is cut for it before any margin: by the calibration at
    1 in 50, by a rule (so many times its length, from the shape's mean), and by a line of least squares through the ties."""
    who = designer(rng, prior)
    logged = [who.tie(f"T{i}", int(rng.integers(4, 13)), "per end") for i in range(ties)]
    used, length = who.piece(COUNTS["bar"])
    ours = calibrate(None, logged, prior).need("buoy.b", COUNTS).quantile(0.98)
    r = prior.roles.index(prior.role_of["buoy.b"])
    rule = length * float(prior.unit[r, 0] / prior.pitch[0])
    x = np.array([[1.0, t.counts["bar"]] for t in logged])
    y = np.array([next(r.used_mm for r in t.readings if r.ends == ("buoy.b",)) for t in logged])
    line, *_ = np.linalg.lstsq(x, y, rcond=None)
    return used["buoy.b"], ours, rule, float(line @ [1.0, COUNTS["bar"]])


def waste_ratios(found: np.ndarray) -> tuple[float, float]:
    """found : rows of `cuts`. Cord wasted by the rule and by least squares, each with the margin at which it runs short as
    often as the calibration does, against what the calibration wastes."""
    used, ours, rule, line = found.T
    short = float((used > ours).mean())
    own = float((ours - used).mean())

    def wasted(cut: np.ndarray) -> float:
        margin = float(np.quantile(used / np.maximum(cut, 1.0), 1 - short))
        return float((cut * margin - used).mean())

    return wasted(rule) / own, wasted(line) / own


def slipped(tie: Tie, slip: str, rng: np.random.Generator) -> Tie:
    """A tie as it is logged by somebody who slips. slip : one of SLIPS."""
    rs = list(tie.readings)
    worker = next(k for k, r in enumerate(rs) if r.ends[0].startswith("buoy"))
    filler = next(k for k, r in enumerate(rs) if r.ends[0].startswith("tide"))
    a, b = rs[worker], rs[filler]
    if slip == "exchanged":
        rs[worker] = a.model_copy(update={"left_mm": b.left_mm})
        rs[filler] = b.model_copy(update={"left_mm": a.left_mm})
    elif slip == "inches":
        rs[worker] = a.model_copy(update={"left_mm": (a.left_mm or 0.0) / 2.54})
    elif slip == "other end":
        rs[worker] = a.model_copy(update={"left_mm": b.left_mm})
    elif slip == "miscounted":
        off = int(rng.choice([-2, 2]))
        return tie.model_copy(update={"counts": {"bar": max(1, tie.counts["bar"] + off)}})
    return tie.model_copy(update={"readings": tuple(rs)})


RIGHT = {
    "exchanged": "exchanged",
    "inches": "inches",
    "other end": "was written for",
    "miscounted": "miscounted",
}


def detected(rng: np.random.Generator, prior: Prior, slip: str, ties: int = 4) -> tuple[bool, bool]:
    """Whether a tie with a slip among others is found not to fit, and whether its cause is named. slip "" : none."""
    who = designer(rng, prior)
    logged = [short_cut(who.tie(f"T{i}", int(rng.integers(4, 13)), "per end")) for i in range(ties)]
    if slip:
        logged[-1] = slipped(logged[-1], slip, rng)
    c = calibrate(None, logged, prior)
    found = misfit_of(c, logged[-1])
    return found is not None, found is not None and RIGHT.get(slip, "?") in found.cause


def short_cut(tie: Tie) -> Tie:
    """Cut as makers cut: a fifth more than it takes, not four metres."""
    out = []
    for r in tie.readings:
        used = r.used_mm or 0.0
        cut = round(used * 1.2 + 60, -1)
        out.append(r.model_copy(update={"cut_mm": cut, "left_mm": max(cut - used, 0.0)}))
    return tie.model_copy(update={"readings": tuple(out)})


def followed(rng: np.random.Generator, prior: Prior, metres: float = 3.0) -> tuple[float, float]:
    """Spread (sd, mm) of the planned piece after one tie and then so many metres of ties: as advised, and at random."""
    who = designer(rng, prior)
    first = who.tie("T0", 6, "per end")
    return _spent(who, first, prior, metres, rng, advised=True), _spent(
        who, first, prior, metres, rng, advised=False
    )


def _spent(who: Designer, first: Tie, prior: Prior, metres: float, rng: np.random.Generator, *, advised: bool) -> float:  # fmt: skip
    logged, left = [first], metres * 1000
    for k in range(12):
        c = calibrate(None, logged, prior)
        units, apart = int(rng.choice(UNITS)), bool(rng.integers(2))
        if advised:
            best = advice(c, COUNTS)
            if not best:
                break
            units, apart = best[0].units, best[0].apart
        cost = sum(c.need(e, {"bar": units}).median + 60 for e in prior.role_of)
        if cost > left:
            break
        left -= cost
        logged.append(who.tie(f"A{k}", units, "per end" if apart else "per cord"))
    c = calibrate(None, logged, prior)
    return spread(c, c.belief, COUNTS)
