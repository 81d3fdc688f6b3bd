"""The book of knots: found by words or by looks, tied at a place."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QEvent, QObject, QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QKeyEvent, QPainter, QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.labels import Label
from dim_ladder.app.painting import PictureView, paint_picture
from dim_ladder.app.session import Session
from dim_ladder.app.theme import mono, sized, theme
from dim_ladder.base import InputError
from dim_ladder.commands.knotbook import KnotEntry, call_at, knot_book, sample
from dim_ladder.picture.diagrams import diagram
from dim_ladder.picture.display import Picture
from dim_ladder.words.sentences import step_sentence

ICON = QSize(64, 52)
MOST_SENTENCES = 6


class KnotBook(QDialog):
    """tie : called with the line of the script that ties the chosen knot."""

    def __init__(self, session: Session, tie: Callable[[str], None], parent: QWidget) -> None:
        super().__init__(parent)
        self._session, self._tie = session, tie
        self._tails = len(session.board_order())
        self.setWindowTitle("The book of knots")
        self.setMinimumSize(880, 600)
        self.entries = knot_book(session.weave, session.document.sheet.vocabulary)
        self.search = QLineEdit()
        self.search.setPlaceholderText("What is it called? In anybody’s words")
        self.search.setAccessibleName("Find a knot")
        self.search.installEventFilter(self)
        self.search.textChanged.connect(self._filter)
        self.list = QListWidget()
        self.list.setAccessibleName("Knots")
        self.list.setIconSize(ICON)
        self.list.currentItemChanged.connect(lambda *_: self._show())
        self.list.itemActivated.connect(lambda _: self.tie())
        self.picture = PictureView(1.6)
        self.picture.setAccessibleName("The knot, tied once")
        self.title, self.words, self.line = Label(), Label(), Label()
        self.title.setFont(sized(1.3, True))
        self.line.setFont(mono(0.95))
        for label in (self.title, self.words, self.line):
            label.setWordWrap(True)
        self.first = QSpinBox()
        self.first.setRange(1, max(self._tails, 1))
        self.first.setAccessibleName("From place")
        self.first.valueChanged.connect(lambda _: self._place())
        self.doubled = QCheckBox("&doubled")
        self.doubled.setToolTip("Two neighbours go as one wherever the knot takes one end: (1+2 | 3+4)")
        self.doubled.toggled.connect(lambda _: self._place())
        self.button = QPushButton("Tie it")
        self.button.setObjectName("next")
        self.button.setDefault(True)
        self.button.clicked.connect(self.tie)
        place = QHBoxLayout()
        place.addWidget(Label("from place"))
        place.addWidget(self.first)
        place.addWidget(self.doubled)
        place.addWidget(self.line, 1)
        place.addWidget(self.button)
        right = QVBoxLayout()
        right.addWidget(self.title)
        right.addWidget(self.picture, 1)
        right.addWidget(self.words)
        right.addLayout(place)
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.list, 1)
        layout = QHBoxLayout(self)
        layout.addLayout(left, 2)
        layout.addLayout(right, 3)
        for e in self.entries:
            ends = f"{e.ends}{' and more' if e.rest else ''} end{'s' if e.ends > 1 or e.rest else ''}"
            item = QListWidgetItem(
                f"{e.title[:1].upper()}{e.title[1:]}\n{e.name} · {ends}{' · of this weave' if e.own else ''}"
            )
            item.setData(Qt.ItemDataRole.UserRole, e.name)
            item.setSizeHint(QSize(200, ICON.height() + 8))
            self.list.addItem(item)
        self._drawn = 0
        self.list.setCurrentRow(0)
        self._icons = self.startTimer(0)
        self.search.setFocus()

    # -- looks ---------------------------------------------------------------------------------------

    def timerEvent(self, event: object) -> None:
        """One icon after the other, so that the book is open at once."""
        if self._drawn >= len(self.entries):
            self.killTimer(self._icons)
            return
        item = self.list.item(self._drawn)
        if item is not None:
            item.setIcon(self._icon(self.entries[self._drawn].name))
        self._drawn += 1

    def _picture(self, name: str, ease: bool) -> Picture:
        t = sample(self._session.weave, name)
        return diagram(t, 0, len(t.steps) - 1, theme().pen, ease=ease)

    def _icon(self, name: str) -> QIcon:
        picture = self._picture(name, False)
        out = QPixmap(ICON * 2)
        out.setDevicePixelRatio(2.0)
        out.fill(Qt.GlobalColor.transparent)
        p = QPainter(out)
        paint_picture(p, picture, QRectF(0, 0, ICON.width(), ICON.height()), 1.0)
        p.end()
        return QIcon(out)

    # -- choosing ------------------------------------------------------------------------------------

    @property
    def entry(self) -> KnotEntry | None:
        item = self.list.currentItem()
        name = item.data(Qt.ItemDataRole.UserRole) if item is not None and not item.isHidden() else None
        return next((e for e in self.entries if e.name == name), None)

    def _filter(self, text: str) -> None:
        words = text.lower().split()
        first = None
        for row, e in enumerate(self.entries):
            item = self.list.item(row)
            fits = all(w in f"{e.name} {e.also}".lower() for w in words)
            item.setHidden(not fits)
            first = row if fits and first is None else first
        self.list.setCurrentRow(-1 if first is None else first)
        self._show()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The arrows go through the list while words are typed."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step:
                row = self.list.currentRow() + step
                while 0 <= row < self.list.count() and self.list.item(row).isHidden():
                    row += step
                if 0 <= row < self.list.count():
                    self.list.setCurrentRow(row)
                return True
        return super().eventFilter(watched, event)

    def _show(self) -> None:
        e = self.entry
        if e is None:
            self.title.setText("No knot is called so")
            self.words.setText("Its own words, or paracord or macrame ones, all find it.")
            self.picture.show_picture(None)
            self._place()
            return
        self.title.setText(f"{e.title[:1].upper()}{e.title[1:]}")
        t = sample(self._session.weave, e.name)
        voice, lie = self._session.document.sheet.vocabulary, self._session.document.sheet.lie
        told = [step_sentence(t, i, voice, lie) for i in range(min(len(t.steps), MOST_SENTENCES))]
        self.words.setText("\n".join(told) + ("\n…" if len(t.steps) > MOST_SENTENCES else ""))
        self.picture.show_picture(self._picture(e.name, False))
        name = e.name
        self._session.jobs.ask(
            self,
            "knot-book",
            partial(self._picture, name, True),
            partial(self._lies, name),
            lambda _: None,
            after_ms=120,
        )
        self._place()

    def _lies(self, name: str, picture: Picture) -> None:
        """Drawn lying, where it is laid flat."""
        if self.entry is not None and self.entry.name == name:
            self.picture.show_picture(picture)

    def _place(self) -> None:
        e = self.entry
        text, fits = "", False
        if e is not None:
            try:
                text = call_at(
                    self._session.weave, e.name, self._tails, self.first.value(), self.doubled.isChecked()
                )
                fits = True
            except InputError as err:
                text = str(err)
        self.line.setText(text)
        self.line.setObjectName("" if fits else "problem")
        self.line.style().polish(self.line)
        self.button.setEnabled(fits)

    def tie(self) -> None:
        if self.button.isEnabled():
            self.accept()
            self._tie(self.line.text())
