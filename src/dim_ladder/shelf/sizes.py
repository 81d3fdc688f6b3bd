"""Tables of sizes of a workshop, beside its weaves: names and lengths that the person edits as text."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dim_ladder.base import InputError, read_length, typed_length
from dim_ladder.base.disk import read_text, write_whole
from dim_ladder.publish.choices import SizeRow

NAME = "sizes.json"
MAX_BYTES = 200_000
MOST_MM = 20_000
MOST_ROWS = 24  # as many as a sheet has room for
HOW = "Write a heading such as “wrists, girth”, then a name and a length a line: S 15 cm"


class SizeTable(BaseModel):
    """Sizes of one thing. of : whether they are girths of a body, or lengths of a piece."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=40)]
    of: Literal["girth", "length"] = "girth"
    sizes: Annotated[tuple[SizeRow, ...], Field(min_length=1, max_length=MOST_ROWS)]


class SizeFile(BaseModel):
    """As it is written."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: Literal["dim-ladder-sizes"] = "dim-ladder-sizes"
    version: Literal[1] = 1
    tables: Annotated[tuple[SizeTable, ...], Field(max_length=60)] = ()


def _rows(*pairs: tuple[str, float]) -> tuple[SizeRow, ...]:
    return tuple(SizeRow(name=name, size_mm=mm) for name, mm in pairs)


# To begin with, until a workshop has its own. Round numbers, of nobody in particular.
USUAL = (
    SizeTable(name="wrists", sizes=_rows(("child", 130), ("S", 150), ("M", 170), ("L", 190), ("XL", 210))),
    SizeTable(name="straps", of="length", sizes=_rows(("short", 300), ("middle", 450), ("long", 600))),
)


def tables_of(folder: Path | None) -> tuple[SizeTable, ...]:
    """The tables of a workshop; the usual ones where it has none. Raises InputError with the place, or WorldError."""
    if folder is None or not (folder / NAME).is_file():
        return USUAL
    try:
        return SizeFile.model_validate_json(read_text(folder / NAME, MAX_BYTES, "tables of sizes")).tables
    except ValidationError as e:
        first = e.errors()[0]
        where = " → ".join(str(p) for p in first["loc"])
        raise InputError(
            f"{NAME}: {where + ': ' if where else ''}{first['msg'].lower()}",
            "Mend it there; the file was left as it is",
        ) from None


def write_tables(tables: Sequence[SizeTable], folder: Path) -> None:
    """Raises WorldError."""
    write_whole(folder / NAME, SizeFile(tables=tuple(tables)).model_dump_json(indent=1) + "\n", follow=True)


def tables_text(tables: Sequence[SizeTable], system: str = "metric") -> str:
    """The tables as they are edited."""
    out = []
    for t in tables:
        out += [
            f"{t.name}, {t.of}",
            *(f"  {r.name}  {typed_length(r.size_mm, system)}" for r in t.sizes),
            "",
        ]
    return "\n".join(out)


def read_tables(text: str) -> tuple[SizeTable, ...]:
    """Tables as a person wrote them. Raises InputError with the line that cannot be read."""
    found: list[tuple[str, str, list[SizeRow]]] = []
    for n, raw in enumerate(text.splitlines(), 1):
        line = raw.strip()
        heading = re.fullmatch(r"(.{1,40}?)\s*,\s*(girth|length)s?", line)
        # Two blanks set off a name that ends in a number.
        row = re.fullmatch(r"(\S.*?)(?: {2,}|\t+|\s*[=:]\s*)(\d.*)", line) or re.fullmatch(
            r"(\S.*?)\s+(\d.*)", line
        )
        if not line:
            continue
        if heading:
            if any(name == heading[1] for name, _, _ in found):
                raise InputError(
                    f"line {n}: there are two tables “{heading[1]}”", "Give one of them another name"
                )
            found.append((heading[1], heading[2], []))
        elif row and found:
            if any(r.name == row[1] for r in found[-1][2]):
                raise InputError(f"line {n}: there are two sizes “{row[1]}”", "Give one of them another name")
            if len(found[-1][2]) == MOST_ROWS:
                raise InputError(f"line {n}: a table has at most {MOST_ROWS} sizes", "Begin another one")
            try:
                mm = read_length(row[2], "cm", minimum=1, maximum=MOST_MM)
            except InputError as e:
                raise InputError(f"line {n}: {e.message}", e.hint) from None
            found[-1][2].append(SizeRow(name=row[1][:40], size_mm=mm))
        else:
            raise InputError(f"line {n}: “{line}” is neither a heading nor a size", HOW)
    for name, _, rows in found:
        if not rows:
            raise InputError(f"table “{name}” is empty", HOW)
    return tuple(SizeTable.model_validate({"name": n, "of": of, "sizes": rows}) for n, of, rows in found)


def size_named(tables: Sequence[SizeTable], text: str) -> tuple[SizeTable, SizeRow] | None:
    """What a name such as "M" or "straps long" means: of the first table that has it."""
    for t in tables:
        for r in t.sizes:
            if text.strip() in (r.name, f"{t.name} {r.name}"):
                return t, r
    return None
