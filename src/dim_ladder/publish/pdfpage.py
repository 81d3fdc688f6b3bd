"""Pages of a PDF: text in fonts that have its letters, vector pictures, headings with bookmarks, a file inside."""

from __future__ import annotations

import io
import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from reportlab import rl_config
from reportlab.lib.colors import HexColor
from reportlab.lib.utils import simpleSplit
from reportlab.pdfbase import pdfdoc, pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from dim_ladder.base import InputError
from dim_ladder.picture.display import Area, Disc, Label, Line, Picture
from dim_ladder.publish.pdftags import Tags
from dim_ladder.publish.typeface import font_bytes

REGULAR, BOLD = "Sheet", "Sheet-Bold"
WIDE = {REGULAR: "Sheet-Wide", BOLD: "Sheet-Wide-Bold"}  # Latin, Greek, Cyrillic and signs
INK, QUIET, HAIR, SIGNAL, WASH = "#22303a", "#5d6970", "#d9d2c3", "#b93322", "#fbf1ea"
MARGIN = 46.0
PT = 0.75  # points per pixel at 96 dpi


def use_fonts() -> None:
    rl_config.useA85 = 0  # streams as they are: a quarter shorter, and nothing to encode
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
    """Lines no wider than that, and the font they are printed in. A line that goes on ends in a space, so that it reads as one."""
    clean, face = lettered(text, font)
    lines = simpleSplit(clean, face, size, width)
    return [*(f"{line} " for line in lines[:-1]), *lines[-1:]], face


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
    tags: Tags = field(init=False)

    def __post_init__(self) -> None:
        self.tags = Tags(self.canvas)

    @property
    def inner(self) -> float:
        return self.width - 2 * MARGIN

    def room(self, needed: float) -> None:
        if self.y + needed > self.height - MARGIN - 14:
            self.next()

    def next(self) -> None:
        self.tags.leave_page()
        self.footer()
        self.canvas.showPage()
        self.tags.next_page()
        self.number += 1
        self.y = MARGIN

    def footer(self) -> None:
        c = self.canvas
        c._code.append("/Artifact BMC")
        title, face = lettered(self.title)
        c.setFont(face, 8)
        c.setFillColor(HexColor(QUIET))
        c.drawString(MARGIN, 26, title)
        c.setFont(REGULAR, 8)
        c.drawRightString(self.width - MARGIN, 26, f"{self.number}")
        c._code.append("EMC")

    def write(
        self, text: str, size: float = 10, *, bold: bool = False, colour: str = INK, x: float = 0.0,
        width: float | None = None, after: float = 3.0, kind: str = "P",
    ) -> None:  # fmt: skip
        font = BOLD if bold else REGULAR
        lines, font = split(text, font, size, width or self.inner - x)
        if lines:
            self.room(size * 1.35)
        with self.tags.part(kind):
            for line in lines:
                self.room(size * 1.35)
                self.canvas.setFont(font, size)
                self.canvas.setFillColor(HexColor(colour))
                self.canvas.drawString(MARGIN + x, self.height - self.y - size, line)
                self.y += size * 1.35
        self.y += after

    def line(self, text: str, face: str, size: float, colour: str, x: float, top: float) -> None:
        """A line of text whose letters are known, from x of the margin, `top` from the top of the page."""
        self.canvas.setFont(face, size)
        self.canvas.setFillColor(HexColor(colour))
        self.canvas.drawString(MARGIN + x, self.height - top - size, text)

    def label(self, text: str, x: float, y: float) -> None:
        """A word under a picture, its middle at x from the margin and its foot at y from the top."""
        with self.tags.part("Caption"):
            self.canvas.setFont(REGULAR, 8)
            self.canvas.setFillColor(HexColor(QUIET))
            self.canvas.drawCentredString(MARGIN + x, self.height - y, text)

    def heading(self, text: str, key: str, keep: float = 60.0) -> None:
        self.room(34 + keep)
        self.y += 12
        self.canvas.bookmarkPage(key, fit="XYZ", top=self.height - self.y + 6)
        self.canvas.addOutlineEntry(text, key, level=0)
        self.write(text, 14, bold=True, after=2, kind="H2")
        self.rule()
        self.y += 6

    def rule(self) -> None:
        with self.tags.artifact():
            self.canvas.setStrokeColor(HexColor(HAIR))
            self.canvas.setLineWidth(0.6)
            self.canvas.line(MARGIN, self.height - self.y, self.width - MARGIN, self.height - self.y)

    def picture(self, p: Picture, x: float, top: float, scale: float) -> None:
        """Draw with its upper left corner at x from the margin and `top` from the top of the page. Its title is what those are told
        who do not see it."""
        c = self.canvas
        with self.tags.part("Figure", p.title or "a picture"):
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
    """Lines, areas and discs are written as operators at once (ISO 32000-1, 8.5): faces have thousands of them."""
    if isinstance(s, Line):
        dash = " ".join(f"{d:.2f}" for d in s.dash) if s.dash else ""
        c._code.append(
            f"{rgb(s.colour)} RG {s.width:.3f} w {1 if s.round_cap else 0} J 1 j [{dash}] 0 d {path_code(s.path)} S"
        )
    elif isinstance(s, Area):
        (x, y), rest = s.points[0], s.points[1:]
        lines = " ".join(f"{px:.2f} {py:.2f} l" for px, py in rest)
        c._code.append(f"{rgb(s.fill)} rg {x:.2f} {y:.2f} m {lines} h f")
    elif isinstance(s, Disc):
        if not (s.fill or s.stroke):
            return
        paint = "B" if s.fill and s.stroke else "f" if s.fill else "S"
        colours = (f"{rgb(s.fill)} rg " if s.fill else "") + (
            f"{rgb(s.stroke)} RG {s.width:.3f} w " if s.stroke else ""
        )
        c._code.append(f"{colours}[] 0 d {_circle(s.x, s.y, s.r)} {paint}")
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


@lru_cache(maxsize=4096)
def rgb(colour: str) -> str:
    """A colour as operands."""
    h = HexColor(colour)
    return f"{h.red:.3f} {h.green:.3f} {h.blue:.3f}"


def path_code(path: Iterable[tuple[str, Sequence[float]]]) -> str:
    """A path as operators; a quadratic curve as the cubic it equals."""
    out = []
    x = y = 0.0
    for op, a in path:
        if op == "Q":
            qx, qy, ex, ey = a
            ax, ay = x + 2 / 3 * (qx - x), y + 2 / 3 * (qy - y)
            bx, by = ex + 2 / 3 * (qx - ex), ey + 2 / 3 * (qy - ey)
            out.append(f"{ax:.2f} {ay:.2f} {bx:.2f} {by:.2f} {ex:.2f} {ey:.2f} c")
            x, y = ex, ey
        else:
            x, y = a
            out.append(f"{x:.2f} {y:.2f} {'m' if op == 'M' else 'l'}")
    return " ".join(out)


ARC = 0.5522847498  # of the radius: handles of four cubics that come nearest to a circle


def _circle(x: float, y: float, r: float) -> str:
    k = ARC * r
    return (
        f"{x + r:.2f} {y:.2f} m "
        f"{x + r:.2f} {y + k:.2f} {x + k:.2f} {y + r:.2f} {x:.2f} {y + r:.2f} c "
        f"{x - k:.2f} {y + r:.2f} {x - r:.2f} {y + k:.2f} {x - r:.2f} {y:.2f} c "
        f"{x - r:.2f} {y - k:.2f} {x - k:.2f} {y - r:.2f} {x:.2f} {y - r:.2f} c "
        f"{x + k:.2f} {y - r:.2f} {x + r:.2f} {y - k:.2f} {x + r:.2f} {y:.2f} c h"
    )
