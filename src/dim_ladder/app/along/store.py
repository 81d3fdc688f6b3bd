"""What is being tied, kept after every step, so that a crash or an empty battery loses nothing."""

from __future__ import annotations

import contextlib
import hashlib
from pathlib import Path

from dim_ladder.base import WorldError
from dim_ladder.base.state import state_folder
from dim_ladder.commands.tying import Tying, read_tying
from dim_ladder.shelf import write_atomic


class Store:
    """One file for each weave, by where it is kept (or by its name, while it is in no file)."""

    def __init__(self, document: Path | None, name: str) -> None:
        key = str(document.resolve()) if document is not None else f"name:{name}"
        self._path = state_folder() / "tying" / f"{hashlib.sha256(key.encode()).hexdigest()[:24]}.json"

    def load(self) -> Tying | None:
        try:
            return read_tying(self._path.read_text(encoding="utf-8"))
        except (OSError, UnicodeDecodeError):
            return None

    def keep(self, tying: Tying) -> str:
        """Write it; what went wrong, else "". Tying goes on either way."""
        try:
            self._path.parent.mkdir(parents=True, exist_ok=True)
            write_atomic(self._path, tying.model_dump_json())
        except (OSError, WorldError) as e:
            return f"How far you are cannot be kept: {e}. It will be lost if the program ends"
        return ""

    def forget(self) -> None:
        with contextlib.suppress(OSError):
            self._path.unlink(missing_ok=True)
