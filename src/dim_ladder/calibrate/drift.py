"""Whether ties differ by when, how tightly, by whom and from which lot they were made."""

from __future__ import annotations

import datetime
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.calibrate.model import Calibration
from dim_ladder.calibrate.ties import Tie

SURE = 2.0  # standard errors from which a difference is spoken of


@dataclass(frozen=True, slots=True)
class Effect:
    """How much more cord than the others a tie took, as a logarithm, and how surely. day : since the first."""

    tie: str
    cord: float
    sd: float
    day: float | None


@dataclass(frozen=True, slots=True)
class Drift:
    """by : date, tension, maker or lot. part : the difference as a part of the whole. sure : whether it is more than
    chance."""

    by: str
    words: str
    part: float
    sure: bool


def effects(calibration: Calibration, ties: Sequence[Tie]) -> tuple[Effect, ...]:
    """Each tie's own tension on cord, from the fit, taken back from how far it was pulled to none."""
    # Of the ties that the answer is mostly made of: what is in doubt would be all that is seen.
    f = max(calibration.parts, key=lambda p: p[0])[1]
    data = f.data
    if not data.ties:
        return ()
    weights = f.belief.weight
    mean = np.einsum("g,gt->t", weights, f.fit.tie[f.kept][..., 0])
    mean += data.person @ (weights @ f.belief.mean[:, f.layout.who :: 2])
    grid = f.belief.grid
    tau = float(np.sqrt(weights @ (grid.tau**2 + grid.sitting**2)))
    by_id = {t.id: t for t in ties}
    days = {i: _day(by_id[i].date) for i in data.ids if i in by_id}
    known = [d for d in days.values() if d is not None]
    first = min(known) if known else 0.0
    return tuple(
        Effect(i, float(m), tau, None if (d := days.get(i)) is None else d - first)
        for i, m in zip(data.ids, mean, strict=True)
        if i in by_id
    )


def drifts(calibration: Calibration, ties: Sequence[Tie]) -> tuple[Drift, ...]:
    """What differs, in words: along the dates, and between two or more ties each of a tension, a maker or a lot."""
    found = effects(calibration, ties)
    by_id = {t.id: t for t in ties}
    out: list[Drift] = []
    dated = [(e.day, e.cord) for e in found if e.day is not None]
    if len(dated) >= 4 and len({d for d, _ in dated}) >= 3:
        x, y = np.array(dated).T
        slope, error = _slope(x, y)
        span = float(np.ptp(x))
        part = math.expm1(slope * span)
        sure = abs(slope) > SURE * error
        words = f"over {span:.0f} days the work took {abs(part):.1%} {'more' if part > 0 else 'less'} cord"
        out.append(Drift("date", words if sure else f"no drift over {span:.0f} days", part, sure))
    for by, label in (("tension", "tension"), ("who", "maker"), ("lot", "lot")):
        groups: dict[str, list[float]] = {}
        for e in found:
            value = str(getattr(by_id[e.tie], by)) if e.tie in by_id else ""
            if value:
                groups.setdefault(value, []).append(e.cord)
        named = sorted((float(np.mean(v)), k, v) for k, v in groups.items() if len(v) >= 2)
        if len(named) < 2:
            continue
        (low, a, va), (high, b, vb) = named[0], named[-1]
        error = math.sqrt(_error(va) ** 2 + _error(vb) ** 2)
        part, sure = math.expm1(high - low), high - low > SURE * error
        words = (
            f"{b} takes {part:.1%} more cord than {a}" if sure else f"no difference by {label} beyond chance"
        )
        out.append(Drift(label, words, part, sure))
    return tuple(out)


def _error(values: list[float]) -> float:
    """Standard error of a mean; of two or three it is not trusted to be smaller than one part in two hundred."""
    return max(float(np.std(values, ddof=1)) / math.sqrt(len(values)), 0.005)


def _slope(x: np.ndarray, y: np.ndarray) -> tuple[float, float]:
    """Least squares, and the standard error of the slope."""
    cx = x - x.mean()
    square = float(cx @ cx)
    slope = float(cx @ y) / square
    rest = y - y.mean() - slope * cx
    return slope, max(math.sqrt(float(rest @ rest) / (len(x) - 2) / square), 0.005 / math.sqrt(square))


def _day(date: str) -> float | None:
    try:
        return float(datetime.date.fromisoformat(date[:10]).toordinal())
    except ValueError:
        return None
