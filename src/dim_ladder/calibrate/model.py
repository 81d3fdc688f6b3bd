"""The calibration: what test ties say about cord per unit, overhead and length, starting from the tight shape.

fit.py says the model and how it is fitted. Here is what comes out: a mixture, over the grid of spreads, of Gaussians over
logarithms; every answer is a mixture of log-normals in closed form. Nothing is random: the same ties, the same answer.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import repeat

import numpy as np

from dim_ladder.calibrate.asked import Asked, Key, Size, Taken
from dim_ladder.calibrate.belief import Belief, Fitted, Marginal, marginals, side_by_side
from dim_ladder.calibrate.common import Common
from dim_ladder.calibrate.expected import Layout
from dim_ladder.calibrate.grid import correlated
from dim_ladder.calibrate.joint import chance_any_above
from dim_ladder.calibrate.observe import Data
from dim_ladder.calibrate.prior import Array, Prior
from dim_ladder.calibrate.sampled import credible
from dim_ladder.calibrate.spread import Spread
from dim_ladder.notation import Weave, working_ends

HELD, SAMPLED = "held", "sampled"
LOPSIDED = 0.03  # of the whole need, from which the spread of an overhead bends that of the need
SKEWED = 0.07  # and that of the cord of a unit, or its length
FAINT = 1e-5  # grid points of less weight are left out


@dataclass(frozen=True, slots=True)
class Component:
    """One grid point: its weight, tie-to-tie (of a new piece, in a sitting of its own) and unit-to-unit spread, and the Gaussian
    of the shared parameters."""

    weight: float
    tau: float
    unit: float
    mean: Array
    cov: Array


@dataclass(frozen=True)
class Calibration:
    """The posterior. Every answer is a Spread in mm unless said otherwise. whole : the fit of all ties; parts : fits of all or
    fewer with their weights, where a tie may be a slip (calibrate/doubt.py). doubted : ids of ties that are left out of much of
    the answer; common : what may be wrong with all of them. refusal : why it should not be relied on for cutting, "" where it may be."""

    prior: Prior
    whole: Fitted
    parts: tuple[tuple[float, Fitted], ...]
    components: tuple[Component, ...]
    ties: int
    readings: int
    left_out: tuple[str, ...]
    doubted: tuple[str, ...]
    thickness: Spread
    width_mm: float
    common: tuple[Common, ...] = ()
    refusal: str = ""

    @property
    def data(self) -> Data:
        return self.whole.data

    @property
    def thickness_mm(self) -> float:
        return self.thickness.median

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
        mine = [i for i, r in enumerate(self.prior.role_of.values()) if r == role]
        parts = []
        for c in self.components:
            each = np.exp(c.mean[mine])
            gradient = np.zeros(self.layout.size)
            gradient[mine] = each / each.sum()
            parts.append(_part(c, float(each.mean()), gradient))
        return Spread(tuple(parts))

    def pitch(self, section: str) -> Spread:
        """Band per unit of a section."""
        if section not in self._pitches:
            self._pitches[section] = self._pitch(section)
        return self._pitches[section]

    @cached_property
    def _pitches(self) -> dict[str, Spread]:
        """By section: asked for every size."""
        return {}

    def _pitch(self, section: str) -> Spread:
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

    def need(self, end: str, counts: Mapping[str, float], mm: float = 0.0) -> Spread:
        """Cord that an end of a new piece with these counts will take, without what a hand or a finish holds. mm : how long it is
        to be, where units that grow are tied until it is, whatever their number; 0 where they are counted."""
        return self.together((end,), counts, mm)

    def together(self, ends: Sequence[str], counts: Mapping[str, float], mm: float = 0.0) -> Spread:
        """Cord that some ends of a new piece take together, as of a folded cord."""
        asked = self._asked(ends, counts, mm)
        if asked.key not in self._known:
            self.foresee((ends,), counts, mm)
        return self._known[asked.key].plus(self._free(ends, counts))

    def _free(self, ends: Sequence[str], counts: Mapping[str, float]) -> float:
        """Cord of these ends that is left free, mm: known exactly."""
        n = np.array([counts.get(s, 0) for s in self.prior.sections], np.float64)
        rows = list(self.prior.role_of)
        slack = self.prior.slack_in(counts) @ n
        return float(sum(slack[rows.index(e)] for e in ends))

    def with_free(self, span: Array, slack: Mapping[str, Array]) -> Calibration:
        """With what is left free in a unit as it is said here. What was worked out of cord that is knotted is known to both."""
        out = replace(self, prior=replace(self.prior, span=span, slack=dict(slack)))
        # Questions are known by the length that is knotted, without what is free.
        out.__dict__.update(_known=self._known, _correlated=self._correlated, belief=self.belief)
        return out

    def foresee(self, groups: Iterable[Sequence[str]], counts: Mapping[str, float], mm: float = 0.0) -> None:
        """Work out what groups of ends take together, side by side, which takes less than one after the other."""
        self.foresee_all([(groups, counts, mm)])

    def foresee_all(
        self,
        pieces: Iterable[tuple[Iterable[Sequence[str]], Mapping[str, float], float]],
        sized: Iterable[Calibration] | None = None,
    ) -> None:
        """As `foresee`, of several pieces: their groups of ends, their counts and how long each is to be. sized : by piece, this one
        with what is left free in that piece (`with_free`); itself by default."""
        each = zip(pieces, sized if sized is not None else repeat(self), strict=sized is not None)
        asked = (c._asked(g, counts, mm) for (groups, counts, mm), c in each for g in groups)
        new = {a.key: a for a in asked if a.key not in self._known}
        ways = {key: self._bent(a) for key, a in new.items()}
        bent = [a for key, a in new.items() if ways[key]]
        held = [a for a in bent if ways[a.key] == HELD]
        found: list[list[Marginal]] = []
        for _, f in self.parts:
            by_key = dict(zip((a.key for a in held), marginals(f, held) if held else [], strict=True))
            found.append([credible(by_key.get(a.key), f, a) for a in bent])
        weights = [w for w, _ in self.parts]
        shapes = {a.key: side_by_side(weights, [of[k] for of in found]) for k, a in enumerate(bent)}
        self._known.update({key: self._spread(a, shapes.get(key)) for key, a in new.items()})

    def roughly(self, ends: Sequence[str], counts: Mapping[str, float], mm: float = 0.0) -> Spread:
        """As `together`, as a Gaussian over logarithms says it at once: for bands over many counts, where tails do not matter."""
        return self._spread(self._asked(ends, counts, mm)).plus(self._free(ends, counts))

    def chance_short(
        self, limits: Mapping[str, float], counts: Mapping[str, float], mm: float = 0.0
    ) -> float:
        """The chance that any of these ends of one piece takes more than its limit, mm."""
        ends = [e for e in limits if e in self.prior.role_of]
        if not ends:
            return 0.0
        if min(limits[e] for e in ends) <= 0:
            return 1.0
        self.foresee([(e,) for e in ends], counts, mm)
        single = np.array([self.need(e, counts, mm).chance_above(limits[e]) for e in ends])
        if len(ends) == 1:
            return float(single[0])
        # Each end as its own spread says, and together as the logarithms go (a Gaussian copula).
        return chance_any_above(single, self._go_together(self._asked(ends, counts, mm)))

    def _go_together(self, asked: Asked) -> Array:
        """(n, n): correlation of the logarithms of what ends take. The same for whatever limit is asked."""
        key = (tuple(asked.ends.tolist()), *asked.key[1:])  # in their order
        known = self._correlated.get(key)
        if known is not None:
            return known
        m = self.belief
        taken = asked.of(self.layout, m.mean)
        cov = taken.slope @ m.cov @ np.swapaxes(taken.slope, 1, 2) + self._tension(taken.stretch)
        wobble = (m.grid.unit**2)[:, None] * taken.wobble
        cov = np.einsum("c,cij->ij", m.weight, cov + wobble[:, None] * np.eye(len(asked.ends)))
        sd = np.sqrt(np.diag(cov))
        return self._correlated.setdefault(key, cov / np.outer(sd, sd))

    @cached_property
    def _correlated(self) -> dict[Key, Array]:
        """By what was asked."""
        return {}

    @cached_property
    def _questions(self) -> dict[tuple[tuple[str, ...], tuple[tuple[str, float], ...], float], Asked]:
        """By ends, counts and length: the same is asked many times over."""
        return {}

    def _tension(self, stretch: Array) -> Array:
        """(c, e, e): how the tension of a new piece, in a sitting of its own, varies the logarithms of what ends take. stretch :
        (c, e), see Taken."""
        g = self.belief.grid
        both = correlated(np.sqrt(g.tau**2 + g.sitting**2))
        way = np.stack([np.ones_like(stretch), stretch], axis=2)
        return np.asarray(way @ both @ np.swapaxes(way, 1, 2))

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
    def in_doubt(self) -> str:
        """One sentence for whoever is about to cut or to publish; "" where no tie is in doubt."""
        names = [*self.doubted, *(["all of them"] if self.common else [])]
        if not names:
            return ""
        whose = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        return f"Test ties are in doubt: {whose}. Look at them before you rely on these cuts"

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
        """Relative standard deviation from piece to piece, each in a sitting of its own; posterior mean."""
        return sum(c.weight * c.tau for c in self.components)

    @cached_property
    def sitting_spread(self) -> float:
        """The part of that from sitting to sitting."""
        return float(self.belief.weight @ self.belief.grid.sitting)

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

    @property
    def layout(self) -> Layout:
        return self.whole.layout

    # -- inside ------------------------------------------------------------------------------------

    def _b(self, role: str, section: str) -> int:
        at = self.layout
        return at.b + self.prior.roles.index(role) * at.sections + self.prior.sections.index(section)

    def _softened(self, r: int) -> Array:
        """Derivatives of the logarithm of what the ends of a role take on average, but by their rate."""
        at = self.layout
        out = np.zeros(at.size)
        mine = self.data.role == r
        out[at.soft : at.grams] = self.data.now[mine].mean(axis=0)
        out[at.each : at.who][mine] = 1.0 / mine.sum()
        return out

    def _long(self) -> Array:
        at = self.layout
        out = np.zeros(at.size)
        out[at.soft : at.grams] = self.data.now.mean(axis=0)
        return out

    @cached_property
    def belief(self) -> Belief:
        """The grid points of all parts side by side."""
        every = [f.belief for _, f in self.parts]
        grid = every[0].grid
        for b in every[1:]:
            grid = grid.beside(b.grid)
        return Belief(
            np.concatenate([w * f.belief.weight for w, f in self.parts]), grid,
            np.concatenate([b.mean for b in every]), np.concatenate([b.cov for b in every]),
        )  # fmt: skip

    @cached_property
    def _known(self) -> dict[Key, Spread]:
        """What was asked for."""
        return {}

    def _asked(self, ends: Sequence[str], counts: Mapping[str, float], mm: float = 0.0) -> Asked:
        said = (tuple(ends), tuple(counts.items()), mm)
        known = self._questions.get(said)
        if known is None:
            known = self._questions[said] = self._question(ends, counts, mm)
        return known

    def _question(self, ends: Sequence[str], counts: Mapping[str, float], mm: float) -> Asked:
        prior = self.prior
        names = list(prior.role_of)
        e = np.array([names.index(x) for x in ends], np.int64)
        n = np.array([counts.get(s, 0) for s in prior.sections], np.float64)
        size = None
        grows = np.array([s in prior.fits for s in prior.sections])
        if mm and (n * prior.adds)[grows].any():
            free = float(n @ (prior.span * prior.adds))
            size = Size(mm - free, grows, prior.adds, self.data.now.mean(axis=0))
        return Asked(e, self.data.role[e], prior.own_in(counts)[e], n, self.data.now[e], size)

    def _bent(self, asked: Asked) -> str:
        """Whether what is asked for is too uncertain for a Gaussian over logarithms: HELD where that is what is added to the cord
        of the units, or they; SAMPLED where how often they are tied hangs on it too."""
        at, m = self.layout, self.belief
        _, slope = asked.log(at, m.mean)
        part = m.weight @ np.abs(slope * np.sqrt(np.einsum("cii->ci", m.cov)))
        if part[at.p : at.soft].max(initial=0.0) > SKEWED:
            return SAMPLED
        lopsided = part[: at.b].max(initial=0.0) > LOPSIDED or part[at.b : at.p].max(initial=0.0) > SKEWED
        return HELD if lopsided else ""

    def _spread(self, asked: Asked, known: Marginal | None = None) -> Spread:
        """Cord in one piece: what is expected, as far as it is known, and what tension and units add."""
        m = self.belief
        taken = asked.of(self.layout, m.mean)
        total = taken.total.sum(1)
        share = taken.total / total[:, None]
        tension = (share[:, None] @ self._tension(taken.stretch) @ share[..., None])[:, 0, 0]
        variance = tension + m.grid.unit**2 * (taken.wobble * share**2).sum(1)
        if known:
            weight, value = known.weight, known.value
        else:
            slope = (share[..., None] * taken.slope).sum(1)
            variance = variance + ((slope[:, None] @ m.cov)[:, 0] * slope).sum(1)
            weight, value = m.weight[:, None], np.log(total)[:, None]
        kept = weight > FAINT * weight.max()
        part = weight[kept] / weight[kept].sum()
        sd = np.broadcast_to(np.sqrt(variance)[:, None], weight.shape)[kept]
        return Spread(tuple(zip(part.tolist(), np.exp(value[kept]).tolist(), sd.tolist(), strict=True)))

    def totals(self, m: Belief, ends: Sequence[str], counts: Mapping[str, float], mm: float = 0.0) -> Taken:
        """What ends are expected to take, at every grid point of a belief."""
        return self._asked(ends, counts, mm).of(self.layout, m.mean)


def _part(c: Component, median: float, gradient: Array) -> tuple[float, float, float]:
    return c.weight, median, math.sqrt(max(float(gradient @ c.cov @ gradient), 1e-12))
