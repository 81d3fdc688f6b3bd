"""The tight weave beside the recorder: front and back of the section as it is by now, rough at once, then tighter."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QHideEvent, QMouseEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from dim_ladder.app.labels import Label
from dim_ladder.app.look.faceview import FaceView
from dim_ladder.app.look.shown import shown, units_for
from dim_ladder.app.look.tightener import Tightener
from dim_ladder.app.session import Session
from dim_ladder.app.theme import theme
from dim_ladder.base import format_length
from dim_ladder.scale.girth import former_mm
from dim_ladder.trace import Trace

QUIET_MS = 450  # after the last key, before anything is pulled: keys come first
SHOWN_MM = 48.0
TALL = 200
MOST = 160  # crossings of a unit, beyond which it would take too long beside the recorder


class TightSide(QWidget):
    """asked : to be seen large. slips : how it goes wrong."""

    asked = Signal()
    slips = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._drawn: object = None
        self.tightener = Tightener(session.jobs, "side", self)
        self.tightener.answered.connect(self._answered)
        self.views = {
            s: FaceView(session.jobs, f"side-{s}", f"Pulled tight, {s}", 16.0) for s in ("front", "back")
        }
        self.words = Label()
        self.words.setObjectName("quiet")
        self.words.setWordWrap(True)
        row = QHBoxLayout()
        row.setSpacing(8)
        for view in self.views.values():
            view.setFixedHeight(TALL)
            view.setMinimumWidth(40)
            row.addWidget(view)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(row)
        layout.addWidget(self.words)
        self.wrong = QPushButton("How it goes wrong")
        self.wrong.setObjectName("plain")
        self.wrong.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the keys stay with the board
        self.wrong.setToolTip("The common slips next to the right one, how to tell them and what to undo")
        self.wrong.clicked.connect(self.slips)
        self.wrong.hide()
        layout.addWidget(self.wrong, 0, Qt.AlignmentFlag.AlignLeft)
        session.changed.connect(self.refresh)
        session.traced.connect(self.refresh)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.tightener.leave()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.asked.emit()

    def refresh(self) -> None:
        s = self._session
        if not self.isVisible() or not s.settings.tight:
            self.tightener.leave()
            self._nothing()
            return
        if s.draft is not None or s.traces.busy:
            return
        section = s.weave.sections[s.section] if s.weave.sections else None
        if section is None or s.ladder.problems or not (section.items or section.former):
            self.tightener.leave()
            self._nothing()
            return
        if len(s.ladder.crossings) > MOST and sum(_crossings(s.ladder, s.section)) > MOST:
            self.tightener.leave()
            self._nothing()
            self.words.setText("A long unit: Ctrl+5 pulls it tight")
            return
        self.tightener.ask(s.weave, section, former_mm(s.document.plan, section), after_ms=QUIET_MS)
        self._answered()

    def _nothing(self) -> None:
        """No picture, for now."""
        self._drawn = None
        self.words.setText("")
        self.wrong.hide()
        for view in self.views.values():
            view.show_face(None)
            view.setVisible(False)

    def _answered(self) -> None:
        s = self._session
        answer = self.tightener.answer
        if answer.why or answer.shape is None or not s.weave.sections:
            self._nothing()
            return
        shape, cords = answer.shape, answer.cords
        now = (id(shape), cords, theme().pen)
        mm = shape.unit_mm
        size = (
            f"{format_length(shape.width * mm)} across, {format_length(shape.pitch * mm)} high"
            if shape.kind == "closed"
            else f"{format_length(shape.pitch * mm)} a unit, {format_length(shape.width * mm)} wide"
        )
        self.words.setText(f"Front and back, pulled tight: {size}" + ("" if answer.done else " …"))
        self.wrong.setVisible(shape.kind != "closed")
        if now == self._drawn:
            return
        keep = self._drawn is not None
        self._drawn = now
        for side, view in self.views.items():
            view.setVisible(True)
            seen = shown(shape, cords, side, units_for(shape, SHOWN_MM, 16), theme().pen)
            view.show_face(seen.make, seen.natural, keep=keep)


def _crossings(ladder: Trace, section: int) -> Iterator[int]:
    """Of every step of a section."""
    return (r.stop - r.start for r in ladder.steps if r.op.section == section and not r.op.unit)
