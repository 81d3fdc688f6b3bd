"""A stash to and from CSV: a row a length, as makers write them. Columns are documented in docs/formats.md."""

from __future__ import annotations

import csv
import difflib
import io
import re
from collections.abc import Mapping, Sequence

from pydantic import ValidationError

from dim_ladder.base import InputError, Problem, read_length, read_number, read_whole
from dim_ladder.base.colours import colour_word
from dim_ladder.calibrate.csvio import delimiter, plain_cell, safe_cell
from dim_ladder.library.kinds import kind_named
from dim_ladder.stash.value import MOST_LENGTHS, Length, free_id

COLUMNS = ("id", "kind", "colour", "length", "count", "lot", "spool", "price", "grams", "note")
NEEDED = ("kind", "colour", "length")
YES, NO = ("yes", "y", "true", "1", "x", "spool"), ("", "no", "n", "false", "0", "offcut")
_COLOUR = re.compile(r"#[0-9a-f]{6}")


def stash_to_csv(lengths: Sequence[Length]) -> str:
    """Every length, one row each; no cell can be taken for a formula."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for x in lengths:
        price = "" if x.per_metre is None else f"{x.per_metre:.10g}"
        grams = "" if x.grams is None else f"{x.grams:.10g}"
        row = [
            x.id,
            x.kind,
            x.colour,
            f"{x.mm:.10g} mm",
            str(x.count),
            x.lot,
            "yes" if x.spool else "no",
            price,
            grams,
            x.note,
        ]
        writer.writerow([safe_cell(cell) for cell in row])
    return out.getvalue()


def stash_from_csv(text: str, taken: Sequence[str] = ()) -> tuple[Length, ...]:
    """Lengths of a table; those without a name get one. taken : names that are on the shelf. Raises InputError with every row that
    cannot be read, and what to do; then nothing was taken."""
    table = csv.reader(io.StringIO(text.lstrip("\ufeff"), newline=""), delimiter=delimiter(text))
    rows = [(n, r) for n, r in enumerate(table, 1) if any(c.strip() for c in r)]
    if not rows:
        raise InputError("the table is empty", f"Its columns are: {', '.join(COLUMNS)}")
    header = [plain_cell(c).lower() for c in rows[0][1]]
    _check(header)
    if len(rows) > MOST_LENGTHS:
        raise InputError(f"the table has {len(rows):,} rows", f"At most {MOST_LENGTHS:,}")
    out: list[Length] = []
    problems: list[Problem] = []
    names = set(taken)
    for line, row in rows[1:]:
        try:
            if len(row) > len(header) and any(c.strip() for c in row[len(header) :]):
                raise InputError(
                    f"this row has {len(row)} cells and the table {len(header)} columns",
                    "A comma within a cell? Put it in quotes, or write 82.5 cm",
                )
            length = _row({h: plain_cell(c) for h, c in zip(header, row, strict=False)}, names)
        except InputError as e:
            problems.append(Problem(e.message, e.hint, line, 1))
            continue
        except ValidationError as e:
            first = e.errors()[0]
            problems.append(
                Problem(
                    f"{'.'.join(map(str, first['loc']))}: {first['msg'].lower()}", "Check this row", line, 1
                )
            )
            continue
        names.add(length.id)
        out.append(length)
    if problems:
        raise InputError.of(tuple(problems[:50]))
    return tuple(out)


def _check(header: Sequence[str]) -> None:
    problems = []
    for k, name in enumerate(header, 1):
        if name and header.index(name) < k - 1:
            problems.append(Problem(f"there are two columns “{name}”", "Keep one of them", 1, k))
        close = difflib.get_close_matches(name, COLUMNS, 1, 0.75) if name not in COLUMNS else []
        if close and close[0] not in header:
            problems.append(Problem(f"there is no column “{name}”", f"Did you mean “{close[0]}”?", 1, k))
    missing = [c for c in NEEDED if c not in header]
    if missing and not problems:
        columns = ", ".join(COLUMNS)
        problems.append(
            Problem(f"the table has no column “{missing[0]}”", f"The columns are: {columns}", 1, 1)
        )
    if problems:
        raise InputError.of(tuple(problems))


def _row(cells: Mapping[str, str], names: set[str]) -> Length:
    kind = kind_named(cells.get("kind", ""))
    colour = cells.get("colour", "").lower()
    if not _COLOUR.fullmatch(colour):
        raise InputError(f"“{colour[:20]}” is not a colour", "Write it as in the weave, such as #1f6f8b")
    spool = cells.get("spool", "").lower()
    if spool not in (*YES, *NO):
        raise InputError(f"spool is “{spool[:20]}”", "Write yes for a spool, no for an offcut")
    name = cells.get("id", "")
    if name and name in names:
        raise InputError(
            f"there is a length “{name}” already", "Give it another name, or leave the cell empty"
        )
    number = cells.get("count", "")
    price, grams = cells.get("price", ""), cells.get("grams", "")
    return Length(
        id=name or free_id(names, f"{colour_word(colour)} {kind}"),
        kind=kind,
        colour=colour,
        mm=read_length(cells.get("length", ""), "mm", minimum=1, maximum=2_000_000),
        count=read_whole(number, "a number of lengths", "3", maximum=1000) if number else 1,
        lot=cells.get("lot", ""),
        spool=spool in YES,
        per_metre=read_number(price, "a price per metre", "0.35", maximum=1e6) if price else None,
        grams=read_number(grams, "a mass per metre", "6.6", maximum=1000) if grams else None,
        note=cells.get("note", ""),
    )
