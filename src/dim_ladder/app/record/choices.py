"""What could stand here: a short list below the cursor, out of the way of everything else."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QPlainTextEdit

from dim_ladder.app.theme import mono
from dim_ladder.commands.scripting import Completion

MOST_SHOWN = 8


class Choices(QListWidget):
    """start : where the word begins that the chosen one takes the place of. Nothing is chosen until an arrow is used."""

    def __init__(self, editor: QPlainTextEdit) -> None:
        super().__init__(editor)
        self.start = 0
        self._editor = editor
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName("What could stand here")
        self.setFont(mono(0.9))
        self.setObjectName("choices")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.hide()

    def show_at(self, start: int, found: tuple[Completion, ...], below: QPoint) -> None:
        self.start = start
        self.clear()
        for c in found:
            item = QListWidgetItem(f"{c.text}   {c.note}".rstrip())
            item.setData(Qt.ItemDataRole.UserRole, c.text)
            self.addItem(item)
        self.setCurrentRow(-1)
        parent = self._editor
        row = self.sizeHintForRow(0)
        height = row * min(len(found), MOST_SHOWN) + 8
        width = min(self.sizeHintForColumn(0) + 28, parent.width() - 8)
        y = below.y() + 4
        if y + height > parent.height():  # above the line, where there is no room below it
            y = max(0, below.y() - height - row)
        self.setGeometry(min(below.x(), parent.width() - width - 4), y, width, min(height, parent.height()))
        self.show()
        self.raise_()

    def move_by(self, by: int) -> None:
        count = self.count()
        self.setCurrentRow(
            (self.currentRow() + by) % count if self.currentRow() >= 0 or by > 0 else count - 1
        )

    def chosen(self) -> str:
        """The chosen one, else the first."""
        item = self.item(max(self.currentRow(), 0))
        return str(item.data(Qt.ItemDataRole.UserRole)) if item is not None else ""
