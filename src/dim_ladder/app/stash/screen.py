"""Stash: what cord lies on the shelf of this workshop, and what it costs."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.app.stash.prices import Prices
from dim_ladder.app.stash.state import OnShelf
from dim_ladder.app.theme import sized
from dim_ladder.base import DimLadderError, InputError, format_length, read_length, read_number, read_whole
from dim_ladder.base.colours import colour_word
from dim_ladder.base.disk import read_text, write_whole
from dim_ladder.library import cord_kind
from dim_ladder.stash import Length, Stash
from dim_ladder.stash.csvio import stash_from_csv, stash_to_csv
from dim_ladder.stash.value import free_id

COLUMNS = ("", "cord", "each", "how many", "lot", "on", "per metre", "weighs", "name")
MAX_CSV = 5_000_000


class StashScreen(OnShelf):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, parent)
        self.title = Label()
        self.title.setFont(sized(1.35, True))
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setObjectName("quiet")
        self.table = QTableWidget(0, len(COLUMNS))
        self.table.setAccessibleName("Lengths on the shelf")
        self.table.setHorizontalHeaderLabels(list(COLUMNS))
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setStretchLastSection(True)
        self.cord = QComboBox()
        self.cord.setAccessibleName("Cord")
        self.length = self._field("length, such as 2.4 m", 130)
        self.count = self._field("how many", 80)
        self.lot = self._field("lot", 80)
        self.price = self._field("price per metre", 110)
        self.spool = QCheckBox("a spool")
        self.add = QPushButton("Put it on the shelf")
        self.add.setObjectName("next")
        self.add.clicked.connect(self.take)
        self.length.returnPressed.connect(self.take)
        first, second = QHBoxLayout(), QHBoxLayout()
        for row, of in (
            (first, (self.cord, self.length, self.count)),
            (second, (self.lot, self.price, self.spool, self.add)),
        ):
            for w in of:
                row.addWidget(w)
            row.addStretch(1)
        self.remove = QPushButton("Take it off")
        self.remove.clicked.connect(self._remove)
        self.undo = QPushButton("Undo")
        self.undo.clicked.connect(self.shelf.undo)
        self.prices = QPushButton("Prices…")
        self.prices.clicked.connect(self.ask_prices)
        self.read = QPushButton("Read a table…")
        self.read.clicked.connect(partial(self.import_csv, None))
        self.write = QPushButton("Write a table…")
        self.write.clicked.connect(partial(self.export_csv, None))
        foot = QHBoxLayout()
        for w in (self.remove, self.undo, self.prices, self.read, self.write):
            foot.addWidget(w)
        foot.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(28, 20, 28, 16)
        layout.setSpacing(10)
        layout.addWidget(self.title)
        layout.addWidget(self.words)
        layout.addLayout(first)
        layout.addLayout(second)
        layout.addWidget(self.table, 1)
        layout.addLayout(foot)
        self.shelf.changed.connect(self._show)
        self.shelf.look()

    def _field(self, words: str, width: int) -> QLineEdit:
        field = QLineEdit()
        field.setPlaceholderText(words)
        field.setAccessibleName(words)
        field.setFixedWidth(width)
        return field

    def _show(self) -> None:
        lengths = self.shelf.stash.lengths
        metres = sum(x.mm * x.count for x in lengths) / 1000
        offcuts = sum(x.count for x in lengths if not x.spool)
        spools = sum(x.count for x in lengths if x.spool)
        self.title.setText(
            f"{metres:.0f} m of cord: {spools} spool{'' if spools == 1 else 's'}, {offcuts} offcut{'' if offcuts == 1 else 's'}"
            if lengths
            else "The shelf cannot be shown"
            if self.shelf.trouble
            else "Nothing is on the shelf yet"
        )
        self.words.setText(
            self.shelf.trouble
            or "Offcuts are used before spools, one lot within a piece. Lengths without a lot are never put together in one piece."
        )
        now = self.cord.currentData()
        self.cord.clear()
        cords = dict.fromkeys(
            [(c.kind, c.colour.lower()) for c in self._session.weave.cords]
            + [(x.kind, x.colour) for x in lengths]
        )
        for kind, colour in cords:
            self.cord.addItem(f"{colour_word(colour)}, {cord_kind(kind).words}", (kind, colour))
            self.cord.setItemData(self.cord.count() - 1, QColor(colour), Qt.ItemDataRole.DecorationRole)
        at = self.cord.findData(now)
        self.cord.setCurrentIndex(max(at, 0))
        self.table.setRowCount(len(lengths))
        for k, x in enumerate(lengths):
            grams = (x.grams or cord_kind(x.kind).grams_per_metre) * x.mm / 1000
            cells = (
                "", f"{colour_word(x.colour)}, {cord_kind(x.kind).words}", format_length(x.mm), str(x.count), x.lot,
                "spool" if x.spool else "offcut", "" if x.per_metre is None else f"{x.per_metre:.2f} {self.shelf.stash.currency}".strip(),
                f"{grams:.0f} g", x.id,
            )  # fmt: skip
            for n, text in enumerate(cells):
                item = QTableWidgetItem(text)
                if n == 0:
                    item.setBackground(QColor(x.colour))
                self.table.setItem(k, n, item)
        self.undo.setEnabled(self.shelf.can_undo)
        usable = not self.shelf.trouble
        for w in (self.add, self.read, self.prices):
            w.setEnabled(usable)

    def take(self) -> None:
        """The length that is typed, on to the shelf."""
        data = self.cord.currentData()
        if data is None:
            self._session.said.emit("Choose a cord first")
            return
        kind, colour = data
        stash = self.shelf.stash
        try:
            length = Length(
                id=free_id(
                    {x.id for x in stash.lengths}, f"{colour_word(colour)} {cord_kind(kind).words}"[:60]
                ),
                kind=kind,
                colour=colour,
                mm=read_length(self.length.text(), "cm", minimum=10, maximum=2_000_000),
                count=read_whole(self.count.text(), "a number of lengths", "3", maximum=1000)
                if self.count.text().strip()
                else 1,
                lot=self.lot.text().strip(),
                spool=self.spool.isChecked(),
                per_metre=read_number(self.price.text(), "a price per metre", "0.35", maximum=1e6)
                if self.price.text().strip()
                else None,
            )
        except InputError as e:
            self._session.said.emit(str(e))
            return
        except ValidationError as e:
            self._session.said.emit(f"The shelf cannot take this: {e.errors()[0]['msg']}")
            return
        if self._put((*stash.lengths, length)):
            self.length.clear()
            self.count.clear()
            self.spool.setChecked(False)  # one spool, then its ends
            self.length.setFocus()

    def _put(self, lengths: tuple[Length, ...]) -> bool:
        try:
            stash = Stash.model_validate(
                {**self.shelf.stash.model_dump(), "lengths": [x.model_dump() for x in lengths]}
            )
        except ValidationError as e:
            self._session.said.emit(f"The shelf cannot take this: {e.errors()[0]['msg']}")
            return False
        return self.shelf.put(stash)

    def _remove(self) -> None:
        rows = {i.row() for i in self.table.selectedIndexes()}
        if rows:
            self._put(tuple(x for k, x in enumerate(self.shelf.stash.lengths) if k not in rows))

    def ask_prices(self, _checked: bool = False) -> None:
        """Prices of fastenings, the hour, what is kept."""
        asked = Prices(self.shelf.stash, self)
        if asked.exec() and asked.result_stash is not None and asked.result_stash != self.shelf.stash:
            self.shelf.put(asked.result_stash)

    def import_csv(self, path: Path | None, _checked: bool = False) -> None:
        """Lengths of a table are added; nothing is where a row cannot be read."""
        if path is None:
            name, _ = QFileDialog.getOpenFileName(self, "Read a table of lengths", "", "Tables (*.csv)")
            if not name:
                return
            path = Path(name)
        try:
            found = stash_from_csv(
                read_text(path, MAX_CSV, "a table"), [x.id for x in self.shelf.stash.lengths]
            )
        except DimLadderError as e:
            self._session.said.emit(str(e))
            return
        if self._put((*self.shelf.stash.lengths, *found)):
            self._session.said.emit(f"{len(found)} lengths were put on the shelf")

    def export_csv(self, path: Path | None, _checked: bool = False) -> None:
        if path is None:
            name, _ = QFileDialog.getSaveFileName(
                self, "Write a table of lengths", "stash.csv", "Tables (*.csv)"
            )
            if not name:
                return
            path = Path(name)
        try:
            write_whole(path, stash_to_csv(self.shelf.stash.lengths))
        except DimLadderError as e:
            self._session.said.emit(str(e))
            return
        self._session.said.emit(f"Written: {path.name}")
