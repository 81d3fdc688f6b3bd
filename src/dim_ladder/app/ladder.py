"""The ladder beside every screen: sections as brackets, knots as headings, steps as rungs."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea, QInputDialog, QWidget

from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.session import Session
from dim_ladder.app.theme import mono, sized, theme
from dim_ladder.base import InputError
from dim_ladder.commands import SetCount
from dim_ladder.notation import write_count
from dim_ladder.trace.former_words import called_out
from dim_ladder.trace.ladder import RAIL_LEFT, RUNG_HEIGHT, Rung, rung_shapes, rungs

SECTION_HEIGHT = 44.0
HEADING_HEIGHT = 22.0
PROBLEM_HEIGHT = 46.0


@dataclass(frozen=True, slots=True)
class Row:
    """A strip of the ladder. kind : section, heading, rung or problem."""

    kind: str
    y: float
    height: float
    text: str = ""
    section: int = -1
    rung: Rung | None = None


class LadderView(QAbstractScrollArea):
    """Paints only what is seen, so that a thousand rungs scroll as one."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._rows: tuple[Row, ...] = ()
        self._shown: object = None
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Ladder of steps")
        self.setMinimumWidth(230)
        self.viewport().setAutoFillBackground(False)
        session.traced.connect(self._refresh)
        self._refresh()

    def sizeHint(self) -> QSize:
        return QSize(262, 600)

    @property
    def rows(self) -> tuple[Row, ...]:
        return self._rows

    def _refresh(self) -> None:
        """A new ladder when the weave is another one; else only the chosen rung is."""
        if self._shown is not self._session.ladder:
            self._shown = self._session.ladder
            self._rebuild()
        self._reveal()
        self.viewport().update()

    def _rebuild(self) -> None:
        trace = self._session.ladder
        rows: list[Row] = []
        y = 6.0
        all_rungs = rungs(trace)
        for index, section in enumerate(self._session.weave.sections):
            rows.append(Row("section", y, SECTION_HEIGHT, section.name, index))
            y += SECTION_HEIGHT
            for rung in all_rungs:
                if trace.steps[rung.step].op.section != index:
                    continue
                if rung.heading:
                    rows.append(Row("heading", y, HEADING_HEIGHT, rung.heading.replace("-", " "), index))
                    y += HEADING_HEIGHT
                rows.append(Row("rung", y, RUNG_HEIGHT, "", index, rung))
                y += RUNG_HEIGHT
            if section.former is not None:
                try:
                    calls = [
                        f"{c.run + 1}. {c.short}" if c.run >= 0 else c.short for c in called_out(section)
                    ]
                except InputError as e:
                    calls = [str(e)]
                for call in calls:
                    rows.append(Row("empty", y, HEADING_HEIGHT, call, index))
                    y += HEADING_HEIGHT
            elif not section.items:
                rows.append(Row("empty", y, HEADING_HEIGHT, "no step yet", index))
                y += HEADING_HEIGHT
            y += 8
        for problem in trace.problems:
            rows.append(Row("problem", y, PROBLEM_HEIGHT, str(problem)))
            y += PROBLEM_HEIGHT
        self._rows = tuple(rows)
        self._tops = [r.y for r in rows]
        self._height = y
        self._ranges()

    def _reveal(self) -> None:
        """Scroll so that the chosen rung is seen."""
        chosen = next((r for r in self._rows if r.rung and r.rung.step == self._session.chosen), None)
        if chosen is not None:
            bar = self.verticalScrollBar()
            if chosen.y < bar.value():
                bar.setValue(int(chosen.y) - 10)
            elif chosen.y + chosen.height > bar.value() + self.viewport().height():
                bar.setValue(int(chosen.y + chosen.height - self.viewport().height()) + 10)

    def _ranges(self) -> None:
        page = self.viewport().height()
        self.verticalScrollBar().setRange(0, max(0, int(self._height) - page + 20))
        self.verticalScrollBar().setPageStep(page)
        self.verticalScrollBar().setSingleStep(int(RUNG_HEIGHT))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._ranges()

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        top = self.verticalScrollBar().value()
        width = float(self.viewport().width())
        height = self.viewport().height()
        trace = self._session.ladder
        order = min(11.0 * len(trace.ends), width * 0.34)
        painter.translate(0, -top)
        painter.setPen(QPen(QColor(t.hair), 3))
        first = max(0, bisect_right(self._tops, top) - 1)
        seen = self._rows[first : bisect_right(self._tops, top + height)]
        for row in seen:
            if row.kind in ("rung", "heading"):
                for x in (RAIL_LEFT, width - 14.0 - order):
                    painter.drawLine(int(x), int(row.y), int(x), int(row.y + row.height))
        for row in seen:
            if row.kind == "section":
                self._paint_section(painter, row, width)
            elif row.kind in ("heading", "empty"):
                painter.setFont(sized(0.86))
                painter.setPen(QColor(t.quiet))
                box = QRectF(RAIL_LEFT + 10, row.y, width - 40, row.height)
                text = painter.fontMetrics().elidedText(
                    row.text, Qt.TextElideMode.ElideRight, int(box.width())
                )
                painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
            elif row.rung is not None:
                chosen = row.rung.step == self._session.chosen
                paint_shapes(
                    painter, rung_shapes(trace, row.rung, row.y + row.height / 2, width, t.pen, chosen=chosen)
                )
            else:
                painter.setFont(sized(0.86))
                painter.setPen(QColor(t.signal))
                flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(QRectF(10, row.y, width - 20, row.height), flags, row.text)
        painter.end()

    def _paint_section(self, painter: QPainter, row: Row, width: float) -> None:
        t = theme()
        section = self._session.weave.sections[row.section]
        current = row.section == self._session.section
        painter.setFont(sized(1.0, True))
        painter.setPen(QColor(t.signal if current else t.ink))
        box = QRectF(10, row.y + 8, width - 20, 26)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, section.name)
        painter.setFont(mono(0.85))
        painter.setPen(QColor(t.quiet))
        painter.drawText(
            box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, write_count(section.count)
        )
        painter.setPen(QPen(QColor(t.hair), 1))
        painter.drawLine(10, int(row.y + 36), int(width - 10), int(row.y + 36))

    # -- hands -----------------------------------------------------------------------------------

    def row_at(self, y: float) -> Row | None:
        at = y + self.verticalScrollBar().value()
        return next((r for r in self._rows if r.y <= at < r.y + r.height), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = self.row_at(event.position().y())
        if row is None:
            self._session.choose(-1)
        elif row.rung is not None:
            self._session.choose(row.rung.step)
        elif row.section >= 0:
            self._session.choose_section(row.section)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        row = self.row_at(event.position().y())
        if row is not None and row.kind == "section":
            self.ask_count(row.section)

    def ask_count(self, index: int) -> None:
        """The count of a section, as it is written in the script."""
        section = self._session.weave.sections[index]
        text, ok = QInputDialog.getText(
            self,
            f"How often is {section.name} worked?",
            "repeat 12, fit, fit pairs, fit multiple of 3, or same as another section",
            text=write_count(section.count),
        )
        if ok:
            self._session.do(SetCount(section=section.name, count=text))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        last = len(self._session.ladder.steps) - 1
        chosen = self._session.chosen
        moves = {
            Qt.Key.Key_Down: min(chosen + 1, last),
            Qt.Key.Key_Up: max(chosen - 1, 0) if chosen >= 0 else last,
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: last,
            Qt.Key.Key_Escape: -1,
        }
        key = Qt.Key(event.key())
        if key in moves and event.modifiers() == Qt.KeyboardModifier.NoModifier:
            self._session.choose(moves[key])
        else:
            super().keyPressEvent(event)
