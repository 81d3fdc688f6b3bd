"""The ladder beside every screen: sections as brackets, knots as headings, steps as rungs."""

from __future__ import annotations

from bisect import bisect_right

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea, QInputDialog, QWidget

from dim_ladder.app.ladder_rows import Bracket, Row, ladder_rows
from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.session import Session
from dim_ladder.app.theme import mono, sized, theme
from dim_ladder.commands import SetHow
from dim_ladder.notation import COUNTS, Call, write_how
from dim_ladder.picture.ladder import RAIL_LEFT, RUNG_HEIGHT, Known, fold_shapes, rung_shapes, rungs


class LadderView(QAbstractScrollArea):
    """Paints only what is seen, so that a thousand rungs scroll as one. moved : section, items first..last, and where
    the first of them is to stand."""

    moved = Signal(str, int, int, int)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._rows: tuple[Row, ...] = ()
        self._brackets: tuple[Bracket, ...] = ()
        self._known: Known | None = None
        self._folded: set[tuple[str, int]] = set()
        self._shown: object = None
        self._pressed: Row | None = None
        self._dragged: float | None = None  # where a dragged passage would go, as a height on the ladder
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
        s = self._session
        found = rungs(s.ladder, self._known, once=True)
        self._known = (s.ladder.steps, found)
        self._rows, self._brackets, self._height = ladder_rows(
            s.ladder, s.weave, frozenset(self._folded), found
        )
        self._tops = [r.y for r in self._rows]
        self._ranges()

    # -- folding -----------------------------------------------------------------------------------

    def fold(self, folded: bool) -> None:
        """Fold the knot of the chosen rung to one rung, or open it."""
        s = self._session
        if not 0 <= s.chosen < len(s.ladder.steps):
            return
        op = s.ladder.steps[s.chosen].op
        key = (s.weave.sections[op.section].name, op.item)
        if folded:
            self._folded.add(key)
        else:
            self._folded.discard(key)
        self._rebuild()
        self._reveal()
        self.viewport().update()

    def fold_all(self) -> None:
        """Fold every knot; open all where every one is folded."""
        every = {
            (s.name, i)
            for s in self._session.weave.sections
            for i, x in enumerate(s.items)
            if isinstance(x, Call)
        }
        self._folded = set() if every <= self._folded else every
        self._rebuild()
        self.viewport().update()

    def _reveal(self) -> None:
        """Scroll so that the chosen rung is seen."""
        chosen = next((r for r in self._rows if self._is_chosen(r)), None)
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
            if row.kind in ("rung", "heading", "fold"):
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
                y, chosen = row.y + row.height / 2, self._is_chosen(row)
                if row.kind == "fold":
                    shapes = fold_shapes(trace, row.rung, row.text, y, width, t.pen, chosen=chosen)
                else:
                    shapes = rung_shapes(trace, row.rung, y, width, t.pen, chosen=chosen)
                paint_shapes(painter, shapes)
            else:
                painter.setFont(sized(0.86))
                painter.setPen(QColor(t.signal))
                flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(QRectF(10, row.y, width - 20, row.height), flags, row.text)
        self._paint_brackets(painter, top, height, width - 14.0 - order)
        self._paint_place(painter, width)
        painter.end()

    def _paint_brackets(self, painter: QPainter, top: int, height: int, right: float) -> None:
        """A bracket along what is repeated."""
        painter.setPen(QPen(QColor(theme().quiet), 1.4))
        for b in self._brackets:
            if b.bottom < top or b.top > top + height:
                continue
            for x, y0, x1, y1 in ((2, b.top, 2, b.bottom), (2, b.top, 7, b.top), (2, b.bottom, 7, b.bottom)):
                painter.drawLine(QPointF(x, y0), QPointF(x1, y1))

    def _paint_place(self, painter: QPainter, width: float) -> None:
        """Where steps go in, or where what is dragged would go."""
        y = self._dragged if self._dragged is not None else self._place()
        if y is not None:
            painter.setPen(QPen(QColor(theme().signal), 3))
            painter.drawLine(QPointF(6, y), QPointF(width - 6, y))

    def _place(self) -> float | None:
        s = self._session
        if s.cursor is None:
            return None
        rows = [r for r in self._rows if r.section == s.section and r.item >= 0]
        above = [r for r in rows if r.item < s.cursor]
        if above:
            return above[-1].y + above[-1].height
        return rows[0].y if rows else None

    def _is_chosen(self, row: Row) -> bool:
        """Whether a strip is the chosen rung or in the chosen passage."""
        s = self._session
        if row.rung is None or s.chosen < 0:
            return False
        if s.anchor in (s.chosen, -1):
            if row.kind == "fold":
                op = s.ladder.steps[s.chosen].op
                return (op.section, op.item) == (row.section, row.item)
            return row.rung.step == s.chosen
        passage = s.passage()
        return (
            passage is not None
            and s.weave.sections[row.section].name == passage[0]
            and passage[1] <= row.item <= passage[2]
        )

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
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, write_how(section))
        painter.setPen(QPen(QColor(t.hair), 1))
        painter.drawLine(10, int(row.y + 36), int(width - 10), int(row.y + 36))

    # -- hands -----------------------------------------------------------------------------------

    def row_at(self, y: float) -> Row | None:
        at = y + self.verticalScrollBar().value()
        return next((r for r in self._rows if r.y <= at < r.y + r.height), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = self.row_at(event.position().y())
        self._pressed = row if row is not None and row.rung is not None else None
        extend = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if row is None:
            self._session.choose(-1)
        elif row.rung is not None:
            if extend or not self._is_chosen(row):  # a chosen passage can be dragged
                self._session.choose(row.rung.step, extend=extend)
        elif row.item >= 0:  # the heading of a knot: all of it
            self._session.choose_items(self._session.weave.sections[row.section].name, row.item, row.item)
        elif row.section >= 0:
            self._session.choose_section(row.section)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """A rung is dragged: a line shows where it would go."""
        if self._pressed is None:
            return
        y = event.position().y() + self.verticalScrollBar().value()
        if self._dragged is None and abs(y - self._pressed.y - self._pressed.height / 2) < RUNG_HEIGHT * 0.7:
            return
        self._dragged = self._gap(self._pressed.section, y)[1]
        self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, dragged = self._pressed, self._dragged
        self._pressed = self._dragged = None
        self.viewport().update()
        passage = self._session.passage()
        if pressed is None or dragged is None or passage is None:
            return
        to = self._gap(pressed.section, event.position().y() + self.verticalScrollBar().value())[0]
        section, first, last = passage
        if to > last:
            to -= last - first + 1
        elif to > first:
            return  # into itself
        if to != first:
            self.moved.emit(section, first, last, to)

    def _gap(self, section: int, y: float) -> tuple[int, float]:
        """Before which item of a section a height lies, and where that gap is."""
        rows = [r for r in self._rows if r.section == section and r.item >= 0]
        tops: dict[int, float] = {}
        for r in rows:
            tops.setdefault(r.item, r.y)
        gaps = [*tops.items(), (max(tops) + 1, rows[-1].y + rows[-1].height)]
        return min(gaps, key=lambda g: abs(g[1] - y))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        row = self.row_at(event.position().y())
        if row is not None and row.kind == "section":
            self.ask_count(row.section)
        elif row is not None and row.item >= 0:
            self.fold(row.kind != "fold")

    def _beyond(self, step: int, key: Qt.Key) -> int:
        """From a folded knot the arrows go on to what lies above or below all of it."""
        s = self._session
        if key not in (Qt.Key.Key_Up, Qt.Key.Key_Down) or s.chosen < 0:
            return step
        rows = [r for r in self._rows if r.rung is not None]
        shown = [r.rung.step for r in rows if r.rung is not None]
        op = s.ladder.steps[s.chosen].op
        at = next(
            (
                i
                for i, r in enumerate(rows)
                if r.kind == "fold" and (r.section, r.item) == (op.section, op.item)
            ),
            -1,
        )
        if at >= 0:
            to = at + (1 if key == Qt.Key.Key_Down else -1)
            return shown[to] if 0 <= to < len(shown) else s.chosen
        if step in shown or key == Qt.Key.Key_Up:
            return step if step in shown else next((n for n in reversed(shown) if n < s.chosen), s.chosen)
        return next((n for n in shown if n > s.chosen), s.chosen)

    def ask_count(self, index: int) -> None:
        """How a section is worked, as it is written in the script."""
        section = self._session.weave.sections[index]
        text, ok = QInputDialog.getText(
            self,
            f"How often is {section.name} worked?",
            f"{COUNTS[0].upper()}{COUNTS[1:]}\nMore after a comma: mirror every other, flip every other, spiral",
            text=write_how(section),
        )
        if ok:
            self._session.do(SetHow(section=section.name, how=text))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        last = max((r.rung.step for r in self._rows if r.rung is not None), default=-1)
        chosen = self._session.chosen
        moves = {
            Qt.Key.Key_Down: min(chosen + 1, last),
            Qt.Key.Key_Up: max(chosen - 1, 0) if chosen >= 0 else last,
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: last,
            Qt.Key.Key_Escape: -1,
        }
        key = Qt.Key(event.key())
        extend = event.modifiers() == Qt.KeyboardModifier.ShiftModifier
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.fold(key == Qt.Key.Key_Left)
        elif key in moves and (extend or event.modifiers() == Qt.KeyboardModifier.NoModifier):
            if key == Qt.Key.Key_Escape and self._session.cursor is not None:
                self._session.record_before(None)
            self._session.choose(self._beyond(moves[key], key), extend=extend)
        else:
            super().keyPressEvent(event)
