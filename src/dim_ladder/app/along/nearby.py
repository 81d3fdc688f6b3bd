"""Where am I? What the work looks like at the steps around, to compare with what is in hand."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from dim_ladder.app.along.pictures import work_picture
from dim_ladder.app.fields import clear
from dim_ladder.app.labels import Label
from dim_ladder.app.painting import PictureView
from dim_ladder.app.theme import sized, theme
from dim_ladder.commands.tying import Beat
from dim_ladder.notation import Weave
from dim_ladder.trace import Trace

SHOWN = 5


class _Choice(QFrame):
    def __init__(
        self, at: int, words: str, pick: Callable[[int], None], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.at = at
        self.setObjectName("choice")
        self.setAccessibleName(words)
        self.view = PictureView(2.0)
        label = Label(words)
        label.setFont(sized(1.3, True))
        label.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout = QVBoxLayout(self)
        layout.addWidget(self.view, 1)
        layout.addWidget(label)
        self._pick = pick

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pick(self.at)

    def mark(self, chosen: bool) -> None:
        colour = theme().signal if chosen else theme().hair
        self.setStyleSheet(
            f"QFrame#choice {{ border: {4 if chosen else 1}px solid {colour}; border-radius: 10px; }}"
        )


class Nearby(QWidget):
    """picked : beats that are done, where the maker is; -1 to go back to where it was."""

    picked = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._beats: tuple[Beat, ...] = ()
        self._weave: Weave | None = None
        self._trace: Trace | None = None
        self.at = 0
        self.choices: list[_Choice] = []
        title = Label("Which of these is in your hand?")
        title.setFont(sized(2.0, True))
        hint = Label(
            "Left and right to look further, Return or a click to take it, Esc back to where you were"
        )
        hint.setObjectName("quiet")
        hint.setFont(sized(1.2))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(32, 24, 32, 20)
        layout.setSpacing(12)
        layout.addWidget(title)
        self._row = QHBoxLayout()
        self._row.setSpacing(12)
        layout.addLayout(self._row, 1)
        layout.addWidget(hint)

    def show_near(self, weave: Weave, trace: Trace, beats: tuple[Beat, ...], at: int) -> None:
        """at : beats that are done."""
        self._weave, self._trace, self._beats = weave, trace, beats
        self._show(at)

    def _show(self, at: int) -> None:
        assert self._weave is not None
        assert self._trace is not None
        self.at = min(max(at, 0), len(self._beats))
        clear(self._row)
        self.choices = []
        first = min(max(self.at - SHOWN // 2, 0), max(len(self._beats) - SHOWN + 1, 0))
        for k in range(first, min(first + SHOWN, len(self._beats) + 1)):
            if k:
                b = self._beats[k - 1]
                words = (
                    f"unit {b.unit}, after step {b.step}"
                    if b.units > 1
                    else f"{b.section}, after step {b.step}"
                )
            else:
                words = "not begun"
            choice = _Choice(k, words, self.picked.emit)
            if k:
                choice.view.show_picture(
                    work_picture(self._weave, self._trace, self._beats[k - 1], theme().pen)
                )
            choice.mark(k == self.at)
            self.choices.append(choice)
            self._row.addWidget(choice, 1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Escape:
            self.picked.emit(-1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.picked.emit(self.at)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._show(self.at + (-1 if key == Qt.Key.Key_Left else 1))
        else:
            super().keyPressEvent(event)
