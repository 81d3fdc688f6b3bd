"""HTML and PDF on demand: their libraries are slow to load and are loaded with the first sheet, not with the program."""

from __future__ import annotations

from dim_ladder.publish.sheet import Sheet


def to_html(sheet: Sheet, document_text: str, data: dict[str, object] | None = None, why: str = "") -> str:
    """The sheet as a page, carrying its document. data, why : what it looks up when it scales, or why it does not; see page.py."""
    from dim_ladder.publish.html import render

    return render(sheet, document_text, data, why)


def to_pdf(sheet: Sheet, *, paper: str = "A4", document_text: str = "") -> bytes:
    """The sheet on A4 or Letter; the same sheet gives the same bytes. document_text : carried inside; "" for none."""
    from dim_ladder.publish.pdf import render

    return render(sheet, paper=paper, document_text=document_text)
