"""From a body to a band."""

from __future__ import annotations

import math

from dim_ladder.base import InputError, format_length
from dim_ladder.library import cord_kind
from dim_ladder.notation import Weave
from dim_ladder.scale.closing import Closing, opens_mm
from dim_ladder.scale.plan import Plan


def worked_length(plan: Plan, thickness_mm: float, closing: Closing) -> float:
    """Length to be worked on the band's neutral line, mm.

    A band of thickness t round a body has its neutral line t/2 outside the body, so its circumference is longer by
    2 pi t/2 = pi t:  L = girth + ease + pi t - fastening. A plain length is taken less the fastening.
    """
    if plan.target == "length":
        wanted = plan.size_mm - closing.adds_mm
    else:
        wanted = plan.size_mm + plan.ease_mm + math.pi * thickness_mm - closing.adds_mm
    if wanted <= 0:
        raise InputError(
            f"nothing is left to work: {format_length(plan.size_mm)} is taken up by the fastening",
            "Give a larger size or another fastening",
        )
    return wanted


LOOSE = 0.12  # of the girth: with more ease than that a ring slides off


def slips_on(plan: Plan, closing: Closing) -> bool:
    """Whether a piece is worn as a ring that is put on over something wider."""
    return plan.target == "girth" and (
        closing.of.shut or closing.of.opens or (closing.key == "none" and not closing.asked)
    )


def slip_on_words(plan: Plan, weave: Weave, closing: Closing) -> str:
    """What keeps a piece that slips on from passing the hand or from sitting; "" where nothing does, or nobody asks.

    It stretches as far as its cord does, and no further is counted on; a sliding closure opens besides.
    """
    if plan.pass_mm is None or not slips_on(plan, closing) or not weave.cords:
        return ""
    stretch = min(cord_kind(c.kind).stretch for c in weave.cords)
    inside, opens = plan.size_mm + plan.ease_mm, opens_mm(plan, closing)
    if closing.of.opens:
        short = plan.pass_mm - inside - opens
        if short <= 0:
            return ""
        return (
            f"Open it is {format_length(round(inside + opens))} round inside: it does not pass {format_length(plan.pass_mm)}. "
            f"Let the closure open by {format_length(math.ceil(opens + short))}"
        )
    reaches = inside * (1 + stretch)
    if reaches < plan.pass_mm:
        needed = plan.pass_mm / (1 + stretch)
        loose = needed - plan.size_mm
        said = (
            f"It is {format_length(round(inside))} round inside and stretches to {format_length(round(reaches))}: it does not pass "
            f"{format_length(plan.pass_mm)}. To pass it needs an ease of {format_length(math.ceil(loose))}"
        )
        if loose > LOOSE * plan.size_mm:
            return (
                f"{said}, and then it does not sit: no ease does both. Take a fastening, or a sliding closure"
            )
        return said
    if plan.ease_mm > LOOSE * plan.size_mm:
        return f"With {format_length(plan.ease_mm)} of ease it passes but does not sit: it slides off"
    return ""


def worked_length_words(plan: Plan, thickness_mm: float, closing: Closing) -> str:
    """The derivation, for the person who asks why."""
    total = worked_length(plan, thickness_mm, closing)
    less = f" − {closing.adds_mm:.0f} {closing.of.words}" if closing.adds_mm else ""
    if plan.target == "length":
        return f"{plan.size_mm:.0f}{less} = {total:.0f} mm to work" if less else f"{total:.0f} mm to work"
    return f"{plan.size_mm:.0f} girth + {plan.ease_mm:.0f} ease + π × {thickness_mm:.1f} thickness{less} = {total:.0f} mm to work"
