"""Ties to and from CSV: one row a reading, lengths as makers write them. Columns are documented in docs/formats.md."""

from __future__ import annotations

import csv
import difflib
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass

from pydantic import ValidationError

from dim_ladder.base import InputError, Problem, read_length, read_number, read_whole
from dim_ladder.calibrate.ties import Reading, Tie

COLUMNS = (
    "tie", "date", "tension", "who", "units", "length", "width", "thickness", "minutes", "ends", "cut", "left", "grams",
    "note", "lot", "cords", "versions", "photos",
)  # fmt: skip
MAX_ROWS = 20_000
SIGNS = ("=", "+", "-", "@", "\t", "\r", "'")
LENGTHS = ("length", "width", "thickness", "cut", "left", "grams", "minutes")
_HEAD = re.compile(r"\d+")
_TAIL = re.compile(r"\d+ *(mm|cm|m|in|inch|inches|ft|g|grams)")


@dataclass(frozen=True, slots=True)
class Table:
    """ties : as they were read. left_out : columns that are not known and were not read."""

    ties: tuple[Tie, ...]
    left_out: tuple[str, ...] = ()


def safe_cell(text: str) -> str:
    """A cell that no spreadsheet takes for a formula; one that begins with an apostrophe of its own gets another."""
    return "'" + text if text[:1] in SIGNS else text


def plain_cell(text: str) -> str:
    """A cell as it was before safe_cell, and an apostrophe that a person wrote."""
    text = text.strip()
    return text[1:] if text[:1] == "'" and text[1:2] in SIGNS and len(text) > 1 else text


def ties_to_csv(ties: tuple[Tie, ...]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for t in ties:
        units = " ".join(f"{s}={n}" for s, n in t.counts.items())
        head = [t.id, t.date, t.tension, t.who, units, _mm(t.length_mm), _mm(t.width_mm), _mm(t.thickness_mm)]
        minutes = "" if t.minutes is None else f"{t.minutes:.10g}"
        rest = [t.note, t.lot, _pairs(t.kinds), _pairs(t.versions), "; ".join(t.photos)]
        for r in t.readings or (None,):
            tail = [""] * 4
            if r is not None:
                tail = [
                    " ".join(r.ends),
                    _mm(r.cut_mm),
                    _mm(r.left_mm),
                    "" if r.left_g is None else f"{r.left_g:.10g}",
                ]
            writer.writerow([safe_cell(c) for c in [*head, minutes, *tail, *rest]])
    return out.getvalue()


def _pairs(named: dict[str, str]) -> str:
    return " ".join(f"{k}={v}" for k, v in named.items())


def _mm(value: float | None) -> str:
    return "" if value is None else f"{value:.10g} mm"


def ties_from_csv(text: str) -> tuple[Tie, ...]:
    """The ties of a table. See read_table."""
    return read_table(text).ties


def read_table(text: str) -> Table:
    """Read ties; rows with the same name in the column `tie` are one tie. Raises InputError with every bad row and column."""
    if len(text) > 5_000_000:
        raise InputError("the table is too long", f"At most {MAX_ROWS:,} rows")
    text = text.removeprefix("\ufeff")
    reader = csv.reader(io.StringIO(text), delimiter=delimiter(text), strict=True)
    try:
        rows = list(reader)
    except csv.Error as e:
        raise InputError(f"this is not a CSV table: {e}", "Export it again as CSV with commas") from e
    header = [c.strip().lower() for c in rows[0]] if rows else []
    left_out = _check_header(header)
    if len(rows) > MAX_ROWS:
        raise InputError(f"the table has {len(rows):,} rows", f"At most {MAX_ROWS:,}")
    problems: list[Problem] = []
    ties: dict[str, dict[str, object]] = {}
    for line, row in enumerate(rows[1:], 2):
        if not any(c.strip() for c in row):
            continue
        try:
            whole = _whole_row(row, header)
            _add_row(ties, {h: plain_cell(c) for h, c in zip(header, whole, strict=False)})
        except (InputError, ValidationError) as e:
            message = e.message if isinstance(e, InputError) else str(e.errors()[0]["msg"])
            problems.append(
                Problem(message, e.hint if isinstance(e, InputError) else "Check this row", line, 1)
            )
    out = []
    for name, fields in ties.items():
        try:
            out.append(Tie.model_validate(fields))
        except ValidationError as e:
            problems.append(Problem(f"tie {name}: {e.errors()[0]['msg']}", "Check its rows"))
    if problems:
        raise InputError.of(tuple(problems))
    return Table(tuple(out), left_out)


def delimiter(text: str) -> str:
    """Where decimals have a comma, spreadsheets set semicolons between cells."""
    first = text.partition("\n")[0]
    return max((",", ";", "\t"), key=lambda d: (first.count(d), d == ","))


def _check_header(header: Sequence[str]) -> tuple[str, ...]:
    """Columns that are not known, to be told. Raises InputError where one is twice, or looks misspelt."""
    problems = []
    for k, name in enumerate(header, 1):
        if name and header.index(name) < k - 1:
            problems.append(Problem(f"there are two columns “{name}”", "Keep one of them", 1, k))
    unknown = [h for h in dict.fromkeys(header) if h and h not in COLUMNS]
    for name in unknown:
        close = difflib.get_close_matches(name, COLUMNS, 1, 0.75)
        if close and close[0] not in header:
            k = header.index(name) + 1
            problems.append(Problem(f"there is no column “{name}”", f"Did you mean “{close[0]}”?", 1, k))
    if "tie" not in header and not problems:
        problems.append(
            Problem("the table has no column “tie”", f"The columns are: {', '.join(COLUMNS)}", 1, 1)
        )
    if problems:
        raise InputError.of(tuple(problems))
    return tuple(unknown)


def _whole_row(row: Sequence[str], header: Sequence[str]) -> list[str]:
    """A row with a length that its comma cut in two put together again, where that can be read in one way only."""
    torn = [
        k
        for k in range(len(row) - 1)
        if _HEAD.fullmatch(row[k].strip()) and _TAIL.fullmatch(row[k + 1].strip())
    ]
    extra = len(row) - len(header)
    if extra > 0 and any(c.strip() for c in row[len(header) :]) and len(torn) != extra:
        raise InputError(
            f"this row has {len(row)} cells and the table {len(header)} columns",
            "A comma within a cell? Put it in quotes, or write 82.5 cm",
        )
    bare = [k for k in torn if k < len(header) and header[k] in LENGTHS and row[k].strip()]
    if (extra < 0 and torn) or (extra == 0 and bare):
        torn = bare or torn
        raise InputError(
            f"“{row[torn[0]].strip()},{row[torn[0] + 1].strip()}” may be one length that a comma cut in two",
            "Put it in quotes, or write it with a point",
        )
    whole = list(row)
    if extra > 0 and len(torn) == extra:
        for k in reversed(torn):
            if header[k - sum(t < k for t in torn)] not in LENGTHS:
                raise InputError(
                    f"“{row[k].strip()},{row[k + 1].strip()}” stands where no length belongs",
                    "Check this row",
                )
            whole[k : k + 2] = [f"{whole[k].strip()},{whole[k + 1].strip()}"]
    return whole


def _add_row(ties: dict[str, dict[str, object]], cells: dict[str, str]) -> None:
    name = cells.get("tie", "")
    if not name:
        raise InputError("this row names no tie", "Fill the column “tie”")
    fields = ties.setdefault(name, {"id": name, "readings": ()})
    for key in ("date", "tension", "who", "note", "lot"):
        if cells.get(key):
            fields[key] = cells[key]
    for key in ("length", "width", "thickness"):
        if cells.get(key):
            fields[f"{key}_mm"] = read_length(cells[key])
    if cells.get("minutes"):
        fields["minutes"] = read_number(cells["minutes"], "a number of minutes", "45", maximum=100_000)
    for column, key in (("cords", "kinds"), ("versions", "versions")):
        if cells.get(column):
            fields[key] = dict(_named(part) for part in cells[column].split())
    if cells.get("photos"):
        fields["photos"] = tuple(p.strip() for p in cells["photos"].split(";") if p.strip())
    if cells.get("units"):
        counts = {}
        for part in cells["units"].split():
            section, _, number = part.partition("=")
            counts[section] = read_whole(number, f"a count of units (“{part[:40]}”)", "bar=6")
        fields["counts"] = counts
    if cells.get("ends"):
        reading = Reading(
            ends=tuple(cells["ends"].split()),
            cut_mm=read_length(cells["cut"]) if cells.get("cut") else None,
            left_mm=read_length(cells["left"]) if cells.get("left") else None,
            left_g=read_number(cells["grams"], "a mass in grams", "12.5", maximum=100_000)
            if cells.get("grams")
            else None,
        )
        readings = fields["readings"]
        assert isinstance(readings, tuple)
        fields["readings"] = (*readings, reading)


def _named(part: str) -> tuple[str, str]:
    name, eq, value = part.partition("=")
    if not (name and eq and value):
        raise InputError(f"“{part}” is not a name and a value", "Write it as tide=nylon-4mm")
    return name, value
