"""The stash and the order beside the weave that is open: read when they are looked at, written with every change, undone by
looking back."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QWidget

from dim_ladder.app.session import Session
from dim_ladder.base import DimLadderError, InputError
from dim_ladder.shelf.stash import NAME, ORDER, order_of, stash_of, write_both
from dim_ladder.stash import Order, Stash

MOST_PAST = 100


class Shelf(QObject):
    """changed : the stash or the order is another. folder : of the weave, None while it has no file."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.folder: Path | None = None
        self.stash = Stash()
        self.order: Order | None = None
        self.trouble = ""
        self._past: list[tuple[Stash, Order | None]] = []

    def look(self) -> None:
        """Read what lies beside the weave that is open now."""
        folder = self._session.path.parent if self._session.path else None
        if folder != self.folder:
            self._past = []
        self.folder, self.trouble = folder, ""
        self.stash, self.order = Stash(), None
        if folder is None:
            self.trouble = "The stash lies beside the weaves of a workshop: save this weave first (Ctrl+S)"
        else:
            try:
                self.stash = stash_of(folder)
                self.order = order_of(folder)
            except DimLadderError as e:
                self.trouble = str(e)
        self.changed.emit()

    @property
    def can_undo(self) -> bool:
        return bool(self._past)

    def put(self, stash: Stash, order: Order | None = None) -> bool:
        """Keep a changed stash, and with it the order where that changes too. Nothing is changed where it cannot be written."""
        return self._change(stash, self.order if order is None else order)

    def put_order(self, order: Order | None) -> None:
        """Keep a changed order; None where nothing is on it any more."""
        self._change(self.stash, order)

    def _change(self, stash: Stash, order: Order | None) -> bool:
        before = (self.stash, self.order)
        if not self._write(stash, order):
            return False
        self._past = [*self._past, before][-MOST_PAST:]
        self.changed.emit()
        return True

    def undo(self) -> None:
        """The stash and the order as they were before the last change."""
        if self._past and self._write(*self._past[-1]):
            self._past.pop()
            self.changed.emit()

    def _write(self, stash: Stash, order: Order | None) -> bool:
        if self.folder is None or self.trouble:
            self._session.said.emit(self.trouble or "Save this weave first")
            return False
        try:
            # Another window, or a person, may have changed it: then nothing is written over it.
            if stash_of(self.folder) != self.stash:
                raise InputError(f"{NAME} was changed elsewhere", "Look at it again, then change it")
            if order_of(self.folder) != self.order:
                raise InputError(f"{ORDER} was changed elsewhere", "Look at it again, then change it")
            write_both(
                stash, order, self.stash, self.folder, changed=(stash != self.stash, order != self.order)
            )
        except DimLadderError as e:
            self._session.said.emit(str(e))
            self.look()
            return False
        self.stash, self.order = stash, order
        return True


def shelf_of(session: Session) -> Shelf:
    """The one of this window."""
    found = session.findChild(Shelf)
    return found if isinstance(found, Shelf) else Shelf(session)


class OnShelf(QWidget):
    """A screen that shows the shelf: read again whenever it comes into sight or another weave does."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.shelf = shelf_of(session)
        session.switched.connect(self._look)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.shelf.look()

    def _look(self) -> None:
        if self.isVisible():
            self.shelf.look()
