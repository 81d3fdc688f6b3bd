"""What is expected of every row of the ties, and how that moves with what is unknown.

    used by ends E in tie k = sum_e (a_e + sum_s b_rs own_kes q_ke exp(w_ke . soft + each_e) N_ks) exp(t_k + who) + noise
    mass of what was left   = (cut - used) exp(g) + noise
    tied length of tie k    = sum_s p_s q_k exp(w_k . soft) N_ks exp(u_k + who) + f + noise

r is the role of end e. a, b, p are positive and live as logarithms; own is what an end takes of its role's cord by its own
shape, and by the place in which it hangs after so many units as a tie has, each what it takes more for good; soft the softness of a kind of cord, q the ratio of diameters where a tie was made with
other cord; who is how another person than the maker draws up. t_k, u_k are the tie's tension. Noise is reading error plus
variation that grows with the square root of the number of units, a fraction c of a unit each, plus what a section would take
of which it is not known whether it was tied.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.observe import GRAMS_SPREAD, LENGTH, MASS, Data
from dim_ladder.calibrate.prior import OVERHEAD_SPREAD, Array, Prior

FIXED_MM, FIXED_SD = 5.0, 8.0  # what start and finish add to the tied length
END_SPREAD = 0.03  # of an end against others of its role, for good
START_SPREAD = 0.12  # of what start and finish take of an end against others of its role, for good
PERSON_SPREAD = 0.06  # of another person against the maker
COUNT_LOG, COUNT_SD = float(np.log(10.0)), 1.2  # units of a tie that did not count them


class Layout(NamedTuple):
    """Where parameters stand in the shared vector: a (ends), b (roles x sections), p (sections), f, softness and mass of a
    metre (kinds), ends, and people (cord and length of each)."""

    roles: int
    sections: int
    kinds: int
    ends: int
    people: int
    b: int
    p: int
    f: int
    soft: int
    grams: int
    each: int
    who: int
    size: int

    def rate(self, role: int) -> slice:
        """The cord of a role in every section."""
        return slice(self.b + role * self.sections, self.b + (role + 1) * self.sections)


def layout(prior: Prior, kinds: int, people: int = 0) -> Layout:
    r, s, e = len(prior.roles), len(prior.sections), len(prior.role_of)
    p = e + r * s
    soft = p + s + 1
    each = soft + 2 * kinds
    who = each + e
    return Layout(r, s, kinds, e, people, e, p, p + s, soft, soft + kinds, each, who, who + 2 * people)


def layout_of(prior: Prior, data: Data) -> Layout:
    return layout(prior, len(data.kinds), data.people)


def prior_gaussian(
    prior: Prior, kinds: tuple[str, ...], people: int = 0, far: float = 1.0
) -> tuple[Array, Array]:
    """Mean and covariance of the shared parameters. far : how many times as uncertain shape and softness are."""
    at = layout(prior, len(kinds), people)
    soft = [prior.softness.kind(k) for k in kinds]
    role = np.array([prior.roles.index(r) for r in prior.role_of.values()], np.int64)
    mean = np.concatenate(
        [
            np.log(prior.overhead)[role], np.log(prior.unit).ravel(), np.log(prior.pitch), [FIXED_MM],
            [m for m, _ in soft], np.zeros(len(kinds) + at.ends + 2 * people),
        ]
    )  # fmt: skip
    cov = np.zeros((at.size, at.size))
    cov[: at.b, : at.b] = (role[:, None] == role) * OVERHEAD_SPREAD**2 + np.eye(at.ends) * START_SPREAD**2
    # Half of what a shape is wrong by is common to cord and length of a unit, and so is not in cord for a length.
    half = far * np.concatenate([np.tile(prior.spread, at.roles), prior.spread]) / np.sqrt(2)
    cov[at.b : at.f, at.b : at.f] = np.outer(half, half) + np.diag(half**2)
    cov[at.f, at.f] = FIXED_SD**2
    for k, (_, sd) in enumerate(soft):
        cov[at.soft + k, at.soft + k] = (far * sd) ** 2
        cov[at.grams + k, at.grams + k] = GRAMS_SPREAD**2
    rest = np.arange(at.each, at.size)
    cov[rest, rest] = np.where(rest < at.who, END_SPREAD, PERSON_SPREAD) ** 2
    return mean, cov


def own_of(data: Data) -> int:
    """How many unknowns a tie has of its own."""
    return 3 if data.missing.any() else 2


def unit_cord(at: Layout, theta: Array, role: NDArray[np.int64], own: Array, each: Array) -> Array:
    """(g, ends, sections): cord of one unit for ends of these roles, of cord that gives way as its kind usually does. (g, ties, ends, sections)
    where own is (ties, ends, sections)."""
    b = np.exp(theta[:, at.b : at.p]).reshape(-1, at.roles, at.sections)[:, role]
    one = b * np.exp(each)[..., None]
    return np.asarray((one[:, None] if own.ndim > 2 else one) * own)


def predict(at: Layout, data: Data, theta: Array, z: Array, unit: Array) -> tuple[Array, Array, Array, Array]:
    """Expected observations (g, rows), their derivatives by shared parameters (g, rows, n) and by their tie's own
    (g, rows, own), and their variances. theta : (g, n). z : (g, ties, own). unit : (g,), variation of a unit."""
    g, n = theta.shape
    rows, k = len(data.value), data.tie
    a = np.exp(theta[:, : at.b])
    p = np.exp(theta[:, at.p : at.f]) * data.adds
    soft = theta[:, at.soft : at.grams]
    who = theta[:, at.who :].reshape(g, at.people, 2)
    hands = data.person @ who if at.people else np.zeros((g, data.ties, 2))
    guessed = np.exp(z[:, :, 2]) if z.shape[2] > 2 else np.zeros(z.shape[:2])
    count = guessed[..., None] * data.missing + data.counts  # (g, ties, sections)
    scale = data.ratio * np.exp(np.moveaxis(data.share @ soft.T, 2, 0))  # (g, ties, ends)
    each = unit_cord(at, theta, data.role, data.own, theta[:, at.each : at.who])
    one = scale[..., None] * each  # (g, ties, ends, sections), of one unit
    to_role = np.asarray(data.role[:, None] == np.arange(at.roles), np.float64)
    gain = np.exp(z[:, k, 0] + hands[:, k, 0])[..., None]
    cord = data.ends[..., None] * (one * count[:, :, None])[:, k]  # (g, rows, ends, sections)
    by_end = cord.sum(3) * gain
    jac, mine = np.zeros((g, rows, n)), np.zeros((g, rows, z.shape[2]))
    jac[..., : at.b] = data.ends * a[:, None] * gain
    jac[..., at.b : at.p] = (to_role.T @ cord).reshape(g, rows, at.p - at.b) * gain
    jac[..., at.soft : at.grams] = (by_end[:, :, None] @ data.share[k])[:, :, 0]
    jac[..., at.each : at.who] = by_end
    total = jac[..., : at.p].sum(2)
    mine[..., 0] = total
    grown = data.missing[k] * guessed[:, k, None] / np.maximum(count[:, k], 1e-300)
    mine[..., 2:] = (cord.sum(2) * gain * grown).sum(2)[..., None]
    for i in range(at.people):
        jac[..., at.who + 2 * i] = total * data.person[k, i]
    value = total.copy()
    single = one[:, k]
    variance = data.sd**2 + unit[:, None] ** 2 * (cord * single).sum((2, 3))
    if data.vague.any():
        variance += ((data.ends[..., None] * single).sum(2) * data.vague[k]).sum(2) ** 2
    mass = data.kind == MASS
    if mass.any():
        up = np.exp(theta[:, at.grams : at.each] @ data.grams[mass].T)
        left = (data.cut[mass] - total[:, mass]) * up
        value[:, mass] = left
        jac[:, mass] *= -up[..., None]
        mine[:, mass] *= -up[..., None]
        jac[:, mass, at.grams : at.each] = left[..., None] * data.grams[mass]
    long = data.kind == LENGTH
    if long.any():
        t = k[long]
        weight = data.share.mean(axis=1)  # (ties, kinds)
        grow = (data.ratio_length * np.exp(soft @ weight.T))[:, t, None] * p[
            :, None
        ]  # (g, rows, sections), of one unit
        stretched = np.exp(z[:, t, 1] + hands[:, t, 1])[..., None]
        part = grow * count[:, t] * stretched
        value[:, long] = part.sum(2) + theta[:, at.f, None]
        jac[:, long] = 0.0
        mine[:, long] = 0.0
        jac[:, long, at.p : at.f] = part
        jac[:, long, at.f] = 1.0
        jac[:, long, at.soft : at.grams] = part.sum(2)[..., None] * weight[t]
        mine[:, long, 1] = part.sum(2)
        mine[:, long, 2:] = (part * grown[:, long]).sum(2)[..., None]
        for i in range(at.people):
            jac[:, long, at.who + 2 * i + 1] = part.sum(2) * data.person[t, i]
        variance[:, long] = data.sd[long] ** 2 + unit[:, None] ** 2 * (grow**2 * count[:, t]).sum(2)
        if data.vague.any():
            variance[:, long] += (grow * data.vague[t]).sum(2) ** 2
    return value, jac, mine, variance
