"""What a designer adds to the sheet: words of their own, a photo, cords that a reader may choose instead."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMenu, QPushButton, QVBoxLayout, QWidget

from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.app.sheet.sentences import Sentences
from dim_ladder.base import DimLadderError
from dim_ladder.base.disk import read_whole
from dim_ladder.commands import SetPhoto, SetSheet
from dim_ladder.library.kinds import all_kinds
from dim_ladder.publish import Sheet
from dim_ladder.publish.photo import MOST_BYTES, photo_jpeg, photo_text

MOST_KINDS = 4


class Extras(QWidget):
    """words, photo, cords : the buttons. sentences : the dialog, once it was opened."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._sheet: Sheet | None = None
        self.sentences: Sentences | None = None
        self.words = QPushButton("Words of the steps…")
        self.words.setToolTip("Say a step in your own words; they are named here when the step changes")
        self.words.clicked.connect(self.open_words)
        self.flagged = Label()
        self.flagged.setObjectName("problem")
        self.flagged.setWordWrap(True)
        self.flagged.hide()
        self.photo = QPushButton("Photo…")
        self.photo.setToolTip(
            "A picture of your finished piece. It is written anew: only what is seen goes along"
        )
        self.photo.clicked.connect(self._photo)
        self.cords = QPushButton("Other cords…")
        self.cords.setToolTip(
            "Cords in which a reader of the page may tie it instead: counts and cuts follow (at most four)"
        )
        self.menu = QMenu(self.cords)
        self.menu.aboutToShow.connect(self._fill)
        self.cords.setMenu(self.menu)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        for w in (self.words, self.flagged, self.photo, self.cords):
            column.addWidget(w)
        session.changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        doc = self._session.document
        self.photo.setText("Take the photo off" if doc.photo else "Photo…")
        many = len(doc.sheet.kinds)
        self.cords.setText(f"Other cords: {many}" if many else "Other cords…")

    def show_sheet(self, sheet: Sheet) -> None:
        """The sheet as it is now; called whenever it was made anew."""
        self._sheet = sheet
        n = len(sheet.flagged)
        self.flagged.setVisible(bool(n))
        self.flagged.setText(
            f"{n} {'step has' if n == 1 else 'steps have'} changed under your words: look at Words of the steps"
        )
        if self.sentences is not None:
            self.sentences.show_sheet(sheet)

    def open_words(self) -> None:
        if self._sheet is None:
            self._session.said.emit("There is no sheet yet whose words could be changed")
            return
        if self.sentences is None:
            self.sentences = Sentences(self._session, self.window())
        self.sentences.show_sheet(self._sheet)
        self.sentences.show()

    # -- photo -------------------------------------------------------------------------------------

    def _photo(self) -> None:
        if self._session.document.photo:
            self._session.do(SetPhoto(photo=""))
            return
        name, _ = QFileDialog.getOpenFileName(
            self, "Photo of the finished piece", "", "Pictures (*.jpg *.jpeg *.png *.webp)"
        )
        if name:
            self.take_photo(Path(name))

    def take_photo(self, path: Path) -> None:
        """Read and written anew on a thread; what is no picture is said."""
        self._session.jobs.ask(
            self,
            "photo",
            lambda: photo_text(photo_jpeg(read_whole(path, MOST_BYTES, "a photo"), path.name)),
            self._taken,
            self._refused,
        )

    def _taken(self, text: str) -> None:
        self._session.do(SetPhoto(photo=text))

    def _refused(self, e: DimLadderError) -> None:
        self._session.said.emit(str(e))

    # -- cords -------------------------------------------------------------------------------------

    def _fill(self) -> None:
        self.menu.clear()
        chosen = self._session.document.sheet.kinds
        own = {c.kind for c in self._session.weave.cords}
        for name, kind in all_kinds().items():
            if name in own and name not in chosen:
                continue
            action = self.menu.addAction(kind.words)
            action.setCheckable(True)
            action.setChecked(name in chosen)
            action.setEnabled(name in chosen or len(chosen) < MOST_KINDS)
            action.triggered.connect(partial(self.choose_kind, name))

    def choose_kind(self, name: str, _checked: bool = False) -> None:
        sheet = self._session.document.sheet
        kinds = tuple(k for k in sheet.kinds if k != name) if name in sheet.kinds else (*sheet.kinds, name)
        self._session.do(SetSheet(sheet=sheet.model_copy(update={"kinds": kinds})))
