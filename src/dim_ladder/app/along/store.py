"""What is being tied, kept after every step, so that a crash or an empty battery loses nothing."""

from __future__ import annotations

import contextlib
import hashlib
from pathlib import Path

from dim_ladder.base import DimLadderError
from dim_ladder.base.disk import make_folder, read_text, write_whole
from dim_ladder.base.state import state_folder
from dim_ladder.commands.tying import Tying, read_tying

MOST = 2_000_000  # bytes


class Store:
    """One file for each weave, by where it is kept (or by its name, while it is in no file)."""

    def __init__(self, document: Path | None, name: str) -> None:
        key = str(document.resolve()) if document is not None else f"name:{name}"
        self._path = state_folder() / "tying" / f"{hashlib.sha256(key.encode()).hexdigest()[:24]}.json"

    def load(self) -> Tying | None:
        try:
            return read_tying(read_text(self._path, MOST, "a place in tying"))
        except DimLadderError:
            return None

    def keep(self, tying: Tying) -> str:
        """Write it; what went wrong, else "". Tying goes on either way."""
        try:
            make_folder(self._path.parent)
            write_whole(self._path, tying.model_dump_json(), follow=True)
        except DimLadderError as e:
            return f"How far you are cannot be kept: {e}. It will be lost if the program ends"
        return ""

    def forget(self) -> None:
        with contextlib.suppress(OSError):
            self._path.unlink(missing_ok=True)
