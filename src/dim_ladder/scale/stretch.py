"""Free spans that stretch: what whole units leave over is shared out among them, all in the same measure."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from dim_ladder.base import format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.calibrate.prior import Array
from dim_ladder.notation import Item, Span, Weave
from dim_ladder.scale.closing import closing_of
from dim_ladder.scale.plan import Plan
from dim_ladder.scale.size import worked_length
from dim_ladder.scale.units import Option, whole_units
from dim_ladder.trace.roles import roles

MIDDLE = 0.5  # of the room to stretch: where nothing else decides, as much is left either way


def stretches(weave: Weave) -> bool:
    """Whether any free span of it does."""
    return any(isinstance(i, Span) and i.most > 0 for s in weave.sections for i in s.items)


def at_fraction(weave: Weave, part: float) -> Weave:
    """The weave with every span that stretches at so much of its room: 0 as short as it may be, 1 as long."""

    def item(i: Item) -> Item:
        if isinstance(i, Span) and i.most:
            return replace(i, mm=i.mm + part * (i.most - i.mm), most=0.0)
        return i

    return replace(weave, sections=tuple(replace(s, items=tuple(map(item, s.items))) for s in weave.sections))


@dataclass(frozen=True, slots=True)
class Free:
    """What is left free in a unit. span : (sections,) mm of band; slack : by end, (sections,) mm of cord."""

    span: Array
    slack: dict[str, Array]


def free_of(weave: Weave, calibration: Calibration) -> Free:
    """What a weave leaves free, in the sections of a calibration."""
    prior = calibration.prior
    works = {w.name: w for w in roles(weave).sections}
    return Free(
        np.array([works[s].span for s in prior.sections], np.float64),
        {
            e: np.array([works[s].slack.get(e, 0.0) for s in prior.sections], np.float64)
            for e in prior.role_of
        },
    )


def stretched(weave: Weave, calibration: Calibration, plan: Plan) -> tuple[Calibration, float]:
    """The calibration with its spans stretched so that the piece is as long as it should be, and by how much of their room.

    Of counts that can be met exactly the ones are taken whose spans stay nearest to the middle of their room. Raises InputError when
    the size cannot be met.
    """
    short, long = (free_of(at_fraction(weave, part), calibration) for part in (0.0, 1.0))

    def at(part: float) -> Calibration:
        return calibration.with_free(
            short.span + part * (long.span - short.span),
            {e: mm + part * (long.slack[e] - mm) for e, mm in short.slack.items()},
        )

    middle = at(MIDDLE)
    wanted = worked_length(plan, middle.thickness_mm, closing_of(weave, plan))
    pitch = {s: middle.pitch(s).median for s in middle.prior.sections}
    options = whole_units(
        weave, pitch, middle.fixed_mm, wanted, lying=middle.lying, keep=9, kept=plan.chosen
    )  # fmt: skip
    room = room_of(weave, calibration)
    best = min(
        (stretched_to(replace(o, stretch=MIDDLE), room) for o in options),
        key=lambda o: (round(abs(o.error_mm), 3), abs(o.stretch - MIDDLE)),
    )
    return at(best.stretch), best.stretch


def room_of(weave: Weave, calibration: Calibration) -> dict[str, float]:
    """By section, how much a unit of it stretches from its shortest to its longest, mm of the piece; empty where nothing does."""
    if not stretches(weave):
        return {}
    short, long = (free_of(at_fraction(weave, part), calibration).span for part in (0.0, 1.0))
    return {
        s: 0.0 if s in calibration.lying else float(b - a)
        for s, a, b in zip(calibration.prior.sections, short, long, strict=True)
    }


def stretched_to(option: Option, room: Mapping[str, float]) -> Option:
    """An answer with its spans stretched from where they are so that it comes as near to what is wanted as they let it."""
    total = sum(room.get(s, 0.0) * n for s, n in option.counts.items())
    if total <= 0:
        return option
    part = min(max(option.stretch - option.error_mm / total, 0.0), 1.0)
    more = (part - option.stretch) * total
    return Option(option.counts, option.length_mm + more, option.error_mm + more, part)


def span_words(weave: Weave, part: float, system: str) -> str:
    """ "24 mm free each": what the spans that stretch are in a piece; "" where none does."""
    found = free_spans(weave, part)
    return (
        f"{' and '.join(format_length(round(mm, 1), system) for mm in found)} free each time" if found else ""
    )


def free_spans(weave: Weave, part: float) -> list[float]:
    """mm of the spans that stretch, in a piece; those that are alike once."""
    return sorted(
        {
            i.mm + part * (i.most - i.mm)
            for s in weave.sections
            for i in s.items
            if isinstance(i, Span) and i.most
        }
    )
