"""A kind of cord tried on what every maker has tied: half knots over two fillers, to the left and right by turns."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

from dim_ladder.base import InputError
from dim_ladder.library import CordKind
from dim_ladder.notation import parse_strict
from dim_ladder.shape.tighten import job_for, pulled
from dim_ladder.shape.value import Job

BAND = """weave "Trying"
cords
  tide  stiff-4mm  #1f6f8b
  buoy  stiff-4mm  #e07a1f
hang on bar
  buoy.a tide.a tide.b buoy.b
section bar: body
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
"""


@lru_cache(maxsize=1)
def _band() -> Job:
    return job_for(parse_strict(BAND), "bar")


def half_knots(kind: CordKind) -> tuple[float, float, float, float]:
    """Length of a half knot, width and thickness of the band in mm, and cord of the two workers for its length.

    Raises InputError where it does not come to rest.
    """
    job = _band()
    worker = [e.startswith("buoy") for e in job.ends]
    curves = replace(
        job.curves,
        give=tuple(kind.presses for _ in worker) if kind.presses else (),
        soft=kind.soft,
        spread=tuple(kind.spreads for _ in worker),
        apart=tuple(kind.grip * w for w in worker) if kind.presses and kind.grip else (),
    )
    *_, found = pulled(replace(job, curves=curves))
    if not found.converged:
        raise InputError(
            "half knots in such a cord do not come to rest", "Let it give less, or make it harder"
        )
    both = sum(v for e, v in found.per_end.items() if e.startswith("buoy"))
    mm = kind.across
    return found.pitch * mm / 2, found.width * mm, found.thickness * mm, both / found.pitch
