"""A weave -> an instruction sheet. In: a Document's parts. Out: a Sheet as data; HTML, PDF, SVG, Markdown, CSV bytes."""

from dim_ladder.publish.choices import SheetChoices, SizeRow
from dim_ladder.publish.render import to_html, to_pdf
from dim_ladder.publish.restore import embedded_document
from dim_ladder.publish.sheet import Sheet, build_sheet
from dim_ladder.publish.svg import to_svg
from dim_ladder.publish.tables import to_csv, to_markdown

__all__ = [
    "Sheet",
    "SheetChoices",
    "SizeRow",
    "build_sheet",
    "embedded_document",
    "to_csv",
    "to_html",
    "to_markdown",
    "to_pdf",
    "to_svg",
]
