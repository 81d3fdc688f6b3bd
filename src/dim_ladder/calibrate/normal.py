"""The normal equations of a fit: shared parameters, what every sitting has of its own, and every tie.

A tie's tension lies round that of its sitting, which lies round that of the maker. Ties are eliminated one by one, then sittings
one by one (Schur complements), so that the work grows with their number, not its cube.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from dim_ladder.calibrate.expected import COUNT_LOG, COUNT_SD, Layout, predict, prior_gaussian
from dim_ladder.calibrate.grid import Grid, Rows, correlated, tension_cov
from dim_ladder.calibrate.observe import Data
from dim_ladder.calibrate.prior import Array, Prior


@dataclass(frozen=True, slots=True)
class Before:
    """What is assumed before any tie: mean (n,) and precision (g, n, n) of the shared parameters, precisions tension
    (g, own, own) of a tie's own unknowns round its sitting's and sitting (g, 2, 2) of those round the maker's."""

    mean: Array
    precision: Array
    tension: Array
    sitting: Array

    def of(self, rows: Rows) -> Before:
        return Before(self.mean, self.precision[rows], self.tension[rows], self.sitting[rows])


def before(prior: Prior, data: Data, g: Grid, own: int) -> Before:
    found = {}
    for far in np.unique(g.far).tolist():
        mean, cov = prior_gaussian(prior, data.kinds, data.people, far)
        found[far] = np.asarray(np.linalg.inv(cov), np.float64)
    return Before(
        mean,
        np.array([found[far] for far in g.far.tolist()]),
        np.asarray(np.linalg.inv(tension_cov(g.tau, own, COUNT_SD)), np.float64),
        np.asarray(np.linalg.inv(correlated(g.sitting)), np.float64),
    )


class System(NamedTuple):
    """Linear equations of shared parameters, sittings' and ties' own. reduced : (g, n, n) of the shared ones with the others
    eliminated. inner : (g, ties, own, own) inverse of those of the ties' own. cross : (g, ties, n, own) between shared and
    ties' own. link : (g, own, 2) between a tie's own and its sitting's, taken off. sat_inner : (g, sittings, 2, 2) inverse of
    those of sittings with ties eliminated; sat_cross : (g, sittings, n, 2) between shared and these. sitting : see Data."""

    reduced: Array
    inner: Array
    cross: Array
    link: Array
    sat_inner: Array
    sat_cross: Array
    sitting: Array

    def log_det(self) -> Array:
        """(g,) of all of them."""
        return np.asarray(
            np.linalg.slogdet(self.reduced)[1]
            - np.linalg.slogdet(self.inner)[1].sum(1)
            - np.linalg.slogdet(self.sat_inner)[1].sum(1)
        )

    def positive(self) -> Array:
        """(g,) whether their determinants are those of a peak."""
        return np.asarray(
            (np.linalg.slogdet(self.reduced)[0] > 0)
            & (np.linalg.slogdet(self.inner)[0] > 0).all(1)
            & (np.linalg.slogdet(self.sat_inner)[0] > 0).all(1)
        )


def eliminated(whole: Array, cross: Array, blocks: Array, b: Before, sitting: Array) -> System:
    """whole : (g, n, n) of the shared parameters, blocks : (g, ties, own, own) of the ties' own, cross as in System."""
    inner = inverse(blocks)
    reach = cross @ inner
    link = b.tension[:, :, :2]
    held = inner @ link[:, None]  # (g, ties, own, 2)
    g, n = whole.shape[:2]
    slack = b.tension[:, None, :2, :2] - np.swapaxes(link, 1, 2)[:, None] @ held
    sat = b.sitting[:, None] + summed(sitting, slack)
    sat_cross = summed(sitting, cross @ held)
    sat_inner = inverse(sat)
    whole = whole - _folded(reach, cross, g, n) - _folded(sat_cross @ sat_inner, sat_cross, g, n)
    return System(whole, inner, cross, link, sat_inner, sat_cross, sitting)


def newton(s: System, gradient: Array, pull: Array) -> tuple[Array, Array]:
    """Step (g, n) of the shared parameters with that gradient, and (g, ties, own) of the ties' own with that pull; where the
    sittings are at their best."""
    held = (s.inner @ pull[..., None])[..., 0]
    sat = summed(s.sitting, (np.swapaxes(s.link, 1, 2)[:, None] @ held[..., None])[..., 0])
    moved = (s.sat_inner @ sat[..., None])[..., 0]
    passed = (s.cross @ held[..., None]).sum(1) + (s.sat_cross @ moved[..., None]).sum(1)
    step = np.linalg.solve(s.reduced, gradient[..., None] - passed)[..., 0]
    sat_step = moved - (s.sat_inner @ (step[:, None, None] @ s.sat_cross)[:, :, 0][..., None])[..., 0]
    back = pull - (step[:, None, None] @ s.cross)[:, :, 0]
    back = back + (s.link[:, None] @ (s.sitting.T @ sat_step)[..., None])[..., 0]
    return step, (s.inner @ back[..., None])[..., 0]


@dataclass(frozen=True, slots=True)
class Normal:
    """The normal equations. whole, blocks, cross and system : as in `eliminated`. gradient : (g, n) of the shared parameters,
    what is assumed counted. pull : (g, ties, own), that of the ties' own. sat : (g, sittings, 2) where sittings are at their
    best; away : (g, ties, own) of ties from those. residual, variance : (g, rows). jac : (g, rows, n) derivatives of what is
    expected."""

    whole: Array
    blocks: Array
    cross: Array
    system: System
    gradient: Array
    pull: Array
    sat: Array
    away: Array
    residual: Array
    variance: Array
    jac: Array


def normal(at: Layout, data: Data, theta: Array, z: Array, unit: Array, b: Before) -> Normal:
    value, jac, own, variance = predict(at, data, theta, z, unit)
    residual = data.value - value
    weight = 1.0 / variance
    weighted = jac * weight[..., None]
    gradient = (residual[:, None] @ weighted)[:, 0]
    gradient = gradient - ((theta - b.mean)[:, None] @ b.precision)[:, 0]
    tied, each = by_tie(data), range(own.shape[2])
    cross = np.stack([tied @ (weighted * own[..., k, None]) for k in each], axis=3)
    own_weighted = own * weight[..., None]
    blocks = np.stack([tied @ (own_weighted * own[..., k, None]) for k in each], axis=3)
    blocks = blocks + b.tension[:, None]
    sat, away = settled(data, z, b)
    pull = tied @ (own_weighted * residual[..., None]) - away @ b.tension
    whole = b.precision + np.swapaxes(weighted, 1, 2) @ jac
    system = eliminated(whole, cross, blocks, b, data.sitting)
    return Normal(whole, blocks, cross, system, gradient, pull, sat, away, residual, variance, jac)


def settled(data: Data, z: Array, b: Before) -> tuple[Array, Array]:
    """Where every sitting lies best among its ties (g, sittings, 2), and how far ties lie from there (g, ties, own)."""
    tension = b.tension[:, None, :2, :2]
    many = data.sitting.sum(1)[:, None, None]
    drawn = tension @ (data.sitting @ z[..., :2])[..., None]
    sat = (inverse(b.sitting[:, None] + many * tension) @ drawn)[..., 0]
    away = z.copy()
    away[..., :2] -= data.sitting.T @ sat
    away[..., 2:] -= COUNT_LOG
    return sat, away


def density(data: Data, b: Before, theta: Array, m: Normal) -> Array:
    """(g,) logarithm of the joint density of ties and parameters theta (g, n) up to a constant, where m was made."""
    apart = theta - b.mean
    return np.asarray(
        -0.5 * (m.residual**2 / m.variance + np.log(m.variance)).sum(1)
        - 0.5 * ((apart[:, None] @ b.precision)[:, 0] * apart).sum(1)
        - 0.5 * ((m.away @ b.tension) * m.away).sum((1, 2))
        - 0.5 * ((m.sat @ b.sitting) * m.sat).sum((1, 2))
        + 0.5 * np.linalg.slogdet(b.precision)[1]
        + 0.5 * data.ties * np.linalg.slogdet(b.tension)[1]
        + 0.5 * len(data.sitting) * np.linalg.slogdet(b.sitting)[1]
    )


def by_tie(data: Data) -> Array:
    """(ties, rows): 1 where a row is of a tie, to sum by."""
    return np.asarray(np.arange(data.ties)[:, None] == data.tie, np.float64)


def summed(groups: Array, of: Array) -> Array:
    """groups : (many, ties) of 0 and 1. of : (g, ties, ...). Sums (g, many, ...)."""
    flat = groups @ of.reshape(len(of), of.shape[1], int(np.prod(of.shape[2:])))
    return np.asarray(flat.reshape(len(of), len(groups), *of.shape[2:]))


def inverse(blocks: Array) -> Array:
    """Of many small symmetric matrices; two by two in closed form."""
    if blocks.shape[-1] != 2:
        return np.asarray(np.linalg.inv(blocks), np.float64)
    a, b, d = blocks[..., 0, 0], blocks[..., 0, 1], blocks[..., 1, 1]
    out = np.empty_like(blocks)
    out[..., 0, 0], out[..., 1, 1] = d, a
    out[..., 0, 1] = out[..., 1, 0] = -b
    return out / (a * d - b * b)[..., None, None]


def _folded(there: Array, back: Array, g: int, n: int) -> Array:
    """Sum over groups of there @ back transposed, both (g, groups, n, own)."""
    a, b = (np.moveaxis(x, 1, 2).reshape(g, n, -1) for x in (there, back))
    return np.asarray(a @ np.swapaxes(b, 1, 2))
