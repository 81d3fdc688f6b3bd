"""The piece as a cord, with a bead for every unit; it is dyed as far as it is tied."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from dim_ladder.app.theme import theme
from dim_ladder.base.colours import mix

MOST_BEADS = 80


class CordProgress(QWidget):
    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._units, self._done, self._colour = 1, 0.0, "#1f6f8b"
        self.setFixedHeight(26)

    def sizeHint(self) -> QSize:
        return QSize(400, 26)

    def show_progress(self, done: float, units: int, colour: str) -> None:
        """done : units made, with parts."""
        self._done, self._units, self._colour = done, max(units, 1), colour
        self.setAccessibleName(f"{done:.1f} of {units} units")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        y, left, right = self.height() / 2, 12.0, self.width() - 12.0
        at = left + (right - left) * min(self._done / self._units, 1.0)
        for a, b, colour, width in ((left, right, t.hair, 6.0), (left, at, self._colour, 8.0)):
            pen = QPen(QColor(colour), width)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            p.setPen(pen)
            if b > a:
                p.drawLine(QPointF(a, y), QPointF(b, y))
        if self._units <= MOST_BEADS:
            r = min(6.0, (right - left) / self._units * 0.3)
            for k in range(self._units):
                x = left + (right - left) * (k + 1) / self._units
                made = self._done >= k + 1
                p.setPen(QPen(QColor(mix(self._colour, "#000000", 0.35) if made else t.hair), 1.4))
                p.setBrush(QColor(self._colour if made else t.paper))
                p.drawEllipse(QRectF(x - r, y - r, 2 * r, 2 * r))
        p.end()
