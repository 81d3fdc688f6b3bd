"""Pages of a PDF: text in fonts that have its letters, vector pictures, headings with bookmarks, a file inside."""

from __future__ import annotations

import io
import unicodedata
from dataclasses import dataclass
from typing import Any

from reportlab.lib.colors import HexColor
from reportlab.lib.utils import simpleSplit
from reportlab.pdfbase import pdfdoc, pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from dim_ladder.base import InputError
from dim_ladder.picture.display import Area, Disc, Label, Line, Picture
from dim_ladder.publish.typeface import font_bytes

REGULAR, BOLD = "Sheet", "Sheet-Bold"
WIDE = {REGULAR: "Sheet-Wide", BOLD: "Sheet-Wide-Bold"}  # Latin, Greek, Cyrillic and signs
INK, QUIET, HAIR, SIGNAL, WASH = "#22303a", "#5d6970", "#d9d2c3", "#b93322", "#fbf1ea"
MARGIN = 46.0
PT = 0.75  # points per pixel at 96 dpi


def use_fonts() -> None:
    for name, which in (
        (REGULAR, "regular"), (BOLD, "bold"), (WIDE[REGULAR], "wide-regular"), (WIDE[BOLD], "wide-bold"),
    ):  # fmt: skip
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, io.BytesIO(font_bytes(which))))


def lettered(text: str, font: str = REGULAR) -> tuple[str, str]:
    """A text as it is printed, and the font that has its letters. Raises InputError for letters that neither font has."""
    clean = "".join(ch if unicodedata.category(ch)[0] != "C" else " " for ch in text)
    for name in (font, WIDE[font]):
        known = pdfmetrics.getFont(name).face.charToGlyph
        missing = [ch for ch in clean if ord(ch) not in known]
        if not missing:
            return clean, name
    lost = "".join(dict.fromkeys(missing))[:12]
    raise InputError(
        f"a PDF cannot be made of “{clean[:40]}”: the fonts have no {lost}",
        "Publish as HTML, which shows every script, or write it in Latin, Greek or Cyrillic letters",
    )


def split(text: str, font: str, size: float, width: float) -> tuple[list[str], str]:
    """Lines no wider than that, and the font they are printed in."""
    clean, face = lettered(text, font)
    return simpleSplit(clean, face, size, width), face


def attach(canvas: Any, name: str, data: bytes) -> None:
    """A file inside the PDF (ISO 32000-1, 7.11.4)."""
    doc = canvas._doc
    stream = pdfdoc.PDFStream(
        dictionary=pdfdoc.PDFDictionary({"Type": pdfdoc.PDFName("EmbeddedFile")}),
        content=data.decode("latin-1"),
    )
    what = pdfdoc.PDFDictionary(
        {
            "Type": pdfdoc.PDFName("Filespec"),
            "F": pdfdoc.PDFString(name),
            "UF": pdfdoc.PDFString(name),
            "EF": pdfdoc.PDFDictionary({"F": doc.Reference(stream, "carried")}),
        }
    )
    named = pdfdoc.PDFArray([pdfdoc.PDFString(name), doc.Reference(what, "carried-name")])
    files = pdfdoc.PDFDictionary({"Names": named})
    doc.Catalog.Names = pdfdoc.PDFDictionary({"EmbeddedFiles": files})


@dataclass
class Page:
    """Where the next thing goes; y counts down from the top, in points."""

    canvas: Any
    width: float
    height: float
    title: str
    y: float = MARGIN
    number: int = 1

    @property
    def inner(self) -> float:
        return self.width - 2 * MARGIN

    def room(self, needed: float) -> None:
        if self.y + needed > self.height - MARGIN - 14:
            self.next()

    def next(self) -> None:
        self.footer()
        self.canvas.showPage()
        self.number += 1
        self.y = MARGIN

    def footer(self) -> None:
        c = self.canvas
        title, face = lettered(self.title)
        c.setFont(face, 8)
        c.setFillColor(HexColor(QUIET))
        c.drawString(MARGIN, 26, title)
        c.setFont(REGULAR, 8)
        c.drawRightString(self.width - MARGIN, 26, f"{self.number}")

    def write(
        self, text: str, size: float = 10, *, bold: bool = False, colour: str = INK, x: float = 0.0,
        width: float | None = None, after: float = 3.0,
    ) -> None:  # fmt: skip
        font = BOLD if bold else REGULAR
        lines, font = split(text, font, size, width or self.inner - x)
        for line in lines:
            self.room(size * 1.35)
            self.canvas.setFont(font, size)
            self.canvas.setFillColor(HexColor(colour))
            self.canvas.drawString(MARGIN + x, self.height - self.y - size, line)
            self.y += size * 1.35
        self.y += after

    def heading(self, text: str, key: str, keep: float = 60.0) -> None:
        self.room(34 + keep)
        self.y += 12
        self.canvas.bookmarkPage(key, fit="XYZ", top=self.height - self.y + 6)
        self.canvas.addOutlineEntry(text, key, level=0)
        self.write(text, 14, bold=True, after=2)
        self.rule()
        self.y += 6

    def rule(self) -> None:
        self.canvas.setStrokeColor(HexColor(HAIR))
        self.canvas.setLineWidth(0.6)
        self.canvas.line(MARGIN, self.height - self.y, self.width - MARGIN, self.height - self.y)

    def picture(self, p: Picture, x: float, top: float, scale: float) -> None:
        """Draw with its upper left corner at x from the margin and `top` from the top of the page."""
        c = self.canvas
        c.saveState()
        c.translate(MARGIN + x, self.height - top)
        c.scale(scale, -scale)
        for s in p.shapes:
            draw_shape(c, s)
        c.restoreState()


def one_page(p: Picture) -> bytes:
    """A picture alone on a page of its size."""
    use_fonts()
    out = io.BytesIO()
    c = Canvas(out, pagesize=(p.width * PT, p.height * PT), invariant=1)
    if p.background:
        c.setFillColor(HexColor(p.background))
        c.rect(0, 0, p.width * PT, p.height * PT, stroke=0, fill=1)
    c.translate(0, p.height * PT)
    c.scale(PT, -PT)
    for s in p.shapes:
        draw_shape(c, s)
    c.showPage()
    c.save()
    return out.getvalue()


def draw_shape(c: Any, s: object) -> None:
    if isinstance(s, Line):
        c.setStrokeColor(HexColor(s.colour))
        c.setLineWidth(s.width)
        c.setLineCap(1 if s.round_cap else 0)
        c.setLineJoin(1)
        c.setDash(list(s.dash) if s.dash else [])
        path = c.beginPath()
        x = y = 0.0
        for op, a in s.path:
            if op == "M":
                path.moveTo(*a)
            elif op == "L":
                path.lineTo(*a)
            else:  # a quadratic curve as the cubic it equals
                qx, qy, ex, ey = a
                path.curveTo(
                    x + 2 / 3 * (qx - x),
                    y + 2 / 3 * (qy - y),
                    ex + 2 / 3 * (qx - ex),
                    ey + 2 / 3 * (qy - ey),
                    ex,
                    ey,
                )
            x, y = a[-2:]
        c.drawPath(path, stroke=1, fill=0)
    elif isinstance(s, Area):
        c.setFillColor(HexColor(s.fill))
        path = c.beginPath()
        path.moveTo(*s.points[0])
        for point in s.points[1:]:
            path.lineTo(*point)
        path.close()
        c.drawPath(path, stroke=0, fill=1)
    elif isinstance(s, Disc):
        c.setDash([])
        if s.fill:
            c.setFillColor(HexColor(s.fill))
        if s.stroke:
            c.setStrokeColor(HexColor(s.stroke))
            c.setLineWidth(s.width)
        c.circle(s.x, s.y, s.r, stroke=1 if s.stroke else 0, fill=1 if s.fill else 0)
    elif isinstance(s, Label):
        c.saveState()
        c.translate(s.x, s.y)
        c.scale(1, -1)
        c.setFillColor(HexColor(s.colour))
        text, face = lettered(s.text, BOLD if s.bold else REGULAR)
        c.setFont(face, s.size)
        draw = {"start": c.drawString, "middle": c.drawCentredString, "end": c.drawRightString}[s.anchor]
        draw(0, 0, text)
        c.restoreState()
