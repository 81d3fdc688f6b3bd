"""The file of the open weave: who may write it, what it held when this window read or wrote it last, and what to do when
something else changed it."""

from __future__ import annotations

import hashlib
import os
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from dim_ladder.base import DimLadderError, InputError, WorldError
from dim_ladder.base.disk import ReadOnlyFile, read_whole, sweep, write_whole
from dim_ladder.commands.recovery import apart
from dim_ladder.shelf import Document, document_text, read_document_text, save_document
from dim_ladder.shelf.files import MAX_BYTES
from dim_ladder.shelf.lock import Holder, Lock, lock_path

Seen = tuple[int, int, int]  # inode, size, time: while they stay, so does what is in it


class Conflict(WorldError):
    """The file is another one than this window read; nothing was written."""


@dataclass(frozen=True, slots=True)
class Other:
    """What stands on the disk now. document : where it can be read; else `why` not."""

    text: str
    document: Document | None
    why: str = ""


class Paper:
    """path : None for a weave in no file."""

    def __init__(self) -> None:
        self.path: Path | None = None
        self._lock: Lock | None = None
        self._stamp = ""  # of what this window read or wrote last
        self._seen: Seen | None = None
        self.read_only = False

    @property
    def holder(self) -> Holder | None:
        """Who has the file, where this window may only look."""
        return self._lock.holder if self.read_only and self._lock is not None else None

    def open(self, path: Path, text: str) -> None:
        """A file that was read as `text`: its lock is taken, or somebody has it and this window only looks."""
        self.leave()
        self.path = path
        self._lock = Lock(lock_path(path))
        self.read_only = not self._lock.take() and self._lock.possible
        self._wrote(path, text)
        if not self.read_only:
            sweep(path.parent)

    def leave(self) -> None:
        """Another weave takes this one's place."""
        if self._lock is not None:
            self._lock.leave()
        self.path = self._lock = self._seen = None
        self._stamp = ""
        self.read_only = False

    def take_over(self) -> bool:
        """Whether whoever had it is gone; the file is to be read anew then, and this window has it."""
        return self._lock is not None and self._lock.take()

    def free(self) -> bool:
        """Whether it could be taken over."""
        if not self.take_over():
            return False
        assert self._lock is not None
        self._lock.leave()
        return True

    # -- writing -------------------------------------------------------------------------------------

    def save(self, doc: Document, target: Path, *, over_read_only: bool = False) -> str:
        """Write a document; gives the file's text. Raises Conflict, ReadOnlyFile or WorldError, and writes nothing then."""
        if target == self.path:
            if self.read_only:
                raise WorldError(f"{target.name} is open elsewhere: {_who(self.holder)}", "Save a copy of it")
            if self.differs(thorough=True):
                raise Conflict(
                    f"{target.name} was changed by something else since this window read it",
                    "Nothing was overwritten. Compare with the file (Ctrl+Shift+D)",
                )
            save_document(doc, target, over_read_only=over_read_only)
        else:
            self._save_as(doc, target, over_read_only)
        text = document_text(doc)
        if target == self.path:
            self._wrote(target, text)
        return text

    def _save_as(self, doc: Document, target: Path, over_read_only: bool) -> None:
        lock = Lock(lock_path(target))
        if not lock.take() and lock.possible:
            raise WorldError(f"{target.name} is open elsewhere: {_who(lock.holder)}", "Choose another name")
        try:
            save_document(doc, target, over_read_only=over_read_only)
        except DimLadderError:
            lock.leave()
            raise
        if target.suffix == ".weave":
            lock.leave()  # a script on the side: this window goes on with its own file
            return
        self.leave()
        self.path, self._lock = target, lock

    def _wrote(self, path: Path, text: str) -> None:
        self._stamp = _stamp(text.encode("utf-8"))
        self._seen = _seen(path)

    # -- changed by something else -------------------------------------------------------------------

    def differs(self, *, thorough: bool = False) -> bool:
        """Whether the file is another one than this window knows. A file that is gone does not differ: it can be written
        again. thorough : compare what is in it, also where nothing speaks of a change."""
        if self.path is None:
            return False
        seen = _seen(self.path)
        if seen is None or (seen == self._seen and not thorough):
            return False
        try:
            raw = read_whole(self.path, MAX_BYTES)
        except DimLadderError:
            return True
        if _stamp(raw) == self._stamp:
            self._seen = seen
            return False
        return True

    def other(self) -> Other:
        """What stands there now. Raises InputError or WorldError where it is no text at all."""
        assert self.path is not None
        raw = read_whole(self.path, MAX_BYTES)
        text = raw.decode("utf-8", errors="replace")
        try:
            return Other(text, read_document_text(text, self.path.name))
        except InputError as e:
            return Other(text, None, str(e))

    def apart(self, doc: Document, other: Other) -> str:
        return apart(doc, other.document, other.text)

    def know(self, other: Other) -> None:
        """What stands there is known now, and may be written over."""
        assert self.path is not None
        self._wrote(self.path, other.text)

    def set_aside(self) -> Path:
        """Keep what stands there under a name of its own beside it. Raises WorldError."""
        assert self.path is not None
        raw = read_whole(self.path, MAX_BYTES)
        aside = beside(self.path, "changed elsewhere")
        write_whole(aside, raw)
        self._stamp, self._seen = _stamp(raw), _seen(self.path)
        return aside


def beside(path: Path, why: str) -> Path:
    """A name beside a file that nothing has. Raises WorldError where it is all taken."""
    when = datetime.now()
    for n in range(1, 100):
        more = f" {n}" if n > 1 else ""
        found = path.with_name(f"{path.stem} ({why} {when:%Y-%m-%d %H-%M}{more}){path.suffix}")
        if not os.path.lexists(found):
            return found
    raise WorldError("There are too many copies of this file already", "Tidy up its folder")


def _who(holder: Holder | None) -> str:
    return holder.words() if holder is not None else "somebody has it"


def _stamp(raw: bytes) -> str:
    return hashlib.sha256(raw).hexdigest()


def _seen(path: Path) -> Seen | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_ino, found.st_size, found.st_mtime_ns


__all__ = ["Conflict", "Other", "Paper", "ReadOnlyFile"]
