"""The sheet: the preview is the sheet itself, as it will be printed."""

from __future__ import annotations

import re
from functools import partial
from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.app.sheet.extras import Extras
from dim_ladder.app.sheet.pages import PagesView
from dim_ladder.app.sizes import SizesButton
from dim_ladder.app.theme import sized
from dim_ladder.app.typing import keep_typing
from dim_ladder.base import DimLadderError, InputError, read_length, typed_length
from dim_ladder.calibrate import Calibration
from dim_ladder.commands import SetSheet
from dim_ladder.commands.sheets import sheet_of, write_sheet
from dim_ladder.publish import Sheet, SheetChoices, SizeRow, to_pdf
from dim_ladder.publish.raster import PageImage, draw_pages
from dim_ladder.publish.travel import CARRIED
from dim_ladder.shelf import Document
from dim_ladder.shelf.sizes import SizeTable

VOICES = (("plain", "plain words"), ("paracord", "paracord words"), ("macrame", "macrame words"))
LIES = (("hanging", "hangs from above"), ("table", "lies on a table"))
UNITS = (("metric", "metric"), ("imperial", "feet and inches"))
TEXTS = (
    ("designer", "Designed by"),
    ("licence", "Licence"),
    ("date", "Date"),
    ("purpose", "What it is for"),
    ("care", "Care"),
)


class SheetScreen(QWidget):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._stale = True
        self.published: list[Path] = []
        self.pdf = b""
        self.view = PagesView(self)
        self.view.setAccessibleName("Preview of the sheet")
        self.trouble = Label()
        self.trouble.setObjectName("problem")
        self.trouble.setWordWrap(True)
        self.trouble.hide()
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.addWidget(self.trouble)
        left.addWidget(self.view, 1)

        panel = QWidget()
        side = QVBoxLayout(panel)
        side.setContentsMargins(20, 16, 16, 16)
        side.setSpacing(8)
        title = Label("The sheet")
        title.setFont(sized(1.15, True))
        side.addWidget(title)
        self.voices = self._choice(side, "Words", VOICES, "vocabulary")
        self.lies = self._choice(side, "The work", LIES, "lie")
        self.units = self._choice(side, "Lengths", UNITS, "units")
        self.texts: dict[str, QLineEdit] = {}
        for key, words in TEXTS:
            side.addWidget(Label(words))
            edit = QLineEdit()
            edit.setAccessibleName(words)
            edit.setMaxLength(1000 if key in ("purpose", "care") else 32 if key == "date" else 200)
            edit.editingFinished.connect(partial(self._text, key))
            keep_typing(session, edit, f"sheet {key}")
            self.texts[key] = edit
            side.addWidget(edit)
        side.addWidget(Label("Sizes"))
        self.sizes = QLineEdit()
        self.sizes.setAccessibleName("Sizes")
        self.sizes.setToolTip("Names and sizes, such as: S 15 cm, M 17 cm, L 19 cm")
        self.sizes.editingFinished.connect(self._sizes)
        keep_typing(session, self.sizes, "sheet sizes")
        self.tables = SizesButton(session, "From a table", self._of_table, whole=True)
        row = QHBoxLayout()
        row.addWidget(self.sizes, 1)
        row.addWidget(self.tables)
        side.addLayout(row)
        side.addSpacing(6)
        self.extras = Extras(session)
        side.addWidget(self.extras)
        side.addStretch(1)
        self.publish_button = QPushButton("Publish…")
        self.publish_button.setObjectName("next")
        self.publish_button.setToolTip("Write the sheet as HTML and PDF into a folder (Ctrl+P)")
        self.publish_button.clicked.connect(self.publish)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what is in it has the focus
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(panel)
        right = QFrame()
        right.setObjectName("side")
        right.setFixedWidth(292)
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(scroll, 1)
        carry = QVBoxLayout()
        carry.setContentsMargins(20, 10, 16, 0)
        carry.setSpacing(3)
        carry.addWidget(Label("Goes along inside the page"))
        self.carried: dict[str, QCheckBox] = {}
        for key, words in CARRIED.items():
            box = QCheckBox(words)
            box.setToolTip(
                "The page can be opened as a weave again: with steps, cords and sizes. More only where you say so"
            )
            box.clicked.connect(self._carry)
            self.carried[key] = box
            carry.addWidget(box)
        never = Label("Photo files, places of files, unread typing: never.")
        never.setObjectName("quiet")
        never.setWordWrap(True)
        carry.addWidget(never)
        column.addLayout(carry)
        foot = QHBoxLayout()
        foot.setContentsMargins(20, 6, 16, 14)
        foot.addWidget(self.publish_button)
        column.addLayout(foot)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(left, 1)
        layout.addWidget(right)
        self._resized = QTimer(self)
        self._resized.setSingleShot(True)
        self._resized.setInterval(120)
        self._resized.timeout.connect(self.render_preview)
        session.changed.connect(self._outdate)
        session.calibrated.connect(self._refitted)
        self._outdate()

    def _choice(
        self, side: QVBoxLayout, words: str, options: tuple[tuple[str, str], ...], key: str
    ) -> QButtonGroup:
        side.addWidget(Label(words))
        group = QButtonGroup(self)
        row = QVBoxLayout()
        row.setSpacing(4)
        for value, text in options:
            button = QPushButton(text)
            button.setCheckable(True)
            button.setProperty("value", value)
            button.clicked.connect(lambda _=False, v=value: self._change(**{key: v}))
            group.addButton(button)
            row.addWidget(button)
        side.addLayout(row)
        return group

    # -- edits -------------------------------------------------------------------------------------

    def _change(self, **changes: object) -> None:
        old = self._session.document.sheet
        try:
            new = SheetChoices.model_validate({**old.model_dump(), **changes})
        except ValidationError as e:
            self._session.said.emit(f"The sheet cannot take this: {e.errors()[0]['msg']}")
            return
        if new != old:
            self._session.do(SetSheet(sheet=new))

    def _carry(self, _checked: bool = False) -> None:
        self._change(carry=tuple(k for k, box in self.carried.items() if box.isChecked()))

    def _text(self, key: str) -> None:
        self._change(**{key: self.texts[key].text().strip()})

    def _sizes(self) -> None:
        if self.sizes.text() == self._sizes_text():
            return
        try:
            self._change(sizes=tuple(row.model_dump() for row in read_sizes(self.sizes.text())))
        except InputError as e:
            self._session.said.emit(str(e))

    def _of_table(self, table: SizeTable, _row: SizeRow | None) -> None:
        """All sizes of a table on the sheet."""
        target = self._session.document.plan.target
        if table.of != target:
            word = "worn round a body" if target == "girth" else "made to a length"
            self._session.said.emit(
                f"{table.name} are {table.of}s, and this piece is {word}. Change that on Cut first"
            )
            return
        self._change(sizes=tuple(r.model_dump() for r in table.sizes))

    def _sizes_text(self) -> str:
        sheet = self._session.document.sheet
        return ", ".join(f"{r.name} {typed_length(r.size_mm, sheet.units)}" for r in sheet.sizes)

    # -- preview -----------------------------------------------------------------------------------

    def _outdate(self) -> None:
        self._stale = True
        sheet = self._session.document.sheet
        for group, value in (
            (self.voices, sheet.vocabulary),
            (self.lies, sheet.lie),
            (self.units, sheet.units),
        ):
            for button in group.buttons():
                button.setChecked(button.property("value") == value)
        for key, edit in self.texts.items():
            _show(edit, getattr(sheet, key))
        for key, box in self.carried.items():
            box.setChecked(key in sheet.carry)
        self.carried["names"].setEnabled("ties" in sheet.carry)
        _show(self.sizes, self._sizes_text())
        if self.isVisible():
            self.render_preview()

    def _refitted(self) -> None:
        """The cuts on it may be others."""
        self._stale = True
        if self.isVisible():
            self.render_preview()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._stale:
            self.render_preview()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.isVisible():
            self._resized.start()

    def render_preview(self) -> None:
        """Make the PDF and its pages on a thread and show them."""
        document, calibration, width = self._session.document, self._known(), self.view.wanted_width()
        self._stale = False
        self._session.jobs.ask(
            self,
            "preview-sheet",
            lambda: _preview(document, calibration, width),
            self._rendered,
            self._failed,
        )

    def _known(self) -> Calibration | None:
        """The calibration that the other screens show: the sheet says the same numbers."""
        c = self._session.calibration
        return c if c is not None and c.is_of(self._session.weave) else None

    def _rendered(self, made: tuple[Sheet, bytes, tuple[PageImage, ...]]) -> None:
        sheet, self.pdf, pages = made
        self.view.show_pages(pages)
        self.extras.show_sheet(sheet)
        self.trouble.hide()
        self.publish_button.setEnabled(True)

    def _failed(self, e: DimLadderError) -> None:
        self.pdf = b""
        self.view.show_pages(())
        self.trouble.setText(f"No sheet yet: {e}")
        self.trouble.show()
        self.publish_button.setEnabled(False)

    # -- publish -----------------------------------------------------------------------------------

    def publish(self, folder: Path | None = None) -> None:
        """Write HTML, PDF and the cut table into a folder; asks for it when none is given."""
        if self._session.document.draft:
            self._session.said.emit(
                "The script has a slip, and the sheet would be of the weave before it. Mend it or undo it (Ctrl+Z), then publish"
            )
            return
        if folder is None:
            start = str(self._session.path.parent if self._session.path else Path.home())
            chosen = QFileDialog.getExistingDirectory(self, "Publish the sheet into", start)
            if not chosen:
                return
            folder = Path(chosen)
        document, calibration, target = self._session.document, self._known(), folder
        self._session.said.emit("Publishing…")
        self._session.jobs.ask(
            self,
            "publish",
            lambda: _write(document, calibration, target),
            self._written,
            lambda e: self._session.said.emit(str(e)),
        )

    def _written(self, files: list[Path]) -> None:
        self.published = files
        names = ", ".join(f.name for f in files)
        self._session.said.emit(f"Published in {files[0].parent}: {names}")


def _preview(
    document: Document, calibration: Calibration | None, width: int
) -> tuple[Sheet, bytes, tuple[PageImage, ...]]:
    sheet = sheet_of(document, calibration)
    pdf = to_pdf(sheet)
    return sheet, pdf, draw_pages(pdf, width)


def _write(document: Document, calibration: Calibration | None, folder: Path) -> list[Path]:
    return write_sheet(document, folder, ("html", "pdf", "csv"), calibration=calibration)


def read_sizes(text: str) -> tuple[SizeRow, ...]:
    """Sizes as typed: "S 15 cm, M 17 cm"."""
    rows = []
    for part in text.split(", "):
        found = re.fullmatch(r"(\S.*?)\s+(\d.*)", part.strip())
        if not found:
            raise InputError(f"“{part.strip()}” is not a size", "Write a name and a length: S 15 cm, M 17 cm")
        name, length = found.groups()
        rows.append(SizeRow(name=name[:40], size_mm=read_length(length, "cm", minimum=1, maximum=20_000)))
    return tuple(rows)


def _show(edit: QLineEdit, text: str) -> None:
    """What is being typed is left alone."""
    if not (edit.hasFocus() and edit.isModified()) and edit.text() != text:
        edit.setText(text)
