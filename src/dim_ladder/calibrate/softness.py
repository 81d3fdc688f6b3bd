"""What calibrations of several weaves say together of the softness of each kind of cord."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from dim_ladder.calibrate.model import Calibration
from dim_ladder.calibrate.prior import UNKNOWN, Softness, soft_spread

LITTLE = 0.1  # of what was known before any tie, below which nothing was learned
Known = Mapping[str, tuple[float, float]]


def learned(calibration: Calibration) -> dict[str, tuple[float, float]]:
    """Mean and sd of the softness of the kinds that a weave's own ties speak of: what it knew from others taken out."""
    if not calibration.data.ties:
        return {}
    used = calibration.data.share.sum(axis=(0, 1))
    out = {}
    for k, kind in enumerate(calibration.data.kinds):
        mean, sd = calibration.softness(kind)
        before, wide = calibration.prior.softness.kind(kind)
        gained = 1 / sd**2 - 1 / wide**2
        if used[k] > 0 and gained * soft_spread(kind) ** 2 > LITTLE:
            precision = soft_spread(kind) ** -2 + gained
            out[kind] = ((mean / sd**2 - before / wide**2) / precision, precision**-0.5)
    return out


def together(weaves: Iterable[Known]) -> Softness:
    """Several weaves' answers multiplied, the prior that each began from counted once (as Gaussians)."""
    precision: dict[str, float] = {}
    pull: dict[str, float] = {}
    for weave in weaves:
        for kind, (mean, sd) in weave.items():
            first = soft_spread(kind) ** -2
            gained = 1 / sd**2 - first
            if gained > 0:
                precision[kind] = precision.get(kind, first) + gained
                pull[kind] = pull.get(kind, 0.0) + mean / sd**2
    if not precision:
        return UNKNOWN
    return Softness({k: (pull[k] / p, p**-0.5) for k, p in precision.items()})
