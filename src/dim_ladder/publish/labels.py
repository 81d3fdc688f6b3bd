"""Labels to print and tie to a cut: which piece and cord, how long, where it is folded, and the same as a code."""

from __future__ import annotations

import io

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.pdfgen.canvas import Canvas

from dim_ladder.base import format_length
from dim_ladder.publish.pdfpage import BOLD, HAIR, INK, QUIET, REGULAR, lettered, split, use_fonts
from dim_ladder.stash.plan import StashPlan

ACROSS, DOWN = 3, 8
EDGE = 24.0  # points
CODE = 46.0


def label_pages(plan: StashPlan) -> bytes:
    """A PDF of labels, three by eight on A4, in the order in which the lengths are cut."""
    import segno

    use_fonts()
    out = io.BytesIO()
    width, height = A4
    canvas = Canvas(out, pagesize=A4, invariant=1, pageCompression=1, lang="en", initialFontName=REGULAR)
    canvas.setTitle("Labels")
    wide, high = (width - 2 * EDGE) / ACROSS, (height - 2 * EDGE) / DOWN
    every = [(t, c) for t in plan.taken for c in t.cuts]
    for n, (t, c) in enumerate(every):
        place = n % (ACROSS * DOWN)
        if n and not place:
            canvas.showPage()
        x, y = EDGE + place % ACROSS * wide, height - EDGE - (place // ACROSS + 1) * high
        canvas.setStrokeColor(HexColor(HAIR))
        canvas.rect(x, y, wide, high, stroke=1, fill=0)
        canvas.setFillColor(HexColor(t.colour))
        canvas.rect(x + 6, y + 8, 5, high - 16, stroke=0, fill=1)
        room = wide - CODE - 30
        top = y + high - 16
        for text, font, size, colour in (
            (c.piece, BOLD, 10.0, INK), (f"{c.cord}: {format_length(c.mm)}", REGULAR, 10.0, INK), (c.ends, REGULAR, 7.5, INK), (c.fold, REGULAR, 7.5, INK),
            (f"from {t.id or 'what is bought'}", REGULAR, 7.0, QUIET),
        ):  # fmt: skip
            lines, face = split(text, font, size, room)
            canvas.setFont(face, size)
            canvas.setFillColor(HexColor(colour))
            for line in lines[:3]:
                canvas.drawString(x + 16, top, line)
                top -= size * 1.25
        said = f"{c.piece}\n{c.cord} {c.mm:.0f} mm, {c.ends}\n{c.fold}"[:300]
        squares = segno.make(lettered(said)[0], error="l", micro=False).matrix
        size = CODE / len(squares)
        canvas.setFillColor(HexColor(INK))
        for r, row in enumerate(squares):
            for k, dark in enumerate(row):
                if dark:
                    canvas.rect(
                        x + wide - CODE - 8 + k * size,
                        y + high - 10 - (r + 1) * size,
                        size * 1.02,
                        size * 1.02,
                        stroke=0,
                        fill=1,
                    )
    canvas.showPage()
    canvas.save()
    return out.getvalue()
