"""Publishing to a folder: what the window and the command line both do."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from dim_ladder.base import InputError
from dim_ladder.base.disk import read_chunks, write_whole
from dim_ladder.calibrate import Calibration
from dim_ladder.commands.calibrating import calibration_of
from dim_ladder.commands.seeing import seen_of
from dim_ladder.publish import Sheet, build_sheet, to_csv, to_html, to_markdown, to_pdf, to_svg
from dim_ladder.publish.page import Otherwise, build_page, cord_words, in_kind
from dim_ladder.publish.raster import to_png
from dim_ladder.publish.restore import attached_document, embedded_document
from dim_ladder.publish.travel import travelling_ties, travelling_weave
from dim_ladder.shelf import Document, document_text, read_document_text

PAGES = (".html", ".htm", ".pdf")
FORMATS = ("html", "pdf", "md", "svg", "png", "csv")


def sheet_of(doc: Document, calibration: Calibration | None = None) -> Sheet:
    """The sheet of a document as data. calibration : where it is known already; else all shapes are waited for.

    Raises InputError when its steps cannot be traced.
    """
    known = calibration or calibration_of(doc)
    return build_sheet(doc.weave, known, doc.plan, doc.sheet, seen=seen_of(doc, known))


def read_sheet(path: Path) -> Document:
    """The weave out of a published page or PDF, whatever its size. Raises InputError or WorldError."""
    if path.suffix.lower() == ".pdf":
        return read_document_text(attached_document(b"".join(read_chunks(path))), path.name)
    return read_document_text(embedded_document(read_chunks(path)), path.name)


def travelling(doc: Document) -> Document:
    """What of a document travels in its page: see publish/travel.py."""
    carry = doc.sheet.carry
    ties = travelling_ties(doc.ties, carry)
    layout = doc.layout if "remarks" in carry else ""
    return replace(
        doc, weave=travelling_weave(doc.weave, carry), ties=ties, draft="", layout=layout, photo=""
    )


def write_sheet(
    doc: Document, folder: Path, formats: Sequence[str], paper: str = "A4", calibration: Calibration | None = None
) -> list[Path]:  # fmt: skip
    """Write the sheet of a document into a folder, one file a format (SVG and PNG: one a picture). What is seen of the finished work
    is waited for."""
    for f in formats:
        if f not in FORMATS:
            raise InputError(f"there is no format “{f}” yet", f"Formats are {', '.join(FORMATS)}")
    known = calibration or calibration_of(doc)
    seen = seen_of(doc, known, patient=True)
    sheet = build_sheet(doc.weave, known, doc.plan, doc.sheet, seen=seen)
    stem = file_stem(doc.weave.name)
    files: dict[str, str | bytes] = {}
    pictures = {
        s.number: f"{stem}-step-{s.number:02}.svg" for p in sheet.sections for s in p.steps if s.picture
    }
    whole = {f"{stem}-{side}.svg": p for p, side in zip(sheet.piece, ("front", "back"), strict=False)}
    if "html" in formats:
        page = build_page(doc.weave, known, doc.plan, doc.sheet, seen, sheet, _otherwise(doc))
        files[f"{stem}.html"] = to_html(page.sheet, document_text(travelling(doc)), page.data, page.why)
    if "pdf" in formats:
        files[f"{stem}.pdf"] = to_pdf(sheet, paper=paper, document_text=document_text(travelling(doc)))
    if "csv" in formats:
        files[f"{stem}-cuts.csv"] = to_csv(sheet)
    if "md" in formats:
        # Of thousands of shapes each: as pixels they are a tenth as long.
        pixels = {str(Path(name).with_suffix(".png")): to_png(picture) for name, picture in whole.items()}
        files |= {f"{stem}.md": to_markdown(sheet, pictures, tuple(pixels)), **pixels}
    drawn = {pictures[s.number]: s.picture for p in sheet.sections for s in p.steps if s.picture}
    if "svg" in formats or "md" in formats:
        files |= {name: to_svg(picture) for name, picture in drawn.items()}
    if "svg" in formats:
        files |= {name: to_svg(picture) for name, picture in whole.items()}
    if "png" in formats:
        drawn |= whole
        files |= {str(Path(name).with_suffix(".png")): to_png(picture) for name, picture in drawn.items()}
    for name, data in files.items():
        write_whole(folder / name, data)
    return [folder / name for name in files]


def _otherwise(doc: Document) -> list[Otherwise]:
    """The weave in the other cords that a reader may choose; those of which nothing can be counted are left out."""
    out = []
    for kind in doc.sheet.kinds:
        weave = in_kind(doc.weave, kind)
        known = None if weave == doc.weave else calibration_of(replace(doc, weave=weave))
        if known is not None and not known.refusal:
            out.append(Otherwise(cord_words(weave), weave, known))
    return out


def file_stem(name: str) -> str:
    """A weave's name as a file name that stays inside its folder."""
    plain = "".join(ch if ch.isalnum() else "-" for ch in name.lower()).strip("-")
    while "--" in plain:
        plain = plain.replace("--", "-")
    return plain[:80] or "weave"
