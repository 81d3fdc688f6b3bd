"""Pages of a PDF as pixels, and pictures as PNG: both drawn by a PDF reader's engine, so that they look as in print."""

from __future__ import annotations

import io
import threading
from dataclasses import dataclass
from typing import TYPE_CHECKING

from dim_ladder.base import InputError
from dim_ladder.picture.display import Picture

if TYPE_CHECKING:
    from PIL import Image

MOST_PIXELS = 60_000_000
ENGINE = threading.Lock()  # the engine must not be entered twice at once


@dataclass(frozen=True, slots=True)
class PageImage:
    """One page as 32-bit pixels, blue green red alpha."""

    width: int
    height: int
    pixels: bytes


def draw_pages(data: bytes, width: int) -> tuple[PageImage, ...]:
    """Every page of a PDF, `width` pixels wide. Safe to call on a thread."""
    import pypdfium2

    out = []
    with ENGINE:
        pdf = pypdfium2.PdfDocument(data)
        try:
            for page in pdf:
                bitmap = page.render(scale=width / page.get_width(), rev_byteorder=False, prefer_bgrx=True)
                out.append(PageImage(bitmap.width, bitmap.height, bytes(bitmap.buffer)))
                bitmap.close()
                page.close()
        finally:
            pdf.close()
    return tuple(out)


def to_png(picture: Picture, scale: float = 2.0) -> bytes:
    """A picture as PNG, `scale` pixels to a pixel of the picture. Raises InputError where it would be too large."""
    out = io.BytesIO()
    _drawn(picture, scale).save(out, "PNG", dpi=(96 * scale, 96 * scale))
    return out.getvalue()


def to_webp(picture: Picture, scale: float = 2.0, colours: int = 0, quality: int = 82) -> bytes:
    """A picture as WebP, a fifth as long as PNG where cord is shaded. colours : for a drawing, to how many it is brought down, exact
    then; else quality : of 100. Raises InputError where it would be too large."""
    out = io.BytesIO()
    image = _drawn(picture, scale)
    if colours:
        image.quantize(colours).convert("RGB").save(out, "WebP", lossless=True, quality=80, method=4)
    else:
        image.save(out, "WebP", quality=quality, method=4)
    return out.getvalue()


def _drawn(picture: Picture, scale: float) -> Image.Image:
    from PIL import Image

    from dim_ladder.publish.pdfpage import one_page

    width, height = round(picture.width * scale), round(picture.height * scale)
    if width < 1 or height < 1 or width * height > MOST_PIXELS:
        raise InputError(f"a picture of {width} x {height} pixels cannot be made", "Draw it as SVG")
    (page,) = draw_pages(one_page(picture), width)
    return Image.frombuffer("RGB", (page.width, page.height), page.pixels, "raw", "BGRX", 0, 1)
