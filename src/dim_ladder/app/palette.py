"""Finding an action by its words, and the sheet of all keys: both read the one command table."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.theme import sized, theme
from dim_ladder.commands import ACTIONS, Action


class ActionSearch(QDialog):
    """Ctrl+K."""

    def __init__(
        self, run: Callable[[str], None], enabled: Callable[[Action], bool], parent: QWidget
    ) -> None:
        super().__init__(parent)
        self._run, self._enabled = run, enabled
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
                item = QListWidgetItem(f"{a.text}    {a.shortcut}\n{a.does}")
                item.setData(Qt.ItemDataRole.UserRole, a.id)
                if not self._enabled(a):
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.accept()
            self._run(str(item.data(Qt.ItemDataRole.UserRole)))


class KeySheet(QDialog):
    """F1."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("All keys")
        self.setMinimumSize(620, 560)
        t = theme()
        rows = []
        menu = None
        for a in sorted(ACTIONS, key=lambda a: (a.menu == "", [x.menu for x in ACTIONS].index(a.menu))):
            if a.menu != menu:
                menu = a.menu
                rows.append(
                    f"<tr><td colspan='2'><br><b>{a.menu or 'On the board, with an end in hand'}</b></td></tr>"
                )
            rows.append(
                f"<tr><td><b>{a.shortcut or '–'}</b>&nbsp;&nbsp;&nbsp;</td>"
                f"<td>{a.text}<br><span style='color:{t.quiet}'>{a.does}</span></td></tr>"
            )
        label = QLabel(f"<table cellpadding='3'>{''.join(rows)}</table>")
        label.setFont(sized(1.0))
        label.setWordWrap(True)
        label.setMargin(16)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(label)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scroll)
