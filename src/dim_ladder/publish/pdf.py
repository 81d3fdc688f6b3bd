"""The sheet as PDF: vector pictures, embedded fonts, bookmarks, the weave inside. The same sheet gives the same bytes."""

from __future__ import annotations

import io
from collections.abc import Sequence

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.pdfgen.canvas import Canvas

from dim_ladder.picture.display import Picture
from dim_ladder.publish.pdfpage import (
    BOLD,
    INK,
    MARGIN,
    PT,
    QUIET,
    REGULAR,
    SIGNAL,
    WASH,
    Page,
    attach,
    split,
    use_fonts,
)
from dim_ladder.publish.pdfseen import checks, photo, slips
from dim_ladder.publish.restore import ATTACHED, embed
from dim_ladder.publish.sheet import Sheet, SizeColumn, cuts_text
from dim_ladder.publish.steps import AGAIN, SheetSection, SheetStep


def render(sheet: Sheet, *, paper: str = "A4", document_text: str = "") -> bytes:
    """The sheet on A4 or Letter. document_text : carried inside; "" for none. Raises InputError for letters that cannot be printed."""
    use_fonts()
    size = LETTER if paper.lower() == "letter" else A4
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=size, invariant=1, pageCompression=1, lang="en", initialFontName=REGULAR)
    canvas.setTitle(sheet.title)
    canvas.setAuthor(sheet.designer or "unnamed")
    canvas.setSubject("How to tie " + sheet.title)
    canvas.setCreator("Dim Ladder")
    canvas.setViewerPreference("DisplayDocTitle", "true")
    page = Page(canvas, size[0], size[1], sheet.title)
    if document_text:
        attach(canvas, ATTACHED, embed(document_text).encode("ascii"))
    _front(page, sheet)
    if sheet.sizes:
        page.heading("Sizes and cuts", "cuts")
        _sizes(page, sheet.sizes, sheet.target)
        page.write(f"{sheet.fits} {sheet.basis} Fastening: {sheet.fastening}.".strip(), 9, colour=QUIET)
    page.heading("Hang", "hang")
    page.write(sheet.hanging)
    for i, part in enumerate(sheet.sections):
        page.heading(part.title, f"part{i}", _beginning(page, part))
        if part.repeat:
            page.write(f"Work these steps {part.repeat}.", bold=True)
        for begin in part.begin:
            page.write(begin.whole)
        _steps(page, part.steps)
        if part.again:
            page.write(AGAIN, bold=True, after=0)
            for row in part.again:
                page.write(row.whole, 9.5, after=0)
            page.y += 6
        if part.look is not None:
            _figure(page, part.look, f"How the work lies when it is opened out. {part.note}")
        if part.checks:
            checks(page, part.checks)
        if part.slips:
            slips(page, part.slips)
    page.heading("Words", "words")
    for word, meaning in sheet.glossary:
        page.write(word, bold=True, after=0)
        page.write(meaning, after=4)
    if sheet.care:
        page.write("Care: " + sheet.care)
    page.footer()
    canvas.showPage()
    page.tags.write()
    canvas.save()
    return out.getvalue()


MOST_CODED = 700  # letters; beyond that a code has more squares than a hand-held reader likes
CODE = 84.0  # points across


def _code(page: Page, text: str) -> None:
    """Version and cuts to be read by a machine, from paper: at the right edge."""
    import segno

    squares = segno.make(text[:MOST_CODED], error="m", micro=False).matrix
    c, size, left = page.canvas, CODE / len(squares), page.width - MARGIN - CODE
    with page.tags.part("Figure", "QR code with the version and the cuts, as text"):
        c.setFillColor(HexColor(INK))
        for y, row in enumerate(squares):
            top = page.height - page.y - (y + 1) * size
            for x, dark in enumerate(row):
                if dark:
                    c.rect(left + x * size, top, size * 1.02, size * 1.02, stroke=0, fill=1)
        c.setFont(REGULAR, 7)
        c.setFillColor(HexColor(QUIET))
        c.drawRightString(page.width - MARGIN, page.height - page.y - CODE - 9, "version and cuts, as text")


def _front(page: Page, sheet: Sheet) -> None:
    right, top = 0.0, page.y
    scale = 1.0
    if sheet.faces:
        scale = min(PT, *(min(95 / f.width, 165 / f.height) for f in sheet.faces))
        right = sum(f.width * scale + 14 for f in sheet.faces)
    elif sheet.cover is not None:
        scale = min(PT, 110 / sheet.cover.width, 170 / sheet.cover.height)
        right = sheet.cover.width * scale + 20
    page.canvas.bookmarkPage("top")
    page.canvas.addOutlineEntry(sheet.title, "top", level=0)
    width = page.inner - right
    page.write(sheet.title, 24, bold=True, width=width, after=6, kind="H1")
    if sheet.purpose:
        page.write(sheet.purpose, 11, width=width)
    page.write(sheet.summary, 10, colour=QUIET, width=width)
    by = " ".join(
        p
        for p in (
            f"Designed by {sheet.designer}." if sheet.designer else "",
            sheet.date and f"{sheet.date}.",
            f"Version {sheet.version}.",
            sheet.licence,
        )
        if p
    )
    if by:
        page.write(by, 9, colour=QUIET, width=width)
    page.y = max(page.y, _faces(page, sheet, scale, page.inner - right, top)) + 10
    _piece(page, sheet)
    if sheet.photo:
        photo(page, sheet.photo)
    _cautions(page, sheet.cautions)
    page.heading("Materials and tools", "cords", CODE)
    _code(page, f"{sheet.title} {sheet.version}\n{cuts_text(sheet)}")
    under, beside = page.y + CODE + 14, page.inner - CODE - 24
    for c in sheet.cords:
        page.room(16)
        y = page.height - page.y - 10
        with page.tags.artifact():
            page.canvas.setFillColor(HexColor(c.colour))
            page.canvas.setStrokeColor(HexColor(INK))
            page.canvas.setLineWidth(0.7)
            page.canvas.roundRect(MARGIN, y, 24, 9, 4.5, stroke=1, fill=1)
        page.write(f"{c.name}: {c.colour_word}, {c.words}; {c.ends}", x=34, width=beside - 34)
    for m in sheet.materials:
        page.write(f"• {m}", width=beside)
    if sheet.palette:
        page.write(sheet.palette, width=beside)
    page.write("Tools: " + ", ".join(sheet.tools) + ".", width=beside)
    page.y = max(page.y, under)


def _faces(page: Page, sheet: Sheet, scale: float, left: float, top: float) -> float:
    """What is seen beside the title, or the drawing; gives where they end. They are read after it."""
    if not sheet.faces and sheet.cover is not None:
        page.picture(sheet.cover, left + 20, top, scale)
        return top + sheet.cover.height * scale
    bottom = top
    for f, name in zip(sheet.faces, sheet.sides, strict=False):
        page.picture(f, left + 14, top, scale)
        page.label(name, left + 14 + f.width * scale / 2, top + f.height * scale + 9)
        left += f.width * scale + 14
        bottom = max(bottom, top + f.height * scale + 10)
    return bottom


def _piece(page: Page, sheet: Sheet) -> None:
    """The whole piece across the page, front above back."""
    for f, name in zip(sheet.piece, sheet.piece_sides, strict=False):
        scale = min(PT, page.inner / f.width, TALLEST / f.height)
        page.room(f.height * scale + 16)
        page.picture(f, 0, page.y, scale)
        page.y += f.height * scale + 9
        page.label(name, f.width * scale / 2, page.y)
        page.y += 7


def _cautions(page: Page, cautions: tuple[str, ...]) -> None:
    lines = [split(c, REGULAR, 9.5, page.inner - 26)[0] for c in cautions]
    height = 26 + sum(len(ls) * 12.5 + 3 for ls in lines)
    page.room(height)
    c = page.canvas
    with page.tags.artifact():
        c.setFillColor(HexColor(WASH))
        c.rect(MARGIN, page.height - page.y - height, page.inner, height, stroke=0, fill=1)
        c.setFillColor(HexColor(SIGNAL))
        c.rect(MARGIN, page.height - page.y - height, 3, height, stroke=0, fill=1)
    top = page.y
    page.y += 6
    page.write("Before you start", 11, bold=True, x=14, after=1, kind="H2")
    for ls in lines:
        with page.tags.part("P"):
            for line in ls:
                page.line(line, REGULAR, 9.5, INK, 14, page.y)
                page.y += 12.5
        page.y += 3
    page.y = top + height + 4


_COLUMNS = (
    ("Size", 0.0),
    ("", 44.0),
    ("Units", 96.0),
    ("Tied", 172.0),
    ("Cord", 222.0),
    ("Cut", 276.0),
    ("Fold", 326.0),
)
LINE = 12.0  # height of a line of a table
WHOLE = 0.6  # of a page, the most that is kept together


def _sizes(page: Page, sizes: tuple[SizeColumn, ...], target: str) -> None:
    last = page.inner - 62
    columns = (*_COLUMNS, ("Runs short", last))
    with page.tags.group("Table"):
        with page.tags.group("TR"):
            for title, x in columns:
                with page.tags.part("TH"):
                    page.line(title or target, REGULAR, 8.5, QUIET, x, page.y)
        page.y += 14
        _rows(page, sizes, columns)
    page.y += 2


def _rows(page: Page, sizes: tuple[SizeColumn, ...], columns: tuple[tuple[str, float], ...]) -> None:
    edges = [*(x for _, x in columns[1:]), page.inner]
    for s in sizes:
        if s.problem:
            with page.tags.group("TR"):
                page.write(f"{s.name}  {s.size}: {s.problem}", 9.5, kind="TD")
            continue
        rows = [_cells(s, i, edges, columns) for i in range(len(s.cuts))]
        heights = [LINE * max(len(lines) for lines, _ in cells) + 3 for cells in rows]
        whole = sum(heights) + (LINE + 6 if s.minutes else 4)
        # The cords of a size stay with its name, where a page holds them.
        page.room(whole if whole < WHOLE * page.height else heights[0])
        for cells, height in zip(rows, heights, strict=True):
            page.room(height)
            with page.tags.group("TR"):
                for (lines, face), (_, x) in zip(cells, columns, strict=True):
                    with page.tags.part("TD"):
                        for k, line in enumerate(lines):
                            page.line(line, face, 9, INK, x, page.y + LINE * k)
            page.y += height
        if s.minutes:
            with page.tags.group("TR"):
                page.write(s.minutes, 8.5, colour=QUIET, after=2, kind="TD")
        page.rule()
        page.y += 4


def _cells(
    s: SizeColumn, i: int, edges: Sequence[float], columns: Sequence[tuple[str, float]]
) -> list[tuple[list[str], str]]:
    """What stands in the row of a cord of a size: lines and their face, by column; every cell keeps to its own."""
    c, units = s.cuts[i], ", ".join(f"{n} × {k}" for n, k in s.counts)
    own = [s.name, s.size, units, f"{s.length}, {s.off}" if s.off else s.length] if not i else [""] * 4
    texts = [*own, c.cord, c.cut, c.fold, c.chance]
    return [
        split(text, BOLD if k in (0, 5) else REGULAR, 9, edge - x - 5)
        for k, (text, edge, (_, x)) in enumerate(zip(texts, edges, columns, strict=True))
    ]


TALLEST = 160.0  # points of a whole piece
GUTTER = 18.0
TALL = 150.0  # points, to which a step's picture is shrunk
TALLER, SMALL = 215.0, 0.7  # points for one that would be drawn smaller than this part of its size
SHORT = 130  # letters of a sentence, up to which three steps stand in a row; else two


def _steps(page: Page, steps: tuple[SheetStep, ...]) -> None:
    """Several to a row where they fit, each picture above its words; a row is never parted."""
    k = 0
    with page.tags.group("L"):
        while k < len(steps):
            many = _in_row(steps[k:])
            _row(page, steps[k : k + many], many)
            k += many


def _in_row(steps: tuple[SheetStep, ...]) -> int:
    """How many of these stand in the next row."""
    return 3 if len(steps) >= 3 and all(len(s.sentence) <= SHORT for s in steps[:3]) else 2


def _beginning(page: Page, part: SheetSection) -> float:
    """Points that must follow a heading on its page: what stands before the steps and their first row, so that no heading is parted
    from its step; no more than half a page, or it would never be begun below anything."""
    said = [part.repeat, part.note, *(b.whole for b in part.begin)]
    before = sum(len(split(text, REGULAR, 10, page.inner)[0]) * 13.5 + 3 for text in said if text)
    many = _in_row(part.steps)
    first = _measured(page, part.steps[:many], many)[-1] if part.steps else 0.0
    return min(before + first + 12, page.height * 0.62)


_Made = tuple[SheetStep, float, float, list[tuple[str, str, float, str]]]


def _measured(page: Page, steps: tuple[SheetStep, ...], many: int) -> tuple[list[_Made], float, float, float]:
    """A row: every step with its picture's scale and height and its lines; how wide each is, the tallest picture, the whole height."""
    width = (page.inner - GUTTER * (many - 1)) / many
    made: list[_Made] = []
    for s in steps:
        scale = height = 0.0
        if s.picture is not None:
            # What is much higher than wide, as an opened knot, may take more of the page before it grows too small to follow.
            tall = TALL if TALL / s.picture.height > SMALL * PT else TALLER
            scale = min(PT, width / s.picture.width, tall / s.picture.height)
            height = s.picture.height * scale
        heading, head_face = split(s.heading, BOLD, 10, width - 26) if s.heading else ([], BOLD)
        words, face = split(s.sentence, REGULAR, 9.5, width - 26)
        caution, caution_face = split(s.caution, REGULAR, 8.5, width - 26) if s.caution else ([], REGULAR)
        lines = [(t, head_face, 10.0, INK) for t in heading] + [(t, face, 9.5, INK) for t in words]
        lines += [(t, caution_face, 8.5, SIGNAL) for t in caution]
        made.append((s, scale, height, lines))
    tallest = max(h for _, _, h, _ in made)
    needed = tallest + max(sum(size * 1.3 for _, _, size, _ in lines) for *_, lines in made) + 20
    return made, width, tallest, needed


def _row(page: Page, steps: tuple[SheetStep, ...], many: int) -> None:
    made, width, tallest, needed = _measured(page, steps, many)
    page.room(needed)
    top = page.y
    for k, (s, scale, height, lines) in enumerate(made):
        x = k * (width + GUTTER)
        y = top + tallest + 4
        with page.tags.group("LI"):
            with page.tags.part("Lbl"):
                page.line(str(s.number), BOLD, 13, SIGNAL, x, y - 1)
            with page.tags.group("LBody"):
                if s.picture is not None:
                    left = x + (width - s.picture.width * scale) / 2
                    page.picture(s.picture, left, top + tallest - height, scale)
                with page.tags.part("P"):
                    for text, face, size, colour in lines:
                        page.line(text, face, size, colour, x + 26, y + 1.5)
                        y += size * 1.3
    page.y = top + needed - 6
    page.rule()
    page.y += 8


def _figure(page: Page, picture: Picture, caption: str) -> None:
    scale = min(PT, 190 / picture.width, 230 / picture.height)
    height = picture.height * scale
    page.room(height + 8)
    top = page.y
    page.picture(picture, 0, top, scale)
    page.y = top + 8
    page.write(caption, 9.5, colour=QUIET, x=picture.width * scale + 18)
    page.y = max(page.y, top + height) + 6
