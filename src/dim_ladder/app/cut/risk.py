"""One slider for the chance of running short."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QSlider, QWidget

from dim_ladder.app.labels import Label
from dim_ladder.app.theme import mono
from dim_ladder.scale.cuts import odds

STEPS = (0.2, 0.1, 0.05, 0.02, 0.01, 0.005, 0.002, 0.001)


class RiskSlider(QWidget):
    """chosen : a chance that was settled on; while it is dragged only its words follow. Chances between the steps stay as they are
    until it is moved."""

    chosen = Signal(float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, len(STEPS) - 1)
        self.slider.setPageStep(1)
        self.slider.setTickPosition(QSlider.TickPosition.TicksBelow)
        self.slider.setAccessibleName("Chance of running short")
        self.slider.setToolTip("To the left shorter cuts and more risk, to the right longer ones and less")
        self.words = Label()
        self.words.setFont(mono(1.0, True))
        self.words.setMinimumWidth(92)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        row.addWidget(Label("may run short"))
        row.addWidget(self.slider, 1)
        row.addWidget(self.words)
        self.slider.valueChanged.connect(self._moved)
        self.slider.sliderReleased.connect(self._settled)

    def show_risk(self, risk: float) -> None:
        nearest = min(range(len(STEPS)), key=lambda i: abs(STEPS[i] / risk - 1))
        self.slider.blockSignals(True)
        self.slider.setValue(nearest)
        self.slider.blockSignals(False)
        self._say(risk)

    def _say(self, risk: float) -> None:
        self.words.setText(odds(risk))
        self.slider.setAccessibleDescription(odds(risk))

    def _moved(self, value: int) -> None:
        self._say(STEPS[value])
        if not self.slider.isSliderDown():
            self._settled()

    def _settled(self) -> None:
        self.chosen.emit(STEPS[self.slider.value()])
