"""From a body to a band."""

from __future__ import annotations

import math

from dim_ladder.base import InputError, format_length
from dim_ladder.library import FASTENINGS, nearest_fastening
from dim_ladder.scale.plan import Plan


def fastening_adds(plan: Plan) -> float:
    """mm that the fastening contributes. Raises InputError for an unknown one."""
    if plan.fastening not in FASTENINGS:
        raise InputError(f"there is no fastening “{plan.fastening}”", nearest_fastening(plan.fastening))
    return FASTENINGS[plan.fastening].adds_mm


def worked_length(plan: Plan, thickness_mm: float) -> float:
    """Length to be worked on the band's neutral line, mm.

    A band of thickness t round a body has its neutral line t/2 outside the body, so its circumference is longer by
    2 pi t/2 = pi t:  L = girth + ease + pi t - fastening. A plain length is taken less the fastening.
    """
    adds = fastening_adds(plan)
    if plan.target == "length":
        wanted = plan.size_mm - adds
    else:
        wanted = plan.size_mm + plan.ease_mm + math.pi * thickness_mm - adds
    if wanted <= 0:
        raise InputError(
            f"nothing is left to work: {format_length(plan.size_mm)} is taken up by the fastening",
            "Give a larger size or another fastening",
        )
    return wanted


def worked_length_words(plan: Plan, thickness_mm: float) -> str:
    """The derivation, for the person who asks why."""
    adds = fastening_adds(plan)
    total = worked_length(plan, thickness_mm)
    if plan.target == "length":
        return f"{plan.size_mm:.0f} − {adds:.0f} fastening = {total:.0f} mm to work"
    return (
        f"{plan.size_mm:.0f} girth + {plan.ease_mm:.0f} ease + π × {thickness_mm:.1f} thickness "
        f"− {adds:.0f} fastening = {total:.0f} mm to work"
    )
