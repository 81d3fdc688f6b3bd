"""The fit where something that a piece takes is held at a value: how well the ties go with that value.

Away from the best value what is expected bends, and the ties pull back, so that here the second derivatives count in full,
not only as far as Gauss-Newton goes: everything expected is a sum of exponentials of sums of parameters, whose second
derivatives are those exponentials again.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.asked import Asked, Layout
from dim_ladder.calibrate.fit import (
    LARGEST,
    Normal,
    before,
    by_tie,
    density,
    eliminated,
    layout,
    newton,
    normal,
)
from dim_ladder.calibrate.observe import MASS, Data
from dim_ladder.calibrate.prior import Array, Prior

STEPS, MORE, RESTING = 3, 16, 1e-3  # of the fit at a value, with ties and without


@dataclass(frozen=True, slots=True)
class Target:
    """The logarithm of cord that is asked for, held at value (g,) within sd (g,). which : (g,) of asked."""

    asked: tuple[Asked, ...]
    which: NDArray[np.int64]
    value: Array
    sd: Array

    def log(self, at: Layout, theta: Array) -> tuple[Array, Array]:
        """(g,) what it is for theta (g, n), and derivatives (g, n)."""
        value, slope = np.zeros(len(theta)), np.zeros(theta.shape)
        for k, one in enumerate(self.asked):
            mine = np.flatnonzero(self.which == k)
            value[mine], slope[mine] = one.log(at, theta[mine])
        return value, slope

    def bend(self, at: Layout, slope: Array) -> Array:
        """Second derivatives (g, n, n) of that, where its derivatives are slope (g, n)."""
        out = np.zeros((*slope.shape, at.size))
        for k, one in enumerate(self.asked):
            mine = np.flatnonzero(self.which == k)
            out[mine] = one.bend(at, slope[mine])
        return out


def held(
    prior: Prior, data: Data, theta: Array, z: Array, tau: Array, unit: Array, target: Target
) -> tuple[Array, Array, Array, Array]:
    """From theta (g, n) and the ties' own unknowns z (g, ties, own), towards the target as well as a few steps of Gauss-Newton
    go: the mode of both, the value (g,) that came of it, and the log density of that value up to a constant."""
    at = layout(prior, len(data.kinds))
    b = before(prior, data, tau, z.shape[2])
    firm = target.sd[:, None] ** -2.0
    most = STEPS if data.ties else MORE
    for k in range(most + 1):
        m = normal(at, data, theta, z, unit, b)
        value, slope = target.log(at, theta)
        gradient = m.gradient - (theta - b.mean) @ b.precision
        pull = m.pull - (z - b.centre) @ b.tension
        drawn = (firm * slope)[..., None] * slope[:, None]
        if k == most:
            break
        system = eliminated(m.whole + drawn, m.cross, m.blocks)
        step, own = newton(system, gradient + firm * slope * (target.value - value)[:, None], pull)
        size = np.maximum(np.abs(step).max(1), np.abs(own).max((1, 2), initial=0.0))
        if float(size.max()) < RESTING:
            break  # what is left to go does not count
        short = np.minimum(1.0, LARGEST / np.maximum(size, 1e-300))
        theta, z = theta + step * short[:, None], z + own * short[:, None, None]
    # What pulls against the target (Lagrange's multiplier) says how much its bend counts.
    alone = np.linalg.solve(m.system.reduced, slope[..., None])[..., 0]
    against = ((gradient - (m.system.reach @ pull[..., None]).sum(1)[..., 0]) * alone).sum(1) / (
        slope * alone
    ).sum(1)
    bent = drawn + against[:, None, None] * target.bend(at, slope)
    return theta, z, value, density(data, b, theta, z, m) - 0.5 * _log_det(at, data, z, m, drawn, bent)


def _log_det(at: Layout, data: Data, z: Array, m: Normal, drawn: Array, bent: Array) -> Array:
    """(g,) logarithm of the determinant of all second derivatives, with those of the target, bent; and where they are not
    positive, as far as Gauss-Newton goes, drawn."""
    whole, cross, blocks = in_full(at, data, z, m)
    full = eliminated(whole + bent, cross, blocks)
    sign, log = np.linalg.slogdet(full.reduced)
    signs, logs = np.linalg.slogdet(full.inner)
    plain = np.linalg.slogdet(m.system.reduced + drawn)[1] - np.linalg.slogdet(m.system.inner)[1].sum(1)
    positive = (sign > 0) & (signs > 0).all(1)
    return np.asarray(np.where(positive, log - logs.sum(1), plain), np.float64)


def in_full(at: Layout, data: Data, z: Array, m: Normal) -> tuple[Array, Array, Array]:
    """whole, cross and blocks of the normal equations m, made at z, with what bends taken off."""
    many, tied = z.shape[2], by_tie(data)
    force = m.residual / m.variance
    # What is expected of a row is a sum over a, b and p of exponentials, and the derivatives by those are the terms
    # themselves. The logarithm of each goes up with its own parameter, and with these weights with softness and mass of a
    # metre (by row), and with what is the tie's own (by tie).
    term = m.jac[..., : at.f] * force[..., None]
    soft = np.zeros((2 * at.kinds, len(data.value), at.f))
    share = np.moveaxis(data.share[data.tie], 2, 0)  # (kinds, rows, roles)
    soft[: at.kinds, :, at.b : at.p] = np.repeat(share, at.sections, axis=2)
    soft[: at.kinds, :, at.p :] = share.mean(axis=2)[..., None]
    soft[at.kinds :, :, : at.p] = data.grams.T[..., None]
    own = np.zeros((data.ties, at.f, many))
    own[:, : at.p, 0] = 1.0
    own[:, at.p :, 1] = 1.0
    if many > 2:
        own[:, at.b : at.p, 2] = np.tile(data.missing, at.roles)
        own[:, at.p :, 2] = data.missing
    whole, blocks, cross = m.whole.copy(), m.blocks.copy(), m.cross.copy()
    each = np.arange(at.f)
    whole[:, each, each] -= term.sum(1)
    of_tie = tied @ term
    cross[:, :, : at.f] -= of_tie[..., None] * own
    pairs = (own[..., None] * own[:, :, None]).reshape(data.ties, at.f, many * many)
    blocks -= (of_tie[:, :, None] @ pairs)[:, :, 0].reshape(blocks.shape)
    for k, weight in enumerate(soft):
        if not weight.any():
            continue
        mixed = term * weight
        column = at.soft + k
        whole[:, : at.f, column] -= mixed.sum(1)
        whole[:, column, : at.f] -= mixed.sum(1)
        whole[:, column, at.soft :] -= np.tensordot(mixed, soft, ((1, 2), (1, 2)))
        cross[:, :, column] -= ((tied @ mixed)[:, :, None] @ own)[:, :, 0]
    mass = data.kind == MASS
    if mass.any():
        # A row of mass is (cut - used) times that of a metre: what was cut bends by the last alone.
        grams = data.grams[mass]
        whole_of = m.jac[:, mass, at.grams :].sum(2) / np.maximum(grams.sum(1), 1e-300)
        cut = (whole_of - m.jac[:, mass, : at.p].sum(2)) * force[:, mass]
        whole[:, at.grams :, at.grams :] -= np.swapaxes(cut[..., None] * grams, 1, 2) @ grams
    return whole, cross, blocks
