"""What a calibration would say without one of its ties, from the same fit: the tie's part of the normal equations is
taken out again (as leave-one-out in linear models; Vehtari, Mononen, Tolvanen, Sivula & Winther 2016, JMLR 17:103)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.calibrate.belief import Belief
from dim_ladder.calibrate.fit import COUNT_LOG, own_of, predict, tension_cov
from dim_ladder.calibrate.model import Calibration, calibrate
from dim_ladder.calibrate.observe import Data, collect
from dim_ladder.calibrate.prior import Array
from dim_ladder.calibrate.ties import Tie

FAR = 1.0  # standard deviations that a parameter may move for the short way


@dataclass(frozen=True, slots=True)
class Predicted:
    """What a tie's rows were expected to be: data of the tie, mean (c, rows), cov (c, rows, rows), by grid point."""

    data: Data
    weight: Array
    mean: Array
    cov: Array

    def log_density(self) -> float:
        """Log of the density of what was read."""
        each = log_normal(self.data.value - self.mean, self.cov) + np.log(np.maximum(self.weight, 1e-300))
        top = float(each.max())
        return top + float(np.log(np.exp(each - top).sum()))


def without(calibration: Calibration, ties: Sequence[Tie], tie: str) -> Belief:
    """What the other ties say. ties : those of the calibration. tie : an id; one that is not in the fit leaves it as it is."""
    b, data = calibration.belief, calibration.data
    if tie not in data.ids:
        return b
    if data.ties == 1 or calibration.refusal:
        return _anew(calibration, ties, tie)
    k = data.ids.index(tie)
    rows = np.flatnonzero(data.tie == k)
    z = calibration.fit.tie[list(calibration.kept)]
    at = calibration.layout
    value, jac, own, variance = predict(at, data, b.mean, z, b.unit)
    value, jac, own, variance = value[:, rows], jac[:, rows], own[:, rows], variance[:, rows]
    residual = data.value[rows] - value
    # Its rows as they bear on the shared parameters, with its own unknowns integrated out.
    many = z.shape[2]
    centre = np.array([0.0, 0.0, COUNT_LOG])[:many]
    spread = own @ tension_cov(b.tau, many) @ np.swapaxes(own, 1, 2) + variance[..., None] * np.eye(len(rows))
    weight = np.linalg.inv(spread)
    off = (
        residual + (own @ (z[:, k] - centre)[..., None])[..., 0]
    )  # as seen from where its own unknowns are expected
    part = np.swapaxes(jac, 1, 2) @ weight @ jac
    pull = (np.swapaxes(jac, 1, 2) @ weight @ off[..., None])[..., 0]
    rest = np.linalg.inv(b.cov) - part
    cov = np.linalg.inv(rest)
    moved = (cov @ pull[..., None])[..., 0]
    away = np.abs(moved) / np.sqrt(np.maximum(np.einsum("cii->ci", cov), 1e-300))
    if not np.isfinite(away).all() or float(away.max()) > FAR:
        return _anew(calibration, ties, tie)  # too far for a straight line
    mean = b.mean - moved
    expected = off + (jac @ (b.mean - mean)[..., None])[..., 0]
    around = jac @ cov @ np.swapaxes(jac, 1, 2) + spread
    log = np.log(np.maximum(b.weight, 1e-300)) - log_normal(expected, around)
    weights = np.exp(log - log.max())
    share = np.asarray(weights / weights.sum(), np.float64)
    return Belief(share, b.tau, b.unit, np.asarray(mean, np.float64), np.asarray(cov, np.float64))


def _anew(calibration: Calibration, ties: Sequence[Tie], tie: str) -> Belief:
    others = [t for t in ties if t.id != tie]
    return calibrate(None, others, calibration.prior, known=calibration.data.kinds).belief


def predicted(calibration: Calibration, b: Belief, tie: Tie) -> Predicted | None:
    """What a belief expects of a tie; None where nothing in it can be used."""
    data = collect(calibration.prior, (tie,), calibration.data.kinds)
    if not len(data.value) or data.kinds != calibration.data.kinds:
        return None
    many = own_of(data)
    z = np.zeros((len(b.weight), 1, many))
    z[..., 2:] = COUNT_LOG
    value, jac, own, variance = predict(calibration.layout, data, b.mean, z, b.unit)
    cov = (
        jac @ b.cov @ np.swapaxes(jac, 1, 2)
        + own @ tension_cov(b.tau, many) @ np.swapaxes(own, 1, 2)
        + variance[..., None] * np.eye(len(data.value))
    )
    return Predicted(data, b.weight, value, cov)


def log_normal(residual: Array, cov: Array) -> Array:
    """Log density (c,) of residuals (c, rows) under covariances (c, rows, rows)."""
    solved = np.linalg.solve(cov, residual[..., None])[..., 0]
    n = residual.shape[-1]
    return np.asarray(
        -0.5 * (residual * solved).sum(-1) - 0.5 * np.linalg.slogdet(cov)[1] - 0.5 * n * np.log(2 * np.pi)
    )
