"""Ties to and from CSV: one row a reading, lengths as makers write them. Columns are documented in docs/formats.md."""

from __future__ import annotations

import csv
import io

from pydantic import ValidationError

from dim_ladder.base import InputError, Problem, read_length
from dim_ladder.calibrate.ties import Reading, Tie

COLUMNS = (
    "tie", "date", "tension", "who", "units", "length", "width", "thickness", "minutes", "ends", "cut", "left", "note",
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
        for r in t.readings or (None,):
            tail = ["", "", ""] if r is None else [" ".join(r.ends), _mm(r.cut_mm), _mm(r.left_mm)]
            writer.writerow([safe_cell(c) for c in [*head, minutes, *tail, t.note]])
    return out.getvalue()


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
    for key in ("date", "tension", "who", "note"):
        if cells.get(key):
            fields[key] = cells[key]
    for key in ("length", "width", "thickness"):
        if cells.get(key):
            fields[f"{key}_mm"] = read_length(cells[key])
    if cells.get("minutes"):
        try:
            fields["minutes"] = float(cells["minutes"].replace(",", "."))
        except ValueError:
            raise InputError(f"“{cells['minutes']}” is not a number of minutes", "Write it as 45") from None
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
        )
        readings = fields["readings"]
        assert isinstance(readings, tuple)
        fields["readings"] = (*readings, reading)
