"""The journal beside a document: every edit and every key that was typed, at once, so that a crash loses the key press in
flight and no more, and so that undo reaches back past a restart.

One JSON object a line. The first holds the document that the edits begin from; "saved" marks that the document's own
file held the state of that moment. Long text is written as what differs from the last text of the journal. Only ever
appended to; a torn last line is left out. It is written anew in short while it grows (Journal.shorten).
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import tempfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from dim_ladder.base import DimLadderError, WorldError
from dim_ladder.base.disk import (
    PREFIX,
    SUFFIX,
    open_to_append,
    read_start,
    sync_folder,
    world,
    write_whole,
)

VERSION = 2
READ = (1, 2)
MOST_BYTES = 64_000_000  # that are read; one of ours stays far below
MOST_EVENTS = 20_000
MOST_TEXT = 2_000_000  # characters of a script in it
GROWN_BYTES = 1_000_000  # after so much more it is written anew
GROWN_LINES = 1500
TEXTS = ("set-script", "set-draft")  # edits whose text is written as a difference
WHATS = ("do", "undo", "redo", "saved", "typed", "form", "opening", "opened")


@dataclass(frozen=True, slots=True)
class Event:
    """what : do, undo, redo, saved; typed (text in the script pane that is no edit yet); form (what is half filled in);
    opening, opened (the program began to show this weave, and lived). text : the edit as JSON of a "do"; the fingerprint of
    the file of a "saved"; the whole text of the pane; what a form holds. name : of the form; or the kind of an edit that
    is nothing but its text."""

    what: str
    text: str = ""
    name: str = ""


@dataclass(frozen=True, slots=True)
class Kept:
    """What a journal holds. base : the document's text before the first event. whole : nothing in it was torn off."""

    base: str
    events: tuple[Event, ...]
    of: str = ""  # the document's place, where the journal does not lie beside it
    whole: bool = True


def fingerprint(text: str) -> str:
    """Tells one file's text from another."""
    return hashlib.sha256(text.encode()).hexdigest()


def journal_path(document: Path) -> Path:
    """Beside the document itself, wherever a link to it lies, and out of sight."""
    real = Path(os.path.realpath(document))
    return real.with_name(f".{real.name}.journal")


def read_journal(path: Path) -> Kept | None:
    """What is kept, as far as it can be read; None where there is none, or where it is not one of these."""
    try:
        raw = read_start(path, MOST_BYTES, follow=False)
    except DimLadderError:
        return None
    lines = raw.split(b"\n")
    head = _object(lines[0])
    if head is None or head.get("journal") not in READ or not isinstance(head.get("base"), str):
        return None
    events: list[Event] = []
    text = _Text()
    room = MOST_BYTES  # characters that texts told by their differences may come to together
    for line in lines[1:-1]:
        event = _event(_object(line), text)
        room -= len(event.text) if event is not None else 0
        if event is None or room < 0 or len(events) == MOST_EVENTS:
            break  # torn, or not ours: what comes after it does not fit any more
        if events and event.what == "typed" == events[-1].what:
            events.pop()
        if event.what != "text":
            events.append(event)
    else:
        return Kept(str(head["base"]), tuple(events), _of(head), not lines[-1])
    return Kept(str(head["base"]), tuple(events), _of(head), False)


def _of(head: dict[str, object]) -> str:
    of = head.get("of", "")
    return of[:4096] if isinstance(of, str) else ""


def _object(line: bytes) -> dict[str, object] | None:
    try:
        found = json.loads(line)
    except (ValueError, RecursionError):
        return None
    return found if isinstance(found, dict) else None


class _Text:
    """The last long text of a journal, which the next is told apart from."""

    def __init__(self) -> None:
        self.now = ""

    def differs(self, new: str) -> dict[str, object]:
        """How `new` comes from the text now, which it becomes."""
        old, self.now = self.now, new
        most = min(len(old), len(new))
        start = _alike(old, new, most, end=False)
        end = _alike(old, new, most - start, end=True)
        return {"at": start, "cut": len(old) - start - end, "put": new[start : len(new) - end]}

    def becomes(self, at: object, cut: object, put: object) -> bool:
        """Whether this is a difference from the text now; it is made then."""
        if type(at) is not int or type(cut) is not int or not isinstance(put, str):
            return False
        if at < 0 or cut < 0 or at + cut > len(self.now) or len(self.now) - cut + len(put) > MOST_TEXT:
            return False
        self.now = self.now[:at] + put + self.now[at + cut :]
        return True


def _alike(a: str, b: str, most: int, *, end: bool) -> int:
    """How many characters at the beginning (or end) of both are the same: halves are compared, which is quick."""
    low, high = 0, most
    while low < high:
        mid = (low + high + 1) // 2
        same = (
            a[len(a) - mid : len(a) - low] == b[len(b) - mid : len(b) - low]
            if end
            else a[low:mid] == b[low:mid]
        )
        low, high = (mid, high) if same else (low, mid - 1)
    return low


def _event(found: dict[str, object] | None, text: _Text) -> Event | None:
    if found is None:
        return None
    what, name = found.get("what"), found.get("name", "")
    if not isinstance(what, str) or not isinstance(name, str):
        return None
    if "put" in found:
        if what not in ("do", "typed", "text") or not text.becomes(
            found.get("at"), found.get("cut"), found["put"]
        ):
            return None
        return Event(what, text.now, name if what == "do" else "")
    said = found.get("text", "")
    return Event(what, said, name) if what in WHATS and isinstance(said, str) else None


class Journal:
    """An open journal. Raises WorldError where it cannot be written."""

    def __init__(self, path: Path, base: str, events: Iterable[Event] = (), of: str = "") -> None:
        """Begin anew, with what is already known; the old one is replaced whole or not at all. A link that lies there is
        replaced too, and what it leads to is left alone."""
        self.path, self._of = path, of
        self._text = _Text()
        self._fd = -1
        self._shorter: list[bytes] | None = None  # lines that came while it is written anew
        head = "".join(self._lines(base, events, self._text)).encode("utf-8", "surrogatepass")
        write_whole(path, head)
        self._size = self._short = len(head)
        self._count = 0
        self._open()

    def _lines(self, base: str, events: Iterable[Event], text: _Text) -> Iterator[str]:
        head: dict[str, object] = {"journal": VERSION, "base": base}
        yield _line({**head, "of": self._of} if self._of else head)
        for e in events:
            yield _line(_fields(e, text))

    def _open(self) -> None:
        self.close()
        try:
            self._fd = open_to_append(self.path)
            os.fchmod(self._fd, 0o600)  # drafts are nobody else's
        except OSError as e:
            raise world(e, self.path, "keep the journal") from None

    def append(self, event: Event) -> None:
        """Handed to the system at once: it outlives the program. See sync for the power."""
        raw = _line(_fields(event, self._text)).encode("utf-8", "surrogatepass")
        try:
            if not self._is_there():
                raise WorldError(f"The journal {self.path.name} is gone", "Changes are kept elsewhere")
            if os.write(self._fd, raw) != len(raw):  # a full disk takes a part of it
                raise OSError(28, "the disk is full")
        except OSError as e:
            raise world(e, self.path, "keep the journal") from None
        if self._shorter is not None:
            self._shorter.append(raw)
        self._size += len(raw)
        self._count += 1

    def _is_there(self) -> bool:
        """Whether what is written still has its name: else it would go nowhere, and nobody would know."""
        try:
            named, held = os.lstat(self.path), os.fstat(self._fd)
        except OSError:
            return False
        return (named.st_dev, named.st_ino) == (held.st_dev, held.st_ino)

    @property
    def grown(self) -> bool:
        """Whether it is worth writing anew in short."""
        return self._shorter is None and (
            self._size > self._short + max(GROWN_BYTES, self._short) or self._count > GROWN_LINES
        )

    def shorten(self) -> Shortening:
        """Begin to write it anew; what is appended meanwhile is carried over. See Shortening."""
        self._shorter = []
        return Shortening(self, self._text.now)

    def finish(self, part: Path, size: int) -> None:
        """Take the shorter one instead. Raises WorldError, and goes on with the long one."""
        came, self._shorter = self._shorter or [], None
        try:
            with open(open_to_append(part), "ab", buffering=0) as f:
                f.write(b"".join(came))
            os.replace(part, self.path)
        except OSError as e:
            with contextlib.suppress(OSError):
                part.unlink(missing_ok=True)
            self._count = 0  # not at every edit again
            raise world(e, self.path, "shorten the journal") from None
        self._size = self._short = size + sum(map(len, came))
        self._count = 0
        self._open()

    def give_up(self) -> None:
        """It stays as long as it is, for now."""
        self._shorter, self._count = None, 0

    def sync(self) -> None:
        """Onto the disk itself; from a thread, because disks are slow."""
        with contextlib.suppress(OSError):
            fd = os.open(
                self.path, os.O_RDONLY | os.O_NOFOLLOW | os.O_CLOEXEC
            )  # its own: the other may be closed by now
            try:
                os.fsync(fd)
            finally:
                os.close(fd)

    def close(self) -> None:
        if self._fd >= 0:
            with contextlib.suppress(OSError):
                os.close(self._fd)
            self._fd = -1


@dataclass(frozen=True, slots=True)
class Shortening:
    """A journal being written anew: `write` on a thread, then Journal.finish where it is appended to."""

    journal: Journal
    text: str  # the last long text: what comes is told apart from it

    def write(self, base: str, events: Iterable[Event]) -> tuple[Path, int]:
        """Into a file beside it. Raises WorldError."""
        text = _Text()
        lines = list(self.journal._lines(base, events, text))
        lines.append(_line({"what": "text", **text.differs(self.text)}))
        raw = "".join(lines).encode("utf-8", "surrogatepass")
        path = self.journal.path
        try:
            fd, name = tempfile.mkstemp(prefix=PREFIX, suffix=SUFFIX, dir=path.parent)
            with os.fdopen(fd, "wb") as f:
                f.write(raw)
                f.flush()
                os.fsync(f.fileno())
            sync_folder(path.parent)
        except OSError as e:
            raise world(e, path, "shorten the journal") from None
        return Path(name), len(raw)


def _fields(e: Event, text: _Text) -> dict[str, object]:
    if e.what == "typed" or (e.what == "do" and e.name in TEXTS):
        found: dict[str, object] = {"what": e.what, **text.differs(e.text)}
        return {**found, "name": e.name} if e.name else found
    return {k: v for k, v in (("what", e.what), ("name", e.name), ("text", e.text)) if v or k == "what"}


def without_last(kept: Kept) -> Kept:
    """The journal without its last step: what was typed, else the last edit and what came after it."""
    events = list(kept.events)
    while events:
        event = events.pop()
        if event.what in ("typed", "do", "undo", "redo"):
            break
    return replace(kept, events=tuple(e for e in events if e.what != "form" or e.name != "hand"))


def _line(value: dict[str, object]) -> str:
    return json.dumps(value, ensure_ascii=False) + "\n"
