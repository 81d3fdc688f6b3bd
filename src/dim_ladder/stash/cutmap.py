"""The cut map: every length that is cut as a bar of its cord, what is cut from it, and what stays."""

from __future__ import annotations

from dim_ladder.base import format_length
from dim_ladder.base.colours import lightness, mix
from dim_ladder.picture.display import PAPER, Area, Ink, Label, Line, Picture, Shape
from dim_ladder.stash.plan import StashPlan, Taken, cord_words

BAR, HEAD, GAP = 20.0, 16.0, 7.0
MARGIN = 8.0
LETTER = 6.0  # pixels a letter, about
SIZE = 11.0


def cut_map(plan: StashPlan, ink: Ink = PAPER, width: float = 760.0, system: str = "metric") -> Picture:
    """A row for every length, to one scale; what is cut from a spool goes on in the next line, and of what stays on it only the
    beginning is drawn."""
    if not plan.taken:
        return Picture(width, 40.0, (), "nothing is cut", ink.paper)
    cuts = [c.mm for t in plan.taken for c in t.cuts]
    offcuts = [t.mm for t in plan.taken if t.id and not t.spool]
    across = max([*offcuts, 3 * max(cuts)])  # mm of a line
    scale = (width - 2 * MARGIN) / across
    shapes: list[Shape] = []
    y = MARGIN
    for t in plan.taken:
        found, lines = _row(t, y, scale, across, ink, system)
        shapes += found
        y += HEAD + lines * (BAR + GAP) + GAP
    title = f"Cut map: {len(cuts)} cuts from {sum(bool(t.id) for t in plan.taken)} lengths"
    return Picture(width, y + MARGIN, tuple(shapes), title, ink.paper)


def _row(t: Taken, y: float, scale: float, across: float, ink: Ink, system: str) -> tuple[list[Shape], int]:
    """A length and what is cut from it, and how many lines that takes."""
    out: list[Shape] = []
    if t.id:
        lot = f", lot {t.lot}" if t.lot else ""
        rest = (
            ""
            if t.left_mm < 1
            else f"; {format_length(t.left_mm, system)} {'stay' if t.kept else 'are waste'}"
        )
        words = f"{t.id}{f' ({t.nth + 1})' if t.nth else ''}, {format_length(t.mm, system)}{lot}{rest}"
    else:
        words = f"to buy: {cord_words(t.kind, t.colour)}, {format_length(sum(c.mm for c in t.cuts), system)}"
    out.append(Label(MARGIN, y + SIZE, words, SIZE, ink.ink if t.id else ink.signal, "start"))
    letters = "#ffffff" if lightness(t.colour) < 0.62 else "#1c2328"
    lines, at = 1, 0.0  # mm along the line

    def top() -> float:
        return y + HEAD + (lines - 1) * (BAR + GAP)

    for c in t.cuts:
        if at + c.mm > across + 0.5:
            lines, at = lines + 1, 0.0
        x, wide = MARGIN + at * scale, c.mm * scale
        out.append(_box(x, top(), wide, t.colour))
        text = next((w for w in (f"{c.piece} {c.cord}", c.piece, c.cord) if len(w) * LETTER < wide), "")
        if text:
            out.append(Label(x + wide / 2, top() + BAR * 0.68, text, SIZE * 0.95, letters, "middle"))
        at += c.mm
        cut = MARGIN + at * scale
        out.append(Line((("M", (cut, top() - 2)), ("L", (cut, top() + BAR + 2))), 1.4, ink.ink))
    room = across - at
    if t.left_mm >= 1 and room * scale > 2:
        x, wide = MARGIN + at * scale, min(t.left_mm, room) * scale
        out.append(
            _box(x, top(), wide, mix(ink.paper, t.colour, 0.3) if t.kept else mix(ink.paper, ink.quiet, 0.35))
        )
        if t.left_mm > room + 1:  # it goes on
            zigzag = tuple(
                ("M" if k == 0 else "L", (x + wide - (4 if k % 2 else 0), top() + k * BAR / 4))
                for k in range(5)
            )
            out.append(Line(zigzag, 1.4, ink.paper))
    return out, lines


def _box(x: float, y: float, wide: float, fill: str) -> Area:
    return Area(((x, y), (x + wide, y), (x + wide, y + BAR), (x, y + BAR)), fill)
