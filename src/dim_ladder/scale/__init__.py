"""Rates -> a piece. In: a Calibration and a Plan (mm). Out: whole units, cuts, fold offsets, chances of running short."""

from dim_ladder.scale.closing import Closing, closing_of
from dim_ladder.scale.cuts import Cut, EndNeed, cut_list
from dim_ladder.scale.girth import follows_girth, follows_size
from dim_ladder.scale.plan import Plan
from dim_ladder.scale.size import worked_length, worked_length_words
from dim_ladder.scale.solve import Piece, option_at, ring_units, solve, units_for
from dim_ladder.scale.units import Option, whole_units

__all__ = [
    "Closing",
    "Cut",
    "EndNeed",
    "Option",
    "Piece",
    "Plan",
    "closing_of",
    "cut_list",
    "follows_girth",
    "follows_size",
    "option_at",
    "ring_units",
    "solve",
    "units_for",
    "whole_units",
    "worked_length",
    "worked_length_words",
]
