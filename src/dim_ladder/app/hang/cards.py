"""A choice shown as a picture with a few words under it."""

from __future__ import annotations

from collections.abc import Callable
from html import escape

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QGridLayout, QWidget

from dim_ladder.app.painting import paint_picture
from dim_ladder.app.theme import sized, theme
from dim_ladder.picture.display import Picture

SPACE = 8


class Card(QAbstractButton):
    """make : the picture, made when it is painted, so that it follows the colours of the day. note : the small line."""

    def __init__(
        self,
        text: str,
        note: str,
        make: Callable[[], Picture] | None,
        size: QSize,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setText(text)
        self.note, self._make, self._size = note, make, size
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFixedSize(size)
        self.setAccessibleName(f"{text}: {note}" if note else text)
        self.setToolTip(escape(note))

    def sizeHint(self) -> QSize:
        return self._size

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        on = self.isChecked()
        pen = QPen(
            QColor(t.signal if on or self.hasFocus() else t.hair),
            2.5 if on else 1.5 if self.hasFocus() else 1.0,
        )
        if self.hasFocus() and not on:
            pen.setStyle(Qt.PenStyle.DashLine)
        p.setPen(pen)
        p.setBrush(QColor(t.raised if on or self.underMouse() else t.paper))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5), 9, 9)
        words = 20.0
        if self._make is not None:
            paint_picture(p, self._make(), QRectF(8, 7, self.width() - 16, self.height() - words - 15), 1.2)
            box = QRectF(4, self.height() - words - 6, self.width() - 8, words)
        else:
            box = QRectF(self.rect())
        p.setFont(sized(0.92, on))
        p.setPen(QColor(t.ink))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, self.text())
        p.end()


class Cards(QWidget):
    """Cards of which one is chosen. picked : called with the key of the one that a person chose."""

    def __init__(self, picked: Callable[[str], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._picked = picked
        self._columns = 0
        self.cards: dict[str, Card] = {}
        self._group = QButtonGroup(self)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(SPACE)
        self._grid.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)

    def add(self, key: str, text: str, note: str, make: Callable[[], Picture] | None, size: QSize) -> None:
        card = Card(text, note, make, size)
        card.clicked.connect(lambda _=False: self._picked(key))
        self.cards[key] = card
        self._group.addButton(card)
        self.setMinimumWidth(size.width())
        self._flow(max(self._columns, 1))

    def _flow(self, columns: int) -> None:
        self._columns = columns
        for at, card in enumerate(self.cards.values()):
            self._grid.addWidget(card, at // columns, at % columns)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """As many in a row as there is room for."""
        super().resizeEvent(event)
        card = next(iter(self.cards.values()), None)
        if card is not None:
            columns = max(1, (self.width() + SPACE) // (card.width() + SPACE))
            if columns != self._columns:
                self._flow(columns)

    def choose(self, key: str) -> None:
        """Mark one; none for a key that is not here."""
        self._group.setExclusive(False)
        for k, card in self.cards.items():
            card.setChecked(k == key)
        self._group.setExclusive(True)
        self.update()
