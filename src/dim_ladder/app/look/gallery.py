"""How it goes wrong: the right one and its common slips beside each other, each pulled tight."""

from __future__ import annotations

import contextlib
import itertools
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

from PySide6.QtWidgets import QFrame, QGridLayout, QScrollArea, QVBoxLayout, QWidget

from dim_ladder.app.labels import Label
from dim_ladder.app.look.faceview import FaceView
from dim_ladder.app.look.shown import Shown, shown
from dim_ladder.app.theme import sized
from dim_ladder.app.workers import PAINTING, Jobs
from dim_ladder.base import DimLadderError
from dim_ladder.commands.slips import Slip, slips
from dim_ladder.notation import Weave
from dim_ladder.picture.display import Ink
from dim_ladder.shape import TightShape, tighten
from dim_ladder.shape.faces import Cords, cords_of

UNITS, ACROSS = 3, 4
TALL = 300


@dataclass(frozen=True, slots=True)
class Card:
    """slip : None for the right one. shape : None where it cannot be pulled tight."""

    slip: Slip | None
    shape: TightShape | None
    cords: Cords


def cards(weave: Weave, section: str, stale: Callable[[], bool]) -> Iterator[tuple[Card, ...]]:
    """The right one, then its slips, each added when it is tight."""

    def enough() -> bool:
        with PAINTING:
            return stale()

    found: list[Card] = []
    for slip in itertools.chain((None,), slips(weave, section)):
        work = weave if slip is None else slip.weave
        shape: TightShape | None = None
        with contextlib.suppress(DimLadderError):  # a card without a picture still says what to look for
            for found_so_far in tighten(work, section, stop=enough):
                shape = found_so_far
                if stale():
                    return
        found.append(Card(slip, shape, cords_of(work, section)))
        yield tuple(found)


def card_shown(card: Card, ink: Ink) -> Shown | None:
    """The picture of a card. A slip that begins to turn is seen over more units."""
    if card.shape is None:
        return None
    units = 1 if card.shape.kind != "cell" else UNITS if not card.shape.angle else UNITS + 3
    return shown(card.shape, card.cords, "front", units, ink)


class Gallery(QScrollArea):
    """shown : the section it shows now."""

    def __init__(self, jobs: Jobs, name: str, parent: QWidget | None = None, *, letters: float = 1.0) -> None:
        super().__init__(parent)
        self._jobs, self._name, self._letters = jobs, name, letters
        self._cards: tuple[Card, ...] = ()
        self._wanted = ""
        self._ink = Ink()
        self.views: list[FaceView] = []
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("How it goes wrong")
        inside = QWidget()
        self._grid = QGridLayout(inside)
        self._grid.setContentsMargins(4, 4, 12, 4)
        self._grid.setSpacing(14)
        for k in range(
            ACROSS
        ):  # from the first card on as wide as with all: none is drawn anew for the next one
            self._grid.setColumnStretch(k, 1)
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setFont(sized(letters))
        self._grid.addWidget(self.words, 0, 0, 1, ACROSS)
        self.setWidget(inside)

    @property
    def cards(self) -> tuple[Card, ...]:
        return self._cards

    def show_slips(self, weave: Weave, section: str, content: str, ink: Ink) -> None:
        """content : what they are made from; what is shown already is not made again."""
        self._ink = ink
        if content == self._wanted:
            return
        self._wanted = content
        self._fill(())
        self.words.setText("Tying it wrong in every common way …")
        self._jobs.follow(
            self, self._name, partial(cards, weave, section), self._fill, self._last, self._failed
        )

    def leave(self) -> None:
        self._jobs.drop(self._name)
        self._wanted = ""

    def _last(self, found: tuple[Card, ...] | None) -> None:
        if found is None:
            return
        self._fill(found)
        many = len(found) - 1
        self.words.setText(
            "No slip was found that would end in something else."
            if not many
            else "Each slip was tied, judged and pulled tight. What falls apart is said so."
        )

    def _failed(self, error: DimLadderError) -> None:
        self._fill(())
        self.words.setText(f"This cannot be shown: {error}")

    def _fill(self, found: tuple[Card, ...]) -> None:
        self._cards = found
        for n in range(len(self.views), len(found)):
            self._add(n, found[n])
        if not found:
            self.views = []
            while self._grid.count() > 1:
                item = self._grid.takeAt(1)
                widget = item.widget() if item is not None else None
                if widget is not None:
                    widget.setParent(None)
                    widget.deleteLater()

    def _add(self, n: int, card: Card) -> None:
        box = QFrame()
        box.setObjectName("choice")
        layout = QVBoxLayout(box)
        layout.setContentsMargins(10, 10, 10, 10)
        layout.setSpacing(6)
        view = FaceView(
            self._jobs, f"{self._name}-{n}", "The right one" if card.slip is None else card.slip.name, 18.0
        )
        view.setFixedHeight(TALL)
        self.views.append(view)
        layout.addWidget(view)
        title = Label("As it should be" if card.slip is None else card.slip.name.capitalize())
        title.setFont(sized(1.05 * self._letters, True))
        title.setWordWrap(True)
        layout.addWidget(title)
        if card.slip is not None:
            tell, undo = Label(card.slip.tell), Label(card.slip.undo)
            if card.slip.falls:
                tell.setObjectName("problem")
            undo.setObjectName("quiet")
            for label in (tell, undo):
                label.setWordWrap(True)
                label.setFont(sized(self._letters))
                layout.addWidget(label)
        layout.addStretch(1)
        self._grid.addWidget(box, 1 + n // ACROSS, n % ACROSS)
        seen = card_shown(card, self._ink)
        if seen is not None:
            view.show_face(seen.make, seen.natural)
