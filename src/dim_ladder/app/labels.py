"""Words on a screen are shown as they are: what a document says is never read as rich text, which could hide, fetch or
pretend."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QWidget


class Label(QLabel):
    """A label of plain text."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
