"""One face of a tight shape, drawn on a thread at any size: wheel and plus and minus make it larger, dragging moves it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.theme import theme
from dim_ladder.app.workers import PAINTING, Jobs
from dim_ladder.picture.display import Picture

LARGEST, STEP = 16.0, 1.25
RESIZED_MS = 150  # a size that changes still is not drawn for
FINEST = 120.0  # pixels to a diameter


class FaceView(QWidget):
    """See show_face."""

    def __init__(
        self, jobs: Jobs, key: str, name: str, largest: float = 34.0, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._jobs, self._key, self._largest = jobs, key, largest
        self._make: Callable[[float], Picture] | None = None
        self._natural, self._beside = (1.0, 1.0), 0.0
        self._image: QImage | None = None
        self._drawn = (0.0, QPointF())  # scale and origin of the image
        self._zoom, self._at = 1.0, QPointF()
        self._rendering = self._again = False
        self._drag: QPointF | None = None
        self.coarse = 1.0  # pixels drawn for each that is seen: fewer while it moves
        self.title = ""
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(60, 120)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip("Wheel, + and − make it larger and smaller, 0 fits it; drag or arrows move it")

    def sizeHint(self) -> QSize:
        return QSize(200, 420)

    # -- what is shown -----------------------------------------------------------------------------

    def show_face(
        self, make: Callable[[float], Picture] | None, natural: tuple[float, float] = (1.0, 1.0), *, beside: float = 0.0,
        keep: bool = False,
    ) -> None:  # fmt: skip
        """make : a picture at so many pixels to a diameter; None for nothing. natural : width and height at one.
        beside : pixels of height that do not grow with it. keep : the same work a little tighter, as large as it was."""
        self._make, self._natural, self._beside = make, natural, beside
        if make is None:
            self._image = None
            self.title = ""
            self.setAccessibleDescription("")
            self._jobs.drop(self._key)
            self._rendering = self._again = False
            self.update()
            return
        if not keep:
            self._zoom, self._at = 1.0, QPointF()
        self._ask()

    @property
    def zoom(self) -> float:
        return self._zoom

    def _ask(self, after_ms: int = 0) -> None:
        if self._make is None or not self.isVisible():
            return
        if self._rendering:  # one at a time: what comes meanwhile is drawn once, as it is then
            self._again = True
            return
        ratio = self.devicePixelRatioF() * self.coarse
        size = QSize(max(1, round(self.width() * ratio)), max(1, round(self.height() * ratio)))
        work = partial(
            _rendered,
            self._make,
            self._natural,
            self._beside,
            size,
            ratio,
            self._largest,
            self._zoom,
            QPointF(self._at),
            theme().paper,
        )
        self._rendering = after_ms == 0
        self._jobs.ask(self, self._key, work, self._took, _failed, after_ms=after_ms)

    def _took(self, found: tuple[QImage, float, QPointF, str]) -> None:
        self._rendering = False
        if self._make is None:
            return
        self._image, scale, origin, self.title = found
        self._drawn = (scale, origin)
        self.setAccessibleDescription(self.title)
        self.update()
        if self._again:
            self._again = False
            self._ask()

    # -- painting and moving -----------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            # Until it is drawn anew at this size, what there is stands in for it.
            moved = self._at - self._drawn[1]
            grown = self._zoom / (self._drawn[0] or 1.0)
            middle = QPointF(self.width() / 2, self.height() / 2)
            painter.translate(middle + moved)
            painter.scale(grown, grown)
            painter.translate(-middle)
            painter.drawImage(QRectF(0, 0, self.width(), self.height()), self._image)
            painter.resetTransform()
        if self.hasFocus():
            painter.setPen(QColor(theme().signal))
            painter.drawLine(0, 0, self.width(), 0)
        painter.end()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._ask(RESIZED_MS)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._ask()

    def enlarge(self, by: float, about: QPointF | None = None) -> None:
        """As large as that, about a place of the widget that stays."""
        new = min(LARGEST, max(0.5, self._zoom * by))
        middle = QPointF(self.width() / 2, self.height() / 2)
        at = (about or middle) - middle
        self._at = at - (at - self._at) * (new / self._zoom)
        self._zoom = new
        self.update()
        self._ask()

    def fit(self) -> None:
        self._zoom, self._at = 1.0, QPointF()
        self._ask()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.enlarge(STEP if event.angleDelta().y() > 0 else 1 / STEP, event.position())
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self._drag = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._at += event.position() - self._drag
            self._drag = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag = None
            self._ask()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.fit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        moves = {
            Qt.Key.Key_Left: QPointF(60, 0), Qt.Key.Key_Right: QPointF(-60, 0),
            Qt.Key.Key_Up: QPointF(0, 60), Qt.Key.Key_Down: QPointF(0, -60),
        }  # fmt: skip
        if key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.enlarge(STEP)
        elif key == Qt.Key.Key_Minus:
            self.enlarge(1 / STEP)
        elif key == Qt.Key.Key_0:
            self.fit()
        elif key in moves and self._zoom > 1.0:
            self._at += moves[Qt.Key(key)]
            self._ask()
        else:
            super().keyPressEvent(event)


def _rendered(
    make: Callable[[float], Picture], natural: tuple[float, float], beside: float, size: QSize, ratio: float,
    largest: float, zoom: float, at: QPointF, paper: str,
) -> tuple[QImage, float, QPointF, str]:  # fmt: skip
    """The picture at the size it is seen in; with the zoom and place it was drawn for. Safe on a thread: an image only."""
    with PAINTING:
        return _painted(make, natural, beside, size, ratio, largest, zoom, at, paper)


def _painted(
    make: Callable[[float], Picture], natural: tuple[float, float], beside: float, size: QSize, ratio: float,
    largest: float, zoom: float, at: QPointF, paper: str,
) -> tuple[QImage, float, QPointF, str]:  # fmt: skip
    wide, tall = natural
    fit = min((size.width() - 8) / wide, (size.height() - beside * ratio - 8) / tall, largest * ratio)
    picture = make(min(max(fit, 0.2) * zoom, FINEST * ratio))
    image = QImage(size, QImage.Format.Format_RGB32)
    image.fill(QColor(paper))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(
        (size.width() - picture.width) / 2 + at.x() * ratio,
        (size.height() - picture.height) / 2 + at.y() * ratio,
    )
    paint_shapes(painter, picture.shapes)
    painter.end()
    return image, zoom, at, picture.title


def _failed(error: Exception) -> None:
    raise error
