"""The journal of the open weave: begun with it, written with every edit, read back after a crash."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject

from dim_ladder.app.workers import Jobs
from dim_ladder.base import WorldError
from dim_ladder.base.state import state_folder
from dim_ladder.commands import History, StreamEntry
from dim_ladder.commands.recovery import Recovered, compact, replayed
from dim_ladder.shelf import document_text
from dim_ladder.shelf.journal import Event, Journal, fingerprint, journal_path, read_journal

SYNC_MS = 90


class Keeper:
    """say : tells the person what went wrong. Work goes on without a journal where none can be kept."""

    def __init__(self, jobs: Jobs, owner: QObject, say: Callable[[str], None]) -> None:
        self._jobs, self._owner, self._say = jobs, owner, say
        self._journal: Journal | None = None
        self._loose = False  # the journal is that of a weave without a file

    def begin(self, history: History, path: Path | None, saved_text: str = "") -> None:
        """For another weave. One without a file gets its journal with the first edit."""
        self.end()
        if path is not None:
            self._open(history, journal_path(path), saved_text)

    def begin_loose(self, history: History) -> None:
        """For a weave that is in no file, in the person's state folder."""
        self._open(history, _loose_path(), "")
        self._loose = True

    def _open(self, history: History, path: Path, saved_text: str) -> None:
        base, events = compact(history, saved_text)
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._journal = Journal(path, base, events)
        except (WorldError, OSError) as e:
            self._say(f"Undo will not reach past a restart: {e}")

    def note(self, history: History, entry: StreamEntry, path: Path | None) -> None:
        """An event that has just happened."""
        if self._journal is None and path is None:
            self.begin_loose(history)
            return  # the event is in it already
        self._append(Event(entry.what, entry.edit.model_dump_json() if entry.what == "do" else ""))

    def saved(self, history: History, path: Path, moved: bool) -> None:
        """The file holds the document as it is now. moved : it is another file than before."""
        text = document_text(history.document)
        if moved or self._journal is None or self._loose:
            self.forget()
            self.begin(history, path, text)
        else:
            self._append(Event("saved", fingerprint(text)))

    def _append(self, event: Event) -> None:
        if self._journal is None:
            return
        try:
            self._journal.append(event)
        except WorldError as e:
            self._journal = None
            self._say(f"{e.message}. {e.hint}")
            return
        # Onto the disk from a thread: a key press must not wait for it.
        self._jobs.ask(
            self._owner, "journal", self._journal.sync, lambda _: None, lambda e: None, after_ms=SYNC_MS
        )

    def forget(self) -> None:
        """The weave without a file is saved now, or is wanted no more."""
        if self._loose and self._journal is not None:
            path = self._journal.path
            self.end()
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True)

    def end(self) -> None:
        self._journal = None
        self._loose = False


def _loose_path() -> Path:
    return state_folder() / f"unsaved-{os.getpid()}.journal"


def take_unsaved() -> Recovered | None:
    """A weave without a file that a crash left behind, newest first; its journal goes, another one begins."""
    try:
        found = sorted(
            state_folder().glob("unsaved-*.journal"), key=lambda p: p.stat().st_mtime, reverse=True
        )
    except OSError:
        return None
    for path in found:
        if _alive(path.stem.removeprefix("unsaved-")):
            continue
        kept = read_journal(path)
        made = replayed(kept, kept.base) if kept is not None else None
        with contextlib.suppress(OSError):
            path.replace(path.with_suffix(".old"))
        if made is not None and made.history.past()[0]:
            return made
    return None


def _alive(pid: str) -> bool:
    """Whether the program of that number still runs: its weave is in its own window."""
    if not pid.isdigit():
        return False
    try:
        os.kill(int(pid), 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True
