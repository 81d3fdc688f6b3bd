"""The calibration: what test ties say about cord per unit, overhead and length, starting from the tight shape.

fit.py says the model and how it is fitted. Here is what comes out: a mixture, over the grid of spreads, of Gaussians over
logarithms; every answer is a mixture of log-normals in closed form. Nothing is random: the same ties, the same answer.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dim_ladder.calibrate.asked import Asked, Key, Layout
from dim_ladder.calibrate.belief import Belief, Marginal, marginals
from dim_ladder.calibrate.fit import TAU_GRID, Fit, layout, solve
from dim_ladder.calibrate.joint import chance_any_above
from dim_ladder.calibrate.observe import Data, collect
from dim_ladder.calibrate.prior import UNKNOWN, Array, Prior, Softness, prior_for
from dim_ladder.calibrate.spread import Spread
from dim_ladder.calibrate.ties import Tie
from dim_ladder.notation import Weave, working_ends

LOPSIDED = 0.01  # of the whole need, from which the spread of an overhead bends that of the need
SKEWED = 0.03  # and that of the cord of a unit
FAINT = 1e-5  # grid points of less weight are left out
TORN = 0.5  # of the weight where ties differ by as much as the grid holds: then they contradict each other


@dataclass(frozen=True, slots=True)
class _Component:
    """One grid point: its weight, tie-to-tie and unit-to-unit spread, and the Gaussian of the shared parameters."""

    weight: float
    tau: float
    unit: float
    mean: Array
    cov: Array


@dataclass(frozen=True)
class Calibration:
    """The posterior. Every answer is a Spread in mm unless said otherwise. kept : which grid points of the fit the
    components are. refusal : why it should not be relied on for cutting, "" where it may be."""

    prior: Prior
    data: Data
    fit: Fit
    components: tuple[_Component, ...]
    kept: tuple[int, ...]
    ties: int
    readings: int
    left_out: tuple[str, ...]
    thickness_mm: float
    width_mm: float
    refusal: str = ""

    # -- answers -----------------------------------------------------------------------------------

    def per_unit(self, role: str, section: str) -> Spread:
        """Cord of one end of a role per unit of a section."""
        r, i = self.prior.roles.index(role), self._b(role, section)
        parts = []
        for c in self.components:
            gradient = self._softened(r)
            gradient[i] = 1.0
            parts.append(_part(c, math.exp(float(gradient @ c.mean)), gradient))
        k = self.prior.sections.index(section)
        free = [float(self.prior.slack[e][k]) for e, own in self.prior.role_of.items() if own == role]
        return Spread(tuple(parts), sum(free) / max(len(free), 1))

    def overhead(self, role: str) -> Spread:
        """Cord of one end of a role that start, hanging and finish take."""
        i = self.prior.roles.index(role)
        return Spread(
            tuple(
                (c.weight, math.exp(c.mean[i]), math.sqrt(max(c.cov[i, i], 1e-12))) for c in self.components
            )
        )

    def pitch(self, section: str) -> Spread:
        """Band per unit of a section."""
        parts = []
        for c in self.components:
            gradient = self._long()
            gradient[self.layout.p + self.prior.sections.index(section)] = 1.0
            parts.append(_part(c, math.exp(float(gradient @ c.mean)), gradient))
        return Spread(tuple(parts), float(self.prior.span[self.prior.sections.index(section)]))

    def per_length(self, role: str, section: str) -> Spread:
        """Cord of one end of a role for a length of band, as a ratio."""
        r, i = self.prior.roles.index(role), self._b(role, section)
        j = self.layout.p + self.prior.sections.index(section)
        parts = []
        for c in self.components:
            gradient = self._softened(r) - self._long()
            gradient[i], gradient[j] = 1.0, -1.0
            parts.append(_part(c, math.exp(float(gradient @ c.mean)), gradient))
        return Spread(tuple(parts))

    def need(self, end: str, counts: Mapping[str, float]) -> Spread:
        """Cord that an end of a new piece with these counts will take, without what a hand or a finish holds."""
        return self.together((end,), counts)

    def together(self, ends: Sequence[str], counts: Mapping[str, float]) -> Spread:
        """Cord that some ends of a new piece take together, as of a folded cord."""
        asked = self._asked(ends, counts)
        if asked.key not in self._known:
            self.foresee((ends,), counts)
        return self._known[asked.key].plus(self._free(ends, counts))

    def _free(self, ends: Sequence[str], counts: Mapping[str, float]) -> float:
        """Cord of these ends that is left free, mm: known exactly."""
        n = np.array([counts.get(s, 0) for s in self.prior.sections], np.float64)
        return float(sum(float(self.prior.slack[e] @ n) for e in ends))

    def foresee(self, groups: Iterable[Sequence[str]], counts: Mapping[str, float]) -> None:
        """Work out what groups of ends take together, side by side, which takes less than one after the other."""
        new = {a.key: a for a in (self._asked(g, counts) for g in groups) if a.key not in self._known}
        bent = [a for a in new.values() if self._bent(a)]
        found = (
            marginals(self.prior, self.data, self.belief, self.fit.tie[list(self.kept)], bent) if bent else []
        )
        shapes = dict(zip((a.key for a in bent), found, strict=True))
        self._known.update({key: self._spread(a, shapes.get(key)) for key, a in new.items()})

    def roughly(self, ends: Sequence[str], counts: Mapping[str, float]) -> Spread:
        """As `together`, as a Gaussian over logarithms says it at once: for bands over many counts, where tails do not matter."""
        return self._spread(self._asked(ends, counts)).plus(self._free(ends, counts))

    def chance_short(self, limits: Mapping[str, float], counts: Mapping[str, float]) -> float:
        """The chance that any of these ends of one piece takes more than its limit, mm."""
        ends = [e for e in limits if e in self.prior.role_of]
        if not ends:
            return 0.0
        if min(limits[e] for e in ends) <= 0:
            return 1.0
        self.foresee([(e,) for e in ends], counts)
        single = np.array([self.need(e, counts).chance_above(limits[e]) for e in ends])
        if len(ends) == 1:
            return float(single[0])
        # Each end as its own spread says, and together as the logarithms go (a Gaussian copula).
        m = self.belief
        _, gradient, wobble = self.totals(m, ends, counts)
        cov = gradient @ m.cov @ np.swapaxes(gradient, 1, 2) + (m.tau**2)[:, None, None]
        cov = np.einsum("c,cij->ij", m.weight, cov + wobble[:, None] * np.eye(len(ends)))
        sd = np.sqrt(np.diag(cov))
        return chance_any_above(single, cov / np.outer(sd, sd))

    def length(self, counts: Mapping[str, float]) -> Spread:
        """Tied length of a new piece with these counts."""
        at, parts = self.layout, []
        soft = self._long()
        for c in self.components:
            gradient = np.zeros(at.size)
            gradient[at.f] = 1.0
            total, wobble = float(c.mean[at.f]), 0.0
            grow = math.exp(float(soft @ c.mean))
            for k, s in enumerate(self.prior.sections):
                n = counts.get(s, 0)
                p = math.exp(c.mean[at.p + k]) * grow * float(self.prior.adds[k])
                total += p * n
                gradient[at.p + k] = p * n
                gradient += soft * (p * n)
                wobble += (c.unit * p) ** 2 * n
            # Tension stretches what is tied, not what start and finish add.
            tied = c.tau * (total - float(c.mean[at.f]))
            variance = (float(gradient @ c.cov @ gradient) + tied**2 + wobble) / max(total, 1.0) ** 2
            parts.append((c.weight, max(total, 1.0), math.sqrt(variance)))
        free = sum(
            counts.get(s, 0) * float(self.prior.span[k] * self.prior.adds[k])
            for k, s in enumerate(self.prior.sections)
        )
        return Spread(tuple(parts), float(free))

    @property
    def fixed_mm(self) -> float:
        """What start and finish add to the tied length."""
        return sum(c.weight * float(c.mean[self.layout.f]) for c in self.components)

    @property
    def lying(self) -> frozenset[str]:
        """Sections that lie on others or beside them and add nothing to the length."""
        return frozenset(s for s, adds in zip(self.prior.sections, self.prior.adds, strict=True) if not adds)

    @cached_property
    def tie_spread(self) -> float:
        """Relative tie-to-tie standard deviation, posterior mean."""
        return sum(c.weight * c.tau for c in self.components)

    def is_of(self, weave: Weave) -> bool:
        """Whether it speaks of the ends that a weave has now."""
        return set(self.prior.role_of) == set(working_ends(weave))

    def softness(self, kind: str) -> tuple[float, float]:
        """Mean and standard deviation of the softness of a kind of cord, as a logarithm."""
        if kind not in self.data.kinds:
            return self.prior.softness.kind(kind)
        i = self.layout.soft + self.data.kinds.index(kind)
        mean = sum(c.weight * float(c.mean[i]) for c in self.components)
        square = sum(c.weight * float(c.cov[i, i] + (c.mean[i] - mean) ** 2) for c in self.components)
        return mean, math.sqrt(square)

    @cached_property
    def layout(self) -> Layout:
        return layout(self.prior, len(self.data.kinds))

    # -- inside ------------------------------------------------------------------------------------

    def _b(self, role: str, section: str) -> int:
        at = self.layout
        return at.b + self.prior.roles.index(role) * at.sections + self.prior.sections.index(section)

    def _softened(self, r: int) -> Array:
        at = self.layout
        out = np.zeros(at.size)
        out[at.soft : at.grams] = self.data.now[r]
        return out

    def _long(self) -> Array:
        at = self.layout
        out = np.zeros(at.size)
        out[at.soft : at.grams] = self.data.now.mean(axis=0)
        return out

    @cached_property
    def belief(self) -> Belief:
        """The grid points side by side."""
        c = self.components
        return Belief(
            np.array([x.weight for x in c]), np.array([x.tau for x in c]), np.array([x.unit for x in c]),
            np.array([x.mean for x in c]), np.array([x.cov for x in c]),
        )  # fmt: skip

    @cached_property
    def _known(self) -> dict[Key, Spread]:
        """What was asked for."""
        return {}

    def _asked(self, ends: Sequence[str], counts: Mapping[str, float]) -> Asked:
        r = np.array([self.prior.roles.index(self.prior.role_of[e]) for e in ends], np.int64)
        n = np.array([counts.get(s, 0) for s in self.prior.sections], np.float64)
        return Asked(r, n, self.data.now[r])

    def _bent(self, asked: Asked) -> bool:
        """Whether what is added to the cord of the units, or they, are too uncertain for a Gaussian over logarithms."""
        at, m = self.layout, self.belief
        _, slope = asked.log(at, m.mean)
        part = m.weight @ np.abs(slope * np.sqrt(np.einsum("cii->ci", m.cov)))
        return bool(part[: at.b].max(initial=0.0) > LOPSIDED or part[at.b : at.p].max(initial=0.0) > SKEWED)

    def _spread(self, asked: Asked, known: Marginal | None = None) -> Spread:
        """Cord in one piece: what is expected, as far as it is known, and what tension and units add."""
        m = self.belief
        totals, gradient, wobble = asked.of(self.layout, m.mean)
        total = totals.sum(1)
        variance = m.tau**2 + (m.unit**2 * (wobble * totals**2).sum(1)) / total**2
        if known:
            weight, value = known.weight, known.value
        else:
            slope = (totals[..., None] * gradient).sum(1) / total[:, None]
            variance = variance + ((slope[:, None] @ m.cov)[:, 0] * slope).sum(1)
            weight, value = m.weight[:, None], np.log(total)[:, None]
        kept = weight > FAINT * weight.max()
        share = weight[kept] / weight[kept].sum()
        sd = np.broadcast_to(np.sqrt(variance)[:, None], weight.shape)[kept]
        return Spread(tuple(zip(share.tolist(), np.exp(value[kept]).tolist(), sd.tolist(), strict=True)))

    def totals(
        self, m: Belief, ends: Sequence[str], counts: Mapping[str, float]
    ) -> tuple[Array, Array, Array]:
        """Of every grid point, expected cord of ends (c, e), derivatives of its logarithm (c, e, n), and the relative
        variance of their units (c, e)."""
        totals, gradient, wobble = self._asked(ends, counts).of(self.layout, m.mean)
        return totals, gradient, (m.unit**2)[:, None] * wobble


def _part(c: _Component, median: float, gradient: Array) -> tuple[float, float, float]:
    return c.weight, median, math.sqrt(max(float(gradient @ c.cov @ gradient), 1e-12))


def calibrate(
    weave: Weave | None, ties: Sequence[Tie], prior: Prior | None = None, *, softness: Softness = UNKNOWN,
    known: Sequence[str] = (),
) -> Calibration:  # fmt: skip
    """Fit. With no tie at all the answer is the prior, wide and usable. prior : instead of that of the weave. softness : what
    other weaves say of the cord. known : kinds of cord to count with, in their order."""
    if prior is None:
        if weave is None:
            raise ValueError("a fit needs a weave or a prior")
        prior = prior_for(weave, softness=softness)
    data = collect(prior, ties, known)
    fit = solve(prior, data)
    finite = np.where(np.isfinite(fit.log_weight), fit.log_weight, -np.inf)
    weights = np.exp(finite - finite.max())
    weights /= weights.sum()
    kept = np.flatnonzero(weights > FAINT)
    scale = float(weights[kept].sum())
    components = tuple(
        _Component(float(weights[k]) / scale, float(fit.tau[k]), float(fit.unit[k]), fit.mean[k], fit.cov[k])
        for k in kept
    )
    measured = [t.thickness_mm for t in ties if t.thickness_mm]
    widths = [t.width_mm for t in ties if t.width_mm]
    return Calibration(
        prior,
        data,
        fit,
        components,
        tuple(kept.tolist()),
        len(ties),
        sum(row.reading >= 0 for row in data.rows),
        data.left_out,
        sum(measured) / len(measured) if measured else prior.thickness_mm,
        sum(widths) / len(widths) if widths else prior.width_mm,
        _refusal(fit, weights),
    )


def _refusal(fit: Fit, weights: Array) -> str:
    """Why the fit should not be relied on; "" where it may be."""
    if float(weights[~fit.settled].sum()) > 0.01:
        return (
            "the ties do not fit any rates: no best answer was found. Look through them for a slip, or remove the one that "
            "does not belong"
        )
    if fit.tie.shape[1] > 1 and float(weights[fit.tau >= TAU_GRID[-1]].sum()) > TORN:
        return (
            "the ties contradict each other by more than tension explains. Look for a slip in units or readings, or for a "
            "tie that was made another way"
        )
    return ""
