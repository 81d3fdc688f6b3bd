"""The sheet as PDF: vector pictures, embedded fonts, bookmarks. The same sheet gives the same bytes."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.utils import simpleSplit
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from dim_ladder.picture.display import Area, Disc, Label, Line, Picture
from dim_ladder.publish.sheet import Sheet, SheetStep, SizeColumn
from dim_ladder.publish.typeface import font_bytes

REGULAR, BOLD = "Sheet", "Sheet-Bold"
INK, QUIET, HAIR, SIGNAL, WASH = "#22303a", "#5d6970", "#d9d2c3", "#b93322", "#fbf1ea"
MARGIN = 46.0
PT = 0.75  # points per pixel at 96 dpi


def _fonts() -> None:
    for name, which in ((REGULAR, "regular"), (BOLD, "bold")):
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, io.BytesIO(font_bytes(which))))


# Signs that the shipped font does not have; reportlab does not look for them elsewhere.
_PLAIN = str.maketrans({"→": "to", "←": "from", "′": "'", "″": '"', "π": "pi", "✓": "yes", "⅜": "3/8", "⅛": "1/8", "⅝": "5/8", "⅞": "7/8"})  # fmt: skip


def _text(text: str) -> str:
    clean = "".join(ch if ch >= " " else " " for ch in text.translate(_PLAIN))
    face = pdfmetrics.getFont(REGULAR).face
    return "".join(ch if ord(ch) in face.charToGlyph else "?" for ch in clean)


@dataclass
class _Page:
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
        c.setFont(REGULAR, 8)
        c.setFillColor(HexColor(QUIET))
        c.drawString(MARGIN, 26, self.title)
        c.drawRightString(self.width - MARGIN, 26, f"{self.number}")

    def write(
        self, text: str, size: float = 10, *, bold: bool = False, colour: str = INK, x: float = 0.0,
        width: float | None = None, after: float = 3.0,
    ) -> None:  # fmt: skip
        font = BOLD if bold else REGULAR
        lines = simpleSplit(_text(text), font, size, width or self.inner - x)
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
        self.canvas.addOutlineEntry(_text(text), key, level=0)
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
            _shape(c, s)
        c.restoreState()


def one_page(p: Picture) -> bytes:
    """A picture alone on a page of its size."""
    _fonts()
    out = io.BytesIO()
    c = Canvas(out, pagesize=(p.width * PT, p.height * PT), invariant=1)
    if p.background:
        c.setFillColor(HexColor(p.background))
        c.rect(0, 0, p.width * PT, p.height * PT, stroke=0, fill=1)
    c.translate(0, p.height * PT)
    c.scale(PT, -PT)
    for s in p.shapes:
        _shape(c, s)
    c.showPage()
    c.save()
    return out.getvalue()


def _shape(c: Any, s: object) -> None:
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
        c.setFont(BOLD if s.bold else REGULAR, s.size)
        draw = {"start": c.drawString, "middle": c.drawCentredString, "end": c.drawRightString}[s.anchor]
        draw(0, 0, _text(s.text))
        c.restoreState()


def render(sheet: Sheet, *, paper: str = "A4") -> bytes:
    """The sheet on A4 or Letter."""
    _fonts()
    size = LETTER if paper.lower() == "letter" else A4
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=size, invariant=1, pageCompression=1, lang="en", initialFontName=REGULAR)
    canvas.setTitle(sheet.title)
    canvas.setAuthor(sheet.designer or "unnamed")
    canvas.setSubject("How to tie " + sheet.title)
    canvas.setCreator("Dim Ladder")
    canvas.setViewerPreference("DisplayDocTitle", "true")
    page = _Page(canvas, size[0], size[1], _text(sheet.title))
    _front(page, sheet)
    if sheet.sizes:
        page.heading("Sizes and cuts", "cuts")
        _sizes(page, sheet.sizes, sheet.target)
        page.write(f"{sheet.basis} Fastening: {sheet.fastening}.", 9, colour=QUIET)
    page.heading("Hang", "hang")
    page.write(sheet.hanging)
    for i, part in enumerate(sheet.sections):
        page.heading(part.title, f"part{i}", 110)
        if part.repeat:
            page.write(f"Work these steps {part.repeat}.", bold=True)
        for step in part.steps:
            _step(page, step)
        if part.look is not None:
            _figure(page, part.look, f"How the work lies when it is opened out. {part.note}")
    page.heading("Words", "words")
    for word, meaning in sheet.glossary:
        page.write(word, bold=True, after=0)
        page.write(meaning, after=4)
    if sheet.care:
        page.write("Care: " + sheet.care)
    page.footer()
    canvas.save()
    return out.getvalue()


def _front(page: _Page, sheet: Sheet) -> None:
    right = 0.0
    bottom = page.y
    if sheet.cover is not None:
        scale = min(PT, 110 / sheet.cover.width, 170 / sheet.cover.height)
        right = sheet.cover.width * scale + 20
        page.picture(sheet.cover, page.inner - right + 20, page.y, scale)
        bottom = page.y + sheet.cover.height * scale
    page.canvas.bookmarkPage("top")
    page.canvas.addOutlineEntry(_text(sheet.title), "top", level=0)
    width = page.inner - right
    page.write(sheet.title, 24, bold=True, width=width, after=6)
    if sheet.purpose:
        page.write(sheet.purpose, 11, width=width)
    page.write(sheet.summary, 10, colour=QUIET, width=width)
    by = " ".join(
        p
        for p in (f"Designed by {sheet.designer}." if sheet.designer else "", sheet.date, sheet.licence)
        if p
    )
    if by:
        page.write(by, 9, colour=QUIET, width=width)
    page.y = max(page.y, bottom) + 10
    _cautions(page, sheet.cautions)
    page.heading("Cords and tools", "cords")
    for c in sheet.cords:
        page.room(16)
        y = page.height - page.y - 10
        page.canvas.setFillColor(HexColor(c.colour))
        page.canvas.setStrokeColor(HexColor(INK))
        page.canvas.setLineWidth(0.7)
        page.canvas.roundRect(MARGIN, y, 24, 9, 4.5, stroke=1, fill=1)
        page.write(f"{c.name}: {c.colour_word}, {c.words}; ends {c.letters}", x=34)
    page.write("Tools: " + ", ".join(sheet.tools) + ".")


def _cautions(page: _Page, cautions: tuple[str, ...]) -> None:
    lines = [simpleSplit(_text(c), REGULAR, 9.5, page.inner - 26) for c in cautions]
    height = 26 + sum(len(ls) * 12.5 + 3 for ls in lines)
    page.room(height)
    c = page.canvas
    c.setFillColor(HexColor(WASH))
    c.rect(MARGIN, page.height - page.y - height, page.inner, height, stroke=0, fill=1)
    c.setFillColor(HexColor(SIGNAL))
    c.rect(MARGIN, page.height - page.y - height, 3, height, stroke=0, fill=1)
    top = page.y
    page.y += 6
    page.write("Before you start", 11, bold=True, x=14, after=1)
    for ls in lines:
        for line in ls:
            c.setFont(REGULAR, 9.5)
            c.setFillColor(HexColor(INK))
            c.drawString(MARGIN + 14, page.height - page.y - 9.5, line)
            page.y += 12.5
        page.y += 3
    page.y = top + height + 4


_COLUMNS = (
    ("Size", 0.0),
    ("", 38.0),
    ("Units", 96.0),
    ("Tied", 166.0),
    ("Cord", 218.0),
    ("Cut", 268.0),
    ("Fold", 318.0),
)


def _sizes(page: _Page, sizes: tuple[SizeColumn, ...], target: str) -> None:
    last = page.inner - 62
    for title, x in (*_COLUMNS, ("Runs short", last)):
        page.canvas.setFont(REGULAR, 8.5)
        page.canvas.setFillColor(HexColor(QUIET))
        page.canvas.drawString(MARGIN + x, page.height - page.y - 8.5, title or target)
    page.y += 14
    for s in sizes:
        if s.problem:
            page.write(f"{s.name}  {s.size}: {s.problem}", 9.5)
            continue
        for i, c in enumerate(s.cuts):
            fold = simpleSplit(_text(c.fold), REGULAR, 9, last - 318 - 8)
            page.room(13 * max(len(fold), 1) + 4)
            units = ", ".join(f"{n} × {k}" for n, k in s.counts)
            cells = [s.name, s.size, units, s.length] if i == 0 else ["", "", "", ""]
            for (_, x), text in zip(_COLUMNS, [*cells, c.cord, c.cut], strict=False):
                page.canvas.setFont(BOLD if text in (c.cut, s.name) else REGULAR, 9.5)
                page.canvas.setFillColor(HexColor(INK))
                page.canvas.drawString(MARGIN + x, page.height - page.y - 9.5, _text(text))
            page.canvas.setFont(REGULAR, 9)
            for k, line in enumerate(fold):
                page.canvas.drawString(MARGIN + 318, page.height - page.y - 9.5 - 12 * k, line)
            page.canvas.drawString(MARGIN + last, page.height - page.y - 9.5, _text(c.chance))
            page.y += 13 * max(len(fold), 1) + 2
        page.rule()
        page.y += 4
    page.y += 2


def _step(page: _Page, step: SheetStep) -> None:
    scale, height = PT, 0.0
    if step.picture is not None:
        scale = min(PT, 170 / step.picture.width)
        height = step.picture.height * scale
    words = simpleSplit(_text(step.sentence), REGULAR, 10, page.inner - 226)
    text_height = len(words) * 13.5 + (15 if step.heading else 0)
    needed = max(height, text_height, 16)
    page.room(needed + 12)
    top = page.y
    if step.picture is not None:
        page.picture(step.picture, (180 - step.picture.width * scale) / 2, top, scale)
    c = page.canvas
    x = 190.0 if step.picture is not None else 0.0
    c.setFont(BOLD, 14)
    c.setFillColor(HexColor(SIGNAL))
    page.y = top + max(0.0, (height - text_height) / 2)
    c.drawString(MARGIN + x, page.height - page.y - 12, str(step.number))
    if step.heading:
        page.write(step.heading, 10, bold=True, x=x + 30, after=0)
    page.write(step.sentence, 10, x=x + 30, after=2 if step.caution else 0)
    if step.caution:
        page.write(step.caution, 9, x=x + 30, after=0, colour=SIGNAL)
    page.y = max(page.y, top + needed) + 6
    page.rule()
    page.y += 6


def _figure(page: _Page, picture: Picture, caption: str) -> None:
    scale = min(PT, 190 / picture.width, 300 / picture.height)
    height = picture.height * scale
    page.room(height + 8)
    top = page.y
    page.picture(picture, 0, top, scale)
    page.y = top + 8
    page.write(caption, 9.5, colour=QUIET, x=picture.width * scale + 18)
    page.y = max(page.y, top + height) + 6
