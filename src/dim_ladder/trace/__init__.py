"""Weave -> exact planar diagram. In: a Weave. Out: a Trace (lanes and rows are ranks, no unit), PD codes, orders."""

from dim_ladder.trace.diagram import (
    CLOSURES,
    Closed,
    Visit,
    close,
    colour_cycle,
    cycles,
    end_cycle,
    linking,
    permutation,
    visits,
)
from dim_ladder.trace.expand import Op, Program, expand, units_of
from dim_ladder.trace.solved import solve_knot
from dim_ladder.trace.structure import all_crossings, check_structure, euler_characteristic
from dim_ladder.trace.tracer import Tracer, trace
from dim_ladder.trace.value import Crossing, HopRecord, StepRecord, Trace

__all__ = [
    "CLOSURES",
    "Closed",
    "Crossing",
    "HopRecord",
    "Op",
    "Program",
    "StepRecord",
    "Trace",
    "Tracer",
    "Visit",
    "all_crossings",
    "check_structure",
    "close",
    "colour_cycle",
    "cycles",
    "end_cycle",
    "euler_characteristic",
    "expand",
    "linking",
    "permutation",
    "solve_knot",
    "trace",
    "units_of",
    "visits",
]
