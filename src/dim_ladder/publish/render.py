"""HTML and PDF on demand: their libraries are slow to load and are loaded with the first sheet, not with the program."""

from __future__ import annotations

from dim_ladder.publish.sheet import Sheet


def to_html(sheet: Sheet, document_text: str) -> str:
    """One self-contained page, with the document inside so that the sheet can be opened as a weave again."""
    from dim_ladder.publish.html import render

    return render(sheet, document_text)


def to_pdf(sheet: Sheet, *, paper: str = "A4") -> bytes:
    """The sheet on A4 or Letter; the same sheet gives the same bytes."""
    from dim_ladder.publish.pdf import render

    return render(sheet, paper=paper)
