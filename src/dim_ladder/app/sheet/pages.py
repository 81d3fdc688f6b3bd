"""Pages of a PDF on screen, drawn by a PDF reader's engine from the bytes that would be published."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea, QWidget

from dim_ladder.app.theme import theme
from dim_ladder.publish.raster import PageImage

GAP = 14


class PagesView(QAbstractScrollArea):
    """Pages one below the other, as wide as the view."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._pages: list[QImage] = []
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    @property
    def pages(self) -> int:
        return len(self._pages)

    def sizeHint(self) -> QSize:
        return QSize(640, 600)

    def wanted_width(self) -> int:
        """Device pixels across one page."""
        return max(200, round((self.viewport().width() - 2 * GAP) * self.devicePixelRatioF()))

    def show_pages(self, pages: tuple[PageImage, ...]) -> None:
        ratio = self.devicePixelRatioF()
        self._pages = []
        for p in pages:
            image = QImage(p.pixels, p.width, p.height, p.width * 4, QImage.Format.Format_RGB32).copy()
            image.setDevicePixelRatio(ratio)
            self._pages.append(image)
        self._ranges()
        self.viewport().update()

    def _tall(self, image: QImage) -> float:
        return image.height() / image.devicePixelRatio()

    def _ranges(self) -> None:
        total = sum(self._tall(i) + GAP for i in self._pages) + GAP
        page = self.viewport().height()
        self.verticalScrollBar().setRange(0, max(0, round(total) - page))
        self.verticalScrollBar().setPageStep(page)
        self.verticalScrollBar().setSingleStep(40)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._ranges()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.fillRect(self.viewport().rect(), theme().wash)
        y = GAP - self.verticalScrollBar().value()
        for image in self._pages:
            if y + self._tall(image) >= 0 and y <= self.viewport().height():
                painter.drawImage(
                    round((self.viewport().width() - image.width() / image.devicePixelRatio()) / 2), y, image
                )
            y += round(self._tall(image)) + GAP
        painter.end()
