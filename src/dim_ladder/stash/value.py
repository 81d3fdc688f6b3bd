"""What lies on the shelf of one workshop: spools, offcuts, what they cost, and what was booked out of it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Name = Annotated[str, Field(min_length=1, max_length=80)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
Money = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]
MOST_LENGTHS = 5_000


class Length(BaseModel):
    """Lengths of cord that are alike. id : its name on the shelf. kind : as in scripts. mm : of each of `count`. lot : of its dye,
    "" where that is not known. spool : cut only where offcuts do not do. per_metre : its price. grams : per metre, where it was
    weighed; None as the kind has it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Name
    kind: Name
    colour: Colour
    mm: Annotated[float, Field(gt=0, le=2_000_000, allow_inf_nan=False)]
    count: Annotated[int, Field(ge=1, le=1000)] = 1
    lot: Annotated[str, Field(max_length=80)] = ""
    spool: bool = False
    per_metre: Money | None = None
    grams: Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)] | None = None
    note: Annotated[str, Field(max_length=400)] = ""


class Booking(BaseModel):
    """An order that was cut. before : the shelf as it was, so that it can be put back. pieces : by line of the order, how many were cut."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    order: Name
    date: Annotated[str, Field(max_length=32)] = ""
    used_mm: Annotated[float, Field(ge=0, allow_inf_nan=False)]
    before: Annotated[tuple[Length, ...], Field(max_length=MOST_LENGTHS)]
    pieces: Annotated[tuple[int, ...], Field(max_length=200)] = ()


class Stash(BaseModel):
    """keep_mm : a remnant below that is waste. loss_mm : that every cut takes. prices : of fastenings, by name. rate : for an hour of
    work. currency : for people."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    lengths: Annotated[tuple[Length, ...], Field(max_length=MOST_LENGTHS)] = ()
    keep_mm: Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)] = 300.0
    loss_mm: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)] = 0.0
    currency: Annotated[str, Field(max_length=8)] = ""
    prices: Annotated[dict[Name, Money], Field(max_length=100)] = {}
    rate: Money | None = None
    bookings: Annotated[tuple[Booking, ...], Field(max_length=200)] = ()

    @model_validator(mode="after")
    def _each_once(self) -> Stash:
        seen: set[str] = set()
        for length in self.lengths:
            if length.id in seen:
                raise ValueError(f"there are two lengths “{length.id}”")
            seen.add(length.id)
        return self


class StashFile(BaseModel):
    """As it is written."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: Literal["dim-ladder-stash"] = "dim-ladder-stash"
    version: Literal[1] = 1
    stash: Stash


def price_of(stash: Stash, kind: str, colour: str) -> float | None:
    """What a metre of a cord costs: of the dearest on the shelf, as what is bought costs; None where none has a price."""
    found = [
        x.per_metre
        for x in stash.lengths
        if x.kind == kind and x.colour == colour and x.per_metre is not None
    ]
    return max(found, default=None)


def free_id(taken: Mapping[str, object] | set[str], wanted: str) -> str:
    """A name that no other length on the shelf has."""
    if wanted not in taken:
        return wanted
    n = 2
    while f"{wanted} {n}" in taken:
        n += 1
    return f"{wanted} {n}"
