"""The tails as they hang now, in the status line."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.session import Session
from dim_ladder.picture.ladder import badge
from dim_ladder.trace import Trace
from dim_ladder.trace.ends import end_colours, letter_of


class TailsLine(QWidget):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        session.traced.connect(self._refresh)
        self._refresh()

    def _order(self) -> tuple[Trace, tuple[int, ...]]:
        s = self._session
        if s.draft is None and 0 <= s.chosen < len(s.ladder.steps):
            return s.ladder, s.ladder.steps[s.chosen].order_shown
        trace = s.board()
        return trace, trace.order_shown()

    def _refresh(self) -> None:
        trace, order = self._order()
        self.setFixedSize(QSize(24 * max(len(order), 1) + 6, 24))
        self.setAccessibleName("Tails from left to right: " + " ".join(letter_of(trace, e) for e in order))
        self.setToolTip(escape(self.accessibleName()))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        trace, order = self._order()
        colours = end_colours(trace)
        for i, e in enumerate(order):
            if e < len(colours):
                paint_shapes(painter, badge(14 + 24 * i, 12, 9, colours[e], letter_of(trace, e)))
        painter.end()
