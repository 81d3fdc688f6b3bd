"""A test tie as it was logged. Lengths in mm, masses in grams; what was not measured stays empty."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Text = Annotated[str, Field(max_length=2000)]
Name = Annotated[str, Field(min_length=1, max_length=200)]
Short = Annotated[str, Field(max_length=200)]
Length = Annotated[float, Field(gt=0, le=1_000_000, allow_inf_nan=False)]
Left = Annotated[float, Field(ge=0, le=1_000_000, allow_inf_nan=False)]


class Reading(BaseModel):
    """One end, both ends of a cord, or more measured together: what was cut, and what was left over of it in length, or
    only by its mass."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    ends: tuple[Name, ...] = Field(min_length=1, max_length=64)
    cut_mm: Length | None = None
    left_mm: Left | None = None
    left_g: Left | None = None

    @property
    def used_mm(self) -> float | None:
        """Cord used, where both lengths were read."""
        if self.cut_mm is None or self.left_mm is None:
            return None
        return self.cut_mm - self.left_mm


class Tie(BaseModel):
    """One test tie. counts : units worked, by section name. kinds : kind of cord it was tied with, by cord; where a cord
    is missing, what the weave says. lot : of the cord. versions : by section, which version of it was tied (the
    fingerprint of its trace); where one is missing, whichever the weave has. photos : names of files, beside the weave."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Name
    date: Annotated[str, Field(max_length=32)] = ""
    tension: Annotated[str, Field(pattern="^(|tight|snug|easy)$")] = ""
    who: Short = ""
    counts: dict[Name, Annotated[int, Field(ge=0, le=100_000)]] = {}
    length_mm: Length | None = None
    width_mm: Length | None = None
    thickness_mm: Length | None = None
    minutes: Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)] | None = None
    readings: tuple[Reading, ...] = Field(default=(), max_length=200)
    note: Text = ""
    kinds: dict[Name, Name] = {}
    lot: Short = ""
    versions: dict[Name, Name] = {}
    photos: Annotated[tuple[Name, ...], Field(max_length=40)] = ()


def usable_readings(tie: Tie) -> list[tuple[tuple[str, ...], float]]:
    """(ends, cord used in mm) of every reading that has both its cut and its leftover in length."""
    return [(r.ends, used) for r in tie.readings if (used := r.used_mm) is not None and used > 0]


ENOUGH = 3  # values off a tape, which two ties of a day do not have in common by chance


def said(tie: Tie) -> tuple[object, ...] | None:
    """What a tie of a day says, to the millimetre; None where it is too little to tell two ties apart by."""
    read = [(r.ends, r.cut_mm, r.left_mm, r.left_g) for r in tie.readings if r.left_mm or r.left_g]
    if len(read) + bool(tie.length_mm) < ENOUGH:
        return None
    day = tie.date.strip()[:10]
    return day, tuple(sorted(tie.counts.items())), tie.length_mm, tuple(sorted(read, key=repr))
