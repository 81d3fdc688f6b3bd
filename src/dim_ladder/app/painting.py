"""Pictures on screen: the one display list, painted."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QApplication, QSizePolicy, QWidget

from dim_ladder.picture.display import Area, Command, Disc, Label, Line, Picture, Shape


def path_of(commands: Iterable[Command]) -> QPainterPath:
    path = QPainterPath()
    for op, a in commands:
        if op == "M":
            path.moveTo(*a)
        elif op == "L":
            path.lineTo(*a)
        else:
            path.quadTo(*a)
    return path


def paint_shapes(painter: QPainter, shapes: Iterable[Shape]) -> None:
    pens: dict[
        tuple[str, float, bool, bool, tuple[float, ...]], QPen
    ] = {}  # a face has thousands of lines, few pens
    held, filled = None, True
    ways: dict[int, QPainterPath] = {}  # outline and body of cord go the same way
    every = tuple(shapes)  # none of them is let go while its way is known by its place
    for s in every:
        if isinstance(s, Line):
            key = (s.colour, s.width, s.round_cap or s.turns, s.round_cap, s.dash)
            pen = pens.get(key)
            if pen is None:
                pen = pens[key] = _pen(s)
            if pen is not held:
                painter.setPen(pen)
                held = pen
            if filled:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                filled = False
            path = ways.get(id(s.path))
            if path is None:
                path = ways[id(s.path)] = path_of(s.path)
            painter.drawPath(path)
        else:
            held, filled = None, True
            _paint_solid(painter, s)


def _pen(s: Line) -> QPen:
    cap = Qt.PenCapStyle.RoundCap if s.round_cap else Qt.PenCapStyle.FlatCap
    # Files have round corners. Where a line hardly bends they cannot be told from cut ones, which take half as long.
    join = Qt.PenJoinStyle.RoundJoin if s.round_cap or s.turns else Qt.PenJoinStyle.BevelJoin
    pen = QPen(QColor(s.colour), s.width, Qt.PenStyle.SolidLine, cap, join)
    if s.dash:
        pen.setDashPattern([d / s.width for d in s.dash])
    return pen


def _paint_solid(painter: QPainter, s: Area | Disc | Label) -> None:
    if isinstance(s, Area):
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(QColor(s.fill)))
        painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in s.points]))
    elif isinstance(s, Disc):
        painter.setPen(QPen(QColor(s.stroke), s.width) if s.stroke else Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(QColor(s.fill)) if s.fill else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(s.x, s.y), s.r, s.r)
    else:
        paint_label(painter, s)


def paint_label(painter: QPainter, s: Label) -> None:
    font = QFont(QApplication.font())
    font.setPixelSize(max(1, round(s.size)))
    font.setBold(s.bold)
    painter.setFont(font)
    painter.setPen(QColor(s.colour))
    width = painter.fontMetrics().horizontalAdvance(s.text)
    shift = {"start": 0.0, "middle": width / 2, "end": float(width)}[s.anchor]
    painter.drawText(QPointF(s.x - shift, s.y), s.text)


def paint_picture(
    painter: QPainter, picture: Picture, target: QRectF, largest: float = 2.0
) -> tuple[float, QPointF]:
    """Paint it as large as fits, centred, at most `largest` times. Gives scale and origin, for finding clicks."""
    if picture.width <= 0 or picture.height <= 0:
        return 1.0, target.topLeft()
    scale = min(target.width() / picture.width, target.height() / picture.height, largest)
    origin = QPointF(
        target.left() + (target.width() - picture.width * scale) / 2,
        target.top() + (target.height() - picture.height * scale) / 2,
    )
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(origin)
    painter.scale(scale, scale)
    paint_shapes(painter, picture.shapes)
    painter.restore()
    return scale, origin


class PictureView(QWidget):
    """A picture that fills its widget."""

    def __init__(self, largest: float = 1.5, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._picture: Picture | None = None
        self._make: Callable[[], Picture] | None = None
        self._largest = largest
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)

    def show_later(self, make: Callable[[], Picture]) -> None:
        """A picture that is made when it is first painted: what nobody sees costs nothing."""
        self._make = make
        self.update()

    def _made(self) -> None:
        if self._make is not None:
            make, self._make = self._make, None
            self.show_picture(make())

    def show_picture(self, picture: Picture | None) -> None:
        self._picture, self._make = picture, None
        self.setAccessibleDescription(picture.title if picture else "")
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        if self._picture is None:
            return QSize(200, 60)
        return QSize(round(self._picture.width * self._largest), round(self._picture.height * self._largest))

    def paintEvent(self, event: QPaintEvent) -> None:
        self._made()
        if self._picture is not None:
            painter = QPainter(self)
            paint_picture(painter, self._picture, QRectF(self.rect()), self._largest)
            painter.end()
