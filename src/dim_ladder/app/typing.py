"""Typing in a field that is taken only when it is left: kept with every key, so that it belongs to its weave till then."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QLineEdit

from dim_ladder.app.session import Session


class _Typing(QObject):
    """Lives and goes with its field."""

    def __init__(self, session: Session, edit: QLineEdit, name: str) -> None:
        super().__init__(edit)
        self._session, self._edit, self._form = session, edit, f"typing {name}"
        edit.textEdited.connect(self.keep)
        edit.editingFinished.connect(self.taken)
        session.switched.connect(self.restore)
        QTimer.singleShot(0, self, self.restore)  # once the screen it stands on is whole

    def keep(self, text: str) -> None:
        self._session.custody.keeper.form(self._form, text)

    def taken(self) -> None:
        self._session.custody.keeper.form(self._form, "")

    def restore(self) -> None:
        text = self._session.custody.keeper.forms.get(self._form, "")
        if text:
            self._edit.setText(text)
            self._edit.editingFinished.emit()


def keep_typing(session: Session, edit: QLineEdit, name: str) -> None:
    """name : of this field among the forms of a weave. What was being typed when the program ended is taken as soon as the
    field is there again."""
    _Typing(session, edit, name)
