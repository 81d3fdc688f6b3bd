"""What may be wrong with all ties together: each fits the others, and none fits the shape.

Half knots that were counted as units make every unit half as large as its shape says, in cord and in length alike; a fastening that was
measured into every tied length leaves so much in each that no knots take.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.base import format_length
from dim_ladder.calibrate.belief import Fitted, fitted
from dim_ladder.calibrate.expected import FIXED_MM
from dim_ladder.calibrate.mistakes import CONVINCED, LIKELY
from dim_ladder.calibrate.observe import LENGTH
from dim_ladder.calibrate.ties import Tie

BUCKLE_MM, SURE = 14.0, 2.5  # in every tied length beyond what is usual, and standard deviations from that
APART = 0.35  # of a unit (logarithm) against its shape, from which it is worth a closer look


@dataclass(frozen=True, slots=True)
class Common:
    """cause : what probably happened to all ties, in words. repairs : as they would be then, where that can be said."""

    cause: str
    repairs: tuple[Tie, ...] = ()


def common(f: Fitted, ties: Sequence[Tie]) -> tuple[Common, ...]:
    """Everything of this kind. f : the fit of those that go together, so that one slip is not laid on all; ties : every one, to repair."""
    return tuple(x for x in (_counted_otherwise(f, ties), _fastening(f)) if x is not None)


def _counted_otherwise(f: Fitted, ties: Sequence[Tie]) -> Common | None:
    """Whether every tie fits far better when its units are taken for twice or half as many as there were."""
    best: tuple[float, Common] | None = None
    for k, section in enumerate(f.prior.sections):
        counted = [t for t in f.ties if t.counts.get(section)]
        if section not in f.prior.shaped or not counted or len(counted) < len(f.data.ids):
            continue
        if abs(_against_shape(f, k)) < APART:
            continue
        for words, times in (("half of", 0.5), ("twice", 2.0)):
            if any(times * t.counts.get(section, 0) % 1 for t in ties):
                continue
            made = tuple(
                t.model_copy(update={"counts": {**t.counts, section: int(times * t.counts[section])}})
                for t in ties
                if t.counts.get(section)
            )
            there = {t.id: t for t in made}
            then = fitted(f.prior, [there.get(t.id, t) for t in f.ties], f.known)
            gain = then.evidence - f.evidence + LIKELY["half"]
            if gain > CONVINCED and (best is None or gain > best[0]):
                parts = "parts of a unit" if times < 1 else "pairs of units"
                cause = (
                    f"a unit of {section} is about {words} what its shape says, in cord and in length alike. Were {parts} "
                    "counted as units?"
                )
                best = gain, Common(cause, made)
    return best[1] if best else None


def _against_shape(f: Fitted, section: int) -> float:
    """How much more cord a unit takes than its shape says, as a logarithm; the mean of its roles."""
    at, b = f.layout, f.belief
    rate = np.arange(at.roles) * at.sections + at.b + section
    soft = float(b.weight @ (b.mean[:, at.soft : at.grams] @ f.data.now.mean(axis=0)))
    first = np.log(f.prior.unit[:, section]).mean()
    return float(b.weight @ b.mean[:, rate].mean(axis=1) - first) + soft


def _fastening(f: Fitted) -> Common | None:
    """Whether every tied length has something in it that is no knots."""
    if sum(1 for k in f.data.kind if k == LENGTH) < 2:
        return None
    at, b = f.layout, f.belief
    mean = float(b.weight @ b.mean[:, at.f])
    sd = float(np.sqrt(b.weight @ (b.cov[:, at.f, at.f] + (b.mean[:, at.f] - mean) ** 2)))
    more = mean - FIXED_MM
    if more < BUCKLE_MM or more < SURE * sd:
        return None
    return Common(
        f"there are about {format_length(mean)} in every tied length that no knots take. Was it measured with the "
        "fastening? Then lengths come out short by that"
    )
