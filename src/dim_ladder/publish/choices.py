"""What the designer chose for the sheet."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Short = Annotated[str, Field(max_length=200)]


class SizeRow(BaseModel):
    """One size on the sheet; size_mm is a girth or a length, as the plan says."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=40)]
    size_mm: Annotated[float, Field(gt=0, le=20_000, allow_inf_nan=False)]


class Reworded(BaseModel):
    """A step in the designer's own words. step : its place in its section, from 1, when they were written; was : what the program
    said there then, in that vocabulary and lie."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    section: Annotated[str, Field(max_length=200)]
    step: Annotated[int, Field(ge=1, le=20_000)]
    was: Annotated[str, Field(max_length=4000)]
    text: Annotated[str, Field(min_length=1, max_length=1000)]
    vocabulary: Literal["plain", "paracord", "macrame"] = "plain"
    lie: Literal["hanging", "table"] = "hanging"


class SheetChoices(BaseModel):
    """Words, units, sizes and names on the sheet. vocabulary : plain, paracord or macrame. lie : how the work lies
    before the reader, hanging or on a table. carry : what travels in the page besides what a reader needs (travel.py).
    reworded : steps in the designer's own words (reworded.py). kinds : other cords in which a reader of the page may tie it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    vocabulary: Literal["plain", "paracord", "macrame"] = "plain"
    lie: Literal["hanging", "table"] = "hanging"
    units: Literal["metric", "imperial"] = "metric"
    designer: Short = ""
    licence: Short = ""
    date: Annotated[str, Field(max_length=32)] = ""
    purpose: Annotated[str, Field(max_length=1000)] = ""
    care: Annotated[str, Field(max_length=1000)] = "Wash by hand, dry flat in the shade."
    carry: Annotated[tuple[Literal["ties", "names", "remarks"], ...], Field(max_length=3)] = ("ties",)
    sizes: tuple[SizeRow, ...] = Field(
        default=(
            SizeRow(name="S", size_mm=150),
            SizeRow(name="M", size_mm=170),
            SizeRow(name="L", size_mm=190),
        ),
        max_length=24,
    )
    reworded: Annotated[tuple[Reworded, ...], Field(max_length=400)] = ()
    kinds: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=60)], ...], Field(max_length=4)] = ()
