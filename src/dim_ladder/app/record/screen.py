"""Recording: the board, its row of moves, and the script."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.icons import icon
from dim_ladder.app.labels import Label
from dim_ladder.app.record.board import Board
from dim_ladder.app.record.script import ScriptPane
from dim_ladder.app.record.step import StepPanel
from dim_ladder.app.record.transport import Transport
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized
from dim_ladder.commands import ACTIONS

SHORT = {
    "board.over": "Over", "board.under": "Under", "board.turn": "Turn", "board.up": "Up", "board.down": "Down",
    "board.flip": "Flip", "board.back": "Back", "board.done": "Rest", "board.drop": "Let go",
}  # fmt: skip


class RecordScreen(QWidget):
    """Three views of one edit: this board, the script below it, and the ladder beside the window."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.board = Board(session)
        self.script = ScriptPane(session)
        self.step = StepPanel(session)
        self.prompt = Label()
        self.prompt.setFont(sized(1.02))
        self.prompt.setWordWrap(True)
        self.prompt.setMinimumHeight(44)
        self.buttons: dict[str, QPushButton] = {}
        self.moves = QWidget()
        moves = QHBoxLayout(self.moves)
        moves.setContentsMargins(12, 0, 12, 8)
        moves.setSpacing(5)
        for action in ACTIONS:
            if action.id not in SHORT:  # the rarer hops have keys, and stand in the search
                continue
            button = QPushButton(SHORT[action.id])
            button.setAccessibleName(action.text)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the keys stay with the board
            if action.id == "board.done":
                button.setObjectName("next")
            button.clicked.connect(partial(self._move, action.id.removeprefix("board.")))
            self.buttons[action.id] = button
            moves.addWidget(button)
        moves.addStretch(1)
        self.transport = Transport(session, self.board.player)
        self.below = QStackedWidget()
        self.below.addWidget(self.transport)
        self.below.addWidget(self.moves)
        self.below.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        top = QWidget()
        layout = QVBoxLayout(top)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        row = QHBoxLayout()
        row.setContentsMargins(16, 8, 16, 0)
        row.addWidget(self.prompt)
        layout.addLayout(row)
        layout.addWidget(self.board, 1)
        layout.addWidget(self.below)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(top)
        split.addWidget(self.script)
        split.setSizes([470, 190])
        split.setChildrenCollapsible(False)
        split.setHandleWidth(1)
        across = QSplitter(Qt.Orientation.Horizontal)
        across.addWidget(split)
        across.addWidget(self.step)
        across.setSizes([700, 290])
        across.setStretchFactor(0, 1)
        across.setChildrenCollapsible(False)
        across.setHandleWidth(1)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(across)
        self.draw_icons()
        self._tips()
        session.keys_changed.connect(self._tips)
        self.board.prompt.connect(self._prompted)
        self.script.problems_found.connect(lambda: self.step.show_problems(self.script.problems))
        self._prompted(self.board.prompt_text())

    def draw_icons(self) -> None:
        """In the colours of the day."""
        for action_id, button in self.buttons.items():
            button.setIcon(icon(action_id))

    def _tips(self) -> None:
        keys = self._session.keys
        for a in ACTIONS:
            if a.id in self.buttons:
                self.buttons[a.id].setToolTip(f"{a.does} ({keys.of(a.id)})")

    def _move(self, action: str, _checked: bool = False) -> None:
        self.board.setFocus()
        self.board.act(action)

    def _prompted(self, text: str) -> None:
        self.prompt.setText(text)
        busy = self._session.draft is not None
        self.below.setCurrentWidget(self.moves if busy else self.transport)
        moved = busy and bool(self._session.draft and self._session.draft.begun)
        for action_id, button in self.buttons.items():
            needs_move = action_id in ("board.flip", "board.done")
            button.setEnabled(moved if needs_move else busy)
