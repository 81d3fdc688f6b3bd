"""Documents on disk. In: paths. Out: frozen Documents; writes are atomic, what is not known is refused untouched."""

from dim_ladder.shelf.document import Document
from dim_ladder.shelf.files import (
    SUFFIX,
    document_text,
    read_document,
    read_document_text,
    save_document,
)

__all__ = [
    "SUFFIX",
    "Document",
    "document_text",
    "read_document",
    "read_document_text",
    "save_document",
]
