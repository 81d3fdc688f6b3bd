"""Cuts: what every end needs at the accepted risk, cords cut to a step, and where to fold them."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dim_ladder.base import InputError, format_length
from dim_ladder.calibrate import Calibration, Spread
from dim_ladder.library import FINISHES, LOOP_MM, cord_kind
from dim_ladder.notation import Call, Weave, is_leg, is_strung, working_ends
from dim_ladder.scale.closing import sliding_tails
from dim_ladder.scale.plan import Plan
from dim_ladder.trace.ends import letter

HOLD_MM = 50.0  # what a hand likes to hold of an end where no finish asks for more
NEEDS_MM = 10.0  # what it cannot do without
ARM_SPAN_MM = 1600.0
LEAST_WORKED = 110.0  # mm of an end, below which fingers cannot lead it: it is gone within the first passes
LEAST_CUT = 50.0  # mm of a cord, below which nothing can be joined to it
LEAST_FOLD = 3.0  # mm off the middle, below which a cord is folded in the middle: hands do no better


@dataclass(frozen=True, slots=True)
class EndNeed:
    """need_mm : what is cut for it: at the accepted risk with what the finish cannot do without, and where a piece takes as much
    as is likeliest, with what there should be to hold. sd : spread of the cord used. chance_short : that less is left than the
    finish needs, with the cut as it is rounded. tail_mm : what it needs. likely_mm : what the work takes of it, as likely more as less."""

    end: str
    role: str
    need_mm: float
    sd: float
    chance_short: float
    tail_mm: float
    likely_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class Tails:
    """By end, mm beyond the work. need : what the finish cannot do without. hold : what is good to have."""

    need: dict[str, float]
    hold: dict[str, float]


@dataclass(frozen=True, slots=True)
class Cut:
    """One cord. fold_offset_mm : how far off its middle it is folded, towards the shorter end; long_end : the end
    that gets more, "" when folded in the middle. chance_short : that any of its ends runs short, with the cut as rounded. bobbin : an end longer than an arm span. folds_mm : of a cord folded in
    thirds, how far from its first end, and from its last, it is folded. leg_mm : of a cord that runs there and back, how much of
    it is leg, on one side of its fold or from where it is joined; 0 for others. joined : the cord it is joined to, "" for none;
    beyond_mm : how far it reaches beyond the fold to where it is joined; below 0, how far before it it ends."""

    cord: str
    colour: str
    kind: str
    cut_mm: float
    fold_offset_mm: float
    long_end: str
    ends: tuple[EndNeed, ...]
    bobbin: bool
    folds_mm: tuple[float, ...] = ()
    chance_short: float = 0.0
    leg_mm: float = 0.0
    joined: str = ""
    beyond_mm: float = 0.0


def joins(weave: Weave) -> dict[str, tuple[str, float]]:
    """Of every cord that is joined to another: to which, and how far it reaches beyond the fold, in mm (below 0: before it)."""
    out: dict[str, tuple[str, float]] = {}
    for c in weave.cords:
        if c.joined:
            out[c.name], out[c.joined] = (c.joined, c.join_mm), (c.name, -c.join_mm)
    return out


def finish_needs(weave: Weave, plan: Plan | None = None) -> tuple[float, float]:
    """mm of an end that the finish cannot do without, and that are good to have; as the plan says, where it does."""
    finish = [
        (i.knot, i.under)
        for s in weave.sections
        for i in s.items
        if isinstance(i, Call) and i.knot in FINISHES and weave.knot(i.knot) is None
    ]
    need = max([NEEDS_MM, *(FINISHES[f].needs_mm + LOOP_MM * under for f, under in finish)])
    hold = max([HOLD_MM, *(FINISHES[f].tail_mm + LOOP_MM * under for f, under in finish)])
    if plan is not None and plan.tail_mm is not None:
        need = plan.tail_mm
    if plan is not None and plan.hold_mm is not None:
        hold = plan.hold_mm
    return need, max(hold, need)


def tails(weave: Weave, plan: Plan | None = None) -> Tails:
    """What each end needs beyond the work, for hands, finish and a closure that slides on it."""
    need, hold = finish_needs(weave, plan)
    slides = sliding_tails(weave, plan) if plan is not None else {}

    def each(mm: float) -> dict[str, float]:
        # The legs of a middle third end in a loop: nothing is held or cut off. What is strung is held at either end of it.
        own = {e: mm + slides.get(e, 0.0) for e in working_ends(weave)}
        return {e: 0.0 if is_leg(e) else 2 * HOLD_MM if is_strung(e) else mm for e, mm in own.items()}

    return Tails(each(need), each(hold))


def cut_list(
    weave: Weave, calibration: Calibration, counts: Mapping[str, float], plan: Plan, *, mm: float = 0.0
) -> tuple[Cut, ...]:
    """What to cut for a piece with these counts. plan : its risk (of a cord, that any of its ends is short), step and tails. mm :
    how long the piece is to be, where units are tied until it is; 0 where they are counted. Raises InputError where the
    calibration should not be relied on."""
    if calibration.refusal:
        raise InputError(f"No cut can be given: {calibration.refusal}", "Look at the ties")
    held, joined, step_mm = tails(weave, plan), joins(weave), plan.step_mm
    calibration.foresee([(e,) for e in working_ends(weave)], counts, mm)
    out = []
    for cord in weave.cords:
        ends = [e for e in working_ends(weave) if e.split(".")[0] == cord.name]
        if not ends:
            continue
        spreads = {e: calibration.need(e, counts, mm) for e in ends}
        legs = [e for e in ends if is_leg(e)]
        worked = [e for e in ends if e not in legs]
        limits = limits_for(calibration, worked, counts, plan.risk, mm)
        # A leg is laid as long as the work is to be: what is left for the ends is what may run short.
        need = {e: _need(limits[e], spreads[e], held, e) if e in limits else spreads[e].median for e in ends}
        other, beyond = joined.get(cord.name, ("", 0.0))
        total = sum(need.values()) + beyond
        if total < LEAST_CUT:
            raise InputError(
                f"{cord.name} would end {format_length(-beyond)} before the fold, and it needs no more than {format_length(sum(need.values()))}",
                f"Join {other} nearer to the fold",
            )
        cut = math.ceil(total / step_mm - 1e-9) * step_mm
        slack = dict.fromkeys(ends, 0.0) | dict.fromkeys(worked, (cut - total) / len(worked))
        rows = tuple(
            EndNeed(
                e,
                calibration.prior.role_of[e],
                need[e],
                spreads[e].sd,
                spreads[e].chance_above(need[e] + slack[e] - held.need[e]) if e in worked else 0.0,
                held.need[e],
                spreads[e].median,
            )
            for e in ends
        )
        first, last = f"{cord.name}.a", f"{cord.name}.b"
        back = bool(legs) and weave.hang.on != "thirds"
        folds = (need[first] + slack[first], need[last] + slack[last]) if legs and not back else ()
        offset = 0.0
        if len(ends) == 2 * max(1, len(legs)) and first in need and last in need and not folds:
            offset = sum(need[e] * (1 if e.endswith((".a", ".m")) else -1) for e in ends) / 2
        long_end = "" if abs(offset) < LEAST_FOLD else first if offset > 0 else last
        out.append(
            Cut(
                cord.name,
                cord.colour,
                cord_kind(cord.kind).words,
                cut,
                abs(offset) if long_end else 0.0,
                long_end,
                rows,
                max(need.values()) > ARM_SPAN_MM,
                folds,
                calibration.chance_short({e: need[e] + slack[e] - held.need[e] for e in worked}, counts, mm),
                max(need[e] for e in legs) if back else 0.0,
                other,
                beyond,
            )
        )
    return tuple(out)


def _need(limit: float, spread: Spread, held: Tails, end: str) -> float:
    """mm of an end: enough at the accepted risk, and enough to hold where it takes what is likeliest."""
    return max(limit + held.need[end], spread.median + held.hold[end])


def whole_chance(
    calibration: Calibration, cuts: Sequence[Cut], counts: Mapping[str, float], mm: float = 0.0
) -> float:
    """The chance that any end of a piece is short, whichever cord it is of."""
    limits: dict[str, float] = {}
    for cut in cuts:
        worked = [e for e in cut.ends if not is_leg(e.end)]
        slack = (cut.cut_mm - cut.beyond_mm - sum(e.need_mm for e in cut.ends)) / max(len(worked), 1)
        limits |= {e.end: e.need_mm + slack - e.tail_mm for e in worked}
    return calibration.chance_short(limits, counts, mm)


def limits_for(
    calibration: Calibration, ends: Sequence[str], counts: Mapping[str, float], risk: float, mm: float = 0.0
) -> dict[str, float]:
    """mm for every end of a cord, equally likely to run short each, so that the chance that any does is `risk`."""
    spreads = {e: calibration.need(e, counts, mm) for e in ends}
    each = risk
    limits = {e: s.quantile(1 - each) for e, s in spreads.items()}
    for _ in range(6 if len(spreads) > 1 else 0):
        found = calibration.chance_short(limits, counts, mm)
        if abs(found / risk - 1) < 0.01:
            break
        # Ends that go together run short together, others by themselves: between the whole risk each and their share.
        each = min(risk, max(risk / len(spreads), each * risk / found))
        limits = {e: s.quantile(1 - each) for e, s in spreads.items()}
    return limits


@dataclass(frozen=True, slots=True)
class Given:
    """What a cut that somebody names would do. chance_short : folded where its ends are equally likely to run short.
    fold_offset_mm, long_end : as in Cut."""

    cord: str
    cut_mm: float
    chance_short: float
    fold_offset_mm: float
    long_end: str
    folded: bool = True


def given_cut(
    weave: Weave, calibration: Calibration, counts: Mapping[str, float], cord: str, cut_mm: float, plan: Plan | None = None, mm: float = 0.0
) -> Given:  # fmt: skip
    """The chance that a cord cut so long runs short in a piece with these counts. Raises InputError for an unknown cord."""
    ends = [e for e in working_ends(weave) if e.split(".")[0] == cord]
    if not ends:
        raise InputError(f"there is no cord “{cord}” that hangs", ", ".join(c.name for c in weave.cords))
    held = tails(weave, plan).need
    legs = (
        sum(calibration.need(e, counts, mm).median for e in ends if is_leg(e))
        + joins(weave).get(cord, ("", 0.0))[1]
    )
    ends = [e for e in ends if not is_leg(e)]
    spreads = {e: calibration.need(e, counts, mm) for e in ends}
    low, high = 1e-9, 1 - 1e-9
    limits: dict[str, float] = {}
    for _ in range(60):
        each = (low * high) ** 0.5 if high < 0.5 else (low + high) / 2
        limits = {e: s.quantile(1 - each) for e, s in spreads.items()}
        total = sum(limits[e] + held[e] for e in ends) + legs
        if abs(total - cut_mm) < 0.05:
            break
        low, high = (each, high) if total > cut_mm else (low, each)
    chance = calibration.chance_short(limits, counts, mm)
    first = limits[ends[0]] + held[ends[0]]
    offset = first + legs / 2 - cut_mm / 2 if len(ends) == 2 else 0.0
    offset = min(max(offset, -cut_mm / 2), cut_mm / 2)  # a cut far too short has no place to fold it further
    long_end = "" if abs(offset) < 0.5 or len(ends) != 2 else ends[0] if offset > 0 else ends[1]
    return Given(cord, cut_mm, chance, abs(offset) if long_end else 0.0, long_end, len(ends) == 2)


def given_words(given: Given, order: tuple[str, ...], system: str) -> str:
    """What a named cut would do, in words."""
    fold = "folded in the middle" if given.folded else "not folded"
    if given.long_end:
        longer = letter(order.index(given.long_end))
        fold = f"folded {format_length(given.fold_offset_mm, system)} off the middle with {longer} longer"
    return f"{format_length(given.cut_mm, system)} of {given.cord}, {fold}: {odds(given.chance_short)} of running short"


def fold_words(cut: Cut, order: tuple[str, ...], system: str) -> str:
    """Where a cord is folded or joined, and what of it is leg. order : ends from left to right, for their letters."""

    def name(end: str) -> str:
        return letter(order.index(end)) if end in order else end

    def mm(value: float) -> str:
        return format_length(value, system)

    if cut.folds_mm:
        a, b = (f"{mm(f)} from {name(f'{cut.cord}.{x}')}" for f, x in zip(cut.folds_mm, "ab", strict=True))
        return f"fold {a} and {b}; what lies between is the core"
    if cut.joined and not cut.leg_mm:
        if abs(cut.beyond_mm) < LEAST_FOLD:
            return f"not folded: joined to {cut.joined}, and hung where it is joined"
        if cut.beyond_mm > 0:
            return f"fold {mm(cut.beyond_mm)} from where it is joined to {cut.joined}"
        return f"not folded: joined to {cut.joined} {mm(-cut.beyond_mm)} from the fold"
    if all(is_strung(e.end) for e in cut.ends):
        return "not folded: strung between two points, as long as the work and what makes it fast"
    one_sided = len({e.end.rpartition(".")[2].translate(SIDES) for e in cut.ends}) == 1
    if cut.leg_mm and one_sided:
        return f"not folded: its first {mm(cut.leg_mm)}, from where it is joined, are its leg"
    if one_sided:
        return "not folded"
    fold = "fold in the middle"
    if cut.long_end:
        other = next(e.end for e in cut.ends if e.end[-1] in "ab" and e.end != cut.long_end)
        fold = f"fold {mm(cut.fold_offset_mm)} off the middle, {name(cut.long_end)} longer than {name(other)}"
    return fold + (
        f"; the first {mm(cut.leg_mm)} on either side of the fold are the legs" if cut.leg_mm else ""
    )


def why_words(cut: Cut, order: tuple[str, ...], plan: Plan, system: str) -> str:
    """How a cut comes about, end by end: "A 87 cm: 79 cm likeliest, 5 cm so that 1 in 50 is short, 3 cm for the finish"."""

    def mm(value: float) -> str:
        return format_length(round(value, 1), system)

    parts = []
    for e in cut.ends:
        name = letter(order.index(e.end)) if e.end in order else e.end
        if is_leg(e.end):
            parts.append(f"{name} {mm(e.need_mm)}, as long as the work")
            continue
        spare = e.need_mm - e.likely_mm - e.tail_mm
        # Where the piece takes what is likeliest, a hand wants to hold more than the chance asks.
        held = e.chance_short < plan.risk / (4 * len(cut.ends))
        why = "to hold" if held else f"to be short no oftener than {odds(plan.risk)}"
        more = f"{mm(spare)} {why}" if spare > 0.5 else ""
        likely = f"{mm(e.likely_mm)} likeliest"
        parts.append(
            f"{name} {mm(e.need_mm)}: "
            + ", ".join(x for x in (likely, more, f"{mm(e.tail_mm)} for the finish") if x)
        )
    total = sum(e.need_mm for e in cut.ends) + cut.beyond_mm
    beyond = (
        f"; {mm(abs(cut.beyond_mm))} {'more' if cut.beyond_mm > 0 else 'less'} for where it is joined"
        if abs(cut.beyond_mm) >= 0.5
        else ""
    )
    return f"{cut.cord}: {'; '.join(parts)}{beyond}. Together {total:.0f} mm, cut in steps of {plan.step_mm:g} mm: {cut.cut_mm:.0f} mm"


def short_words(cuts: Sequence[Cut], order: tuple[str, ...]) -> str:
    """Which ends are too short to be led by hand; "" where none is. What others are tied over may be as short as it is long."""
    ends = [e for c in cuts for e in c.ends if not is_leg(e.end) and not is_strung(e.end) and e.end in order]
    short = [e for e in ends if e.need_mm < LEAST_WORKED and not e.role.startswith("filler")]
    if not short:
        return ""
    names = ", ".join(letter(order.index(e.end)) for e in short)
    longest = max(e.need_mm for e in short)
    return f"{names} would be {format_length(round(longest))} long at the most: too short to be led by hand. Take a needle, or cut more to hold"


SIDES = str.maketrans("mn", "ab")  # the end that a leg belongs to


def odds(chance: float) -> str:
    """A chance as makers say it: "1 in 50"."""
    if chance < 1e-4:
        return "less than 1 in 10,000"
    if chance > 0.4:
        return f"{chance:.0%}"
    n = 1 / chance
    return (
        f"1 in {n:.0f}" if n < 20 else f"1 in {round(n, -1):.0f}" if n < 1000 else f"1 in {round(n, -2):,.0f}"
    )
