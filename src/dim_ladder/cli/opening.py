"""What a command works on."""

from __future__ import annotations

from pathlib import Path

from dim_ladder.library import use_kinds
from dim_ladder.shelf import Document, read_document
from dim_ladder.shelf.kinds import read_kinds


def opened(path: Path) -> Document:
    """A document, with the kinds of cord that are kept beside it."""
    use_kinds(read_kinds(path.parent))
    return read_document(path)
