"""Parts of the form of a test tie: a piece of cord, one reading to take, leftovers in length or mass."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QWidget

from dim_ladder.app.fields import Field
from dim_ladder.app.labels import Label
from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.theme import theme
from dim_ladder.base import read_length, read_number
from dim_ladder.calibrate import Reading
from dim_ladder.picture.display import cord_lines

HEAVIEST_G = 100_000.0


class Swatch(QWidget):
    """A short piece of cord."""

    def __init__(self, colour: str, pattern: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._colour, self._pattern = colour, pattern
        self.setFixedSize(QSize(36, 18))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        path = (("M", (7.0, 9.0)), ("L", (29.0, 9.0)))
        paint_shapes(
            painter, cord_lines(path, self._colour, 11.0, theme().pen, pattern=self._pattern, round_cap=True)
        )
        painter.end()


def is_mass(text: str) -> bool:
    """Whether a leftover was weighed: it is written in grams."""
    return text.strip().lower().endswith(("g", "grams"))


def read_left(text: str) -> float:
    """A leftover in mm, or in grams where it says so."""
    if not is_mass(text):
        return read_length(text, "cm", minimum=0)
    number = text.strip().lower().removesuffix("grams").removesuffix("g")
    return read_number(number, "a mass", "12.5 g", maximum=HEAVIEST_G)


@dataclass(frozen=True, slots=True)
class Asked:
    """One reading to take: these ends, cut and left over."""

    ends: tuple[str, ...]
    cut: Field
    left: Field

    def reading(self) -> Reading | None:
        if self.cut.value is None and self.left.value is None:
            return None
        weighed = is_mass(self.left.text())
        return Reading(
            ends=self.ends,
            cut_mm=self.cut.value,
            left_mm=None if weighed else self.left.value,
            left_g=self.left.value if weighed else None,
        )

    def put(self, r: Reading) -> None:
        self.cut.put("" if r.cut_mm is None else f"{r.cut_mm / 10:.10g} cm")
        left = "" if r.left_mm is None else f"{r.left_mm / 10:.10g} cm"
        self.left.put(left if r.left_g is None else f"{r.left_g:.10g} g")


def quiet(text: str, align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft) -> QLabel:
    label = Label(text)
    label.setObjectName("quiet")
    label.setWordWrap(len(text) > 30)
    label.setAlignment(align)
    return label
