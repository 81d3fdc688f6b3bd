"""A whole piece: plan, calibration and weave in; counts, alternatives and cuts out."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from dim_ladder.base import InputError, Problem, format_length
from dim_ladder.base.budget import TooMuch
from dim_ladder.calibrate import Calibration
from dim_ladder.calibrate.guesses import guess_words
from dim_ladder.notation import Weave, working_ends
from dim_ladder.scale.closing import NOTHING, Closing, asked_words, closing_of
from dim_ladder.scale.cuts import Cut, cut_list, short_words, whole_chance
from dim_ladder.scale.girth import for_size, free_for_size, room_for_size
from dim_ladder.scale.plan import Plan
from dim_ladder.scale.size import slip_on_words, worked_length, worked_length_words
from dim_ladder.scale.stretch import stretched_to
from dim_ladder.scale.units import Option, whole_units
from dim_ladder.trace import trace
from dim_ladder.trace.after import as_few
from dim_ladder.trace.former import former_diameter
from dim_ladder.trace.roles import beside, roles
from dim_ladder.trace.solved import LOWER
from dim_ladder.trace.unmade import may_break, once_only

UNMET = 5.0  # mm: what a tape shows at a glance


@dataclass(frozen=True, slots=True)
class Piece:
    """wanted_mm : length to work. option : the counts taken; alternatives : the next nearest. why : the
    derivation. order : ends from left to right at the start. tied_to_mm : how long it is tied, whatever the units; 0 where they are
    counted. chance_short : that any end of it is short. doubt : test ties that may be wrong, and what is
    sized by a rough rule, in words. fit : what keeps it from being put on
    or from sitting, in words. closing : what closes it. fixed_mm : of start, finish and free cord, that no unit adds to. pitch : mm of band
    by section; lying : those that lie on others or beside them and add none. thickness_mm : of the band. room : by section,
    how much a unit of it stretches."""

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
    closing: Closing = NOTHING
    fixed_mm: float = 0.0
    pitch: Mapping[str, float] = field(default_factory=dict)
    lying: frozenset[str] = frozenset()
    thickness_mm: float = 0.0
    room: Mapping[str, float] = field(default_factory=dict)

    @property
    def stretch(self) -> float:
        return self.option.stretch

    @property
    def counts(self) -> dict[str, int]:
        return self.option.counts


def solve(weave: Weave, calibration: Calibration, plan: Plan) -> Piece:
    """Solve a piece. Raises InputError when the size cannot be met, or the work cannot be repeated as often as it asks."""
    calibration, part = free_for_size(weave, calibration, plan)
    if calibration.prior.only_rings:
        return _ring(weave, calibration, plan)
    closing = closing_of(weave, plan)
    wanted, best, options = _options(weave, calibration, plan)
    room = room_for_size(weave, calibration, plan)
    best, options = replace(best, stretch=part), tuple(replace(o, stretch=part) for o in options)
    _can_be_tied(weave, calibration, best.counts)
    # Counts that were all chosen are tied; else it is tied until it is as long as it should be.
    tied_to = 0.0 if all_chosen(weave, plan, best.counts) else best.length_mm
    pitch, lying = _pitch(calibration), calibration.lying
    cuts = cut_list(weave, calibration, best.counts, plan, mm=tied_to)
    return Piece(
        plan,
        wanted,
        best,
        tuple(stretched_to(o, room) for o in _others(best, options)),
        calibration.length(best.counts).sd,
        cuts,
        worked_length_words(plan, calibration.thickness_mm, closing)
        + _longer_beside(weave, pitch, best.counts),
        working_ends(weave),
        tied_to,
        whole_chance(calibration, cuts, best.counts, tied_to),
        _said(calibration.in_doubt, guess_words(calibration)),
        _said(
            asked_words(closing),
            slip_on_words(plan, weave, closing),
            unmet_words(weave, plan, best, pitch, lying),
            too_long_words(weave, best.counts, pitch),
            short_words(cuts, working_ends(weave)),
        ),
        closing,
        calibration.fixed_mm,
        pitch,
        lying,
        calibration.thickness_mm,
        room,
    )


def _said(*words: str) -> str:
    return ". ".join(w for w in words if w)


def unmet_words(
    weave: Weave, plan: Plan, taken: Option, pitch: Mapping[str, float], lying: frozenset[str]
) -> str:
    """Why a piece misses what was asked by more than a whole unit would mend; "" where it does not, or the maker chose it so."""
    off = taken.error_mm
    free = [
        s for s in weave.sections if s.count.kind == "fit" and s.name in taken.counts and s.name not in lying
    ]
    able = [s for s in free if s.name not in plan.chosen]
    most = max((s.count.number * pitch[s.name] for s in able), default=UNMET)
    if abs(off) <= max(most, UNMET) or all_chosen(weave, plan, taken.counts):
        return ""
    said = f"It is {format_length(round(abs(off)))} {'longer' if off > 0 else 'shorter'} than was asked"
    if not free:
        return f"{said}: no section of it fits to a size"
    names = ", ".join(f"{taken.counts[s.name]} × {s.name}" for s in able)
    return f"{said}: {names} is as {'few' if off > 0 else 'many'} as there may be"


def too_long_words(weave: Weave, counts: Mapping[str, int], pitch: Mapping[str, float]) -> str:
    """Which layers have more units than go on to what they are tied over; "" where all of them do."""
    said = []
    for s in weave.sections:
        if not s.over or not {s.name, s.over} <= counts.keys() or not pitch[s.name]:
            continue
        there = counts[s.over] * pitch[s.over]
        if counts[s.name] * pitch[s.name] > max(1.1 * there, there + pitch[s.name]):
            most = int(there / pitch[s.name])
            said.append(
                f"{counts[s.name]} × {s.name} do not go on to {counts[s.over]} × {s.over}, which is "
                f"{format_length(round(there))} long: about {most} do"
            )
    return ". ".join(said)


def all_chosen(weave: Weave, plan: Plan, counts: Mapping[str, int]) -> bool:
    """Whether the maker keeps a count of every section that could be another."""
    free = [s.name for s in weave.sections if s.count.kind == "fit" and s.name in counts]
    return bool(plan.chosen) and all(s in plan.chosen for s in free)


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


def _others(best: Option, options: Sequence[Option]) -> tuple[Option, ...]:
    """The next nearest, each once."""
    out: list[Option] = []
    for o in options:
        if o.counts != best.counts and all(o.counts != x.counts for x in out):
            out.append(o)
    return tuple(out[:2])


def _pitch(calibration: Calibration) -> dict[str, float]:
    return {s: calibration.pitch(s).median for s in calibration.prior.sections}


def _options(weave: Weave, calibration: Calibration, plan: Plan) -> tuple[float, Option, tuple[Option, ...]]:
    """Length to work, the counts that are taken, and all that come near."""
    wanted = worked_length(plan, calibration.thickness_mm, closing_of(weave, plan))
    pitch, lying = _pitch(calibration), calibration.lying
    free = whole_units(weave, pitch, calibration.fixed_mm, wanted, lying=lying)
    if not plan.chosen:
        return wanted, free[0], free
    kept = whole_units(weave, pitch, calibration.fixed_mm, wanted, lying=lying, kept=plan.chosen)
    return wanted, kept[0], (*kept, *free)


def _ring(weave: Weave, calibration: Calibration, plan: Plan) -> Piece:
    """Work on a former is tied once, as large as the former: only its cord depends on the size."""
    prior = calibration.prior
    counts = {s: prior.fixed[s] for s in prior.sections}
    mm = plan.size_mm + (plan.ease_mm if plan.target == "girth" else 0.0)
    units = ring_units(calibration, mm)
    cuts = cut_list(weave, calibration, units, plan)
    why = f"{mm:.0f} round the former, which is {former_diameter(mm):.0f} mm across"
    closing = closing_of(weave, plan)
    return Piece(
        plan, mm, Option(counts, mm, 0.0), (), 0.0, cuts, why, working_ends(weave), 0.0,
        whole_chance(calibration, cuts, units), calibration.in_doubt, slip_on_words(plan, weave, closing),
        closing, thickness_mm=calibration.thickness_mm,
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
    # Units come round, so a few of them stand for many; not where others are counted out along them.
    some = counts if any(s.on or s.over for s in weave.sections) else as_few(weave, counts, SEEN)
    if (weave, some) in _tied:
        return
    problems = trace(weave, counts=some).problems
    if problems and some != counts:
        problems = trace(weave, counts=counts).problems
    if problems and _too_long(problems[0]):
        problems = trace(weave, counts=as_few(weave, counts)).problems
    if problems:
        often = ", ".join(f"{n} × {s}" for s, n in counts.items())
        first = problems[0]
        if _too_long(first):
            raise InputError(f"{often} are more than can be followed to their end", "Give a smaller size")
        raise InputError(f"{often} cannot be tied: {first.message}", first.hint, problems)
    _tied.append((weave, some))


SEEN = 2  # times that units come round before they are believed to do so for ever
_tied: deque[tuple[Weave, dict[str, int]]] = deque(
    maxlen=64
)  # what is known to come out: a page asks for many sizes
