"""One cord of the set-up: its colour, name, kind, and where it stands among the others."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QToolButton, QWidget

from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.theme import theme
from dim_ladder.base import InputError
from dim_ladder.commands.setup import CordSpec
from dim_ladder.library import all_kinds, cord_kind, kind_named
from dim_ladder.picture.display import cord_lines


class ColourButton(QToolButton):
    """A piece of the cord; pressed, its colour is chosen anew."""

    def __init__(self, colour: str, pattern: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._colour, self._pattern = colour, pattern
        self.setFixedSize(QSize(56, 26))
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        path = (("M", (8.0, 13.0)), ("L", (48.0, 13.0)))
        pen = theme().pen
        paint_shapes(p, cord_lines(path, self._colour, 14.0, pen, pattern=self._pattern, round_cap=True))
        if self.hasFocus():
            p.setPen(QColor(theme().signal))
            p.drawRoundedRect(self.rect().adjusted(1, 1, -2, -2), 6, 6)
        p.end()


class CordRow(QWidget):
    renamed = Signal(str)
    kind_changed = Signal(str)
    kind_asked = Signal()
    recolour = Signal()
    removed = Signal()
    moved = Signal(int)
    refused = Signal(str)

    def __init__(self, spec: CordSpec, number: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        self.colour = ColourButton(spec.colour, number)
        self.colour.setAccessibleName(f"Colour of {spec.name}")
        self.colour.setToolTip("Choose its colour")
        self.colour.clicked.connect(self.recolour)
        self.name = QLineEdit(spec.name)
        self.name.setAccessibleName(f"Name of cord {number + 1}")
        self.name.setFixedWidth(92)
        self.name.editingFinished.connect(self._named)
        self.kind = QComboBox()
        self.kind.setAccessibleName(f"Kind of {spec.name}")
        self.kind.setEditable(True)
        self.kind.setMinimumWidth(176)
        # In words; the script's own name of a kind is understood too.
        self.kind.addItems([cord_kind(k).words for k in dict.fromkeys([*all_kinds(), spec.kind])])
        self.kind.setCurrentText(cord_kind(spec.kind).words)
        self.kind.textActivated.connect(self._kind)
        edit = self.kind.lineEdit()
        if edit is not None:
            edit.setAccessibleName(f"Kind of {spec.name}")
            edit.editingFinished.connect(lambda: self._kind(self.kind.currentText()))
        self._spec = spec
        row.addWidget(self.colour)
        row.addWidget(self.name)
        row.addWidget(self.kind)
        for text, words, does in (
            ("…", f"What the kind of {spec.name} is: how thick, how far it gives way", self.kind_asked.emit),
            ("↑", f"{spec.name} further up", lambda: self.moved.emit(-1)),
            ("↓", f"{spec.name} further down", lambda: self.moved.emit(1)),
            ("×", f"Remove {spec.name}", self.removed.emit),
        ):
            button = QPushButton(text)
            button.setObjectName("plain")
            button.setFixedWidth(24)
            button.setAccessibleName(words)
            button.setToolTip(words)
            button.clicked.connect(lambda _=False, act=does: act())
            row.addWidget(button)
        row.addStretch(1)

    def controls(self) -> list[QWidget]:
        """In the order in which Tab goes through them."""
        return [self.colour, self.name, self.kind, *self.findChildren(QPushButton)]

    def _named(self) -> None:
        text = self.name.text().strip()
        if text and text != self._spec.name:
            self.renamed.emit(text)
        elif not text:
            self.name.setText(self._spec.name)

    def _kind(self, text: str) -> None:
        if not text.strip():
            self.kind.setCurrentText(cord_kind(self._spec.kind).words)
            return
        try:
            kind = kind_named(text)
        except InputError as e:
            self.refused.emit(str(e))
            self.kind.setCurrentText(cord_kind(self._spec.kind).words)
            return
        if kind != self._spec.kind:
            self.kind_changed.emit(kind)
