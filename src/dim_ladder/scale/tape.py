"""The whole piece to scale beside a tape: what of it is what, and by how much it misses what was asked for."""

from __future__ import annotations

import math
from collections.abc import Sequence

from dim_ladder.base import format_length
from dim_ladder.base.colours import mix
from dim_ladder.picture.display import PAPER, Area, Ink, Label, Line, Picture, Shape
from dim_ladder.scale.laid import Laid, Part

MARGIN, BAND, TAPE = 14.0, 30.0, 22.0
SIZE, LETTER = 11.0, 6.2
ROW = 15.0
MOST_UNITS = 160  # that are told apart in a section
YELLOW, BLACK = "#e9c94b", "#3a3420"
CM, INCH = 10.0, 25.4


def tape_picture(
    of: Laid, colours: Sequence[str], ink: Ink = PAPER, width: float = 720.0, system: str = "metric"
) -> Picture:
    """The piece with the sum above it, its parts below it, and a tape. colours : of its cords, the one most is used of first."""
    scale = _scale(of, width)
    shapes: list[Shape] = []
    y = MARGIN + 4
    y = _sum(shapes, of, y, scale, width, ink, system)
    shapes += _band(of, y, BAND, scale, colours, ink)
    y += BAND + 4
    for k, p in enumerate([p for p in of.parts if p.beside]):
        shapes += _lying(of, p, y + k * 14, scale, colours, ink, system)
    y += 14 * sum(bool(p.beside) for p in of.parts)
    y = _named(shapes, of, y, scale, width, ink, system)
    shapes += _tape(of, y, scale, width, system)
    title = "; ".join(p.words(system) for p in of.parts)
    off = of.mm - of.wanted_mm
    return Picture(width, y + TAPE + MARGIN, tuple(shapes), f"{title}; {_off(off, system)}", ink.paper)


def small_picture(
    of: Laid, colours: Sequence[str], longest: float, ink: Ink = PAPER, width: float = 260.0
) -> Picture:
    """The same as a line, for comparing. longest : mm of the longest that is compared."""
    scale = (width - 8) / longest
    shapes = _band(of, 4.0, 14.0, scale, colours, ink, left=4.0)
    return Picture(width, 22.0, tuple(shapes), "", ink.paper)


def _scale(of: Laid, width: float) -> float:
    return (width - 2 * MARGIN) / max(of.mm, of.wanted_mm, 1.0)


def _off(mm: float, system: str) -> str:
    if abs(mm) < 0.5:
        return "exact"
    return f"{format_length(round(abs(mm)), system)} {'over' if mm > 0 else 'under'}"


def _sum(out: list[Shape], of: Laid, y: float, scale: float, width: float, ink: Ink, system: str) -> float:
    """Girth, ease and what lies outside the body, one after the other; the bottom of it."""
    x, rows = MARGIN, _Rows()
    spans = []
    for name, mm in of.sums:
        spans.append((x, x + mm * scale, f"{name} {format_length(round(mm), system)}"))
        x += mm * scale
    placed = [rows.place((a + b) / 2, text, MARGIN, width - MARGIN) for a, b, text in spans]
    deep = max((row for _, row in placed), default=0) + 1
    line = y + deep * ROW + 2
    for (a, b, text), (at, row) in zip(spans, placed, strict=True):
        low, high = min(a, b), max(a, b)
        out.append(Label(at, y + (deep - 1 - row) * ROW + SIZE - 1, text, SIZE, ink.quiet))
        path = (("M", (low, line + 5)), ("L", (low, line)), ("L", (high, line)), ("L", (high, line + 5)))
        out.append(Line(path, 1.2, ink.quiet))
        if row:
            out.append(Line((("M", (at, line - row * ROW)), ("L", ((low + high) / 2, line))), 0.8, ink.quiet))
    return line + 9


def _band(
    of: Laid, y: float, high: float, scale: float, colours: Sequence[str], ink: Ink, left: float = MARGIN
) -> list[Shape]:
    out: list[Shape] = []
    x = left
    sections = 0
    for p in of.parts:
        if p.beside:
            continue
        wide = p.mm * scale
        if p.kind == "section":
            out += _units(p, x, y, wide, high, colours, sections, ink)
            sections += 1
        elif p.kind == "ends":
            out.append(_box(x, y + high * 0.3, wide, high * 0.4, mix(ink.paper, _of(colours, 0), 0.7)))
        else:
            out.append(_box(x, y, wide, high, mix(ink.paper, ink.ink, 0.25)))
            out.append(_frame(x, y, wide, high, ink.ink))
        x += wide
    wanted = left + of.wanted_mm * scale
    if abs(x - wanted) > 0.8:  # what is over, or what is missing
        low, far = min(x, wanted), max(x, wanted)
        out.append(Line((("M", (low, y + high + 3)), ("L", (far, y + high + 3))), 3.0, ink.signal))
    out.append(Line((("M", (wanted, y - 5)), ("L", (wanted, y + high + 5))), 1.6, ink.signal))
    return out


def _units(
    p: Part, x: float, y: float, wide: float, high: float, colours: Sequence[str], nth: int, ink: Ink
) -> list[Shape]:
    """A section, unit beside unit: each a lozenge of the cord that does most, edged with the next."""
    many = max(min(p.units, MOST_UNITS), 1)
    lean = min(wide / many * 0.35, high * 0.3) if many > 1 else 0.0
    step = (wide - lean) / many
    body, edge = _of(colours, nth), _of(colours, nth + 1)
    out: list[Shape] = [_box(x, y, wide, high, mix(edge, "#000000", 0.25))]
    for k in range(many):
        a, b = x + k * step, x + (k + 1) * step
        b -= min(1.2, step * 0.15)
        points = (
            (a, y + high / 2), (a + lean, y), (b + lean, y), (b, y + high / 2), (b + lean, y + high), (a + lean, y + high),
        )  # fmt: skip
        out.append(Area(points, mix(ink.paper, body, 1.0 if k % 2 == 0 else 0.86)))
    return out


def _lying(
    of: Laid, p: Part, y: float, scale: float, colours: Sequence[str], ink: Ink, system: str
) -> list[Shape]:
    """What lies on another part or beside it, below it."""
    x = MARGIN
    for q in of.parts:
        if q.name == p.beside and not q.beside:
            break
        x += 0.0 if q.beside else q.mm * scale
    end = x + p.mm * scale
    return [
        _box(x, y + 2, p.mm * scale, 8.0, mix(ink.paper, _of(colours, 1), 0.8)),
        Label(end + 6, y + SIZE - 1, p.words(system), SIZE, ink.ink, "start"),
    ]


def _named(out: list[Shape], of: Laid, y: float, scale: float, width: float, ink: Ink, system: str) -> float:
    """What every part is and how long, below it; the bottom of it."""
    x, rows = MARGIN, _Rows()
    for p in of.parts:
        if p.beside:
            continue
        centre = x + p.mm * scale / 2
        text = p.words(system)
        at, row = rows.place(centre, text, MARGIN, width - MARGIN)
        out.append(Label(at, y + SIZE + row * ROW, text, SIZE, ink.ink if p.kind == "section" else ink.quiet))
        x += p.mm * scale
    off = of.mm - of.wanted_mm
    if abs(off) >= 0.5:
        text = _off(off, system)
        at, row = rows.place(MARGIN + of.wanted_mm * scale, text, MARGIN, width - MARGIN)
        out.append(Label(at, y + SIZE + row * ROW, text, SIZE, ink.signal, bold=True))
    return y + (rows.deep + 1) * ROW + 6


class _Rows:
    """Words below each other where they have no room beside each other."""

    def __init__(self) -> None:
        self._ends: list[float] = []

    @property
    def deep(self) -> int:
        return max(len(self._ends) - 1, 0)

    def place(self, centre: float, text: str, least: float, most: float = math.inf) -> tuple[float, int]:
        """Where its middle comes, and in which row."""
        half = len(text) * LETTER / 2
        at = max(min(centre, most - half), least + half)
        row = next((k for k, end in enumerate(self._ends) if at - half > end + 6), len(self._ends))
        if row == len(self._ends):
            self._ends.append(0.0)
        self._ends[row] = at + half
        return at, row


def _tape(of: Laid, y: float, scale: float, width: float, system: str) -> list[Shape]:
    long = max(of.mm, of.wanted_mm)
    out: list[Shape] = [_box(MARGIN, y, long * scale, TAPE, YELLOW)]
    unit = INCH if system == "imperial" else CM
    every = next(n for n in (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000) if n * unit * scale > 26 or n == 1000)
    fine = unit / (8 if system == "imperial" else 10)
    if fine * scale < 2.4:
        fine = unit if unit * scale >= 2.4 else unit * every
    for k in range(int(long / fine + 1e-9) + 1):
        mm = k * fine
        whole = abs(mm / unit - round(mm / unit)) < 1e-6
        x = MARGIN + mm * scale
        numbered = whole and round(mm / unit) % every == 0
        tall = TAPE * (0.5 if numbered else 0.36 if whole else 0.2)
        out.append(Line((("M", (x, y)), ("L", (x, y + tall))), 1.0 if whole else 0.6, BLACK))
        if numbered and k and x < MARGIN + long * scale - 8:
            out.append(Label(x, y + TAPE - 3, str(round(mm / unit)), SIZE * 0.9, BLACK))
    word = "in" if system == "imperial" else "cm"
    out.append(Label(MARGIN + 3, y + TAPE - 3, word, SIZE * 0.9, BLACK, "start"))
    return out


def _of(colours: Sequence[str], nth: int) -> str:
    return colours[nth % len(colours)] if colours else "#888888"


def _box(x: float, y: float, wide: float, high: float, fill: str) -> Area:
    return Area(((x, y), (x + wide, y), (x + wide, y + high), (x, y + high)), fill)


def _frame(x: float, y: float, wide: float, high: float, colour: str) -> Line:
    path = (
        ("M", (x, y)), ("L", (x + wide, y)), ("L", (x + wide, y + high)), ("L", (x, y + high)), ("L", (x, y)),
    )  # fmt: skip
    return Line(path, 1.2, colour)
