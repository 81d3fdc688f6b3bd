"""The document that a published sheet carries."""

from __future__ import annotations

import base64
import binascii
import re
from collections.abc import Iterable

from dim_ladder.base import InputError

BEGIN, END = b'<script type="application/x-dim-ladder-document">', b"</script>"
MOST = 30_000_000  # bytes of a document as it stands in a page
_LETTERS = re.compile(rb"[A-Za-z0-9+/=\s]*")


def embed(document_text: str) -> str:
    """Base64, so that no text of a document can end the element it stands in."""
    return base64.b64encode(document_text.encode("utf-8")).decode("ascii")


def embedded_document(page: Iterable[bytes]) -> str:
    """The document text inside a published HTML sheet, given piece by piece, however long it is. Raises InputError when
    there is none or it is damaged."""
    held, inside = b"", False
    for piece in page:
        held += piece
        if not inside:
            before, mark, after = held.partition(BEGIN)
            inside = bool(mark)
            held = after if mark else before[-len(BEGIN) :]
        if inside:
            text, mark, _ = held.partition(END)
            if mark:
                return _decoded(text)
            if len(held) > MOST:
                break
    if inside:
        raise _damaged()
    raise InputError(
        "this page carries no Dim Ladder document", "Give an HTML sheet that Dim Ladder published"
    )


def _decoded(text: bytes) -> str:
    if not _LETTERS.fullmatch(text):
        raise _damaged()
    try:
        return base64.b64decode(text, validate=False).decode("utf-8")
    except (binascii.Error, UnicodeDecodeError):
        raise _damaged() from None


def _damaged() -> InputError:
    return InputError("the document inside this sheet is damaged", "Ask for the sheet once more")
