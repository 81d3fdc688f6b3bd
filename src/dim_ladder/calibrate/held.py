"""The fit where something that a piece takes is held at a value: how well the ties go with that value.

Away from the best value what is expected bends, and the ties pull back, so that here the second derivatives count in full,
not only as far as Gauss-Newton goes: everything expected is a sum of exponentials of sums of parameters, whose second
derivatives are those exponentials again.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.asked import Asked
from dim_ladder.calibrate.expected import Layout, unit_cord
from dim_ladder.calibrate.fit import LARGEST
from dim_ladder.calibrate.normal import Before, Normal, by_tie, density, eliminated, newton, normal
from dim_ladder.calibrate.observe import LENGTH, MASS, Data
from dim_ladder.calibrate.prior import Array

Blocks = tuple[Array, Array, Array]
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

    def bend(self, at: Layout, theta: Array) -> Array:
        """Second derivatives (g, n, n) of that, for theta (g, n)."""
        out = np.zeros((*theta.shape, at.size))
        for k, one in enumerate(self.asked):
            mine = np.flatnonzero(self.which == k)
            out[mine] = one.bend(at, theta[mine])
        return out


def held(
    at: Layout, data: Data, b: Before, theta: Array, z: Array, unit: Array, target: Target
) -> tuple[Array, Array, Array, Array]:
    """From theta (g, n) and the ties' own unknowns z (g, ties, own), towards the target as well as a few steps of Gauss-Newton
    go: the mode of both, the value (g,) that came of it, and the log density of that value up to a constant."""
    firm = target.sd[:, None] ** -2.0
    most = STEPS if data.ties else MORE
    for k in range(most + 1):
        m = normal(at, data, theta, z, unit, b)
        value, slope = target.log(at, theta)
        drawn = (firm * slope)[..., None] * slope[:, None]
        if k == most:
            break
        system = eliminated(m.whole + drawn, m.cross, m.blocks, b, data.sitting)
        step, own = newton(system, m.gradient + firm * slope * (target.value - value)[:, None], m.pull)
        size = np.maximum(np.abs(step).max(1), np.abs(own).max((1, 2), initial=0.0))
        if float(size.max()) < RESTING:
            break  # what is left to go does not count
        short = np.minimum(1.0, LARGEST / np.maximum(size, 1e-300))
        theta, z = theta + step * short[:, None], z + own * short[:, None, None]
    # What pulls against the target (Lagrange's multiplier) says how much its bend counts.
    alone = np.linalg.solve(m.system.reduced, slope[..., None])[..., 0]
    free = newton(m.system, m.gradient, m.pull)[0]
    against = (free * slope).sum(1) / (slope * alone).sum(1)
    bent = drawn + against[:, None, None] * target.bend(at, theta)
    full = in_full(at, data, theta, z, m)
    return theta, z, value, density(data, b, theta, m) - 0.5 * _log_det(data, b, m, drawn, bent, full)


def _log_det(data: Data, b: Before, m: Normal, drawn: Array, bent: Array, full: Blocks) -> Array:
    """(g,) logarithm of the determinant of all second derivatives, with those of the target, bent; and where they are not
    positive, as far as Gauss-Newton goes, drawn."""
    whole, cross, blocks = full
    found = eliminated(whole + bent, cross, blocks, b, data.sitting)
    plain = eliminated(m.whole + drawn, m.cross, m.blocks, b, data.sitting)
    return np.asarray(np.where(found.positive(), found.log_det(), plain.log_det()), np.float64)


def in_full(at: Layout, data: Data, theta: Array, z: Array, m: Normal) -> Blocks:
    """whole, cross and blocks of the normal equations m, made at theta and z, with what bends taken off. What is expected of a
    row is a sum of exponentials of sums of parameters: the second derivative of one by two of its parameters is itself. What
    bends by the mass of a metre is left out: that is known within a few in a hundred."""
    mass = np.where(data.kind == MASS, -np.exp(theta[:, at.grams : at.each] @ data.grams.T), 1.0)
    force = by_tie(data) * (m.residual / m.variance * mass)[:, None]
    if not data.ties:
        return m.whole, m.cross, m.blocks
    weight = _terms(at, data, theta, z, force)  # (g, ties, terms)
    whole, blocks, cross = m.whole.copy(), m.blocks.copy(), m.cross.copy()
    own = _own_parts(at, data, z.shape[2])
    parts, which = _parts(at, data)
    for k, part in enumerate(parts):
        of = weight[:, which == k]
        whole -= part.T @ (of.sum(1)[..., None] * part)
        mine = own[which == k]
        cross[:, which == k] -= part.T @ (of[..., None] * mine)
    blocks -= np.swapaxes(own, 1, 2) @ (weight[..., None] * own)
    return whole, cross, blocks


def _terms(at: Layout, data: Data, theta: Array, z: Array, force: Array) -> Array:
    """(g, ties, terms): every exponential, times the force (g, ties, rows) of the rows it is in: what start and finish take of
    every end, what every end takes in every section, and what every section adds to the length."""
    g = len(theta)
    soft = theta[:, at.soft : at.grams]
    who = theta[:, at.who :].reshape(g, at.people, 2)
    hands = data.person @ who if at.people else np.zeros((g, data.ties, 2))
    gain = np.exp(z[..., :2] + hands)
    guessed = np.exp(z[..., 2:]).sum(2) if z.shape[2] > 2 else np.zeros(z.shape[:2])
    count = guessed[..., None] * data.missing + data.counts
    scale = data.ratio * np.exp(np.moveaxis(data.share @ soft.T, 2, 0))
    one = unit_cord(at, theta, data.role, data.own, theta[:, at.each : at.who])
    cord = scale[..., None] * one * count[:, :, None]
    pulled = force @ data.ends * gain[..., :1]  # (g, ties, ends)
    start = pulled * np.exp(theta[:, None, : at.b])
    grow = data.ratio_length * np.exp(soft @ data.share.mean(axis=1).T)
    long = np.exp(theta[:, None, at.p : at.f]) * data.adds * count * (grow * gain[..., 1])[..., None]
    long = long * force[..., data.kind == LENGTH].sum(2)[..., None]
    return np.concatenate(
        [start, (pulled[..., None] * cord).reshape(g, data.ties, at.ends * at.sections), long], axis=2
    )


def _parts(at: Layout, data: Data) -> tuple[list[Array], NDArray[np.int64]]:
    """(terms, n), how every term goes up with every shared parameter, once for all ties that are alike in cord and person; and
    which of them a tie is."""
    ends, sections = at.ends, at.sections
    alike = np.concatenate([data.share.reshape(data.ties, -1), data.person], axis=1)
    kinds, first, which = np.unique(alike, axis=0, return_index=True, return_inverse=True)
    out = []
    for k in first[: len(kinds)].tolist():
        part = np.zeros((ends * (1 + sections) + sections, at.size))
        e, s = np.repeat(np.arange(ends), sections), np.tile(np.arange(sections), ends)
        cord, long = ends + np.arange(ends * sections), ends * (1 + sections) + np.arange(sections)
        part[np.arange(ends), np.arange(ends)] = 1.0
        part[cord, at.b + data.role[e] * sections + s] = 1.0
        part[cord, at.each + e] = 1.0
        part[ends : long[0], at.soft : at.grams] = data.share[k][e]
        part[long, at.p + np.arange(sections)] = 1.0
        part[long[0] :, at.soft : at.grams] = data.share[k].mean(axis=0)
        part[: long[0], at.who :: 2] = data.person[k]
        part[long[0] :, at.who + 1 :: 2] = data.person[k]
        out.append(part)
    return out, np.asarray(which.reshape(-1), np.int64)


def _own_parts(at: Layout, data: Data, many: int) -> Array:
    """(ties, terms, own): how every term goes up with what is a tie's own."""
    cord, length = at.ends * (1 + at.sections), at.sections
    out = np.zeros((data.ties, cord + length, many))
    out[:, :cord, 0] = 1.0
    out[:, cord:, 1] = 1.0
    if many > 2:
        out[:, at.ends : cord, 2] = np.tile(data.missing, at.ends)
        out[:, cord:, 2] = data.missing
    return out
