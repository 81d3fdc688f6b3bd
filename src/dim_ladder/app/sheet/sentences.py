"""The words of the steps, to be put in one's own: what is kept, and what no longer fits because its step has changed."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QHBoxLayout,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized
from dim_ladder.commands import SetSheet
from dim_ladder.publish import Sheet
from dim_ladder.publish.reworded import Flagged, with_words

HIGH = 66


class Sentence(QPlainTextEdit):
    """Taken when it is left."""

    left = Signal(str)

    def __init__(self, text: str, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setPlainText(text)
        self.setAccessibleName(name)
        self.setFixedHeight(HIGH)
        self.setTabChangesFocus(True)
        self._was = text

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.take()

    def take(self) -> None:
        text = self.toPlainText()
        if text != self._was:
            self._was = text
            self.left.emit(text)


class Sentences(QDialog):
    """Every change is an edit of the weave and can be undone. fields : by section and step."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self._sheet: Sheet | None = None
        self.fields: dict[tuple[str, int], Sentence] = {}
        self.flags: list[QPushButton] = []
        self.setWindowTitle("Words of the steps")
        self.setMinimumSize(760, 600)
        self._rows = QVBoxLayout()
        self._scroll = QScrollArea()
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        hint = Label(
            "Your words stand on the sheet in this vocabulary and lie until their step changes. Empty a field, and the program speaks again."
        )
        hint.setObjectName("quiet")
        hint.setWordWrap(True)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        foot = QHBoxLayout()
        foot.addWidget(hint, 1)
        foot.addWidget(close)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 16)
        layout.addWidget(self._scroll, 1)
        layout.addLayout(foot)

    def show_sheet(self, sheet: Sheet) -> None:
        """What is typed in a field that has the focus stays."""
        said = [(p.name, s.number, s.told.text) for p in sheet.sections for s in p.steps]
        before = self._sheet and [
            (p.name, s.number, s.told.text) for p in self._sheet.sections for s in p.steps
        ]
        flagged = self._sheet.flagged if self._sheet else None
        self._sheet = sheet
        if said == before and flagged == sheet.flagged:
            return
        focus = next((k for k, f in self.fields.items() if f.hasFocus()), None)
        at = self._scroll.verticalScrollBar().value()
        inside = QWidget()
        self._rows = QVBoxLayout(inside)
        self._rows.setSpacing(10)
        self.fields, self.flags = {}, []
        for flag in sheet.flagged:
            self._flag(flag)
        for part in sheet.sections:
            title = Label(part.title)
            title.setFont(sized(1.1, True))
            self._rows.addWidget(title)
            for n, step in enumerate(part.steps, 1):
                self._step(part.name, n, step.number, step.heading, step.told.text, step.said)
        self._rows.addStretch(1)
        self._scroll.setWidget(inside)
        self._scroll.verticalScrollBar().setValue(at)
        if focus in self.fields:
            self.fields[focus].setFocus()

    def _step(self, section: str, n: int, number: int, heading: str, text: str, said: str) -> None:
        if heading:
            self._rows.addWidget(Label(f"{number}  {heading}"))
        row = QHBoxLayout()
        if not heading:
            mark = Label(str(number))
            mark.setFixedWidth(28)
            row.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
        field = Sentence(text, f"Words of step {number}")
        field.left.connect(partial(self._reword, section, n, said or text))
        row.addWidget(field, 1)
        self.fields[section, n] = field
        self._rows.addLayout(row)
        if said:
            program = Label(f"The program says: {said}")
            program.setObjectName("quiet")
            program.setWordWrap(True)
            self._rows.addWidget(program)

    def _flag(self, flag: Flagged) -> None:
        own = flag.own
        gone = "" if flag.now else ", which is gone"
        words = Label(
            f"Step {own.step} of {own.section}{gone} is not the step any more that you wrote this for: “{own.text}”"
            + (f" Now it is: {flag.now}" if flag.now else "")
        )
        words.setObjectName("problem")
        words.setWordWrap(True)
        self._rows.addWidget(words)
        row = QHBoxLayout()
        if flag.now:
            keep = QPushButton("My words fit this step too")
            keep.clicked.connect(partial(self._keep, flag))
            row.addWidget(keep)
            self.flags.append(keep)
        drop = QPushButton("Let my words go")
        drop.clicked.connect(partial(self._drop, flag))
        row.addWidget(drop)
        row.addStretch(1)
        self.flags.append(drop)
        self._rows.addLayout(row)

    def _reword(self, section: str, n: int, was: str, text: str) -> None:
        self._session.do(SetSheet(sheet=with_words(self._session.document.sheet, section, n, was, text)))

    def _keep(self, flag: Flagged, _checked: bool = False) -> None:
        own = flag.own
        bare = with_words(self._session.document.sheet, own.section, own.step, own.was, "")
        self._session.do(SetSheet(sheet=with_words(bare, own.section, own.step, flag.now, own.text)))

    def _drop(self, flag: Flagged, _checked: bool = False) -> None:
        own = flag.own
        self._session.do(
            SetSheet(sheet=with_words(self._session.document.sheet, own.section, own.step, own.was, ""))
        )
