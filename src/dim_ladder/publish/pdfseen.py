"""Checkpoints and slips on the pages of a PDF: what a maker holds the work against."""

from __future__ import annotations

import io

from reportlab.lib.utils import ImageReader

from dim_ladder.publish.pdfpage import BOLD, INK, MARGIN, PT, REGULAR, Page, split
from dim_ladder.publish.seen import Checkpoint, SlipTold

TALL = 130.0  # points
WIDE = 90.0
GAP = 14.0
PHOTO = 210.0  # points, which a photo is high at most


def checks(page: Page, found: tuple[Checkpoint, ...]) -> None:
    """Front and back after so many units, and what the tape reads beside them."""
    faces = found[0].faces
    scale = min([PT, *(TALL / f.height for f in faces), *(WIDE / f.width for f in faces)])
    height = max([f.height * scale + 12 for f in faces], default=0.0)
    page.room(max(height, 14.0 * len(found) + 14) + 26)
    page.write("Check your work", 10.5, bold=True, after=4, kind="H3")
    top, x = page.y, 0.0
    for f, name in zip(faces, ("front", "back"), strict=False):
        page.picture(f, x, top, scale)
        page.label(name, x + f.width * scale / 2, top + f.height * scale + 9)
        x += f.width * scale + GAP
    x += 4 if faces else 0
    if faces:
        page.write(f"So it looks after {found[0].units}.", 9.5, x=x)
    page.write("From the first unit on the tape reads:", 9.5, x=x, after=1)
    for c in found:
        page.write(f"after {c.units}: {c.words}", 9.5, x=x + 10, after=0)
    page.y = max(page.y, top + height) + 8


def photo(page: Page, jpeg: bytes) -> None:
    """The designer's own picture, in the middle of the page."""
    image = ImageReader(io.BytesIO(jpeg))
    wide, high = image.getSize()
    scale = min(page.inner / wide, PHOTO / high)
    page.room(high * scale + 10)
    left = MARGIN + (page.inner - wide * scale) / 2
    with page.tags.part("Figure", "Photo of the finished work"):
        page.canvas.drawImage(image, left, page.height - page.y - high * scale, wide * scale, high * scale)
    page.y += high * scale + 10


def slips(page: Page, found: tuple[SlipTold, ...]) -> None:
    """The likeliest slips side by side, each with its picture where there is one."""
    width = (page.inner - GAP * (len(found) - 1)) / len(found)
    made = []
    for s in found:
        scale = min(PT, WIDE / s.picture.width, TALL / s.picture.height) if s.picture else 0.0
        beside = s.picture.width * scale + 10 if s.picture else 0.0
        head, head_face = split(f"{s.name.capitalize()}.", BOLD, 9.5, width - beside)
        words, face = split(f"{s.tell} {s.undo}", REGULAR, 9.5, width - beside)
        lines = [(t, head_face) for t in head] + [(t, face) for t in words]
        made.append((s, scale, beside, lines))
    height = max(
        max(s.picture.height * scale if s.picture else 0.0, len(lines) * 12.5) for s, scale, _, lines in made
    )
    page.room(height + 26)
    page.write("If it looks like this", 10.5, bold=True, after=4, kind="H3")
    top = page.y
    for k, (s, scale, beside, lines) in enumerate(made):
        x = k * (width + GAP)
        if s.picture:
            page.picture(s.picture, x, top, scale)
        with page.tags.part("P"):
            for n, (text, face) in enumerate(lines):
                page.line(text, face, 9.5, INK, x + beside, top + 12.5 * n)
    page.y = top + height + 10
