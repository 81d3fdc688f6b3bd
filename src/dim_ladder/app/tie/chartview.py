"""A chart that can be asked: what lies under the pointer or is stepped to by arrow keys is said; the table behind it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.labels import Label
from dim_ladder.app.painting import paint_picture
from dim_ladder.app.theme import mono, theme
from dim_ladder.base.disk import write_whole
from dim_ladder.calibrate.charts import Chart, Spot
from dim_ladder.publish.raster import to_png
from dim_ladder.publish.svg import to_svg

NEAR = 16.0  # pixels
LARGEST = 1.3


class ChartView(QWidget):
    """asked : a spot is under the pointer, or none. chosen : one was clicked, or Return pressed on it."""

    asked = Signal(object)
    chosen = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._chart: Chart | None = None
        self._at = -1
        self._scale, self._origin = 1.0, QPointF()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Chart of the test ties")
        self.setToolTip("Left and Right go from point to point")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    @property
    def spot(self) -> Spot | None:
        return self._chart.spots[self._at] if self._chart and 0 <= self._at < len(self._chart.spots) else None

    def show_chart(self, chart: Chart | None) -> None:
        self._chart = chart
        self._at = -1
        self.setAccessibleDescription(chart.picture.title if chart else "")
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        height = self._chart.picture.height if self._chart else 240.0
        return QSize(430, round(height * 1.06))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._chart is not None:
            self._scale, self._origin = paint_picture(
                painter, self._chart.picture, QRectF(self.rect()), LARGEST
            )
            spot = self.spot
            if spot is not None:
                painter.setRenderHint(QPainter.RenderHint.Antialiasing)
                painter.setPen(QPen(QColor(theme().signal), 2.0))
                painter.drawEllipse(self._origin + QPointF(spot.x, spot.y) * self._scale, 9.0, 9.0)
        if self.hasFocus():
            painter.setPen(QColor(theme().signal))
            painter.drawLine(0, 0, self.width(), 0)
        painter.end()

    def _go(self, at: int) -> None:
        if at != self._at:
            self._at = at
            self.asked.emit(self.spot)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._chart is None:
            return
        best, near = -1, NEAR**2
        for k, s in enumerate(self._chart.spots):
            away = self._origin + QPointF(s.x, s.y) * self._scale - event.position()
            far = away.x() ** 2 + away.y() ** 2
            if far < near:
                best, near = k, far
        self._go(best)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.spot is not None:
            self.chosen.emit(self.spot)

    def leaveEvent(self, event: object) -> None:
        if not self.hasFocus():
            self._go(-1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        many = len(self._chart.spots) if self._chart else 0
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and many:
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            self._go((self._at + step) % many if self._at >= 0 else 0 if step > 0 else many - 1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.spot is not None:
            self.chosen.emit(self.spot)
        else:
            super().keyPressEvent(event)


class ChartBox(QWidget):
    """The chart, what is asked of it, its table, and saving it."""

    def __init__(self, say: Callable[[str], None], attempt: Callable[[Callable[[], object]], object], named: Callable[[str], str], parent: QWidget | None = None) -> None:  # fmt: skip
        super().__init__(parent)
        self._say, self._attempt, self._named = say, attempt, named
        self._chart: Chart | None = None
        self.view = ChartView()
        self.table = QTableWidget()
        self.table.setAccessibleName("The table behind the chart")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.verticalHeader().hide()
        self.table.setFont(mono(0.85))
        self.stack = QStackedWidget()
        self.stack.addWidget(self.view)
        self.stack.addWidget(self.table)
        self.words = Label("")
        self.words.setObjectName("quiet")
        self.as_table = QPushButton("table")
        self.as_table.setObjectName("plain")
        self.as_table.setAccessibleName("Show the table behind the chart")
        self.as_table.clicked.connect(self._turn)
        save = QPushButton("save picture…")
        save.setObjectName("plain")
        save.setAccessibleName("Save the chart as SVG or PNG")
        save.clicked.connect(self._choose)
        row = QHBoxLayout()
        row.addWidget(self.words, 1)
        row.addWidget(self.as_table)
        row.addWidget(save)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(self.stack)
        layout.addLayout(row)
        self.view.asked.connect(self._asked)

    def show_chart(self, chart: Chart | None) -> None:
        self._chart = chart
        self.view.show_chart(chart)
        self.words.setText("")
        columns, rows = (chart.columns, chart.rows) if chart else ((), ())
        self.table.setColumnCount(len(columns))
        self.table.setHorizontalHeaderLabels(list(columns))
        self.table.setRowCount(len(rows))
        for r, row in enumerate(rows):
            for c, text in enumerate(row):
                self.table.setItem(r, c, QTableWidgetItem(self._named(text)))
        self.table.resizeColumnsToContents()
        self.stack.setFixedHeight(self.view.sizeHint().height())

    def _asked(self, spot: Spot | None) -> None:
        self.words.setText(self._named(spot.text) if spot else "")

    def _turn(self, _checked: bool = False) -> None:
        table = self.stack.currentIndex() == 0
        self.stack.setCurrentIndex(1 if table else 0)
        self.as_table.setText("chart" if table else "table")

    def _choose(self, _checked: bool = False) -> None:
        if self._chart is None:
            return
        name, _ = QFileDialog.getSaveFileName(self, "Save the chart", "ties.svg", "Pictures (*.svg *.png)")
        if name:
            self._attempt(lambda: self.save(Path(name)))

    def save(self, path: Path) -> None:
        """As SVG, or as PNG where the name says so. Raises WorldError where it cannot be written."""
        if self._chart is None:
            return
        picture = self._chart.picture
        write_whole(path, to_png(picture) if path.suffix.lower() == ".png" else to_svg(picture))
        self._say(f"The chart is in {path}")
