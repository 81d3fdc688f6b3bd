"""F1: every key and what it does, found by words, changed by pressing another one."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.labels import Label
from dim_ladder.app.theme import mono, sized
from dim_ladder.base import InputError
from dim_ladder.commands import ACTIONS
from dim_ladder.commands.keys import Keys

ON_BOARD = "On the board, with an end in hand"
HINT = "Double-click (or Return) on an action, then press its new key. Backspace takes the key away, Esc leaves it."


class KeySheet(QDialog):
    """changed : called with the keys as they are now."""

    def __init__(self, keys: Keys, changed: Callable[[Keys], None], parent: QWidget) -> None:
        super().__init__(parent)
        self.keys = keys
        self._changed = changed
        self._asking: QTreeWidgetItem | None = None
        self.setWindowTitle("All keys")
        self.setMinimumSize(760, 600)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find an action by its words")
        self.search.setAccessibleName("Find an action")
        self.search.textChanged.connect(self._filter)
        self.list = _Rows(self)
        self.list.setAccessibleName("Actions and their keys")
        self.list.setColumnCount(3)
        self.list.setHeaderLabels(["key", "action", "what it does"])
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(False)
        self.list.setWordWrap(True)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.itemDoubleClicked.connect(lambda item, _: self.ask(item))
        self.words = Label(HINT)
        self.words.setWordWrap(True)
        reset = QPushButton("All as they were")
        reset.setToolTip("Every key as the program has it")
        reset.clicked.connect(lambda: self._take(Keys()))
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        row = QHBoxLayout()
        row.addWidget(self.words, 1)
        row.addWidget(reset)
        row.addWidget(close)
        layout = QVBoxLayout(self)
        layout.addWidget(self.search)
        layout.addWidget(self.list, 1)
        layout.addLayout(row)
        self._fill()
        header = self.list.header()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.list.setFocus()

    def _fill(self) -> None:
        chosen = self.list.currentItem()
        kept = chosen.data(0, Qt.ItemDataRole.UserRole) if chosen is not None else ""
        self.list.clear()
        menus = [a.menu for a in ACTIONS]
        menu = None
        for a in sorted(ACTIONS, key=lambda a: (a.menu == "", menus.index(a.menu))):
            if a.menu != menu:
                menu = a.menu
                head = QTreeWidgetItem(["", a.menu or ON_BOARD, ""])
                head.setFlags(Qt.ItemFlag.ItemIsEnabled)
                head.setFont(1, sized(1.05, True))
                self.list.addTopLevelItem(head)
            key = self.keys.of(a.id)
            item = QTreeWidgetItem([key or "–", a.text, a.does])
            font: QFont = mono(0.95, a.id in self.keys.changed)
            item.setFont(0, font)
            item.setToolTip(2, a.does)
            item.setData(0, Qt.ItemDataRole.UserRole, a.id)
            self.list.addTopLevelItem(item)
            if a.id == kept:
                self.list.setCurrentItem(item)
        self._filter(self.search.text())

    def rows(self) -> list[QTreeWidgetItem]:
        found = (self.list.topLevelItem(i) for i in range(self.list.topLevelItemCount()))
        return [item for item in found if item is not None]

    def row_of(self, action_id: str) -> QTreeWidgetItem:
        return next(r for r in self.rows() if r.data(0, Qt.ItemDataRole.UserRole) == action_id)

    def _filter(self, text: str) -> None:
        words = text.lower().split()
        for item in self.rows():
            is_head = item.data(0, Qt.ItemDataRole.UserRole) is None
            line = " ".join(item.text(c) for c in range(3)).lower()
            item.setHidden(is_head if words and is_head else not all(w in line for w in words))

    # -- changing a key ------------------------------------------------------------------------------

    def ask(self, item: QTreeWidgetItem | None) -> None:
        """The next key that is pressed becomes that of this action."""
        if item is None or item.data(0, Qt.ItemDataRole.UserRole) is None:
            return
        self._asking = item
        item.setText(0, "press it …")
        self.words.setText(
            f"Press the new key for: {item.text(1)}. Backspace takes its key away, Esc leaves it."
        )
        self.list.setFocus()

    def pressed(self, event: QKeyEvent) -> bool:
        """A key while one is asked for; whether it was used."""
        item = self._asking
        if item is None:
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.ask(self.list.currentItem())
                return True
            return False
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta, Qt.Key.Key_AltGr):
            return True
        self._asking = None
        action_id = str(item.data(0, Qt.ItemDataRole.UserRole))
        plain = event.modifiers() == Qt.KeyboardModifier.NoModifier
        if key == Qt.Key.Key_Escape and plain:
            self.words.setText(HINT)
            self._fill()
            return True
        text = ""
        if not (key == Qt.Key.Key_Backspace and plain):
            text = key_text(event)
        try:
            self._take(self.keys.put(action_id, text))
            self.words.setText(HINT)
        except InputError as e:
            self.words.setText(str(e))
            self._fill()
        return True

    def _take(self, keys: Keys) -> None:
        self.keys = keys
        self._changed(keys)
        self._fill()


class _Rows(QTreeWidget):
    """Gives keys to the sheet first."""

    def __init__(self, sheet: KeySheet) -> None:
        super().__init__(sheet)
        self._sheet = sheet

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self._sheet.pressed(event):
            super().keyPressEvent(event)


def key_text(event: QKeyEvent) -> str:
    """A key as the command table writes it."""
    return QKeySequence(event.keyCombination()).toString(QKeySequence.SequenceFormat.PortableText)
