"""The sheet as CSV of cuts and as Markdown with pictures beside it."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from dim_ladder.calibrate.csvio import safe_cell
from dim_ladder.publish.sheet import Sheet
from dim_ladder.publish.steps import AGAIN


def to_csv(sheet: Sheet) -> str:
    """Cuts of all sizes, one row a cord; no cell can be taken for a formula."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(
        [
            "size",
            sheet.target,
            "units",
            "tied length",
            "off",
            "time",
            "cord",
            "cut",
            "cut mm",
            "fold",
            "chance short",
        ]
    )
    for s in sheet.sizes:
        units = " ".join(f"{n}={k}" for n, k in s.counts)
        for c in s.cuts:
            row = [
                s.name,
                s.size,
                units,
                s.length,
                s.off,
                s.minutes,
                c.cord,
                c.cut,
                f"{c.cut_mm:.0f}",
                c.fold,
                c.chance,
            ]
            writer.writerow([safe_cell(cell) for cell in row])
    return out.getvalue()


def _md(text: str) -> str:
    """Text on one line, with every sign that Markdown or HTML would take for its own made harmless."""
    text = " ".join(text.split())
    for sign in "\\`*_{}[]()#+!|<>~":
        text = text.replace(sign, "\\" + sign)
    return text


def to_markdown(sheet: Sheet, pictures: dict[int, str], piece: Sequence[str] = ()) -> str:
    """pictures : step number -> file name of its SVG. piece : of the whole of it, front and back."""
    by = " ".join(
        x for x in (sheet.designer and f"Designed by {sheet.designer}.", sheet.date, sheet.licence) if x
    )
    out = [
        f"# {_md(sheet.title)}",
        "",
        _md(sheet.summary),
        "",
        _md(f"{by} Version {sheet.version}.".strip()),
        "",
    ]
    if sheet.purpose:
        out += [_md(sheet.purpose), ""]
    for name, side in zip(piece, sheet.piece_sides, strict=False):
        out += [f"![The finished piece, {side}]({name})", ""]
    out += ["## Before you start", "", *(f"- {_md(c)}" for c in sheet.cautions), ""]
    out += ["## Materials and tools", ""]
    out += [f"- {_md(c.name)}: {c.colour_word}, {_md(c.words)}, {c.ends}" for c in sheet.cords]
    if sheet.palette:
        out += ["", _md(sheet.palette)]
    out += ["", *(f"- {_md(m)}" for m in sheet.materials)] if sheet.materials else []
    out += ["", "Tools: " + _md(", ".join(sheet.tools)), ""]
    if sheet.sizes:
        out += [
            "## Sizes and cuts",
            "",
            f"| Size | {sheet.target} | Units | Tied | Off | Time | Cord | Cut | Fold | Running short |",
        ]
        out += ["| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |"]
        for s in sheet.sizes:
            units = ", ".join(f"{n} × {k}" for n, k in s.counts)
            out += [f"| {_md(s.name)} | {s.size} | {_md(s.problem)} | | | | | | | |"] if s.problem else []
            cells = [
                (s.name, s.size, units, s.length, s.off, s.minutes, c.cord, c.cut, c.fold, c.chance)
                for c in s.cuts
            ]
            out += ["| " + " | ".join(_md(x) for x in row) + " |" for row in cells]
        out += ["", _md(f"{sheet.fits} {sheet.basis} Fastening: {sheet.fastening}.".strip()), ""]
    out += ["## Hang", "", _md(sheet.hanging), ""]
    for part in sheet.sections:
        out += [f"## {_md(part.title)}", ""]
        if part.repeat:
            out += [f"Work these steps {_md(part.repeat)}.", ""]
        for begin in part.begin:
            out += [_md(begin.whole), ""]
        for step in part.steps:
            heading = f"**{_md(step.heading)}** " if step.heading else ""
            out += [f"{step.number}. {heading}{_md(step.sentence)}", ""]
            if step.caution:
                out += [f"   **Caution:** {_md(step.caution)}", ""]
            if step.number in pictures:
                out += [f"   ![Step {step.number}]({pictures[step.number]})", ""]
        if part.again:
            out += [AGAIN, "", *(f"- {_md(row.whole)}" for row in part.again), ""]
        if part.checks:
            out += ["**Check your work.** From the first unit on the tape reads:", ""]
            out += [f"- after {c.units}: {_md(c.words)}" for c in part.checks]
            out += [""]
        if part.slips:
            out += ["**If it goes wrong**", ""]
            out += [f"- **{_md(s.name.capitalize())}.** {_md(f'{s.tell} {s.undo}')}" for s in part.slips]
            out += [""]
        if part.note:
            out += [_md(part.note), ""]
    out += ["## Words", "", *(f"- **{_md(w)}**: {_md(m)}" for w, m in sheet.glossary), ""]
    if sheet.care:
        out += [_md(f"Care: {sheet.care}"), ""]
    return "\n".join(out)
