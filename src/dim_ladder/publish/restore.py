"""The document that a published sheet carries."""

from __future__ import annotations

import base64
import binascii
import re

from dim_ladder.base import InputError

_MARK = re.compile(r'<script type="application/x-dim-ladder-document">([A-Za-z0-9+/=\s]*)</script>')


def embed(document_text: str) -> str:
    """Base64, so that no text of a document can end the element it stands in."""
    return base64.b64encode(document_text.encode("utf-8")).decode("ascii")


def embedded_document(html: str) -> str:
    """The document text inside a published HTML sheet. Raises InputError when there is none or it is damaged."""
    found = _MARK.search(html)
    if not found:
        raise InputError(
            "this page carries no Dim Ladder document", "Give an HTML sheet that Dim Ladder published"
        )
    try:
        return base64.b64decode(found.group(1), validate=False).decode("utf-8")
    except (binascii.Error, UnicodeDecodeError):
        raise InputError("the document inside this sheet is damaged", "Ask for the sheet once more") from None
