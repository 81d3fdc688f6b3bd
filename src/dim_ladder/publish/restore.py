"""The document that a published sheet carries, in its page or in its PDF, with a checksum: a damaged one is never opened."""

from __future__ import annotations

import base64
import binascii
import hashlib
import re
from collections.abc import Iterable

from dim_ladder.base import InputError

BEGIN, END = b'<script type="application/x-dim-ladder-document">', b"</script>"
MOST = 30_000_000  # bytes of a document as it stands in a page
ATTACHED = "weave.dimladder"  # the file's name inside a PDF
_LETTERS = re.compile(rb"(?:([0-9a-f]{64}):)?([A-Za-z0-9+/=\s]*)")


def embed(document_text: str) -> str:
    """A checksum, and the text in base64, so that nothing in a document can end the element it stands in."""
    data = document_text.encode("utf-8")
    return f"{hashlib.sha256(data).hexdigest()}:{base64.b64encode(data).decode('ascii')}"


def attached_document(pdf: bytes) -> str:
    """The document text inside a published PDF. Raises InputError when there is none or it is damaged."""
    import pypdfium2

    from dim_ladder.publish.raster import ENGINE

    with ENGINE:
        try:
            reader = pypdfium2.PdfDocument(pdf)
        except pypdfium2.PdfiumError:
            raise InputError("this is no PDF that can be read", "Ask for the sheet once more") from None
        try:
            found = [reader.get_attachment(k) for k in range(reader.count_attachments())]
            data = next((bytes(a.get_data()) for a in found if a.get_name() == ATTACHED), None)
        except pypdfium2.PdfiumError:
            raise _damaged() from None
        finally:
            reader.close()
    if data is None:
        raise InputError(
            "this PDF carries no Dim Ladder document",
            "Give a sheet that Dim Ladder published, as HTML or PDF",
        )
    return _decoded(data)


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
    read = _LETTERS.fullmatch(text)
    if read is None:
        raise _damaged()
    try:
        data = base64.b64decode(read[2], validate=False)
        # Sheets of before carry no checksum.
        if read[1] is not None and hashlib.sha256(data).hexdigest().encode("ascii") != read[1]:
            raise _damaged()
        return data.decode("utf-8")
    except (binascii.Error, UnicodeDecodeError):
        raise _damaged() from None


def _damaged() -> InputError:
    return InputError("the document inside this sheet is damaged", "Ask for the sheet once more")
