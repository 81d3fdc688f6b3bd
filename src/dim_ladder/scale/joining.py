"""Where the join of two cords comes to lie: hidden in the start knot, or behind a unit of the work."""

from __future__ import annotations

from collections.abc import Mapping

from dim_ladder.base import InputError, format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.library import HANGINGS
from dim_ladder.notation import Weave, working_ends

MOST_MM = 2000.0  # as far as a join is said to lie from the fold


def joined_cords(weave: Weave) -> dict[str, str]:
    """By cord that is joined to another: to which."""
    return {c.name: c.joined for c in weave.cords if c.joined}


def join_behind(
    weave: Weave, calibration: Calibration, cord: str, unit: int, counts: Mapping[str, int]
) -> float:
    """How far beyond the fold a cord must reach, mm, so that its join lies in the middle of the n-th unit of the first body, on the side
    of the cord it is joined to; 0 for the middle of what comes before: the hanging and the start knot.

    It is the cord that end has taken by then: half of what it hangs on takes, the starts, and the units above.
    Raises InputError where there is no such join or unit.
    """
    other = joined_cords(weave).get(cord)
    if other is None:
        raise InputError(f"{cord} is not joined to another cord", "Join two cords first")
    end = next(e for e in working_ends(weave) if e.partition(".")[0] == other)
    before = HANGINGS.get(weave.hang.on, HANGINGS["bar"]).per_cord_mm / 2
    for s in weave.sections:
        if s.name not in calibration.prior.sections:
            continue
        each = _per_unit(calibration, end, s.name)
        if s.kind == "body":
            if unit == 0:
                return round(before / 2, 1)
            most = counts.get(s.name, unit)
            if unit > most:
                raise InputError(f"{s.name} has {most} units", f"Choose one up to {most}")
            away = round(before + (unit - 0.5) * each, 1)
            if away > MOST_MM:
                raise InputError(
                    f"unit {unit} takes its cord {format_length(away)} from the fold",
                    "Hide the join nearer to it",
                )
            return away
        if s.kind == "start":
            before += counts.get(s.name, s.count.number) * each
    raise InputError("no body is worked", "Record a unit first")


def unit_of_join(
    weave: Weave, calibration: Calibration, cord: str, counts: Mapping[str, int]
) -> tuple[int, int]:
    """Behind which unit the join lies now, as near as that is, and how many there are to choose from."""
    here = next(c.join_mm for c in weave.cords if c.name == cord)
    body = next(s.name for s in weave.sections if s.kind == "body" and s.name in calibration.prior.sections)
    most = max(counts.get(body, 1), 1)
    while most and not _within(weave, calibration, cord, most, counts):
        most -= 1
    away = [abs(join_behind(weave, calibration, cord, n, counts) - here) for n in range(most + 1)]
    return away.index(min(away)), most


def _within(weave: Weave, calibration: Calibration, cord: str, unit: int, counts: Mapping[str, int]) -> bool:
    try:
        join_behind(weave, calibration, cord, unit, counts)
    except InputError:
        return False
    return True


def _per_unit(calibration: Calibration, end: str, section: str) -> float:
    prior = calibration.prior
    k = prior.sections.index(section)
    own = float(prior.own[list(prior.role_of).index(end), k])
    return calibration.per_unit(prior.role_of[end], section).median * own
