"""The workshop's tables of sizes: a menu to choose from, and the text they are edited in."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.app.theme import mono
from dim_ladder.base import DimLadderError, InputError, format_length
from dim_ladder.publish.choices import SizeRow
from dim_ladder.shelf.sizes import HOW, SizeTable, read_tables, tables_of, tables_text, write_tables


class SizesDialog(QDialog):
    """tables : as they were kept; None until they are."""

    def __init__(self, tables: tuple[SizeTable, ...], system: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Tables of sizes")
        self.resize(420, 460)
        self.tables: tuple[SizeTable, ...] | None = None
        self.text = QPlainTextEdit(tables_text(tables, system))
        self.text.setFont(mono(1.0))
        self.text.setAccessibleName("Tables of sizes")
        self.trouble = Label(HOW)
        self.trouble.setWordWrap(True)
        self.trouble.setObjectName("quiet")
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Cancel
        )
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(self.text, 1)
        layout.addWidget(self.trouble)
        layout.addWidget(buttons)

    def accept(self) -> None:
        try:
            self.tables = read_tables(self.text.toPlainText())
        except InputError as e:
            self.trouble.setText(str(e))
            return
        super().accept()


class SizesButton(QPushButton):
    """A menu of sizes, one table after the other. whole : a table is taken, not one of its sizes. take : what is done with it."""

    def __init__(
        self, session: Session, words: str, take: Callable[[SizeTable, SizeRow | None], None], *, whole: bool = False,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(words, parent)
        self._session, self._take, self._whole = session, take, whole
        self._before: tuple[SizeTable, ...] | None = None
        self.menu_of = QMenu(self)
        self.menu_of.aboutToShow.connect(self.fill)
        self.setMenu(self.menu_of)

    @property
    def _folder(self) -> Path | None:
        return self._session.path.parent if self._session.path else None

    def tables(self) -> tuple[SizeTable, ...]:
        """Of this workshop; none where they cannot be read, and that is said."""
        try:
            return tables_of(self._folder)
        except DimLadderError as e:
            self._session.said.emit(str(e))
            return ()

    def fill(self) -> None:
        """The menu as the tables are now."""
        self.menu_of.clear()
        system = self._session.document.sheet.units
        for t in self.tables():
            if self._whole:
                self.menu_of.addAction(f"{t.name} ({t.of})").triggered.connect(partial(self._chosen, t, None))
                continue
            menu = self.menu_of.addMenu(f"{t.name} ({t.of})")
            for r in t.sizes:
                action = menu.addAction(f"{r.name}  {format_length(r.size_mm, system)}")
                action.triggered.connect(partial(self._chosen, t, r))
        self.menu_of.addSeparator()
        self.menu_of.addAction("Edit the tables…").triggered.connect(self.edit)
        if self._before is not None:
            self.menu_of.addAction("Take the last change of the tables back").triggered.connect(self.undo)

    def _chosen(self, table: SizeTable, row: SizeRow | None, _checked: bool = False) -> None:
        self._take(table, row)

    def edit(self, _checked: bool = False) -> None:
        """Let the person edit them, and keep them beside the weaves."""
        folder = self._folder
        if folder is None:
            self._session.said.emit(
                "Tables of sizes lie beside the weaves of a workshop: save this weave first (Ctrl+S)"
            )
            return
        try:
            before = tables_of(folder)
        except DimLadderError as e:
            self._session.said.emit(str(e))
            return
        asked = SizesDialog(before, self._session.document.sheet.units, self)
        if asked.exec() and asked.tables is not None and asked.tables != before:
            self._keep(asked.tables, before, folder)

    def undo(self, _checked: bool = False) -> None:
        """The tables as they were before they were edited here."""
        if self._before is not None and self._folder is not None:
            self._keep(self._before, None, self._folder)

    def _keep(
        self, tables: tuple[SizeTable, ...], before: tuple[SizeTable, ...] | None, folder: Path
    ) -> None:
        try:
            write_tables(tables, folder)
        except DimLadderError as e:
            self._session.said.emit(str(e))
            return
        self._before = before
