"""What keeps the open weave from being lost: its file, its lock, its journal, saving by itself, and what is said of it."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from dim_ladder.app.keeping import Keeper
from dim_ladder.app.paper import Conflict, Other, Paper, beside
from dim_ladder.app.workers import Jobs
from dim_ladder.base import DimLadderError, InputError
from dim_ladder.base.disk import sweep
from dim_ladder.base.state import state_folder
from dim_ladder.commands import Edit, History, StreamEntry
from dim_ladder.commands.edits import TakeFile
from dim_ladder.commands.left import (
    Leftover,
    leftovers,
    recovered,
    take,
    without_its_last_step,
)
from dim_ladder.commands.recovery import Recovered
from dim_ladder.commands.sheets import PAGES, read_sheet
from dim_ladder.notation import parse_strict
from dim_ladder.shelf import Document, read_document, read_document_text, save_document
from dim_ladder.shelf.files import read_script

EMPTY = """weave "New weave"

cords
  first   nylon-4mm  #1f6f8b
  second  nylon-4mm  #e07a1f

hang
  second.a first.a first.b second.b

section unit: body, fit
"""
AUTOSAVE_MS = 700
ALIVE_MS = 1000  # after which a weave that was opened is believed to be no harm
LOOK_MS = 2000  # how often the file is looked at: changed by something else, or free to be taken over
HUNG = "Dim Ladder ended while it was opening “{}”. Open it without its last step"
COMPARE = "Ctrl+Shift+D shows what is different"


class Custody(QObject):
    """adopted : another weave is open, with this history. said : for the person. told : saved, or what stands in the way of
    it, is another thing than before.

    ask : asked before a weave is opened that the program ended with while it opened it, with words; True: without its
    last step.
    """

    leaving = Signal()  # what is connected to this weave is let go
    adopted = Signal()
    said = Signal(str)
    told = Signal()

    def __init__(self, jobs: Jobs, parent: QObject) -> None:
        super().__init__(parent)
        self.paper = Paper()
        self.history = History(Document(parse_strict(EMPTY)))
        self.keeper = Keeper(jobs, self, lambda: self.history, self.said.emit)
        self.ask: Callable[[str], bool] = lambda _: False
        self.saved_at = 0.0
        self.unsaved = False
        self.save_trouble = ""
        self.conflict = False
        self._free = False
        self._timer = self._every(AUTOSAVE_MS, self.autosave, once=True)
        self._look = self._every(LOOK_MS, self.look)
        self._look.start()
        self.keeper.begin(None)

    def _every(self, ms: int, do: Callable[[], None], *, once: bool = False) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(once)
        timer.setInterval(ms)
        timer.timeout.connect(do)
        return timer

    @property
    def path(self) -> Path | None:
        return self.paper.path

    @property
    def document(self) -> Document:
        return self.history.document

    # -- opening ---------------------------------------------------------------------------------------

    def new(self) -> None:
        """An empty weave without a file."""
        self.close()
        self._adopt(History(Document(parse_strict(EMPTY))))
        self.keeper.begin(None)

    def open(self, path: Path) -> None:
        """A document; or a script or published sheet, as a new weave. Raises InputError or WorldError and changes nothing when
        it cannot be read."""
        if path.suffix.lower() in PAGES or path.suffix == ".weave":
            page = path.suffix != ".weave"
            document = read_sheet(path) if page else read_document(path)
            self.close()
            self._adopt(History(document))
            self.keeper.begin(None)
            if page:
                self.said.emit(f"The weave of the sheet {path.name}, in no file yet: Ctrl+S keeps it")
            return
        if path == self.path:
            self.settle()  # it is read as it stands by now
        text = read_script(path)
        document = read_document_text(text, path.name)
        self.close()
        self.paper.open(path, text)
        if self.paper.read_only:
            self._adopt(History(document))
            self._say_read_only()
            return
        found = self._found(path, text, document)
        aside = self._set_aside(path, found.stranded)
        self._adopt(found.history)
        self.saved_at = time.monotonic()
        self.keeper.begin(path, text, found.forms)
        self._alive_soon()
        if found.unsaved:
            self.unsaved = True
            self.autosave()
        self._say_found(found, aside)

    def _found(self, path: Path, text: str, document: Document) -> Recovered:
        found = recovered(path, text, document)
        if found.hung and self.ask(
            HUNG.format(document.weave.name) + (f" ({found.unsaved[-1]})?" if found.unsaved else "?")
        ):
            return recovered(path, text, document, skip_last=True)
        return found

    @staticmethod
    def _set_aside(path: Path, lost: Document | None) -> str:
        """Edits that were never saved and do not fit the file any more, because something else changed it, are kept in a file
        of their own; what to say of it."""
        if lost is None:
            return ""
        try:
            place = beside(path, "never saved")
            save_document(lost, place)
        except DimLadderError as e:
            return f"Edits that were never saved do not fit this file any more, and cannot be kept beside it: {e}"
        return f"This file was changed by something else. Edits of it that were never saved are kept in {place.name}"

    def _say_found(self, found: Recovered, aside: str = "") -> None:
        words = [_back_again(found.unsaved)] if found.unsaved else []
        words += [aside] if aside else []
        if found.left_out:
            words.append(f"{found.left_out} later changes could not be carried out again")
        if words:
            self.said.emit(" ".join(words))
        self.told.emit()

    def _say_read_only(self) -> None:
        holder = self.paper.holder
        self.said.emit(
            f"To look at only: {holder.words() if holder else 'somebody'} has this weave open. When that window is closed, "
            "Weave › Take over lets you change it here"
        )
        self.told.emit()

    def _alive_soon(self) -> None:
        QTimer.singleShot(ALIVE_MS, self, self.keeper.alive)

    def _adopt(self, history: History) -> None:
        self.history = history
        self.unsaved = False
        self.save_trouble = ""
        self.conflict = self._free = False
        self.adopted.emit()

    def leftovers(self) -> list[Leftover]:
        """Weaves that were in no file when the program ended (or whose file is gone), newest first."""
        sweep(state_folder())
        return leftovers()

    def recover(self, leftover: Leftover) -> bool:
        """Open one of them; False where another window was quicker."""
        lock = take(leftover)
        if lock is None:
            self.said.emit("Another window has that weave open by now")
            return False
        found = leftover.found
        if found.hung and self.ask(HUNG.format(found.history.document.weave.name) + "?"):
            found = without_its_last_step(leftover) or found
        self.close()
        self._adopt(found.history)
        self.unsaved = True
        self.keeper.begin_loose(lock, found.forms)
        self._alive_soon()
        name = self.document.weave.name
        where = (
            f", whose file {leftover.of} is gone,"
            if leftover.of
            else " was in no file when the program ended, and"
        )
        self.said.emit(f"“{name}”{where} is back. Ctrl+S keeps it.")
        self.told.emit()
        return True

    def take_over(self) -> bool:
        """Have the file, where whoever had it is gone: it is read anew."""
        path = self.path
        if path is None or not self.paper.read_only:
            self.said.emit("This weave can be changed here already")
            return False
        if not self.paper.take_over():
            self._say_read_only()
            return False
        self.open(path)
        return True

    # -- changing and saving -----------------------------------------------------------------------------

    def may_change(self) -> bool:
        """Whether this window may change the weave; says why when not."""
        if self.paper.read_only:
            self._say_read_only()
        return not self.paper.read_only

    def note(self, entry: StreamEntry) -> None:
        """An edit has been made."""
        self.unsaved = True
        self.keeper.note(entry)
        self._timer.start()

    def save(self, path: Path | None = None, *, over_read_only: bool = False) -> None:
        """Save, to `path` if given. Raises DimLadderError; the work stays as it is."""
        target = path or self.path
        if target is None:
            raise InputError("the weave has no file yet", "Choose one with Save as")
        moved = target != self.path
        try:
            text = self.paper.save(self.document, target, over_read_only=over_read_only)
        except Conflict:
            self.conflict = True
            self.told.emit()
            raise
        if target.suffix != ".weave":
            self.keeper.saved(target, text, moved)
            self.unsaved = False
            self.save_trouble = ""
            self.conflict = False
            self.saved_at = time.monotonic()
        self.told.emit()

    def autosave(self) -> None:
        if self.path is None or not self.unsaved or self.conflict or self.paper.read_only:
            return
        try:
            self.save()
        except Conflict as e:
            self.save_trouble = e.message
            self.said.emit(
                f"{e.message}. Nothing was overwritten, and your work is safe in this window. {COMPARE}"
            )
        except DimLadderError as e:
            self.save_trouble = e.message
            more = f", and every change is kept in {state_folder()}" if self.keeper.away else ""
            self.said.emit(
                f"{e.message}. Your work is safe in this window{more}. {e.hint}, with Save as (Ctrl+Shift+S)."
            )
        self.told.emit()

    def settle(self) -> None:
        """Write what is not written yet."""
        self._timer.stop()
        self.autosave()

    def close(self) -> None:
        """Settle, and leave this weave."""
        self.leaving.emit()
        self.settle()
        self.keeper.end()
        self.paper.leave()

    # -- the file on the disk ------------------------------------------------------------------------------

    def look(self) -> None:
        """Whether something else has changed the file, or whoever had it is gone."""
        if self.path is None:
            return
        if self.paper.read_only:
            if not self._free and self.paper.free():
                self._free = True
                self.said.emit(
                    "Nobody else has this weave open any more: Weave › Take over lets you change it here"
                )
                self.told.emit()
            return
        if not self.conflict and self.paper.differs():
            self.conflict = True
            self.said.emit(
                f"{self.path.name} was changed by something else. Nothing is overwritten. {COMPARE}"
            )
            self.told.emit()
        elif self.save_trouble and self.unsaved and not self.conflict:
            self._try_again()

    def _try_again(self) -> None:
        """What could not be saved a while ago: the folder may be back."""
        try:
            self.save()
        except DimLadderError:
            return
        self.said.emit("Saved: the folder takes it again")

    def other(self) -> Other:
        """What stands on the disk now. Raises InputError or WorldError."""
        return self.paper.other()

    def apart(self, other: Other) -> str:
        """What is different in it."""
        return self.paper.apart(self.document, other)

    def keep_mine(self) -> Path:
        """This window's goes into the file; what stands there is kept beside it. Raises WorldError."""
        aside = self.paper.set_aside()
        self.conflict = False
        self.save()
        return aside

    def take_theirs(self, other: Other, do: Callable[[Edit], bool]) -> None:
        """What the file holds takes this window's place; undo brings this window's back."""
        self.paper.know(other)
        self.conflict = False
        self.save_trouble = ""
        do(TakeFile(text=other.text))
        self.told.emit()


def _back_again(unsaved: tuple[str, ...]) -> str:
    """What a crash kept from being saved, and is there again."""
    last = "; ".join(unsaved[-3:])
    many = f"{len(unsaved)} edits were" if len(unsaved) > 1 else "One edit was"
    more = ", the last of them" if len(unsaved) > 3 else ""
    return f"{many} not saved when the program ended and {'are' if len(unsaved) > 1 else 'is'} back{more}: {last}. Ctrl+Z takes them away."
