"""Ties to and from CSV: one row a reading, lengths as makers write them. Columns are documented in docs/formats.md."""

from __future__ import annotations

import csv
import io

from pydantic import ValidationError

from dim_ladder.base import InputError, Problem, read_length
from dim_ladder.calibrate.ties import Reading, Tie

COLUMNS = (
    "tie", "date", "tension", "who", "units", "length", "width", "thickness", "minutes", "ends", "cut", "left", "grams",
    "note", "lot", "cords", "versions", "photos",
)  # fmt: skip
MAX_ROWS = 20_000


def safe_cell(text: str) -> str:
    """A cell that no spreadsheet takes for a formula."""
    return "'" + text if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


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
    """Read ties; rows with the same name in the column `tie` are one tie. Raises InputError with every bad row."""
    if len(text) > 5_000_000:
        raise InputError("the table is too long", f"At most {MAX_ROWS:,} rows")
    reader = csv.reader(io.StringIO(text.removeprefix("\ufeff")))
    try:
        rows = list(reader)
    except csv.Error as e:
        raise InputError(f"this is not a CSV table: {e}", "Export it again as CSV with commas") from e
    if not rows or "tie" not in (header := [c.strip().lower() for c in rows[0]]):
        raise InputError("the table has no column “tie”", f"The columns are: {', '.join(COLUMNS)}")
    if len(rows) > MAX_ROWS:
        raise InputError(f"the table has {len(rows):,} rows", f"At most {MAX_ROWS:,}")
    problems: list[Problem] = []
    ties: dict[str, dict[str, object]] = {}
    for line, row in enumerate(rows[1:], 2):
        if not any(c.strip() for c in row):
            continue
        cells = {h: c.strip().removeprefix("'") for h, c in zip(header, row, strict=False)}
        try:
            _add_row(ties, cells)
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
    return tuple(out)


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
        fields["minutes"] = _number(cells["minutes"], "a number of minutes", "45")
    for column, key in (("cords", "kinds"), ("versions", "versions")):
        if cells.get(column):
            fields[key] = dict(_named(part) for part in cells[column].split())
    if cells.get("photos"):
        fields["photos"] = tuple(p.strip() for p in cells["photos"].split(";") if p.strip())
    if cells.get("units"):
        counts = {}
        for part in cells["units"].split():
            section, _, number = part.partition("=")
            if not number.isdigit():
                raise InputError(f"“{part}” is not a count of units", "Write it as bar=6")
            counts[section] = int(number)
        fields["counts"] = counts
    if cells.get("ends"):
        reading = Reading(
            ends=tuple(cells["ends"].split()),
            cut_mm=read_length(cells["cut"]) if cells.get("cut") else None,
            left_mm=read_length(cells["left"]) if cells.get("left") else None,
            left_g=_number(cells["grams"], "a mass in grams", "12.5") if cells.get("grams") else None,
        )
        readings = fields["readings"]
        assert isinstance(readings, tuple)
        fields["readings"] = (*readings, reading)


def _number(text: str, what: str, example: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise InputError(f"“{text}” is not {what}", f"Write it as {example}") from None


def _named(part: str) -> tuple[str, str]:
    name, eq, value = part.partition("=")
    if not (name and eq and value):
        raise InputError(f"“{part}” is not a name and a value", "Write it as tide=nylon-4mm")
    return name, value
