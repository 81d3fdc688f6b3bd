"""The calibration: what test ties say about cord per unit, overhead and length, starting from the rough shape.

    used of an end of role r in tie k  =  (a_r + sum_s b_rs N_s) exp(t_k) + noise
    tied length of tie k               =  sum_s p_s N_s exp(u_k) + f + noise

a, b, p are positive and live as logarithms with Gaussian priors; b (and p) share one softness, so that one role
measured informs the others. t_k, u_k are the tie's tension, correlated, with standard deviation tau; noise is
reading error plus variation that grows with the square root of the number of units, a fraction c of a unit each.
tau and c are integrated over a grid (quadrature); at each grid point the rest is a Laplace approximation at the
mode, found by Gauss-Newton (Tierney & Kadane 1986, JASA 81:82-86; Rue, Martino & Chopin 2009, JRSS B 71:319-392).
Nothing is random: the same ties give the same answer.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dim_ladder.base import InputError
from dim_ladder.calibrate.spread import Spread
from dim_ladder.calibrate.ties import Tie, usable_readings
from dim_ladder.library import HANGINGS, cord_kind
from dim_ladder.notation import Weave, working_ends
from dim_ladder.shape import RoughShape, rough_shape

Array = NDArray[np.float64]

READING_MM = 4.0  # one cut less one leftover, read off a tape
LENGTH_MM = 2.0  # tied length, read off a tape
TAU_GRID = (0.01, 0.02, 0.04, 0.07, 0.11)  # tie-to-tie, relative
TAU_SCALE = 0.05  # half-normal prior
UNIT_GRID = (0.01, 0.03, 0.07)  # unit-to-unit, relative
UNIT_SCALE = 0.03
TENSION_CORRELATION = 0.6  # a tight tie is shorter and eats less
OVERHEAD_SPREAD = 0.8
FIXED_MM, FIXED_SD = 8.0, 10.0  # start and finish in the tied length


LEAST_MM = 0.01


@dataclass(frozen=True, slots=True)
class Prior:
    """What is assumed before any tie. Lengths in mm.

    roles, sections : names in order. unit : (roles, sections) cord per unit. pitch : (sections,) band per unit.
    overhead : (roles,). spread, pitch_spread : sd of the logarithms; half of the variance is shared.
    """

    roles: tuple[str, ...]
    role_of: dict[str, str]
    sections: tuple[str, ...]
    unit: Array
    pitch: Array
    overhead: Array
    spread: float
    pitch_spread: float
    thickness_mm: float
    width_mm: float


def prior_for(weave: Weave, shape: RoughShape | None = None) -> Prior:
    """The prior of a weave from its rough shape and its cords' diameters.

    Raises InputError when nothing in the weave can be counted yet.
    """
    shape = shape or rough_shape(weave)
    if not shape.sections:
        raise InputError("there is no section with a traced step yet", "Record a unit first")
    names = shape.roles.names
    diameter = {}
    for role in names:
        ds = [cord_kind(c.kind).diameter for e in shape.roles.ends(role) if (c := weave.cord_of(e))]
        diameter[role] = sum(ds) / len(ds) if ds else 4.0
    every = [cord_kind(c.kind).diameter for e in working_ends(weave) if (c := weave.cord_of(e))]
    mean = sum(every) / len(every) if every else 4.0
    unit = np.array(
        [[s.per_role[r] * diameter[r] + s.slack_mm[r] for s in shape.sections] for r in names],
        dtype=np.float64,
    )
    pitch = np.array([s.pitch * mean + s.span_mm for s in shape.sections], dtype=np.float64)
    # What a section does not touch takes next to nothing: logarithms need a little of it.
    unit, pitch = np.maximum(unit, LEAST_MM), np.maximum(pitch, LEAST_MM)
    hanging = HANGINGS.get(weave.hang.on, HANGINGS["bar"]).per_cord_mm / 2
    overhead = np.full(len(names), hanging + 20.0)
    return Prior(
        names,
        shape.roles.role_of,
        tuple(s.name for s in shape.sections),
        unit,
        pitch,
        overhead,
        shape.spread,
        shape.pitch_spread,
        shape.thickness * mean,
        shape.width * mean,
    )


@dataclass(frozen=True, slots=True)
class _Component:
    """One grid point: its weight and the Gaussian of the shared parameters (log a, log b, log p, f)."""

    weight: float
    tau: float
    unit: float
    mean: Array
    cov: Array


@dataclass(frozen=True)
class Calibration:
    """The posterior. Every answer is a Spread in mm unless said otherwise."""

    prior: Prior
    components: tuple[_Component, ...]
    ties: int
    readings: int
    left_out: tuple[str, ...]
    thickness_mm: float
    width_mm: float

    # -- answers -----------------------------------------------------------------------------------

    def per_unit(self, role: str, section: str) -> Spread:
        """Cord of one end of a role per unit of a section."""
        return self._log_parameter(self._b(role, section))

    def overhead(self, role: str) -> Spread:
        """Cord of one end of a role that start, hanging and finish take."""
        return self._log_parameter(self.prior.roles.index(role))

    def pitch(self, section: str) -> Spread:
        """Length of band per unit of a section."""
        return self._log_parameter(self._p(section))

    def per_length(self, role: str, section: str) -> Spread:
        """Cord of one end per length of band, a plain ratio."""
        i, j = self._b(role, section), self._p(section)
        parts = []
        for c in self.components:
            variance = c.cov[i, i] + c.cov[j, j] - 2 * c.cov[i, j]
            parts.append((c.weight, math.exp(c.mean[i] - c.mean[j]), math.sqrt(max(variance, 1e-12))))
        return Spread(tuple(parts))

    def need(self, end: str, counts: Mapping[str, float]) -> Spread:
        """Cord one end will use in a new piece with these counts: the posterior predictive."""
        role = self.prior.role_of[end]
        parts = []
        for c in self.components:
            a, i = math.exp(c.mean[self.prior.roles.index(role)]), self.prior.roles.index(role)
            gradient = np.zeros(len(c.mean))
            gradient[i] = a
            total, wobble = a, 0.0
            for s in self.prior.sections:
                n = counts.get(s, 0)
                j = self._b(role, s)
                b = math.exp(c.mean[j])
                total += b * n
                gradient[j] = b * n
                wobble += (c.unit * b) ** 2 * n
            variance = float(gradient @ c.cov @ gradient) / total**2 + c.tau**2 + wobble / total**2
            parts.append((c.weight, total, math.sqrt(variance)))
        return Spread(tuple(parts))

    def length(self, counts: Mapping[str, float]) -> Spread:
        """Tied length of a new piece with these counts."""
        parts = []
        for c in self.components:
            gradient = np.zeros(len(c.mean))
            gradient[-1] = 1.0
            total, wobble = float(c.mean[-1]), 0.0
            for s in self.prior.sections:
                n = counts.get(s, 0)
                j = self._p(s)
                p = math.exp(c.mean[j])
                total += p * n
                gradient[j] = p * n
                wobble += (c.unit * p) ** 2 * n
            total = max(total, 1.0)
            variance = float(gradient @ c.cov @ gradient) / total**2 + c.tau**2 + wobble / total**2
            parts.append((c.weight, total, math.sqrt(variance)))
        return Spread(tuple(parts))

    @property
    def fixed_mm(self) -> float:
        """What start and finish add to the tied length."""
        return sum(c.weight * float(c.mean[-1]) for c in self.components)

    @cached_property
    def tie_spread(self) -> float:
        """Relative tie-to-tie standard deviation, posterior mean."""
        return sum(c.weight * c.tau for c in self.components)

    # -- inside ------------------------------------------------------------------------------------

    def _b(self, role: str, section: str) -> int:
        n = len(self.prior.sections)
        return len(self.prior.roles) + self.prior.roles.index(role) * n + self.prior.sections.index(section)

    def _p(self, section: str) -> int:
        r, s = len(self.prior.roles), len(self.prior.sections)
        return r + r * s + self.prior.sections.index(section)

    def _log_parameter(self, i: int) -> Spread:
        return Spread(
            tuple(
                (c.weight, math.exp(c.mean[i]), math.sqrt(max(c.cov[i, i], 1e-12))) for c in self.components
            )
        )


@dataclass(frozen=True, slots=True)
class _Data:
    """Rows of observations. ends : (rows, roles) how many ends of each role; counts : (rows, sections)."""

    used: Array
    used_ends: Array
    used_counts: Array
    used_tie: NDArray[np.int64]
    length: Array
    length_counts: Array
    length_tie: NDArray[np.int64]


def calibrate(weave: Weave, ties: tuple[Tie, ...], prior: Prior | None = None) -> Calibration:
    """Fit. With no tie at all the answer is the prior, wide and usable."""
    prior = prior or prior_for(weave)
    data, left_out = _collect(prior, ties)
    k = len(ties)
    grid = [(tau, unit) for tau in TAU_GRID for unit in UNIT_GRID]
    fits = [_fit(prior, data, k, tau, unit) for tau, unit in grid]
    logs = np.array([f[0] for f in fits])
    weights = np.exp(logs - logs.max())
    weights /= weights.sum()
    components = tuple(
        _Component(float(w), tau, unit, f[1], f[2])
        for w, (tau, unit), f in zip(weights, grid, fits, strict=True)
        if w > 1e-6
    )
    scale = sum(c.weight for c in components)
    components = tuple(_Component(c.weight / scale, c.tau, c.unit, c.mean, c.cov) for c in components)
    measured = [t.thickness_mm for t in ties if t.thickness_mm]
    widths = [t.width_mm for t in ties if t.width_mm]
    return Calibration(
        prior,
        components,
        k,
        len(data.used),
        tuple(left_out),
        sum(measured) / len(measured) if measured else prior.thickness_mm,
        sum(widths) / len(widths) if widths else prior.width_mm,
    )


def _inverse(matrix: Array) -> Array:
    return np.asarray(np.linalg.inv(matrix), dtype=np.float64)


def _collect(prior: Prior, ties: tuple[Tie, ...]) -> tuple[_Data, list[str]]:
    left_out: list[str] = []
    used, used_ends, used_counts, used_tie = [], [], [], []
    length, length_counts, length_tie = [], [], []
    for k, tie in enumerate(ties):
        counts = [float(tie.counts.get(s, 0)) for s in prior.sections]
        if not any(counts):
            left_out.append(f"{tie.id}: no unit count, so its cord cannot be shared out")
            continue
        for ends, mm in usable_readings(tie):
            row = [0.0] * len(prior.roles)
            known = [e for e in ends if e in prior.role_of]
            if len(known) != len(ends):
                left_out.append(
                    f"{tie.id}: {', '.join(e for e in ends if e not in known)} is not in this weave"
                )
                continue
            for e in known:
                row[prior.roles.index(prior.role_of[e])] += 1
            used.append(mm)
            used_ends.append(row)
            used_counts.append(counts)
            used_tie.append(k)
        if tie.length_mm is not None:
            length.append(tie.length_mm)
            length_counts.append(counts)
            length_tie.append(k)
    r, s = len(prior.roles), len(prior.sections)
    return (
        _Data(
            np.array(used, dtype=np.float64),
            np.array(used_ends, dtype=np.float64).reshape(len(used), r),
            np.array(used_counts, dtype=np.float64).reshape(len(used), s),
            np.array(used_tie, dtype=np.int64),
            np.array(length, dtype=np.float64),
            np.array(length_counts, dtype=np.float64).reshape(len(length), s),
            np.array(length_tie, dtype=np.int64),
        ),
        left_out,
    )


def _prior_gaussian(prior: Prior) -> tuple[Array, Array]:
    """Mean and precision of the shared parameters."""
    r, s = len(prior.roles), len(prior.sections)
    n = r + r * s + s + 1
    mean = np.concatenate(
        [np.log(prior.overhead), np.log(prior.unit).ravel(), np.log(prior.pitch), [FIXED_MM]]
    )
    cov = np.zeros((n, n))
    cov[:r, :r] = np.eye(r) * OVERHEAD_SPREAD**2
    half = prior.spread**2 / 2
    cov[r : r + r * s, r : r + r * s] = half * (np.eye(r * s) + 1.0)
    half = prior.pitch_spread**2 / 2
    cov[r + r * s : n - 1, r + r * s : n - 1] = half * (np.eye(s) + 1.0)
    cov[-1, -1] = FIXED_SD**2
    return mean, _inverse(cov)


def _fit(prior: Prior, data: _Data, ties: int, tau: float, unit: float) -> tuple[float, Array, Array]:
    """Log evidence (up to a constant), mean and covariance of the shared parameters at one grid point."""
    mean0, precision0 = _prior_gaussian(prior)
    n = len(mean0)
    log_hyper = -0.5 * (tau / TAU_SCALE) ** 2 - 0.5 * (unit / UNIT_SCALE) ** 2
    log_hyper += math.log(_cell(TAU_GRID, tau) * _cell(UNIT_GRID, unit))
    if not len(data.used) and not len(data.length):
        return log_hyper, mean0, _inverse(precision0)
    size = n + 2 * ties
    precision = np.zeros((size, size))
    precision[:n, :n] = precision0
    tension = _inverse(tau**2 * np.array([[1, TENSION_CORRELATION], [TENSION_CORRELATION, 1]]))
    for k in range(ties):
        i, j = n + k, n + ties + k
        precision[np.ix_([i, j], [i, j])] = tension
    theta = np.concatenate([mean0, np.zeros(2 * ties)])
    centre = theta.copy()
    variance = np.ones(0)
    best = math.inf
    for _ in range(25):
        value, jacobian, variance = _predict(prior, data, theta, ties, unit)
        residual = np.concatenate([data.used, data.length]) - value
        weighted = jacobian / variance[:, None]
        hessian = precision + jacobian.T @ weighted
        step = np.linalg.solve(hessian, weighted.T @ residual - precision @ (theta - centre))
        size_of = float(np.max(np.abs(step[: n - 1]))) if n > 1 else 0.0
        theta = theta + step * min(1.0, 0.7 / max(size_of, 1e-12))
        if abs(best - size_of) < 1e-10 or float(np.max(np.abs(step))) < 1e-9:
            break
        best = size_of
    value, jacobian, variance = _predict(prior, data, theta, ties, unit)
    residual = np.concatenate([data.used, data.length]) - value
    hessian = precision + jacobian.T @ (jacobian / variance[:, None])
    d = theta - centre
    _, logdet = np.linalg.slogdet(hessian)
    evidence = (
        -0.5 * float(np.sum(residual**2 / variance) + np.sum(np.log(variance)))
        - 0.5 * float(d @ precision @ d)
        + 0.5 * ties * float(np.linalg.slogdet(tension)[1])
        - 0.5 * float(logdet)
    )
    return log_hyper + evidence, theta[:n], _inverse(hessian)[:n, :n]


def _cell(grid: tuple[float, ...], at: float) -> float:
    """Width of the grid cell around a point, so that an uneven grid still integrates the prior."""
    i = grid.index(at)
    lo = grid[i - 1] if i else 0.0
    hi = grid[i + 1] if i + 1 < len(grid) else grid[i] + (grid[i] - lo)
    return (hi - lo) / 2


def _predict(prior: Prior, data: _Data, theta: Array, ties: int, unit: float) -> tuple[Array, Array, Array]:
    """Expected observations, their derivatives by every parameter, and their variances (mm^2)."""
    r, s = len(prior.roles), len(prior.sections)
    n = r + r * s + s + 1
    a = np.exp(theta[:r])
    b = np.exp(theta[r : r + r * s]).reshape(r, s)
    p = np.exp(theta[r + r * s : n - 1])
    t, u = theta[n : n + ties], theta[n + ties :]
    rows, lengths = len(data.used), len(data.length)
    jacobian = np.zeros((rows + lengths, len(theta)))
    value = np.zeros(rows + lengths)
    variance = np.zeros(rows + lengths)
    if rows:
        gain = np.exp(t[data.used_tie])
        part_a = data.used_ends * a * gain[:, None]
        part_b = data.used_ends[:, :, None] * b * data.used_counts[:, None, :] * gain[:, None, None]
        total = part_a.sum(1) + part_b.sum((1, 2))
        value[:rows] = total
        jacobian[:rows, :r] = part_a
        jacobian[:rows, r : r + r * s] = part_b.reshape(rows, r * s)
        jacobian[np.arange(rows), n + data.used_tie] = total
        wobble = (data.used_ends[:, :, None] * (unit * b) ** 2 * data.used_counts[:, None, :]).sum((1, 2))
        variance[:rows] = READING_MM**2 * data.used_ends.sum(1) + wobble
    if lengths:
        gain = np.exp(u[data.length_tie])
        part_p = data.length_counts * p * gain[:, None]
        value[rows:] = part_p.sum(1) + theta[n - 1]
        jacobian[rows:, r + r * s : n - 1] = part_p
        jacobian[rows:, n - 1] = 1.0
        jacobian[np.arange(rows, rows + lengths), n + ties + data.length_tie] = part_p.sum(1)
        variance[rows:] = LENGTH_MM**2 + ((unit * p) ** 2 * data.length_counts).sum(1)
    return value, jacobian, variance
