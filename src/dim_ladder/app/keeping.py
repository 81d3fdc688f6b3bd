"""The journal of the open weave: begun with it, written with every edit and every key, read back after a crash."""

from __future__ import annotations

import contextlib
import uuid
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject

from dim_ladder.app.workers import Jobs
from dim_ladder.base import WorldError
from dim_ladder.base.disk import make_folder
from dim_ladder.base.state import state_folder
from dim_ladder.commands import History, StreamEntry
from dim_ladder.commands.left import AWAY, LOOSE, away_path
from dim_ladder.commands.recovery import ENDS, compact, edit_event
from dim_ladder.shelf.journal import (
    Event,
    Journal,
    Shortening,
    fingerprint,
    journal_path,
)
from dim_ladder.shelf.lock import Lock

SYNC_MS = 90


class Keeper:
    """say : tells the person what went wrong. history : gives what is kept.

    Work goes on without a journal where none can be kept at all."""

    def __init__(
        self, jobs: Jobs, owner: QObject, history: Callable[[], History], say: Callable[[str], None]
    ) -> None:
        self._jobs, self._owner, self._history, self._say = jobs, owner, history, say
        self._journal: Journal | None = None
        self._lock: Lock | None = None  # of a journal in the state folder: its weave is in a window
        self._document: Path | None = None
        self._saved = ""  # what the document's file holds
        self._ends = ""  # the form that the next edit comes out of
        self._pane: str | None = None  # what is typed and no edit yet
        self._noted = 0
        self._idle = True  # nothing is to be kept: this weave is only looked at
        self.forms: dict[str, str] = {}  # what is half filled in, by name

    @property
    def away(self) -> bool:
        """Whether the journal lies in the state folder because the weave's own folder takes none."""
        return self._journal is not None and self._journal.path.name.startswith(AWAY)

    def begin(self, path: Path | None, saved_text: str = "", forms: dict[str, str] | None = None) -> None:
        """For another weave. One without a file gets its journal with the first edit."""
        self.end()
        self._document, self._saved, self.forms, self._idle = path, saved_text, dict(forms or {}), False
        if path is not None:
            self._beside()

    def begin_loose(self, lock: Lock | None = None, forms: dict[str, str] | None = None) -> None:
        """For a weave that is in no file, in the person's state folder. lock : of the journal it was taken from, which is
        written on."""
        self.end()
        self._document, self._saved, self.forms, self._idle = None, "", dict(forms or {}), False
        place = (
            lock.path.with_suffix(".journal")
            if lock
            else state_folder() / f"{LOOSE}{uuid.uuid4().hex}.journal"
        )
        self._in_state(place, lock)

    def _beside(self) -> None:
        """Beside the document; in the state folder where that cannot be."""
        assert self._document is not None
        try:
            self._journal = self._new(journal_path(self._document))
        except WorldError as e:
            self._go_away(e)
            return
        self._drop(away_path(self._document))

    def _go_away(self, why: WorldError) -> None:
        """The weave's folder takes no journal (any more): on in the state folder, until it does."""
        assert self._document is not None
        if self.away:
            self._stop(why)
            return
        self._close()
        if self._in_state(away_path(self._document), None):
            self._say(f"{why.message}. Every change is kept in {state_folder()} until it can be put back")

    def _in_state(self, path: Path, lock: Lock | None) -> bool:
        try:
            make_folder(path.parent)
            lock = lock or Lock(path.with_suffix(".lock"))
            lock.take()
            self._lock = lock
            self._journal = self._new(path)
        except WorldError as e:
            self._stop(e)
            return False
        return True

    def _stop(self, why: WorldError) -> None:
        self._close()
        self._say(f"A crash would lose what is not saved, and undo will not reach past a restart: {why}")

    def _new(self, path: Path) -> Journal:
        base, events = self._in_short()
        of = str(self._document.absolute()) if self._document and path.name.startswith(AWAY) else ""
        return Journal(path, base, (*events, Event("opening")), of)

    def _in_short(self) -> tuple[str, tuple[Event, ...]]:
        """All that is to be kept, as a journal would begin with it."""
        base, events = compact(self._history(), self._saved, self.forms)
        return base, events if self._pane is None else (*events, Event("typed", self._pane))

    def alive(self) -> None:
        """The weave is shown, and the program lives."""
        self._append(Event("opened"))

    def note(self, entry: StreamEntry) -> None:
        """An event that has just happened."""
        self._noted += 1
        self._pane = None
        if self._begun():
            return  # the event is in it already
        if self._ends and entry.what == "do":
            self._append(Event("do", entry.edit.model_dump_json(), ENDS + self._ends))
            return
        self._append(edit_event(entry.edit) if entry.what == "do" else Event(entry.what))

    @contextlib.contextmanager
    def done_with(self, form: str) -> Iterator[None]:
        """What a form holds becomes the edit that is made now: both go into the journal at once, or neither."""
        held, self._ends = self.forms.pop(form, ""), form
        before = self._noted
        try:
            yield
        finally:
            self._ends = ""
            if held and self._noted == before:
                self.forms[form] = held

    def typed(self, text: str) -> None:
        """The script pane shows this text, which is no edit yet."""
        if self._idle:
            return
        self._pane = text
        if not self._begun():
            self._append(Event("typed", text))

    def form(self, name: str, text: str) -> None:
        """What a form holds, half filled in; "" for nothing."""
        if self.forms.get(name, "") == text:
            return
        self.forms[name] = text
        if not (text and self._begun()):
            self._append(Event("form", text, name))

    def _begun(self) -> bool:
        """Begin the journal of a weave in no file with the first thing that happens to it."""
        if self._idle or self._journal is not None or self._document is not None:
            return False
        self.begin_loose(forms=self.forms)
        self.alive()
        return True

    def saved(self, path: Path, text: str, moved: bool) -> None:
        """The file holds the document as it is now. moved : it is another file than before."""
        if moved or self._journal is None or self._document is None or self.away:
            forms = self.forms
            self.forget()
            self.begin(path, text, forms)
            self.alive()
        else:
            self._saved = text
            self._append(Event("saved", fingerprint(text)))

    def _append(self, event: Event) -> None:
        if self._journal is None:
            return
        try:
            self._journal.append(event)
        except WorldError as e:
            self._anew(e)
            return
        # Onto the disk from a thread: a key press must not wait for it.
        self._jobs.ask(
            self._owner, "journal", self._journal.sync, lambda _: None, lambda e: None, after_ms=SYNC_MS
        )
        if self._journal.grown:
            self._shorten()

    def _anew(self, why: WorldError) -> None:
        """The journal cannot be written on, or is gone: all of it again, where it was or in the state folder."""
        if self._document is None:
            assert self._journal is not None
            path = self._journal.path
            self._journal.close()
            try:
                self._journal = self._new(path)
            except WorldError:
                self._stop(why)
        else:
            self._close()
            try:
                self._journal = self._new(journal_path(self._document))
            except WorldError:
                self._go_away(why)
        if self._journal is not None:
            with contextlib.suppress(WorldError):
                self._journal.append(Event("opened"))

    # -- written anew in short, on a thread ---------------------------------------------------------

    def _shorten(self) -> None:
        journal = self._journal
        assert journal is not None
        part = journal.shorten()
        base, events = self._in_short()
        self._jobs.ask(
            self._owner,
            "journal-shorten",
            partial(part.write, base, (*events, Event("opened"))),
            partial(self._shortened, part),
            lambda _: journal.give_up(),
        )

    def _shortened(self, part: Shortening, written: tuple[Path, int]) -> None:
        if part.journal is not self._journal:
            with contextlib.suppress(OSError):
                written[0].unlink(missing_ok=True)
            return
        with contextlib.suppress(WorldError):  # the long one goes on
            part.journal.finish(*written)

    # -- the end -------------------------------------------------------------------------------------

    def forget(self) -> None:
        """The weave without a file is saved now, or is wanted no more; so is what was kept of one elsewhere."""
        if self._journal is not None and (self._document is None or self.away):
            path, lock = self._journal.path, self._lock
            self._lock = None
            self.end()
            self._drop(path)
            if lock is not None:
                lock.leave()

    @staticmethod
    def _drop(path: Path) -> None:
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)

    def _close(self) -> None:
        if self._journal is not None:
            self._journal.close()
        if self._lock is not None:
            self._lock.leave()
        self._journal = self._lock = None

    def end(self) -> None:
        """This weave is left. Its journal stays where it is."""
        self._close()
        self._document, self.forms, self._idle, self._pane = None, {}, True, None
