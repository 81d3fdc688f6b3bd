"""The tight weave in the hand: dragged with the mouse it turns; wheel, keys and double click as in any face."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QWidget

from dim_ladder.app.look.faceview import FaceView
from dim_ladder.app.theme import theme
from dim_ladder.app.workers import Jobs
from dim_ladder.picture.display import Picture
from dim_ladder.shape.turning import MOST_TIP, Held

BY_PIXEL, BY_KEY = 0.6, 15.0  # degrees
COARSE = 0.7  # pixels drawn for each that is seen, while it is turned


class TurnView(FaceView):
    def __init__(
        self,
        jobs: Jobs,
        key: str,
        name: str = "The tight weave, turned",
        first: tuple[float, float] = (0.0, 0.0),
        parent: QWidget | None = None,
    ) -> None:
        """first : how it is turned and tipped at first, in degrees."""
        super().__init__(jobs, key, name, parent=parent)
        self.held: Held | None = None
        self._first = first
        self.turn, self.tip = first
        self._said = ""
        self.setToolTip(
            "Drag or arrows turn it, wheel, + and − make it larger and smaller, 0 turns it back as it was"
        )

    def show_held(self, held: Held | None, said: str = "") -> None:
        """said : what a reader who cannot see it is told."""
        was, self.held, self._said = self.held, held, said
        if held is None:
            self.show_face(None)
        else:
            self.show_face(partial(self._picture, held, False), (held.wide, held.tall), keep=was is not None)

    def turn_to(self, turn: float, tip: float, *, moving: bool = False) -> None:
        """Degrees about the work and forwards. moving : drawn quickly, more of it follows."""
        self.turn = (turn + 180.0) % 360.0 - 180.0
        self.tip = min(MOST_TIP, max(-MOST_TIP, tip))
        if self.held is None:
            return
        self.coarse = COARSE if moving else 1.0
        self.show_face(partial(self._picture, self.held, moving), (self.held.wide, self.held.tall), keep=True)

    def _picture(self, held: Held, quick: bool, scale: float) -> Picture:
        title = f"{self._said}, turned by {self.turn:.0f}° and tipped by {self.tip:.0f}°"
        return held.seen(self.turn, self.tip, scale=scale, ink=theme().pen, quick=quick, title=title)

    def fit(self) -> None:
        self.turn_to(*self._first)
        super().fit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            by = event.position() - self._drag
            self._drag = event.position()
            self.turn_to(self.turn - by.x() * BY_PIXEL, self.tip + by.y() * BY_PIXEL, moving=True)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag = None
            self.turn_to(self.turn, self.tip)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        by = {
            Qt.Key.Key_Left: (BY_KEY, 0.0), Qt.Key.Key_Right: (-BY_KEY, 0.0),
            Qt.Key.Key_Up: (0.0, -BY_KEY), Qt.Key.Key_Down: (0.0, BY_KEY),
        }.get(Qt.Key(event.key()))  # fmt: skip
        if by is None:
            super().keyPressEvent(event)
        else:
            self.turn_to(self.turn + by[0], self.tip + by[1])
