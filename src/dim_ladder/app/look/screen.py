"""What it will look like: the section pulled tight, from the front, from behind and on edge, with its size."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import replace
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from dim_ladder.app.painting import PictureView
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized, theme
from dim_ladder.base import DimLadderError, format_length
from dim_ladder.library import cord_kind
from dim_ladder.notation import Section, Weave, write
from dim_ladder.shape import TightShape, tighten
from dim_ladder.shape.faces import SIDES, Cords, cords_of, face
from dim_ladder.trace.look import letter

SHOWN_MM = 95.0  # about so much of the band is drawn
KEPT = 8


class LookScreen(QWidget):
    """Shapes are worked out on a thread when the screen is seen, and kept by what they are made from."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._known: OrderedDict[tuple[str, str], TightShape] = OrderedDict()
        self._wanted: tuple[str, str] | None = None
        self._stop = _Stop()
        self.shape: TightShape | None = None
        self.title, self.words, self.lengths, self.honest = QLabel(), QLabel(), QLabel(), QLabel()
        self.title.setFont(sized(1.3, True))
        self.honest.setObjectName("quiet")
        for label in (self.title, self.words, self.lengths, self.honest):
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.PlainText)
        self.stop_button = QPushButton("Stop")
        self.stop_button.setToolTip("Leave it as tight as it is by now")
        self.stop_button.clicked.connect(self.stop)
        self.views = {side: PictureView(1.6) for side in SIDES}
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        for k, side in enumerate(SIDES):
            head = QLabel(side)
            head.setObjectName("quiet")
            head.setAlignment(Qt.AlignmentFlag.AlignCenter)
            self.views[side].setAccessibleName(f"The tight weave, {side}")
            grid.addWidget(self.views[side], 0, k)
            grid.addWidget(head, 1, k)
        grid.setRowStretch(0, 1)
        side_box = QWidget()
        side_box.setMinimumWidth(250)
        text = QVBoxLayout(side_box)
        text.setContentsMargins(0, 0, 0, 0)
        text.setSpacing(12)
        for widget in (self.title, self.words, self.lengths, self.honest):
            text.addWidget(widget)
        text.addWidget(self.stop_button, 0, Qt.AlignmentFlag.AlignLeft)
        text.addStretch(1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(24, 18, 24, 18)
        layout.setSpacing(24)
        layout.addLayout(grid, 3)
        layout.addWidget(side_box, 1)
        session.changed.connect(self.refresh)
        session.traced.connect(self.refresh)
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.stop()

    # -- which section -------------------------------------------------------------------------------

    def section(self) -> Section | None:
        """The one that is recorded if it is a body, else the first body."""
        s = self._session
        sections = s.weave.sections
        here = sections[s.section] if sections else None
        if here is not None and here.kind == "body":
            return here
        return next((x for x in sections if x.kind == "body"), None)

    def refresh(self) -> None:
        if not self.isVisible():
            return
        s = self._session
        section = self.section()
        if section is None or s.ladder.problems or not (section.items or section.former):
            self._nothing(
                "Record a unit first; then it can be pulled tight."
                if section
                else "There is no body section yet."
            )
            return
        key = (_content(s.weave, section), section.name)
        known = self._known.get(key)
        if known is not None:
            self._wanted = None
            self._show(s.weave, section.name, known, True)
            return
        if self._wanted == key:
            return
        self._wanted = key
        self._stop.on = True
        stop = self._stop = _Stop()
        self.title.setText(section.name)
        self.words.setText("Pulling it tight …")
        self.stop_button.show()
        weave = s.weave
        s.jobs.ask(
            "look",
            partial(_pulled, weave, section.name, stop),
            partial(self._done, key, weave),
            self._failed,
            after_ms=150,
        )

    def stop(self) -> None:
        """What is tight by now is shown."""
        self._stop.on = True

    def _done(self, key: tuple[str, str], weave: Weave, found: tuple[TightShape, bool] | None) -> None:
        self._wanted = None
        if found is None:
            return
        shape, whole = found
        if whole:
            self._known[key] = shape
            while len(self._known) > KEPT:
                self._known.popitem(last=False)
        if weave is self._session.weave:
            self._show(weave, key[1], shape, whole)

    def _failed(self, error: DimLadderError) -> None:
        self._wanted = None
        self._nothing(f"This cannot be pulled tight yet: {error}")

    def _nothing(self, why: str) -> None:
        self.shape = None
        section = self.section()
        self.title.setText(section.name if section else "")
        self.words.setText(why)
        self.lengths.setText("")
        self.honest.setText("")
        self.stop_button.hide()
        for view in self.views.values():
            view.show_picture(None)

    # -- what is shown -------------------------------------------------------------------------------

    def _show(self, weave: Weave, section: str, shape: TightShape, whole: bool) -> None:
        self.shape = shape
        self.stop_button.hide()
        d = max((cord_kind(c.kind).diameter for c in weave.cords), default=4.0)
        units = max(2, min(40, round(SHOWN_MM / (shape.pitch * d))))
        cords: Cords = cords_of(weave, section)
        for side, view in self.views.items():
            view.show_later(partial(face, shape, cords, side, units=units, ink=theme().pen))
        self.title.setText(section)
        self.words.setText(
            f"In {d:g} mm cord, drawn up: a unit is {format_length(shape.pitch * d)} long, the band "
            f"{format_length(shape.width * d)} wide and {format_length(shape.thickness * d)} thick."
        )
        lines = [
            f"{letter(i)} ({e}) takes {format_length(shape.per_end[e] * d)} a unit, {shape.per_end[e] / shape.pitch:.1f} times its length"
            for i, e in enumerate(shape.ends)
        ]
        self.lengths.setText("\n".join(lines))
        state = (
            ""
            if shape.converged
            else "Not tight yet: it would come out shorter. "
            if whole
            else "Stopped before it was tight. "
        )
        self.honest.setText(
            state
            + f"The deepest overlap left is {shape.overlap:.0%} of a cord. Round cord without friction or stretch: a test "
            "tie counts for more."
        )


class _Stop:
    """Tells a thread to leave it at what it has."""

    __slots__ = ("on",)

    def __init__(self) -> None:
        self.on = False


def _pulled(weave: Weave, section: str, stop: _Stop) -> tuple[TightShape, bool] | None:
    """The tight shape, and whether it was pulled to the end; what there is when told to stop."""
    last = None
    for shape in tighten(weave, section):
        last = shape
        if stop.on:
            return last, False
    return (last, True) if last is not None else None


def _content(weave: Weave, section: Section) -> str:
    """All that the shape of a section is made from."""
    index = weave.sections.index(section)
    return write(replace(weave, name="x", sections=weave.sections[: index + 1]))
