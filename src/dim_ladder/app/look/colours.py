"""Colourways side by side: each front and back; one click takes one."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from itertools import count

from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from dim_ladder.app.look.faceview import FaceView
from dim_ladder.app.look.shown import shown
from dim_ladder.app.workers import Jobs
from dim_ladder.commands.colourways import Colourway, colourways
from dim_ladder.library import cord_kind
from dim_ladder.notation import Weave
from dim_ladder.picture.display import Ink
from dim_ladder.shape import TightShape
from dim_ladder.shape.faces import Cords, cords_of

ACROSS, UNITS, TALL = 4, 4, 210


class Colours(QScrollArea):
    """take : what is done with the one that is chosen."""

    def __init__(
        self, jobs: Jobs, key: str, take: Callable[[Colourway], None], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._jobs, self._key, self._take = jobs, key, take
        self.ways: tuple[Colourway, ...] = ()
        self.views: list[FaceView] = []
        self.buttons: list[QPushButton] = []
        self._of: tuple[object, ...] = ()
        self._numbers = count()  # of pictures that were ever asked for
        self._page = QWidget()
        self._grid = QGridLayout(self._page)
        self._grid.setSpacing(12)
        self.setWidget(self._page)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)

    def show_ways(self, weave: Weave, section: str, shape: TightShape, pen: Ink) -> None:
        """The same cards as long as the weave is in one of their colours; else, and for another shape, new ones."""
        own = tuple(c.colour.lower() for c in weave.cords)
        now = (
            (shape.pitch, shape.width, shape.steps),
            section,
            tuple((c.name, cord_kind(c.kind)) for c in weave.cords),
            pen,
        )
        if now != self._of or all(own != w.colours for w in self.ways):
            if now[1:3] != self._of[1:3] or all(own != w.colours for w in self.ways):
                self.ways = colourways(weave)
            self._of = now
            self._clear()
            for k, way in enumerate(self.ways):
                self._grid.addWidget(self._card(way, weave, section, shape, pen), k // ACROSS, k % ACROSS)
        for way, button in zip(self.ways, self.buttons, strict=True):
            taken = own == way.colours
            button.setChecked(taken)
            button.setToolTip(
                "These colours are in the weave"
                if taken
                else "Take these colours into the weave; undo gives the old ones back"
            )

    def pictures(self, weave: Weave, section: str) -> dict[str, Cords]:
        """By name, how the cords look in each."""
        return {w.name: cords_of(w.of(weave), section) for w in self.ways}

    def _card(self, way: Colourway, weave: Weave, section: str, shape: TightShape, pen: Ink) -> QWidget:
        card = QWidget()
        column = QVBoxLayout(card)
        column.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        row.setSpacing(4)
        cords = cords_of(way.of(weave), section)
        for side in ("front", "back"):
            view = FaceView(self._jobs, f"{self._key}-{next(self._numbers)}", f"{way.name}, {side}")
            view.setMinimumHeight(TALL)
            seen = shown(shape, cords, side, UNITS if shape.kind == "cell" else 1, pen)
            view.show_face(seen.make, seen.natural, beside=seen.beside)
            self.views.append(view)
            row.addWidget(view)
        column.addLayout(row)
        button = QPushButton(way.name)
        button.setCheckable(True)
        button.clicked.connect(partial(self._chosen, way))
        self.buttons.append(button)
        column.addWidget(button)
        return card

    def _chosen(self, way: Colourway, _checked: bool = False) -> None:
        self._take(way)

    def _clear(self) -> None:
        self.views, self.buttons = [], []
        while (item := self._grid.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
