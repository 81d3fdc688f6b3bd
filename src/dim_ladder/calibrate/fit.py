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

from dim_ladder.calibrate.asked import Layout
from dim_ladder.calibrate.observe import GRAMS_SPREAD, LENGTH, MASS, Data
from dim_ladder.calibrate.prior import OVERHEAD_SPREAD, Array, Prior

TAU_GRID = (0.003, 0.01, 0.02, 0.04, 0.07, 0.11, 0.16)  # tie-to-tie, relative
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
    p = np.exp(theta[:, at.p : at.f]) * data.adds
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
    jac[..., at.b : at.p] = part_b.reshape(g, rows, at.p - at.b) * gain
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
    b = before(prior, data, tau[middle], own_of(data))
    theta, z, *_ = _mode(at, data, b, mean0[None], start, unit[middle])
    theta, z = np.repeat(theta, g, 0), np.repeat(z, g, 0)
    b = before(prior, data, tau, own_of(data))
    theta, z, evidence, *_ = _mode(at, data, b, theta, z, unit, LOOK)
    weight = log_weight + evidence
    kept = np.flatnonzero(weight > weight.max() - HOPELESS)
    tau, unit, log_weight = tau[kept], unit[kept], log_weight[kept]
    b = before(prior, data, tau, own_of(data))
    theta, z, evidence, cov, settled = _mode(at, data, b, theta[kept], z[kept], unit)
    return Fit(tau, unit, log_weight + evidence, theta, cov, z, settled)


@dataclass(frozen=True, slots=True)
class Before:
    """What is assumed before any tie: mean (n,) and precision (n, n) of the shared parameters, centre (own,) and precision
    tension (g, own, own) of a tie's own."""

    mean: Array
    precision: Array
    centre: Array
    tension: Array


def before(prior: Prior, data: Data, tau: Array, own: int) -> Before:
    mean, cov = prior_gaussian(prior, data.kinds)
    centre = np.array([0.0, 0.0, COUNT_LOG])[:own]
    inverse = np.linalg.inv(tension_cov(tau, own))
    return Before(mean, np.asarray(np.linalg.inv(cov), np.float64), centre, np.asarray(inverse, np.float64))


def _climb(
    at: Layout, data: Data, b: Before, theta: Array, z: Array, unit: Array, most: int
) -> tuple[Array, Array, Normal, Bools]:
    """At most so many steps of Gauss-Newton, until there is no way to go: where they lead, the normal equations last used, and
    whether they rest (g,)."""
    settled = np.zeros(len(theta), np.bool_)
    log = np.ones(at.size, np.bool_)
    log[at.f] = False
    for _ in range(most):
        m = normal(at, data, theta, z, unit, b)
        gradient = m.gradient - (theta - b.mean) @ b.precision
        step, own = newton(m.system, gradient, m.pull - (z - b.centre) @ b.tension)
        size = np.maximum(np.abs(step[:, log]).max(1), np.abs(own).max((1, 2), initial=0.0))
        short = np.minimum(1.0, LARGEST / np.maximum(size, 1e-300))
        settled = size < RESTING
        if settled.all():
            break  # what is left to go does not count
        theta = theta + step * short[:, None]
        z = z + own * short[:, None, None]
    return theta, z, m, settled


def density(data: Data, b: Before, theta: Array, z: Array, m: Normal) -> Array:
    """(g,) logarithm of the joint density of ties and parameters up to a constant, where m was made."""
    apart, away = theta - b.mean, z - b.centre
    return np.asarray(
        -0.5 * (m.residual**2 / m.variance + np.log(m.variance)).sum(1)
        - 0.5 * ((apart @ b.precision) * apart).sum(1)
        - 0.5 * ((away @ b.tension) * away).sum((1, 2))
        + 0.5 * data.ties * np.linalg.slogdet(b.tension)[1]
    )


def _mode(
    at: Layout, data: Data, b: Before, theta: Array, z: Array, unit: Array, most: int = MOST_STEPS
) -> tuple[Array, Array, Array, Array, Bools]:
    """Mode, log evidence up to a constant, and covariance, for each of (g,) spreads at once."""
    theta, z, m, settled = _climb(at, data, b, theta, z, unit, most)
    evidence = (
        density(data, b, theta, z, m)
        + 0.5 * np.linalg.slogdet(m.system.inner)[1].sum(1)
        - 0.5 * np.linalg.slogdet(m.system.reduced)[1]
    )
    return theta, z, evidence, np.asarray(np.linalg.inv(m.system.reduced), np.float64), settled


class System(NamedTuple):
    """Linear equations of shared parameters and the ties' own. reduced : (g, n, n) of the shared ones with the ties' own
    eliminated. inner : (g, ties, own, own) inverse of those of the ties' own. cross : (g, ties, n, own) between the two,
    reach : cross @ inner."""

    reduced: Array
    inner: Array
    cross: Array
    reach: Array


def eliminated(whole: Array, cross: Array, blocks: Array) -> System:
    """whole : (g, n, n) of the shared parameters, blocks : (g, ties, own, own) of the ties' own, cross as in System."""
    inner = inverse(blocks)
    reach = cross @ inner
    g, ties, n, own = cross.shape
    there, back = (np.moveaxis(x, 1, 2).reshape(g, n, ties * own) for x in (reach, cross))
    return System(whole - there @ np.swapaxes(back, 1, 2), inner, cross, reach)


def newton(s: System, gradient: Array, pull: Array) -> tuple[Array, Array]:
    """Step (g, n) of the shared parameters with that gradient, and (g, ties, own) of the ties' own with that pull."""
    passed = (s.reach @ pull[..., None]).sum(1)
    step = np.linalg.solve(s.reduced, gradient[..., None] - passed)[..., 0]
    back = pull - (step[:, None, None] @ s.cross)[:, :, 0]
    return step, (s.inner @ back[..., None])[..., 0]


@dataclass(frozen=True, slots=True)
class Normal:
    """The normal equations. whole, blocks, cross and system : as in `eliminated`. gradient : (g, n) of the shared parameters.
    pull : (g, ties, own), that of the ties' own. residual, variance : (g, rows). jac : (g, rows, n) derivatives of what is
    expected."""

    whole: Array
    blocks: Array
    cross: Array
    system: System
    gradient: Array
    pull: Array
    residual: Array
    variance: Array
    jac: Array


def normal(at: Layout, data: Data, theta: Array, z: Array, unit: Array, b: Before) -> Normal:
    value, jac, own, variance = predict(at, data, theta, z, unit)
    residual = data.value - value
    weight = 1.0 / variance
    weighted = jac * weight[..., None]
    gradient = (residual[:, None] @ weighted)[:, 0]
    tied, each = by_tie(data), range(own.shape[2])
    cross = np.stack([tied @ (weighted * own[..., k, None]) for k in each], axis=3)
    own_weighted = own * weight[..., None]
    blocks = np.stack([tied @ (own_weighted * own[..., k, None]) for k in each], axis=3)
    blocks = blocks + b.tension[:, None]
    pull = tied @ (own_weighted * residual[..., None])
    whole = b.precision + np.swapaxes(weighted, 1, 2) @ jac
    system = eliminated(whole, cross, blocks)
    return Normal(whole, blocks, cross, system, gradient, pull, residual, variance, jac)


def by_tie(data: Data) -> Array:
    """(ties, rows): 1 where a row is of a tie, to sum by."""
    return np.asarray(np.arange(data.ties)[:, None] == data.tie, np.float64)


def inverse(blocks: Array) -> Array:
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
