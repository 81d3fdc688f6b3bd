"""The girth on the loop, the length on the strap: the number stands where it acts."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from dim_ladder.app.fields import Field
from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.theme import sized, theme
from dim_ladder.picture.display import cord_lines


class SizeLoop(QWidget):
    def __init__(self, field: Field, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._field = field
        field.setParent(self)
        self._girth, self._closing = True, ""
        self._colour = "#1f6f8b"
        self.setMinimumSize(QSize(150, 180))

    def show_kind(self, girth: bool, colour: str, closing: str = "") -> None:
        """closing : the fastening, by its key: a piece that nothing opens has none on its loop."""
        self._girth, self._colour, self._closing = girth, colour, closing
        self._place()
        self.update()

    def _place(self) -> None:
        y = self.height() / 2 - 8 if self._girth else self.height() / 2 - 46
        self._field.move(round(self.width() / 2 - self._field.width() / 2), round(y - 6))

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._place()

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QPointF(self.width() / 2, self.height() / 2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._girth:
            rx, ry = min(self.width() / 2 - 24, 128.0), min(self.height() / 2 - 16, 78.0)
            for width, colour in ((16.0, "#00000055"), (13.0, self._colour)):
                pen = QPen(QColor(t.ink) if width > 14 else QColor(colour), width)
                painter.setPen(pen)
                painter.drawEllipse(middle, rx, ry)
            self._close(painter, QPointF(middle.x(), middle.y() + ry))
            word = "girth of the body"
            at = middle.y() - 34
        else:
            path = (("M", (24.0, middle.y() + 8)), ("L", (self.width() - 24.0, middle.y() + 8)))
            paint_shapes(painter, cord_lines(path, self._colour, 15.0, t.pen))
            word = "length of the piece"
            at = middle.y() - 76
        painter.setFont(sized(0.92))
        painter.setPen(QColor(t.quiet))
        painter.drawText(QRectF(0, at - 8, self.width(), 20), Qt.AlignmentFlag.AlignCenter, word)
        painter.end()

    def _close(self, painter: QPainter, at: QPointF) -> None:
        """What closes it, where it does."""
        t = theme()
        painter.setPen(QPen(QColor(t.ink), 1.5))
        painter.setBrush(QColor(t.raised))
        if "buckle" in self._closing:
            painter.drawRoundedRect(QRectF(at.x() - 20, at.y() - 11, 40, 22), 5, 5)
            painter.drawLine(QPointF(at.x(), at.y() - 11), QPointF(at.x(), at.y() + 11))
        elif self._closing == "ring":
            painter.drawEllipse(at, 14, 14)
            painter.setBrush(QColor(t.paper))
            painter.drawEllipse(at, 8, 8)
        elif self._closing.startswith("loop"):
            painter.setBrush(QColor(self._colour))
            painter.drawEllipse(QPointF(at.x() + 8, at.y()), 12, 12)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(at.x() + 2, at.y()), 24, 15)
        elif self._closing == "sliding":
            painter.setBrush(QColor(self._colour))
            for k in range(-2, 3):
                painter.drawRoundedRect(QRectF(at.x() + k * 8 - 4, at.y() - 12, 8, 24), 4, 4)
        elif self._closing == "none":
            painter.setPen(QPen(QColor(t.paper), 18))
            painter.drawLine(QPointF(at.x() - 9, at.y()), QPointF(at.x() + 9, at.y()))
