"""What everything stands on: errors with place and remedy, and lengths as makers write them (in mm inside)."""

from dim_ladder.base.errors import Cancelled, DimLadderError, InputError, Problem, WorldError
from dim_ladder.base.lengths import UNITS, format_length, read_length, read_number, read_whole, typed_length

__all__ = [
    "UNITS",
    "Cancelled",
    "DimLadderError",
    "InputError",
    "Problem",
    "WorldError",
    "format_length",
    "read_length",
    "read_number",
    "read_whole",
    "typed_length",
]
