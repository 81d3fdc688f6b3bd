"""What the ties teach, worked out for a screen: one frozen answer from one calibration."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dim_ladder.base import InputError
from dim_ladder.calibrate import Calibration, Tie
from dim_ladder.calibrate.advice import Candidate, advice, enough
from dim_ladder.calibrate.charts import Chart, fit_chart, risk_chart, time_chart, use_chart
from dim_ladder.calibrate.drift import Drift, drifts
from dim_ladder.calibrate.misfit import Misfit, misfit_of, misfits
from dim_ladder.calibrate.rule import Rule, rule
from dim_ladder.calibrate.timing import Timing, timing
from dim_ladder.notation import Weave
from dim_ladder.picture.display import Ink
from dim_ladder.scale import Plan, units_for
from dim_ladder.scale.cuts import tails

VIEWS = {"use": "Cord", "fit": "Fit", "risk": "Risk", "time": "Over time"}
TEST_UNITS = 10


@dataclass(frozen=True, slots=True)
class Lesson:
    """misfits : ties that do not fit, the one being typed first. next_ties : what would teach most; enough : why
    nothing would any more. chart : the one asked
    for."""

    calibration: Calibration
    misfits: tuple[Misfit, ...]
    next_ties: tuple[Candidate, ...]
    enough: str
    drifts: tuple[Drift, ...]
    rules: tuple[Rule, ...]
    timing: Timing
    chart: Chart


def planned(weave: Weave, calibration: Calibration, plan: Plan) -> dict[str, float]:
    """Units of the planned piece; ten of what grows where no size can be met."""
    try:
        return {k: float(v) for k, v in units_for(weave, calibration, plan).items()}
    except InputError:
        prior = calibration.prior
        return {s: float(prior.fixed.get(s, TEST_UNITS)) for s in prior.sections}


def lesson(
    weave: Weave, calibration: Calibration, ties: tuple[Tie, ...], plan: Plan, view: str, ink: Ink, typed: Tie | None = None
) -> Lesson:  # fmt: skip
    """ties : those of the calibration. typed : the one among them that is not logged yet."""
    counts = planned(weave, calibration, plan)
    odd: tuple[Misfit, ...]
    if typed is None:
        odd = misfits(calibration)
    else:
        own = misfit_of(calibration, typed)
        odd = () if own is None else (own,)
    prior = calibration.prior
    return Lesson(
        calibration,
        odd,
        advice(calibration, counts),
        enough(calibration, counts),
        drifts(calibration, tuple(t for t in ties if t.id not in {m.tie for m in odd})),
        tuple(rule(calibration, s) for s in prior.sections if s in prior.fits),
        timing(prior, ties),
        chart_of(weave, calibration, ties, counts, plan, view, ink),
    )


def chart_of(
    weave: Weave, calibration: Calibration, ties: tuple[Tie, ...], counts: Mapping[str, float], plan: Plan, view: str, ink: Ink
) -> Chart:  # fmt: skip
    """One of VIEWS."""
    if view == "fit":
        return fit_chart(calibration, ties, ink)
    if view == "risk":
        return risk_chart(calibration, counts, tails(weave, plan).need, plan.risk, ink)
    if view == "time":
        return time_chart(calibration, ties, ink)
    prior = calibration.prior
    section = next((s for s in prior.fits if s in prior.sections), prior.sections[0])
    return use_chart(calibration, ties, section, ink)
