"""What a remnant can still become, and what one unit more would cost."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dim_ladder.base import InputError, format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.notation import Weave
from dim_ladder.scale.cuts import cut_list, odds
from dim_ladder.scale.girth import for_size
from dim_ladder.scale.plan import Plan
from dim_ladder.scale.solve import Piece, solve
from dim_ladder.trace.roles import roles

LEAST, MOST = 10, 20_000  # mm, of sizes that are looked at


@dataclass(frozen=True, slots=True)
class Reach:
    """The largest size that the cords at hand become. size_mm : 0 where they do for none; why : what stands in the way of more."""

    size_mm: float
    piece: Piece | None
    why: str


def largest_size(weave: Weave, calibration: Calibration, plan: Plan, have: Mapping[str, float]) -> Reach:
    """have : mm of some cords; of the others there is as much as is needed. At the plan's risk, to a whole millimetre. Raises InputError
    for a cord that is not there, and where no cut can be given.

    Larger sizes take more cord, but for the whole units they jump to: so it is looked for by halving, then step by step around.
    """
    known = {c.name for c in weave.cords}
    for cord in have:
        if cord not in known:
            raise InputError(f"there is no cord “{cord}”", ", ".join(sorted(known)))
    if calibration.refusal:
        raise InputError(f"No cut can be given: {calibration.refusal}", "Look at the ties")
    tried: dict[int, Piece | None] = {}
    trouble: dict[int, str] = {}

    def fits(size: int) -> bool:
        if size not in tried:
            try:
                piece = solve(
                    weave,
                    calibration,
                    plan.model_copy(update={"size_mm": float(size), "chosen": plan.locked}),
                )
            except InputError as e:
                tried[size], trouble[size] = None, str(e)
                return False
            short = [c.cord for c in piece.cuts if c.cord in have and c.cut_mm > have[c.cord] + 1e-6]
            trouble[size] = f"{short[0]} is too short for more" if short else ""
            tried[size] = None if short else piece
        return tried[size] is not None

    low = next((s for s in _ladder(round(plan.size_mm)) if fits(s)), 0)
    if not low:
        return Reach(0.0, None, next((t for t in trouble.values() if t), "there is too little of it"))
    high = low * 2
    while high < MOST and fits(high):
        low, high = high, high * 2
    high = min(high, MOST)
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if fits(middle) else (low, middle)
    return Reach(float(low), tried[low], trouble.get(high, ""))


def _ladder(size: int) -> list[int]:
    """Sizes to begin from: the planned one, then smaller ones."""
    out = []
    while size >= LEAST:
        out.append(size)
        size = size * 4 // 5
    return out


def one_more(weave: Weave, calibration: Calibration, piece: Piece) -> dict[str, dict[str, float]]:
    """By section that fits, what one unit more takes of every cord, mm: as likely to do as the piece is. Where units leave ends in each other's places
    it is the mean until each is back in its own: after one more another end has what is tied below."""
    sized = for_size(weave, calibration, piece.plan)
    if sized.prior.only_rings:
        return {}
    fits = [s.name for s in weave.sections if s.count.kind == "fit" and s.name in piece.counts]
    bare = piece.plan.model_copy(update={"step_mm": 0.01})
    now = {c.cord: c.cut_mm for c in cut_list(weave, sized, piece.counts, bare)}
    round_ = {w.name: w.cycle * w.period for w in roles(weave).sections}
    out = {}
    for name in fits:
        n = round_.get(name, 1)
        more = {**piece.counts, name: piece.counts[name] + n}
        out[name] = {c.cord: (c.cut_mm - now[c.cord]) / n for c in cut_list(weave, sized, more, bare)}
    return out


def reach_words(reach: Reach, have: Mapping[str, float], plan: Plan, system: str) -> str:
    """ "2.10 m of buoy become a girth of up to 17.5 cm at 1 in 50"."""
    cords = " and ".join(f"{format_length(mm, system)} of {cord}" for cord, mm in have.items())
    if reach.piece is None:
        return f"{cords} {'do' if len(have) > 1 else 'does'} for no size: {reach.why}"
    word = "girth" if plan.target == "girth" else "length"
    return f"{cords} can become a {word} of up to {format_length(reach.size_mm, system)} at {odds(plan.risk)} of running short"


def more_words(more: Mapping[str, Mapping[str, float]], system: str) -> str:
    """ "One more bar costs 34 mm of tide and 11 cm of buoy"."""
    lines = []
    for section, cords in more.items():
        parts = [f"{format_length(round(mm), system)} of {cord}" for cord, mm in cords.items() if mm >= 0.5]
        if parts:
            lines.append(f"One more {section} costs {' and '.join(parts)}")
    return ". ".join(lines)
