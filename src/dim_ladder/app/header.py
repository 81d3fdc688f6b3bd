"""The head of the window: the weave's name, and the work as a cord with a bead for every stage."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.theme import sized, theme
from dim_ladder.base.colours import mix
from dim_ladder.picture.display import cord_lines


class CordLine(QWidget):
    """Beads on a cord; the lit one is the stage on show."""

    picked = Signal(str)

    def __init__(self, beads: Sequence[tuple[str, str]], parent: QWidget | None = None) -> None:
        """beads : action and word of every stage."""
        super().__init__(parent)
        self._beads = tuple(beads)
        self._lit = "view.record"
        self._colour = "#1f6f8b"
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Stages: " + ", ".join(text for _, text in self._beads))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(520, 52)

    def light(self, which: str, colour: str) -> None:
        self._lit, self._colour = which, colour
        self.update()

    def centre(self, index: int) -> QPointF:
        gap = self.width() / len(self._beads)
        return QPointF(gap * (index + 0.5), 18.0)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        path = (("M", (0.0, 18.0)), ("L", (float(self.width()), 18.0)))
        paint_shapes(painter, cord_lines(path, self._colour, 7.0, t.pen))
        for i, (which, text) in enumerate(self._beads):
            at = self.centre(i)
            lit = which == self._lit
            r = 11.0 if lit else 8.0
            painter.setPen(QColor(mix(t.ink, t.paper, 0.2)))
            painter.setBrush(QColor(t.signal if lit else t.raised))
            painter.drawEllipse(at, r, r)
            painter.setBrush(QColor(mix(t.signal if lit else t.raised, "#000000", 0.25)))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawEllipse(at, r * 0.3, r * 0.3)
            if lit and self.hasFocus():
                painter.setPen(QColor(t.ink))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(at, r + 3, r + 3)
            painter.setFont(sized(1.0, lit))
            painter.setPen(QColor(t.ink if lit else t.quiet))
            painter.drawText(QRectF(at.x() - 60, 30, 120, 22), Qt.AlignmentFlag.AlignCenter, text)
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        gap = self.width() / len(self._beads)
        index = int(event.position().x() // gap)
        if 0 <= index < len(self._beads):
            self.picked.emit(self._beads[index][0])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        at = [which for which, _ in self._beads].index(self._lit)
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if step:
            self.picked.emit(self._beads[(at + step) % len(self._beads)][0])
        else:
            super().keyPressEvent(event)
