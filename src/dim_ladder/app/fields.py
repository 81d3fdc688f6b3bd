"""A number that stands where it acts and is edited there."""

from __future__ import annotations

from collections.abc import Callable
from html import escape

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QLayout, QLineEdit, QSpinBox, QWidget

from dim_ladder.app.theme import mono
from dim_ladder.base import InputError, read_length, read_number, read_whole


class Field(QLineEdit):
    """Text read by `reader`; wrong text stays, underlined, with the reason as tool tip and message."""

    taken = Signal()  # a value (or emptiness, where allowed) was read
    refused = Signal(str)

    def __init__(
        self,
        name: str,
        reader: Callable[[str], float],
        *,
        optional: bool = False,
        width: int = 92,
        hint: str = "",
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._reader = reader
        self._optional = optional
        self.value: float | None = None
        self.wrong = ""
        self.setAccessibleName(name)
        self.setPlaceholderText(hint)
        self.setFont(mono(1.0))
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setFixedWidth(width)
        self.textChanged.connect(self._read)
        self.editingFinished.connect(self._finished)

    def _read(self, text: str) -> None:
        self.wrong = ""
        if not text.strip():
            self.value = None
            if not self._optional:
                self.wrong = f"{self.accessibleName()} is empty"
        else:
            try:
                self.value = self._reader(text)
            except InputError as e:
                self.value, self.wrong = None, str(e)
        self.setToolTip(escape(self.wrong))
        self._mark(False)
        if not self.wrong:
            self.taken.emit()

    def _finished(self) -> None:
        self._mark(bool(self.wrong))
        if self.wrong and self.text().strip():
            self.refused.emit(f"{self.accessibleName()}: {self.wrong}")

    def _mark(self, wrong: bool) -> None:
        if bool(self.property("wrong")) != wrong:
            self.setProperty("wrong", wrong)
            self.style().unpolish(self)
            self.style().polish(self)

    def put(self, text: str) -> None:
        """Show a value without telling anybody."""
        if text == self.text():
            return
        self.blockSignals(True)
        self.setText(text)
        self.blockSignals(False)
        self.wrong = ""
        try:
            self.value = self._reader(text) if text.strip() else None
        except InputError as e:
            self.value, self.wrong = None, str(e)


def length_field(name: str, default: str = "cm", **options: object) -> Field:
    """A length as makers write it; a bare number is in `default`."""
    return Field(name, lambda text: read_length(text, default), **options)  # type: ignore[arg-type]


def read_count(text: str) -> float:
    return float(read_whole(text, "a whole number", "6", maximum=999_999))


def read_minutes(text: str) -> float:
    return read_number(text, "a number of minutes", "25", maximum=100_000)


def clear(layout: QLayout) -> None:
    """Take every widget out of a layout and let it go."""
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget() if item else None
        if widget is not None:
            widget.setParent(None)
            widget.deleteLater()


def named(box: QSpinBox, name: str) -> None:
    """The name of a number, also for the line in it, which has the focus."""
    box.setAccessibleName(name)
    box.lineEdit().setAccessibleName(name)
