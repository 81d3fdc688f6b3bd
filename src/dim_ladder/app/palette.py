"""Finding an action by its words: it reads the one command table."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.icons import icon
from dim_ladder.commands import ACTIONS, Action
from dim_ladder.commands.keys import Keys


class ActionSearch(QDialog):
    """Ctrl+K."""

    def __init__(
        self, run: Callable[[str], None], enabled: Callable[[Action], bool], keys: Keys, parent: QWidget
    ) -> None:
        super().__init__(parent)
        self._run, self._enabled, self._keys = run, enabled, keys
        self.setWindowTitle("Find an action")
        self.setMinimumSize(520, 360)
        self.edit = QLineEdit()
        self.edit.setPlaceholderText("What do you want to do?")
        self.edit.setAccessibleName("Find an action")
        self.list = QListWidget()
        self.list.setAccessibleName("Actions found")
        layout = QVBoxLayout(self)
        layout.addWidget(self.edit)
        layout.addWidget(self.list)
        self.edit.textChanged.connect(self._fill)
        self.edit.installEventFilter(self)
        self.list.itemActivated.connect(self._chosen)
        self.edit.returnPressed.connect(lambda: self._chosen(self.list.currentItem()))
        self._fill("")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step:
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + step)))
                return True
        return super().eventFilter(watched, event)

    def _fill(self, text: str) -> None:
        self.list.clear()
        words = text.lower().split()
        for a in ACTIONS:
            if all(w in f"{a.text} {a.does} {a.menu}".lower() for w in words):
                item = QListWidgetItem(f"{a.text}    {self._keys.of(a.id)}\n{a.does}")
                item.setIcon(icon(a.id, room=True))
                item.setData(Qt.ItemDataRole.UserRole, a.id)
                if not self._enabled(a):
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.accept()
            self._run(str(item.data(Qt.ItemDataRole.UserRole)))
