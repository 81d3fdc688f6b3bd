"""What a fit would say without one of its ties: the tie's part of the normal equations is taken out again (as leave-one-out in
linear models; Vehtari, Mononen, Tolvanen, Sivula & Winther 2016, JMLR 17:103).

What the tie's sitting has in common goes along as two more parameters (cord, length): other ties of the sitting speak of it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dim_ladder.calibrate.belief import Belief, Fitted, fitted
from dim_ladder.calibrate.expected import COUNT_LOG, COUNT_SD, own_of, predict
from dim_ladder.calibrate.grid import correlated, tension_cov
from dim_ladder.calibrate.observe import Data, collect
from dim_ladder.calibrate.prior import Array
from dim_ladder.calibrate.sittings import sitting
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
        return mixed(self.weight, log_normal(self.data.value - self.mean, self.cov))

    def chance(self) -> float:
        """How many ties would lie further off than this one: of the squared distance, over the grid."""
        from scipy.special import chdtrc  # of chi squared; slow to load

        off = self.data.value - self.mean
        far = (off * np.linalg.solve(self.cov, off[..., None])[..., 0]).sum(1)
        return float(self.weight @ chdtrc(off.shape[1], far))

    def but(self, rows: tuple[int, ...]) -> float:
        """Log density of all but some rows."""
        kept = [k for k in range(len(self.data.value)) if k not in rows]
        if not kept:
            return 0.0
        each = log_normal((self.data.value - self.mean)[:, kept], self.cov[:, kept][:, :, kept])
        return mixed(self.weight, each)


def with_sitting(f: Fitted, tie: Tie) -> Belief:
    """What is believed of the shared parameters and of the tie's sitting, in two more columns."""
    b, key = f.belief, sitting(tie)
    c, n = b.mean.shape
    mean, cov = np.zeros((c, n + 2)), np.zeros((c, n + 2, n + 2))
    mean[:, :n], cov[:, :n, :n] = b.mean, b.cov
    if key in f.data.sittings:
        s = f.data.sittings.index(key)
        cross = f.fit.sat_cross[f.kept, s]
        mean[:, n:], cov[:, n:, n:] = f.fit.sat[f.kept, s], f.fit.sat_cov[f.kept, s]
        cov[:, :n, n:], cov[:, n:, :n] = cross, np.swapaxes(cross, 1, 2)
    else:
        cov[:, n:, n:] = correlated(b.grid.sitting)
    return Belief(b.weight, b.grid, mean, cov)


def without(f: Fitted, tie: Tie) -> Belief:
    """What the other ties say, of the tie's sitting too; one that is not in the fit leaves it as it is."""
    if tie.id not in f.data.ids:
        return with_sitting(f, tie)
    if f.data.ties == 1 or f.unsettled > 0.01:
        return _anew(f, tie)
    b = with_sitting(f, tie)
    off, jac, spread = _row_by_row(f, f.data.ids.index(tie.id), b)
    weight = np.linalg.inv(spread)
    pull = (np.swapaxes(jac, 1, 2) @ weight @ off[..., None])[..., 0]
    cov = np.linalg.inv(np.linalg.inv(b.cov) - np.swapaxes(jac, 1, 2) @ weight @ jac)
    moved = (cov @ pull[..., None])[..., 0]
    away = np.abs(moved) / np.sqrt(np.maximum(np.einsum("cii->ci", cov), 1e-300))
    if not np.isfinite(away).all() or float(away.max()) > FAR:
        return _anew(f, tie)  # too far for a straight line
    expected = off + (jac @ moved[..., None])[..., 0]
    log = np.log(b.weight) - log_normal(expected, jac @ cov @ np.swapaxes(jac, 1, 2) + spread)
    weights = np.exp(log - log.max())
    return Belief(
        np.asarray(weights / weights.sum()), b.grid, np.asarray(b.mean - moved), np.asarray(cov, np.float64)
    )


def _row_by_row(f: Fitted, k: int, b: Belief) -> tuple[Array, Array, Array]:
    """Of a tie's rows: how far off they are (c, rows) where its own tension is its sitting's, how that moves with the shared
    parameters and the sitting (c, rows, n + 2), and how they vary by themselves (c, rows, rows)."""
    rows = np.flatnonzero(f.data.tie == k)
    value, jac, own, variance = (x[:, rows] for x in f.bearing)
    many = own.shape[2]
    z = f.fit.tie[f.kept][:, k].copy()
    z[:, :2] -= b.mean[:, -2:]
    z[:, 2:] -= COUNT_LOG
    spread = own @ tension_cov(b.grid.tau, many, COUNT_SD) @ np.swapaxes(own, 1, 2) + variance[
        ..., None
    ] * np.eye(len(rows))
    off = f.data.value[rows] - value + (own @ z[..., None])[..., 0]
    return off, np.concatenate([jac, own[..., :2]], axis=2), spread


def _anew(f: Fitted, tie: Tie) -> Belief:
    return with_sitting(fitted(f.prior, [t for t in f.ties if t.id != tie.id], f.known), tie)


def chances(f: Fitted) -> Array:
    """(ties,) about how many ties would lie further off than each, if the others alone were known: as `without` says it, all in
    a straight line, to see which are worth a closer look."""
    from scipy.special import chdtrc  # of chi squared; slow to load

    by_id = {t.id: t for t in f.ties}
    out = np.ones(f.data.ties)
    for k, name in enumerate(f.data.ids):
        b = with_sitting(f, by_id[name])
        off, jac, spread = _row_by_row(f, k, b)
        explained = jac @ b.cov @ np.swapaxes(jac, 1, 2)
        apart = np.linalg.solve(
            spread - explained, off[..., None]
        )  # of a row against those that are not in it
        expected = (spread @ apart)[..., 0]
        cov = spread @ np.linalg.solve(spread - explained, spread)
        far = (expected * np.linalg.solve(cov, expected[..., None])[..., 0]).sum(1)
        log = np.log(b.weight) - log_normal(expected, cov)
        weights = np.exp(log - log.max())
        far = np.where(np.isfinite(far) & (far >= 0), far, np.inf)
        out[k] = float(weights @ chdtrc(off.shape[1], far) / weights.sum()) if np.isfinite(log).all() else 0.0
    return out


def predicted(f: Fitted, b: Belief, tie: Tie) -> Predicted | None:
    """What a belief expects of a tie, b with its sitting in it; None where nothing in it can be used."""
    data = collect(f.prior, (tie,), f.known)
    if not len(data.value) or data.kinds != f.data.kinds:
        return None
    many = own_of(data)
    z = np.zeros((len(b.weight), 1, many))
    z[:, 0, :2] = b.mean[:, -2:]
    z[..., 2:] = COUNT_LOG
    value, jac, own, variance = predict(f.layout, data, b.mean[:, :-2], z, b.grid.unit)
    jac = np.concatenate([jac, own[..., :2]], axis=2)
    cov = (
        jac @ b.cov @ np.swapaxes(jac, 1, 2)
        + own @ tension_cov(b.grid.tau, many, COUNT_SD) @ np.swapaxes(own, 1, 2)
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


def mixed(weight: Array, log: Array) -> float:
    """Logarithm of the mean of what has these logarithms."""
    each = log + np.log(np.maximum(weight, 1e-300))
    top = float(each.max())
    return top + float(np.log(np.exp(each - top).sum()))
