"""A photo of the designer's own: decoded and written anew, so that nothing but what is seen goes along."""

from __future__ import annotations

import base64
import io
import warnings

from dim_ladder.base import InputError

LONGEST = 1000  # pixels along the longer side
MOST_BYTES = 40_000_000  # of the file that is read
MOST_PIXELS = 80_000_000
KEPT = 180_000  # bytes, which it stays below
REMEDY = "Give a JPEG, PNG or WebP picture"


def photo_jpeg(data: bytes, name: str = "the photo") -> bytes:
    """A picture as a JPEG of at most LONGEST pixels, upright, in sRGB, without metadata.

    Raises InputError for what is no picture, or one too large to be opened.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError  # slow to load, and few sheets have one

    if len(data) > MOST_BYTES:
        raise InputError(
            f"{name} has {len(data) // 1_000_000} MB, more than {MOST_BYTES // 1_000_000}", REMEDY
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            found = Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP"))
            if found.width * found.height > MOST_PIXELS:
                raise InputError(
                    f"{name} is {found.width} × {found.height} pixels, too large", "Give a smaller one"
                )
            found.load()
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise InputError(f"{name} cannot be read as a picture", REMEDY) from None
    upright = ImageOps.exif_transpose(found)
    # What is see-through stands on white; a new picture of the bare pixels takes nothing else along.
    solid = Image.new("RGB", upright.size, "white")
    solid.paste(upright.convert("RGB"), mask=upright.getchannel("A") if "A" in upright.getbands() else None)
    solid.thumbnail((LONGEST, LONGEST))
    for quality in (85, 75, 60, 45, 30):
        out = io.BytesIO()
        solid.save(out, "JPEG", quality=quality, optimize=True)
        if out.tell() <= KEPT:
            break
    return out.getvalue()


def photo_text(jpeg: bytes) -> str:
    """As a document keeps it."""
    return base64.b64encode(jpeg).decode("ascii")


def photo_bytes(text: str) -> bytes:
    """Out of a document, written anew: whoever made the file, only pixels come out. Raises InputError."""
    if not text:
        return b""
    try:
        data = base64.b64decode(text, validate=True)
    except ValueError:
        raise InputError("the photo of the sheet is broken", "Choose it again") from None
    return photo_jpeg(data, "the photo of the sheet")
