"""The journal beside a document: every edit at once, so that a crash loses the key press in flight and no more, and so
that undo reaches back past a restart.

One JSON object a line. The first holds the document that the edits begin from; "saved" marks that the document's own
file held the state of that moment. Only ever appended to; a torn last line is left out.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
from dataclasses import dataclass
from pathlib import Path

from dim_ladder.base import WorldError

VERSION = 1
MAX_BYTES = 50_000_000


@dataclass(frozen=True, slots=True)
class Event:
    """what : do, undo, redo, or saved. text : the edit as JSON of a "do"; the fingerprint of the file of a "saved"."""

    what: str
    text: str = ""


@dataclass(frozen=True, slots=True)
class Kept:
    """What a journal holds. base : the document's text before the first event."""

    base: str
    events: tuple[Event, ...]


def fingerprint(text: str) -> str:
    """Tells one file's text from another."""
    return hashlib.sha256(text.encode()).hexdigest()


def journal_path(document: Path) -> Path:
    """Beside the document, out of sight."""
    return document.with_name(f".{document.name}.journal")


def read_journal(path: Path) -> Kept | None:
    """What is kept, as far as it can be read; None where there is none, or where it is not one of these."""
    try:
        if path.stat().st_size > MAX_BYTES:
            return None
        lines = path.read_bytes().decode("utf-8", errors="replace").split("\n")
    except OSError:
        return None
    head = _object(lines[0])
    if head is None or head.get("journal") != VERSION or not isinstance(head.get("base"), str):
        return None
    events: list[Event] = []
    for line in lines[1:]:
        found = _object(line)
        if found is None:
            break  # torn, or not ours: what comes after it does not fit any more
        what, text = found.get("what"), found.get("text", "")
        if what not in ("do", "undo", "redo", "saved") or not isinstance(text, str):
            break
        events.append(Event(str(what), text))
    return Kept(str(head["base"]), tuple(events))


def _object(line: str) -> dict[str, object] | None:
    try:
        found = json.loads(line)
    except (json.JSONDecodeError, RecursionError):
        return None
    return found if isinstance(found, dict) else None


class Journal:
    """An open journal. Raises WorldError where it cannot be written. It holds no file open between two edits."""

    def __init__(self, path: Path, base: str, events: tuple[Event, ...] = ()) -> None:
        """Begin anew, with what is already known; the old one is replaced whole or not at all."""
        self.path = path
        lines = [_line({"journal": VERSION, "base": base}), *(_line(_fields(e)) for e in events)]
        temporary = path.with_name(f"{path.name}.part")
        try:
            temporary.write_text("".join(lines), encoding="utf-8")
            os.replace(temporary, path)
        except OSError as e:
            with contextlib.suppress(OSError):
                temporary.unlink(missing_ok=True)
            raise WorldError(
                f"Cannot keep the journal {path.name}: {e.strerror or e}", "Choose a folder that is yours"
            ) from None

    def append(self, event: Event) -> None:
        """Handed to the system at once: it outlives the program. See sync for the power."""
        try:
            with self.path.open("a", encoding="utf-8") as f:
                f.write(_line(_fields(event)))
        except OSError as e:
            raise WorldError(
                f"Cannot keep the journal {self.path.name}: {e.strerror or e}", "Make room on the disk"
            ) from None

    def sync(self) -> None:
        """Onto the disk itself; from a thread, because disks are slow."""
        with contextlib.suppress(OSError), self.path.open("rb") as f:
            os.fsync(f.fileno())


def _fields(e: Event) -> dict[str, object]:
    return {"what": e.what, "text": e.text} if e.text else {"what": e.what}


def _line(value: dict[str, object]) -> str:
    return json.dumps(value, ensure_ascii=False) + "\n"
