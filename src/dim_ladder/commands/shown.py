"""How often the ladder and the board work each section: once, or as often as it takes for what comes after to hang as in the
chosen size."""

from __future__ import annotations

from dim_ladder.base import DimLadderError
from dim_ladder.calibrate import Calibration
from dim_ladder.notation import Weave
from dim_ladder.scale import Plan, units_for
from dim_ladder.trace import Trace
from dim_ladder.trace.after import as_few
from dim_ladder.trace.expand import least_units

MOST_ITEMS = 300  # of all units that are not shown but traced for what follows; every edit traces them


def shown_counts(weave: Weave, calibration: Calibration | None, plan: Plan) -> dict[str, int]:
    """Units by section, as few as there can be. Where no size can be solved, those of the smallest piece; a section after
    which nothing is tied is worked once."""
    counts = {s.name: s.count.number for s in weave.sections if s.count.kind == "repeat"} | least_units(weave)
    try:
        if calibration is not None:
            counts |= units_for(weave, calibration, plan)
        few = as_few(weave, counts)
    except DimLadderError:
        few = counts  # what is wrong is said where it is asked
    tied = [i for i, s in enumerate(weave.sections) if s.items]
    out, room = {}, MOST_ITEMS
    for i, s in enumerate(weave.sections):
        n = few.get(s.name, 1)
        follows = bool(tied) and i < tied[-1] and s.former is None
        more = max(0, n - 1) * max(1, len(s.items))
        if n > 1 and follows and more <= room:
            out[s.name] = n
            room -= more
    return out


Place = tuple[int, int, int, int]


def place_of(trace: Trace, step: int) -> Place | None:
    """A step by section, unit, item, and how-manyth it is of that item: the same however many units are traced above it."""
    if not 0 <= step < len(trace.steps):
        return None
    op = trace.steps[step].op
    first = step
    while first and trace.steps[first - 1].op is op:
        first -= 1
    return op.section, op.unit, op.item, step - first


def place_again(trace: Trace, place: Place | None) -> int:
    """The step at such a place; -1 where there is none."""
    first = next(
        (i for i, r in enumerate(trace.steps) if place and (r.op.section, r.op.unit, r.op.item) == place[:3]),
        -1,
    )
    at = first + place[3] if place else -1
    return at if first >= 0 and at < len(trace.steps) and trace.steps[at].op is trace.steps[first].op else -1
