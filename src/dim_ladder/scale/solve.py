"""A whole piece: plan, calibration and weave in; counts, alternatives and cuts out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dim_ladder.base import InputError, Problem, format_length
from dim_ladder.base.budget import TooMuch
from dim_ladder.calibrate import Calibration
from dim_ladder.notation import Weave, working_ends
from dim_ladder.scale.cuts import Cut, cut_list, whole_chance
from dim_ladder.scale.girth import for_size
from dim_ladder.scale.plan import Plan
from dim_ladder.scale.size import slip_on_words, worked_length, worked_length_words
from dim_ladder.scale.units import Option, whole_units
from dim_ladder.trace import trace
from dim_ladder.trace.after import as_few
from dim_ladder.trace.former import former_diameter
from dim_ladder.trace.roles import beside, roles
from dim_ladder.trace.solved import LOWER
from dim_ladder.trace.unmade import may_break, once_only


@dataclass(frozen=True, slots=True)
class Piece:
    """wanted_mm : length to work. option : the counts taken; alternatives : the next nearest. why : the
    derivation. order : ends from left to right at the start. tied_to_mm : how long it is tied, whatever the units; 0 where they are
    counted. chance_short : that any end of it is short. doubt : test ties that may be wrong, in words. fit : what keeps it from being put on
    or from sitting, in words."""

    plan: Plan
    wanted_mm: float
    option: Option
    alternatives: tuple[Option, ...]
    length_sd: float
    cuts: tuple[Cut, ...]
    why: str
    order: tuple[str, ...]
    tied_to_mm: float = 0.0
    chance_short: float = 0.0
    doubt: str = ""
    fit: str = ""

    @property
    def counts(self) -> dict[str, int]:
        return self.option.counts


def solve(weave: Weave, calibration: Calibration, plan: Plan) -> Piece:
    """Solve a piece. Raises InputError when the size cannot be met, or the work cannot be repeated as often as it asks."""
    calibration = for_size(weave, calibration, plan)
    if calibration.prior.only_rings:
        return _ring(weave, calibration, plan)
    wanted, best, options = _options(weave, calibration, plan)
    _can_be_tied(weave, calibration, best.counts)
    # Counts that were chosen are tied; else it is tied until it is as long as it should be.
    tied_to = 0.0 if plan.chosen else best.length_mm
    cuts = cut_list(weave, calibration, best.counts, plan, mm=tied_to)
    return Piece(
        plan,
        wanted,
        best,
        tuple(o for o in options if o.counts != best.counts)[:2],
        calibration.length(best.counts).sd,
        cuts,
        worked_length_words(plan, calibration.thickness_mm)
        + _longer_beside(weave, _pitch(calibration), best.counts),
        working_ends(weave),
        tied_to,
        whole_chance(calibration, cuts, best.counts, tied_to),
        calibration.in_doubt,
        slip_on_words(plan, weave),
    )


def units_for(weave: Weave, calibration: Calibration, plan: Plan) -> dict[str, int]:
    """Units by section of a piece, without its cuts, which take longer. Raises InputError when the size cannot be met."""
    calibration = for_size(weave, calibration, plan)
    if calibration.prior.only_rings:
        return {s: calibration.prior.fixed[s] for s in calibration.prior.sections}
    best = _options(weave, calibration, plan)[1]
    _can_be_tied(weave, calibration, best.counts)
    return best.counts


def option_at(weave: Weave, calibration: Calibration, plan: Plan) -> Option:
    """Counts and length of a piece, without asking whether so many can be tied. Raises InputError when the size cannot be met."""
    calibration = for_size(weave, calibration, plan)
    if calibration.prior.only_rings:
        return Option({s: calibration.prior.fixed[s] for s in calibration.prior.sections}, 0.0, 0.0)
    return _options(weave, calibration, plan)[1]


def _pitch(calibration: Calibration) -> dict[str, float]:
    return {s: calibration.pitch(s).median for s in calibration.prior.sections}


def _options(weave: Weave, calibration: Calibration, plan: Plan) -> tuple[float, Option, tuple[Option, ...]]:
    """Length to work, the counts that are taken, and all that come near."""
    wanted = worked_length(plan, calibration.thickness_mm)
    pitch, lying = _pitch(calibration), calibration.lying
    options = whole_units(weave, pitch, calibration.fixed_mm, wanted, lying=lying)
    best = options[0]
    if plan.chosen:
        counts = {**best.counts, **{s: n for s, n in plan.chosen.items() if s in best.counts}}
        length = calibration.fixed_mm + sum(pitch[s] * n for s, n in counts.items() if s not in lying)
        best = Option(counts, length, length - wanted)
    return wanted, best, options


def _ring(weave: Weave, calibration: Calibration, plan: Plan) -> Piece:
    """Work on a former is tied once, as large as the former: only its cord depends on the size."""
    prior = calibration.prior
    counts = {s: prior.fixed[s] for s in prior.sections}
    mm = plan.size_mm + (plan.ease_mm if plan.target == "girth" else 0.0)
    units = ring_units(calibration, mm)
    cuts = cut_list(weave, calibration, units, plan)
    why = f"{mm:.0f} round the former, which is {former_diameter(mm):.0f} mm across"
    return Piece(
        plan, mm, Option(counts, mm, 0.0), (), 0.0, cuts, why, working_ends(weave), 0.0,
        whole_chance(calibration, cuts, units), calibration.in_doubt, slip_on_words(plan, weave),
    )  # fmt: skip


def ring_units(calibration: Calibration, mm: float) -> dict[str, float]:
    """How much of every section a ring takes that is so long round its former, mm."""
    prior = calibration.prior
    once = np.array([float(prior.fixed[s]) for s in prior.sections])
    return dict(zip(prior.sections, prior.on_former(once, mm).tolist(), strict=True))


def _longer_beside(weave: Weave, pitch: Mapping[str, float], counts: Mapping[str, int]) -> str:
    """Works that hang beside others and reach further down than those: the length of the piece is that of the others."""
    out = ""
    for group in beside(weave, roles(weave).sections):
        length = {s: pitch[s] * counts[s] for s in group if s in counts and s in pitch}
        fits = [
            s
            for s in group
            if s in length and (of := weave.section(s)) is not None and of.count.kind == "fit"
        ]
        if not fits:
            continue
        for s, mm in length.items():
            more = mm - length[fits[0]]
            if more > max(pitch[s], pitch[fits[0]]):
                out += f"; {s} hangs {format_length(round(more))} longer than {fits[0]} beside it"
    return out


def _too_long(problem: Problem) -> bool:
    """Whether it only says that there is too much to be traced."""
    return problem.hint in (TooMuch().hint, LOWER)


def _can_be_tied(weave: Weave, calibration: Calibration, counts: dict[str, int]) -> None:
    """Work that reaches beyond its unit can break when it is repeated; a section that could not be counted for that is never
    left out of the piece in silence."""
    if not any(may_break(weave, i) for i in range(len(weave.sections))):
        return
    uncounted = {s.name for s in weave.sections} - set(calibration.prior.sections)
    missing = tuple(
        p for i, s in enumerate(weave.sections) if s.name in uncounted for p in once_only(weave, i)
    )
    if missing:
        raise InputError.of(missing)
    problems = trace(weave, counts=counts).problems
    if problems and _too_long(problems[0]):
        # Units come round, so a few of them stand for many.
        problems = trace(weave, counts=as_few(weave, counts)).problems
    if problems:
        often = ", ".join(f"{n} × {s}" for s, n in counts.items())
        first = problems[0]
        if _too_long(first):
            raise InputError(f"{often} are more than can be followed to their end", "Give a smaller size")
        raise InputError(f"{often} cannot be tied: {first.message}", first.hint, problems)
