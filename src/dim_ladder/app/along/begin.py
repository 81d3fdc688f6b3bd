"""Before the first step: how many units to tie, or on from where one was."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QSpinBox, QVBoxLayout, QWidget

from dim_ladder.app.fields import clear
from dim_ladder.app.labels import Label
from dim_ladder.app.painting import PictureView
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized, theme
from dim_ladder.base import InputError
from dim_ladder.notation import Section, Weave
from dim_ladder.picture.diagrams import diagram
from dim_ladder.scale import units_for

TEST_UNITS = 6  # a test tie, where no size is planned


class BeginPage(QWidget):
    """anew : units by section."""

    go_on = Signal()
    anew = Signal(dict)
    refused = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counts: dict[str, QSpinBox] = {}
        across = QHBoxLayout(self)
        across.setContentsMargins(80, 60, 60, 60)
        across.setSpacing(40)
        self._layout = QVBoxLayout()
        self.picture = PictureView(2.2)
        across.addLayout(self._layout, 3)
        across.addWidget(self.picture, 2)
        self._layout.setSpacing(14)
        self.words = Label()
        self.words.setWordWrap(True)

    def say(self, text: str) -> None:
        self.words.setText(text)

    def press(self) -> None:
        """Return: the button that has the focus, else the one that begins."""
        focused = self.focusWidget()
        (focused if isinstance(focused, QPushButton) else self.begin_button).click()

    def offer(self, session: Session, place: str, changed: bool) -> None:
        """place : where the maker was, "" for nowhere. changed : the weave is another one since."""
        clear(self._layout)
        weave = session.weave
        shown = session.ladder
        unit = [
            i
            for i, r in enumerate(shown.steps)
            if r.op.section == session.section and r.hops and not r.op.unit
        ]
        if unit:
            self.picture.show_later(partial(diagram, shown, unit[0], min(unit[-1], unit[0] + 7), theme().pen))
        title = Label(f"Tie {weave.name} along")
        title.setFont(sized(2.2, True))
        self._layout.addStretch(1)
        self._layout.addWidget(title)
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setFont(sized(1.3))
        self.words.setText(
            "The weave has been changed since it was last tied along, so it begins anew."
            if changed
            else "One step at a time, large enough to read from the other end of the table. Any key, a pedal or a click goes on."
        )
        self._layout.addWidget(self.words)
        if place:
            on = QPushButton(f"Go on at {place}")
            on.setObjectName("largenext")
            on.setFont(sized(1.4, True))
            on.clicked.connect(self.go_on)
            self._layout.addWidget(on, 0, Qt.AlignmentFlag.AlignLeft)
            on.setFocus()
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 10, 0, 0)
        grid.setHorizontalSpacing(14)
        grid.setColumnStretch(2, 1)
        self.counts = {}
        planned = _planned(session)
        for row, section in enumerate(s for s in weave.sections if asked(s)):
            label = Label(f"units of {section.name}")
            label.setFont(sized(1.3))
            spin = QSpinBox()
            spin.setRange(1, 1000)
            spin.setValue(planned.get(section.name, TEST_UNITS))
            spin.setFont(sized(1.3))
            spin.setAccessibleName(f"units of {section.name}")
            self.counts[section.name] = spin
            grid.addWidget(label, row, 0)
            grid.addWidget(spin, row, 1)
        self._layout.addWidget(box)
        row_box = QWidget()
        buttons = QHBoxLayout(row_box)
        buttons.setContentsMargins(0, 6, 0, 0)
        anew = QPushButton("Begin anew" if place else "Begin")
        anew.setObjectName("large" if place else "largenext")
        anew.setFont(sized(1.4, not place))
        anew.clicked.connect(lambda: self.anew.emit({n: s.value() for n, s in self.counts.items()}))
        leave = QPushButton("Not now")
        leave.setObjectName("plain")
        leave.setFont(sized(1.2))
        leave.clicked.connect(self.refused)
        buttons.addWidget(anew)
        buttons.addWidget(leave)
        buttons.addStretch(1)
        self._layout.addWidget(row_box)
        self._layout.addStretch(2)
        self.begin_button = anew
        if not place:
            anew.setFocus()


def asked(section: Section) -> bool:
    """Whether it is up to the maker how often a section is worked."""
    return section.count.kind == "fit" and section.former is None and bool(section.items)


def _planned(session: Session) -> dict[str, int]:
    """Units by section as the plan has them, once the weave was tied; nothing where that is not known."""
    weave: Weave = session.weave
    c = session.calibration
    if c is None or not c.ties or not set(weave.hang.ends) <= set(c.prior.role_of):
        return {}  # not known, or that of the weave before the last edit
    try:
        return dict(units_for(weave, c, session.document.plan))
    except InputError:
        return {}
