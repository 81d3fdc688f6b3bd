"""The row below the board while no end is in hand: playback of what is recorded."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSlider, QWidget

from dim_ladder.app.labels import Label
from dim_ladder.app.record.player import Player
from dim_ladder.app.session import Session
from dim_ladder.commands import ACTIONS

PER_STEP = 100  # places of the slider for every step


class Transport(QWidget):
    """Buttons say what the keys do; the slider is the way through the stretch."""

    def __init__(self, session: Session, player: Player, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._player = session, player
        self._tips: dict[str, QPushButton] = {}
        self.back = self._button("play.previous", "Previous", lambda: player.step(-1))
        self.play = self._button("play.run", "Play", player.play)
        self.next = self._button("play.next", "Next", lambda: player.step(1))
        self.speed = self._button("play.faster", "1×", self._speed)
        self.side = self._button("play.behind", "Front", player.turn_over)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Moment of the playback")
        self.slider.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.slider.sliderMoved.connect(lambda v: player.seek(v / PER_STEP))
        self.words = Label()
        self.words.setObjectName("quiet")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 8)
        row.setSpacing(5)
        for button in (self.back, self.play, self.next):
            row.addWidget(button)
        row.addSpacing(8)
        row.addWidget(self.slider, 1)
        row.addWidget(self.words)
        row.addWidget(self.speed)
        row.addWidget(self.side)
        player.moved.connect(self.refresh)
        player.stopped.connect(self.refresh)
        session.traced.connect(self.refresh)
        session.keys_changed.connect(self._tell_keys)
        self._tell_keys()
        self.refresh()

    def _button(self, action_id: str, text: str, does: object) -> QPushButton:
        action = next(a for a in ACTIONS if a.id == action_id)
        button = QPushButton(text)
        self._tips[action_id] = button
        button.setAccessibleName(action.text)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the keys stay with the board
        button.clicked.connect(lambda _=False: does())  # type: ignore[operator]
        return button

    def _tell_keys(self) -> None:
        for a in ACTIONS:
            if a.id in self._tips:
                self._tips[a.id].setToolTip(f"{a.does} ({self._session.keys.of(a.id)})")

    def _speed(self) -> None:
        """Once round all speeds."""
        from dim_ladder.app.record.player import SPEEDS

        p = self._player
        p.faster(1 if p.speed < SPEEDS[-1] else -len(SPEEDS))

    def refresh(self) -> None:
        p = self._player
        found = p.stretch() if not p.on else None
        motion = p.motion() if p.on else None
        first, last = (motion.first, motion.last) if motion is not None else found or (0, -1)
        there = last >= first
        for widget in (self.back, self.play, self.next, self.side, self.slider):
            widget.setEnabled(there)
        self.play.setText("Stop" if p.playing else "Play")
        self.speed.setText(f"{p.speed:g}×")
        self.side.setText("Back" if p.behind else "Front")
        self.slider.setRange(first * PER_STEP, (last + 1) * PER_STEP)
        if not self.slider.isSliderDown():
            chosen = self._session.chosen
            at = p.moment if p.on else float(chosen + 1 if first <= chosen <= last else last + 1)
            self.slider.setValue(round(at * PER_STEP))
        if not there:
            self.words.setText("")
        elif motion is not None:
            self.words.setText(f"step {motion.step_at(p.moment) - first + 1} of {last - first + 1}")
        else:
            self.words.setText(f"{last - first + 1} step{'s' if last > first else ''}")
