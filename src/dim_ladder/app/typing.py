"""Typing in a field that is taken only when it is left: kept with every key, so that it belongs to its weave till then."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QLineEdit

from dim_ladder.app.session import Session


def keep_typing(session: Session, edit: QLineEdit, name: str) -> None:
    """name : of this field among the forms of a weave. What was being typed when the program ended is taken as soon as the
    field is there again."""
    form = f"typing {name}"

    def restore() -> None:
        text = session.custody.keeper.forms.get(form, "")
        if text:
            edit.setText(text)
            edit.editingFinished.emit()

    edit.textEdited.connect(partial(session.custody.keeper.form, form))
    edit.editingFinished.connect(lambda: session.custody.keeper.form(form, ""))
    session.switched.connect(restore)
    QTimer.singleShot(0, edit, restore)  # once the screen it stands on is whole
