"""A test tie as it was logged. Lengths in mm; what was not measured stays empty."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Text = Annotated[str, Field(max_length=2000)]
Name = Annotated[str, Field(min_length=1, max_length=200)]
Length = Annotated[float, Field(gt=0, le=1_000_000, allow_inf_nan=False)]
Left = Annotated[float, Field(ge=0, le=1_000_000, allow_inf_nan=False)]


class Reading(BaseModel):
    """One end, or both ends of a cord measured together: what was cut and what was left over."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    ends: tuple[Name, ...] = Field(min_length=1, max_length=64)
    cut_mm: Length | None = None
    left_mm: Left | None = None

    @property
    def used_mm(self) -> float | None:
        if self.cut_mm is None or self.left_mm is None:
            return None
        return self.cut_mm - self.left_mm


class Tie(BaseModel):
    """One test tie. counts : units worked, by section name."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Name
    date: Annotated[str, Field(max_length=32)] = ""
    tension: Annotated[str, Field(pattern="^(|tight|snug|easy)$")] = ""
    who: Annotated[str, Field(max_length=200)] = ""
    counts: dict[Name, Annotated[int, Field(ge=0, le=100_000)]] = {}
    length_mm: Length | None = None
    width_mm: Length | None = None
    thickness_mm: Length | None = None
    minutes: Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)] | None = None
    readings: tuple[Reading, ...] = Field(default=(), max_length=200)
    note: Text = ""


def usable_readings(tie: Tie) -> list[tuple[tuple[str, ...], float]]:
    """(ends, cord used in mm) of every reading that has both its cut and its leftover."""
    return [(r.ends, used) for r in tie.readings if (used := r.used_mm) is not None and used > 0]
