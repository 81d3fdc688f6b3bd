"""What a maker holds the work against: the finished piece, how long so many units are, what the likeliest slips look like."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from dim_ladder.base import format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.calibrate.timing import Timing
from dim_ladder.picture.display import Picture

NICE = (1, 2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 25, 30, 40, 50, 100)
CHECK_MM = 50.0  # of tied length from checkpoint to checkpoint, about
MOST_CHECKS = 4
UNKNOWN = 10  # units, where nobody knows how long one is


@dataclass(frozen=True, slots=True)
class SlipTold:
    """A common slip. name : what was done instead; tell : what tells it; undo : what to take back; picture : how it looks, where
    that is known."""

    name: str
    tell: str
    undo: str
    picture: Picture | None = None


@dataclass(frozen=True, slots=True)
class Checkpoint:
    """After so many units of a section: words : what the tape reads; faces : front and back, where they are known."""

    units: int
    words: str
    faces: tuple[Picture, ...] = ()


@dataclass(frozen=True, slots=True)
class Seen:
    """faces : of the first body, pulled tight, seen from `sides`. piece : the whole of it, front and back, lying, but for the sections `missing`. checks : by section, so many units of it pulled tight and their faces. slips : by
    section. times : how long it takes, None where that is not known. photo : the designer's own, as a JPEG."""

    faces: tuple[Picture, ...] = ()
    checks: Mapping[str, tuple[int, tuple[Picture, ...]]] = field(default_factory=dict)
    slips: Mapping[str, tuple[SlipTold, ...]] = field(default_factory=dict)
    times: Timing | None = None
    photo: bytes = b""
    piece: tuple[Picture, ...] = ()
    sides: tuple[str, str] = ("front", "back")
    missing: tuple[str, ...] = ()


def check_units(calibration: Calibration | None, section: str) -> int:
    """After how many units of a section to lay a tape beside it for the first time."""
    if calibration is None or section not in calibration.prior.sections:
        return UNKNOWN
    pitch = calibration.pitch(section).median
    return min(NICE, key=lambda n: (abs(n * pitch - CHECK_MM), n))


def checkpoints(
    calibration: Calibration | None, section: str, most: int, seen: Seen, system: str
) -> tuple[Checkpoint, ...]:
    """The checkpoints of a body, the first with its picture. most : units in the largest size; none where it is not repeated."""
    every = check_units(calibration, section)
    if most < 2 or calibration is None or section not in calibration.prior.sections:
        return ()
    every = min(every, most)
    found = []
    for k in range(1, MOST_CHECKS + 1):
        units = every * k
        if units > most:
            break
        spread = calibration.length({section: units})
        if spread.median < 1:
            return ()
        low, high = spread.interval(0.9)
        words = (
            f"{format_length(round(spread.median), system)}, "
            f"9 in 10 between {format_length(round(low), system)} and {format_length(round(high), system)}"
        )
        pictures: tuple[Picture, ...] = ()
        if k == 1:
            shown, faces = seen.checks.get(section, (0, ()))
            pictures = faces if shown == every else ()
        found.append(Checkpoint(units, words, pictures))
    return tuple(found)
