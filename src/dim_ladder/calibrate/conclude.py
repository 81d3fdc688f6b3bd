"""From ties to a calibration: all fits that count, put together, and what speaks against relying on them."""

from __future__ import annotations

import math
from collections.abc import Sequence

from dim_ladder.calibrate.belief import Fitted
from dim_ladder.calibrate.common import common
from dim_ladder.calibrate.doubt import parts
from dim_ladder.calibrate.model import Calibration, Component
from dim_ladder.calibrate.prior import THICK_SPREAD, UNKNOWN, Prior, Softness, prior_for
from dim_ladder.calibrate.spread import Spread
from dim_ladder.calibrate.ties import Tie
from dim_ladder.notation import Weave

TORN = 0.5  # of the weight where ties differ by as much as the grid holds: then they contradict each other
DOUBT = 0.3  # of the answer, so much without a tie as to speak of it
THICK_READ = 0.05  # of a thickness that was measured


def calibrate(
    weave: Weave | None, ties: Sequence[Tie], prior: Prior | None = None, *, softness: Softness = UNKNOWN
) -> Calibration:  # fmt: skip
    """Fit. With no tie at all the answer is the prior, wide and usable. prior : instead of that of the weave. softness : what
    other weaves say of the cord."""
    if prior is None:
        if weave is None:
            raise ValueError("a fit needs a weave or a prior")
        prior = prior_for(weave, softness=softness)
    whole, found = parts(prior, ties)
    components = tuple(
        Component(
            w * float(b.weight[k]), math.hypot(float(b.grid.tau[k]), float(b.grid.sitting[k])), float(b.grid.unit[k]),
            b.mean[k], b.cov[k],
        )
        for w, f in found
        for b in [f.belief]
        for k in range(len(b.weight))
    )  # fmt: skip
    measured = [t.thickness_mm for t in ties if t.thickness_mm]
    widths = [t.width_mm for t in ties if t.width_mm]
    out: dict[str, float] = {}
    for w, f in found:
        for name in set(whole.data.ids) - set(f.data.ids):
            out[name] = out.get(name, 0.0) + w
    return Calibration(
        prior,
        whole,
        tuple(found),
        components,
        len(ties),
        sum(row.reading >= 0 for row in whole.data.rows),
        whole.data.left_out,
        tuple(name for name in whole.data.ids if out.get(name, 0.0) > DOUBT),
        thickness(prior, measured),
        sum(widths) / len(widths) if widths else prior.width_mm,
        common(max(found, key=lambda part: part[0])[1], whole.ties) if whole.data.ties else (),
        _refusal(found),
    )


def thickness(prior: Prior, measured: Sequence[float]) -> Spread:
    """Of the shape and of what was measured, each as sure as it is."""
    known = [(math.log(prior.thickness_mm), THICK_SPREAD)] if prior.thickness_mm > 0 else []
    read = [(math.log(mm), THICK_READ) for mm in measured]
    precision = sum(sd**-2 for _, sd in (*known, *read))
    if not precision:
        return Spread(((1.0, 0.0, 0.0),))
    mean = sum(x / sd**2 for x, sd in (*known, *read)) / precision
    return Spread(((1.0, math.exp(mean), precision**-0.5),))


def _refusal(found: Sequence[tuple[float, Fitted]]) -> str:
    """Why the fit should not be relied on; "" where it may be."""
    if sum(w * f.unsettled for w, f in found) > 0.01:
        return (
            "the ties do not fit any rates: no best answer was found. Look through them for a slip, or remove the one that "
            "does not belong"
        )
    if sum(w * f.torn for w, f in found if f.data.ties > 1) > TORN:
        return (
            "the ties contradict each other by more than tension explains. Look for a slip in units or readings, or for a "
            "tie that was made another way"
        )
    return ""
