"""Cuts drawn as cords: length to scale, the fold where it is, each end's share."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.theme import mono, sized, theme
from dim_ladder.base import format_length
from dim_ladder.picture.display import cord_lines
from dim_ladder.picture.ladder import badge
from dim_ladder.scale import Cut, Piece
from dim_ladder.scale.cuts import fold_words, odds
from dim_ladder.trace.ends import letter

ROW = 96


class CutDrawing(QWidget):
    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._piece: Piece | None = None
        self._system = "metric"
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Cuts")

    def show_piece(self, piece: Piece | None, system: str) -> None:
        self._piece, self._system = piece, system
        self.setAccessibleDescription(
            "; ".join(sentence(c, piece.order, system) for c in piece.cuts) if piece else ""
        )
        self.setFixedHeight(max(1, len(piece.cuts)) * ROW if piece else 40)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, ROW * (len(self._piece.cuts) if self._piece else 1))

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._piece is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        longest = max(c.cut_mm for c in self._piece.cuts)
        for i, cut in enumerate(self._piece.cuts):
            self._row(painter, cut, i, i * ROW + 8.0, longest)
        painter.end()

    def _row(self, painter: QPainter, cut: Cut, index: int, top: float, longest: float) -> None:
        t = theme()
        piece = self._piece
        assert piece is not None
        left, right = 24.0, self.width() - 200.0
        length = (right - left) * cut.cut_mm / longest
        y = top + 44
        path = (("M", (left, y)), ("L", (left + length, y)))
        paint_shapes(painter, cord_lines(path, cut.colour, 13.0, t.pen, pattern=index, round_cap=True))
        painter.setPen(QColor(t.ink))
        painter.setFont(mono(1.5, True))
        painter.drawText(
            QRectF(right + 16, y - 26, 180, 30),
            Qt.AlignmentFlag.AlignVCenter,
            format_length(cut.cut_mm, self._system),
        )
        painter.setFont(sized(0.92))
        painter.setPen(QColor(t.quiet))
        painter.drawText(
            QRectF(right + 16, y + 4, 184, 20),
            Qt.AlignmentFlag.AlignVCenter,
            f"{odds(cut.chance_short)} short",
        )
        total = sum(e.need_mm for e in cut.ends)
        x = left
        # Folds lie behind these parts.
        marks = (
            (0, 2)
            if cut.folds_mm
            else (1,)
            if len(cut.ends) == 4
            else (0,)
            if len(cut.ends) == 2 and not cut.leg_mm
            else ()
        )
        folds: list[float] = []
        for k, e in enumerate(cut.ends):
            share = length * e.need_mm / total
            at = x + share / 2
            name = letter(piece.order.index(e.end))
            paint_shapes(painter, badge(at - 44, y + 26, 9.0, cut.colour, name))
            painter.setPen(QColor(t.ink))
            painter.setFont(mono(0.92))
            painter.drawText(
                QRectF(at - 30, y + 15, 110, 22),
                Qt.AlignmentFlag.AlignVCenter,
                format_length(e.need_mm, self._system),
            )
            x += share
            if k in marks:
                folds.append(x)
                painter.setPen(QPen(QColor(t.signal), 2.5))
                painter.drawLine(QPointF(x, y - 16), QPointF(x, y + 16))
        if cut.long_end:
            middle = left + length / 2
            painter.setPen(QPen(QColor(t.quiet), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(middle, y - 14), QPointF(middle, y + 14))
        painter.setFont(sized(0.92, True))
        painter.setPen(QColor(t.signal))
        said = fold_words(cut, piece.order, self._system)
        wide = painter.fontMetrics().horizontalAdvance(said) + 4
        # Above its fold, as far as that leaves it within the drawing.
        centre = folds[0] if len(folds) == 1 else left + length / 2
        at = min(max(centre - wide / 2, left), max(right - wide, left))
        painter.drawText(QRectF(at, y - 36, wide, 20), Qt.AlignmentFlag.AlignLeft, said)
        painter.setFont(sized(0.92))
        painter.setPen(QColor(t.ink))
        painter.drawText(
            QRectF(left, top - 8, 240, 20), Qt.AlignmentFlag.AlignVCenter, f"{cut.cord}, {cut.kind}"
        )
        if cut.bobbin:
            painter.setPen(QColor(t.quiet))
            painter.drawText(
                QRectF(right + 16, y + 22, 184, 20),
                Qt.AlignmentFlag.AlignVCenter,
                "long ends: wind on bobbins",
            )


def sentence(cut: Cut, order: tuple[str, ...], system: str) -> str:
    """A cut as it is read out at the table."""
    text = f"{cut.cord}: cut {format_length(cut.cut_mm, system)}"
    return f"{text}, {fold_words(cut, order, system)}, {odds(cut.chance_short)} of running short"
