"""The fit: what all rows together say, at every point of a grid over the two spreads that the rest depends on.

    used by ends of roles r in tie k = sum_r n_r (a_r + sum_s b_rs q_kr exp(w_kr . soft) N_ks) exp(t_k) + noise
    mass of what was left            = (cut - used) exp(g) + noise
    tied length of tie k             = sum_s p_s q_k exp(w_k . soft) N_ks exp(u_k) + f + noise

a, b, p are positive and live as logarithms with Gaussian priors; soft is the softness of a kind of cord, q the ratio of
diameters where a tie was made with other cord. t_k, u_k are the tie's tension, correlated, with standard deviation tau;
noise is reading error plus variation that grows with the square root of the number of units, a fraction c of a unit each.
tau and c are integrated over a grid (quadrature); at each grid point the rest is a Laplace approximation at the mode,
found by Gauss-Newton (Tierney & Kadane 1986, JASA 81:82-86; Rue, Martino & Chopin 2009, JRSS B 71:319-392). A tie's own
unknowns are eliminated tie by tie (Schur complement), so the work grows with the number of ties, not its cube.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.observe import GRAMS_SPREAD, LENGTH, MASS, Data
from dim_ladder.calibrate.prior import OVERHEAD_SPREAD, Array, Prior

TAU_GRID = (0.008, 0.02, 0.04, 0.07, 0.11, 0.16)  # tie-to-tie, relative
TAU_SCALE = 0.05  # half-normal prior
UNIT_GRID = (0.01, 0.03, 0.07)  # unit-to-unit, relative
UNIT_SCALE = 0.03
TENSION_CORRELATION = 0.6  # a tight tie is shorter and eats less
FIXED_MM, FIXED_SD = 8.0, 10.0  # start and finish in the tied length
COUNT_LOG, COUNT_SD = np.log(10.0), 1.2  # units of a tie that did not count them
MOST_STEPS, LARGEST, RESTING = 40, 0.7, 1e-4
LOOK, HOPELESS = (
    2,
    14.0,
)  # after two steps a point of the grid with so little of the weight (its logarithm) is left out
Bools = NDArray[np.bool_]


class Layout(NamedTuple):
    """Where parameters stand in the shared vector: a (roles), b (roles x sections), p (sections), f, softness and mass of a
    metre (kinds)."""

    roles: int
    sections: int
    kinds: int
    b: int
    p: int
    f: int
    soft: int
    grams: int
    size: int


@dataclass(frozen=True, slots=True)
class Fit:
    """By grid point: log_weight (g,), mean (g, n) and cov (g, n, n) of the shared parameters, tie (g, ties, own) tension
    on cord and on length, and log of an unknown count. settled : (g,) whether the mode was found."""

    tau: Array
    unit: Array
    log_weight: Array
    mean: Array
    cov: Array
    tie: Array
    settled: Bools


def layout(prior: Prior, kinds: int) -> Layout:
    r, s = len(prior.roles), len(prior.sections)
    p = r * (1 + s)
    soft = p + s + 1
    return Layout(r, s, kinds, r, p, p + s, soft, soft + kinds, soft + 2 * kinds)


def prior_gaussian(prior: Prior, kinds: tuple[str, ...]) -> tuple[Array, Array]:
    """Mean and covariance of the shared parameters."""
    at = layout(prior, len(kinds))
    soft = [prior.softness.kind(k) for k in kinds]
    mean = np.concatenate(
        [
            np.log(prior.overhead), np.log(prior.unit).ravel(), np.log(prior.pitch), [FIXED_MM],
            [m for m, _ in soft], np.zeros(len(kinds)),
        ]
    )  # fmt: skip
    cov = np.zeros((at.size, at.size))
    cov[: at.b, : at.b] = np.eye(at.roles) * OVERHEAD_SPREAD**2
    half = np.tile(prior.spread / np.sqrt(2), at.roles)
    cov[at.b : at.p, at.b : at.p] = np.outer(half, half) + np.diag(half**2)
    half = prior.spread / np.sqrt(2)
    cov[at.p : at.f, at.p : at.f] = np.outer(half, half) + np.diag(half**2)
    cov[at.f, at.f] = FIXED_SD**2
    for k, (_, sd) in enumerate(soft):
        cov[at.soft + k, at.soft + k] = sd**2
        cov[at.grams + k, at.grams + k] = GRAMS_SPREAD**2
    return mean, cov


def tension_cov(tau: Array, own: int) -> Array:
    """(g, own, own) of a tie's own unknowns: its tension on cord and on length, and its count where some are not known."""
    out = np.zeros((len(tau), own, own))
    out[:, :2, :2] = tau[:, None, None] ** 2 * np.array([[1, TENSION_CORRELATION], [TENSION_CORRELATION, 1]])
    out[:, 2:, 2:] = COUNT_SD**2
    return out


def own_of(data: Data) -> int:
    """How many unknowns a tie has of its own."""
    return 3 if data.missing.any() else 2


def predict(at: Layout, data: Data, theta: Array, z: Array, unit: Array) -> tuple[Array, Array, Array, Array]:
    """Expected observations (g, rows), their derivatives by shared parameters (g, rows, n) and by their tie's own
    (g, rows, own), and their variances. theta : (g, n). z : (g, ties, own). unit : (g,), variation of a unit."""
    g, n = theta.shape
    rows = len(data.value)
    a = np.exp(theta[:, : at.b])
    b = np.exp(theta[:, at.b : at.p]).reshape(g, at.roles, at.sections)
    p = np.exp(theta[:, at.p : at.f])
    soft = theta[:, at.soft : at.grams]
    k = data.tie
    guessed = np.exp(z[:, :, 2]) if z.shape[2] > 2 else np.zeros(z.shape[:2])
    count = guessed[..., None] * data.missing + data.counts  # (g, ties, sections)
    scale = data.ratio * np.exp(np.moveaxis(data.share @ soft.T, 2, 0))
    per_tie = scale[..., None] * b[:, None] * count[:, :, None]  # (g, ties, roles, sections)
    ends = data.ends
    part_a = ends * a[:, None]
    part_b = ends[..., None] * per_tie[:, k]
    gain = np.exp(z[:, k, 0])[..., None]
    jac, own = np.zeros((g, rows, n)), np.zeros((g, rows, z.shape[2]))
    jac[..., : at.b] = part_a * gain
    jac[..., at.b : at.p] = part_b.reshape(g, rows, -1) * gain
    by_role = part_b.sum(3) * gain
    jac[..., at.soft : at.grams] = (by_role[:, :, None] @ data.share[k])[:, :, 0]
    total = jac[..., : at.p].sum(2)
    own[..., 0] = total
    grown = data.missing[k] * guessed[:, k, None] / np.maximum(count[:, k], 1e-300)
    own[..., 2:] = (part_b.sum(2) * gain * grown).sum(2)[..., None]
    value = total.copy()
    variance = data.sd**2 + unit[:, None] ** 2 * (part_b * (scale[..., None] * b[:, None])[:, k]).sum((2, 3))
    mass = data.kind == MASS
    if mass.any():
        up = np.exp(theta[:, at.grams :] @ data.grams[mass].T)
        left = (data.cut[mass] - total[:, mass]) * up
        value[:, mass] = left
        jac[:, mass] *= -up[..., None]
        own[:, mass] *= -up[..., None]
        jac[:, mass, at.grams :] = left[..., None] * data.grams[mass]
    long = data.kind == LENGTH
    if long.any():
        t = k[long]
        weight = data.share.mean(axis=1)  # (ties, kinds)
        grow = data.ratio_length * np.exp(soft @ weight.T)
        part = (p[:, None] * count * grow[..., None])[:, t] * np.exp(z[:, t, 1])[..., None]
        value[:, long] = part.sum(2) + theta[:, at.f, None]
        jac[:, long] = 0.0
        own[:, long] = 0.0
        jac[:, long, at.p : at.f] = part
        jac[:, long, at.f] = 1.0
        jac[:, long, at.soft : at.grams] = part.sum(2)[..., None] * weight[t]
        own[:, long, 1] = part.sum(2)
        own[:, long, 2:] = (part * grown[:, long]).sum(2)[..., None]
        one = (p[:, None] * grow[..., None])[:, t]
        variance[:, long] = data.sd[long] ** 2 + unit[:, None] ** 2 * (one**2 * count[:, t]).sum(2)
    return value, jac, own, variance


def solve(prior: Prior, data: Data) -> Fit:
    """The fit over the whole grid; with no row at all, the prior."""
    at = layout(prior, len(data.kinds))
    mean0, cov0 = prior_gaussian(prior, data.kinds)
    tau = np.repeat(TAU_GRID, len(UNIT_GRID))
    unit = np.tile(UNIT_GRID, len(TAU_GRID))
    width = np.outer(_cells(TAU_GRID), _cells(UNIT_GRID)).ravel()
    log_weight = np.log(width) - 0.5 * (tau / TAU_SCALE) ** 2 - 0.5 * (unit / UNIT_SCALE) ** 2
    g = len(tau)
    if not len(data.value):
        return Fit(
            tau, unit, log_weight, np.tile(mean0, (g, 1)), np.tile(cov0, (g, 1, 1)), np.zeros((g, 0, 2)),
            np.ones(g, np.bool_),
        )  # fmt: skip
    start = np.zeros((1, data.ties, own_of(data)))
    start[..., 2:] = COUNT_LOG
    # From the middle of the grid, where the mode is nearly that of every other point.
    middle = np.array([g // 2])
    theta, z, *_ = _mode(at, data, mean0, cov0, mean0[None], start, tau[middle], unit[middle])
    theta, z = np.repeat(theta, g, 0), np.repeat(z, g, 0)
    theta, z, evidence, *_ = _mode(at, data, mean0, cov0, theta, z, tau, unit, LOOK)
    weight = log_weight + evidence
    kept = np.flatnonzero(weight > weight.max() - HOPELESS)
    tau, unit, log_weight = tau[kept], unit[kept], log_weight[kept]
    theta, z, evidence, cov, settled = _mode(at, data, mean0, cov0, theta[kept], z[kept], tau, unit)
    return Fit(tau, unit, log_weight + evidence, theta, cov, z, settled)


def _mode(
    at: Layout, data: Data, mean0: Array, cov0: Array, theta: Array, z: Array, tau: Array, unit: Array,
    most: int = MOST_STEPS,
) -> tuple[Array, Array, Array, Array, Bools]:  # fmt: skip
    """Mode, log evidence up to a constant, and covariance, for each of (g,) spreads at once."""
    precision = np.asarray(np.linalg.inv(cov0), np.float64)
    many = z.shape[2]
    tension = np.asarray(np.linalg.inv(tension_cov(tau, many)), np.float64)
    centre = np.array([0.0, 0.0, COUNT_LOG])[:many]
    settled = np.zeros(len(tau), np.bool_)
    log = np.ones(at.size, np.bool_)
    log[at.f] = False
    for _ in range(most):
        m = normal(at, data, theta, z, unit, tension, precision)
        gradient = m.gradient - (theta - mean0) @ precision
        pull = m.pull - (z - centre) @ tension
        passed = (m.reach @ pull[..., None]).sum(1)
        step = np.linalg.solve(m.reduced, gradient[..., None] - passed)[..., 0]
        back = pull - (step[:, None, None] @ m.cross)[:, :, 0]
        own = (m.inner @ back[..., None])[..., 0]
        size = np.maximum(np.abs(step[:, log]).max(1), np.abs(own).max((1, 2), initial=0.0))
        short = np.minimum(1.0, LARGEST / np.maximum(size, 1e-300))
        settled = size < RESTING
        if settled.all():
            break  # what is left to go does not count
        theta = theta + step * short[:, None]
        z = z + own * short[:, None, None]
    off, away = theta - mean0, z - centre
    evidence = (
        -0.5 * (m.residual**2 / m.variance + np.log(m.variance)).sum(1)
        - 0.5 * ((off @ precision) * off).sum(1)
        - 0.5 * ((away @ tension) * away).sum((1, 2))
        + 0.5 * data.ties * np.linalg.slogdet(tension)[1]
        + 0.5 * np.linalg.slogdet(m.inner)[1].sum(1)
        - 0.5 * np.linalg.slogdet(m.reduced)[1]
    )
    return theta, z, evidence, np.asarray(np.linalg.inv(m.reduced), np.float64), settled


@dataclass(frozen=True, slots=True)
class Normal:
    """The normal equations. reduced : (g, n, n) of the shared parameters with the ties' own eliminated. gradient : (g, n)
    of the shared ones by themselves. inner : (g, ties, own, own) covariance of a tie's own, given the shared ones. cross :
    (g, ties, n, own) between them, reach : cross @ inner. pull : (g, ties, own) gradient. residual, variance : (g, rows)."""

    reduced: Array
    gradient: Array
    inner: Array
    cross: Array
    reach: Array
    pull: Array
    residual: Array
    variance: Array


def normal(
    at: Layout, data: Data, theta: Array, z: Array, unit: Array, tension: Array, precision: Array
) -> Normal:
    value, jac, own, variance = predict(at, data, theta, z, unit)
    residual = data.value - value
    weight = 1.0 / variance
    weighted = jac * weight[..., None]
    gradient = (residual[:, None] @ weighted)[:, 0]
    begin = np.searchsorted(data.tie, np.arange(data.ties))
    cross = np.add.reduceat(weighted[..., None] * own[:, :, None], begin, axis=1)
    blocks = np.add.reduceat((own * weight[..., None])[..., None] * own[:, :, None], begin, axis=1)
    blocks = blocks + tension[:, None]
    pull = np.add.reduceat(own * (weight * residual)[..., None], begin, axis=1)
    whole = precision + np.swapaxes(weighted, 1, 2) @ jac
    inner = _inverse(blocks)
    reach = cross @ inner
    flat = (len(theta), at.size, -1)
    there, back = (np.moveaxis(x, 1, 2).reshape(flat) for x in (reach, cross))
    reduced = whole - there @ np.swapaxes(back, 1, 2)
    return Normal(reduced, gradient, inner, cross, reach, pull, residual, variance)


def _inverse(blocks: Array) -> Array:
    """Of many small symmetric matrices; two by two in closed form."""
    if blocks.shape[-1] != 2:
        return np.asarray(np.linalg.inv(blocks), np.float64)
    a, b, d = blocks[..., 0, 0], blocks[..., 0, 1], blocks[..., 1, 1]
    out = np.empty_like(blocks)
    out[..., 0, 0], out[..., 1, 1] = d, a
    out[..., 0, 1] = out[..., 1, 0] = -b
    return out / (a * d - b * b)[..., None, None]


def _cells(grid: tuple[float, ...]) -> Array:
    """Width of the cell round every grid point, so that an uneven grid still integrates the prior."""
    x = np.array(grid)
    edges = np.concatenate([[0.0], (x[1:] + x[:-1]) / 2, [x[-1] + (x[-1] - x[-2]) / 2]])
    return np.diff(edges)
