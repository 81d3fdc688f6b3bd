"""Lengths that follow the girth: what is left free in a unit, for the size that is asked for."""

from __future__ import annotations

from dataclasses import replace

from dim_ladder.base import InputError, format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.notation import NOMINAL_GIRTH, Item, Leave, Section, Span, Step, Weave, free_length
from dim_ladder.scale.plan import Plan
from dim_ladder.scale.stretch import at_fraction, free_of, room_of, stretched, stretches
from dim_ladder.trace.former import former_diameter


def follows_girth(weave: Weave) -> bool:
    """Whether anything in it is a share of the girth."""
    parts = [i for s in weave.sections for i in s.items] + [i for k in weave.knots for i in k.steps]
    return any(_shares(i) for i in parts)


def _shares(item: Item) -> bool:
    if isinstance(item, Step):
        return any(isinstance(h, Leave) and h.share[0] for h in item.hops)
    return isinstance(item, Span) and bool(item.share[0])


def at_girth(weave: Weave, girth_mm: float) -> Weave:
    """The weave with every share of the girth as a length. Raises InputError where one would be nothing or less."""

    def length(mm: float, share: tuple[int, int], where: str) -> float:
        found = free_length(mm, share, girth_mm)
        if share[0] and found <= 0:
            raise InputError(
                f"{where}: {share[0]}/{share[1]} of {format_length(girth_mm)} less {format_length(-mm)} leaves nothing",
                "Give a larger size, or take less away",
            )
        return found

    def item(i: Item, where: str) -> Item:
        if isinstance(i, Span):
            return replace(i, mm=length(i.mm, i.share, where), share=(0, 1))
        if isinstance(i, Step):
            hops = tuple(
                Leave(length(h.mm, h.share, where)) if isinstance(h, Leave) and h.share[0] else h
                for h in i.hops
            )
            return replace(i, hops=hops)
        return i

    def section(s: Section) -> Section:
        return replace(s, items=tuple(item(i, s.name) for i in s.items))

    knots = tuple(replace(k, steps=tuple(item(i, k.name) for i in k.steps)) for k in weave.knots)  # type: ignore[misc]
    return replace(weave, sections=tuple(section(s) for s in weave.sections), knots=knots)


def former_mm(plan: Plan, section: Section) -> float:
    """Diameter in mm of the former that a section lies on, for a work that slips on to the size; 0 where there is none."""
    return former_diameter(plan.size_mm) if section.former is not None and plan.target == "girth" else 0.0


def follows_size(weave: Weave) -> bool:
    """Whether what is left free in a unit is another in every size."""
    return follows_girth(weave) or stretches(weave)


def for_size(weave: Weave, calibration: Calibration, plan: Plan) -> Calibration:
    """The calibration with what is left free in a unit as the size makes it; the same one where nothing follows it."""
    return free_for_size(weave, calibration, plan)[0]


def free_for_size(weave: Weave, calibration: Calibration, plan: Plan) -> tuple[Calibration, float]:
    """As `for_size`, and by how much of their room spans are stretched, 0 where none does."""
    sized = weave
    if follows_girth(weave):
        sized = at_girth(weave, plan.size_mm)
        free = free_of(sized, calibration)
        calibration = calibration.with_free(free.span, free.slack)
    if not stretches(weave) or calibration.prior.only_rings:
        return calibration, 0.0
    return stretched(sized, calibration, plan)


def room_for_size(weave: Weave, calibration: Calibration, plan: Plan) -> dict[str, float]:
    """How much a unit of every section stretches, see `room_of`."""
    return room_of(at_girth(weave, plan.size_mm) if follows_girth(weave) else weave, calibration)


def sized_weave(weave: Weave, calibration: Calibration, plan: Plan) -> Weave:
    """The weave with what it leaves free in a size as lengths, for whoever draws it. Raises InputError when the size cannot be met."""
    sized = at_girth(weave, plan.size_mm if plan.target == "girth" else NOMINAL_GIRTH)
    return at_fraction(sized, free_for_size(weave, calibration, plan)[1])
