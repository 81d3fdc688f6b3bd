"""What another cut would do, cord by cord, and what it can still become; where joins are hidden."""

from __future__ import annotations

import contextlib
from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QLabel, QSpinBox, QVBoxLayout, QWidget

from dim_ladder.app.fields import Field, clear, length_field, named
from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.base import InputError
from dim_ladder.commands.setup import JoinCords
from dim_ladder.scale import Piece
from dim_ladder.scale.cuts import given_cut, given_words
from dim_ladder.scale.girth import for_size
from dim_ladder.scale.joining import join_behind, joined_cords, unit_of_join
from dim_ladder.scale.reach import Reach, largest_size, reach_words


class Asks(QWidget):
    """given : by cord, a cut that is asked about, and what it would do. joins : by cord, behind which unit its join lies."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._piece: Piece | None = None
        self.given: dict[str, tuple[Field, QLabel]] = {}
        self.joins: dict[str, QSpinBox] = {}
        self._rows, self._joins = QVBoxLayout(), QVBoxLayout()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addLayout(self._joins)
        layout.addLayout(self._rows)

    def show_piece(self, piece: Piece | None) -> None:
        """A field for every cord, and where joins lie."""
        self._piece = piece
        self._show_joins(piece)
        cords = tuple(c.cord for c in piece.cuts) if piece else ()
        if tuple(self.given) != cords:
            clear(self._rows)
            self.given = {}
            for cord in cords:
                self._rows.addWidget(self._row(cord))
        self._answer()

    def _show_joins(self, piece: Piece | None) -> None:
        s, c = self._session, self._session.calibration
        found: dict[tuple[str, str], tuple[int, int]] = {}
        if piece is not None and c is not None and piece.pitch:
            for cord, other in joined_cords(s.weave).items():
                with contextlib.suppress(InputError, StopIteration):
                    found[cord, other] = unit_of_join(s.weave, c, cord, piece.counts)
        if list(self.joins) != [cord for cord, _ in found]:
            clear(self._joins)
            self.joins = {}
            for cord, other in found:
                self._joins.addWidget(self._join_row(cord, other))
        for (cord, _), (now, most) in found.items():
            number = self.joins[cord]
            number.blockSignals(True)
            number.setRange(0, most)
            number.setValue(now)
            number.blockSignals(False)

    def _join_row(self, cord: str, other: str) -> QWidget:
        number = QSpinBox()
        number.setPrefix("unit ")
        number.setSpecialValueText("the start")
        number.setKeyboardTracking(False)
        named(number, f"Where the join of {cord} and {other} lies")
        number.valueChanged.connect(partial(self._join, cord, other))
        self.joins[cord] = number
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(Label(f"The join of {cord} and {other} is hidden in"))
        line.addWidget(number)
        line.addStretch(1)
        return row

    def _join(self, cord: str, other: str, unit: int) -> None:
        c, piece = self._session.calibration, self._piece
        if c is None or piece is None:
            return
        try:
            mm = join_behind(self._session.weave, c, cord, unit, piece.counts)
        except InputError as e:
            self._session.said.emit(str(e))
            return
        self._session.do(JoinCords(cord=cord, to=other, mm=mm))

    def _row(self, cord: str) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(8)
        field = length_field(f"another cut of {cord}", optional=True, width=90, hint="length")
        field.textChanged.connect(self._answer)
        said = Label("")
        said.setObjectName("quiet")
        line.addWidget(Label(f"If you cut {cord} to"))
        line.addWidget(field)
        line.addWidget(said, 1)
        self.given[cord] = (field, said)
        return row

    def _answer(self, _text: str = "") -> None:
        s, piece = self._session, self._piece
        for cord, (field, said) in self.given.items():
            said.setText("")
            c = s.calibration
            if piece is None or c is None or field.value is None or field.wrong:
                continue
            sized = for_size(s.weave, c, piece.plan)
            found = given_cut(s.weave, sized, piece.counts, cord, field.value, piece.plan, piece.tied_to_mm)
            said.setText(given_words(found, piece.order, s.document.sheet.units))
            have = {cord: field.value}
            s.jobs.ask(
                self,
                f"reach-{cord}",
                partial(largest_size, s.weave, c, piece.plan, have),
                partial(self._reaches, cord, have, piece),
                lambda _: None,
                after_ms=400,
            )

    def _reaches(self, cord: str, have: dict[str, float], piece: Piece, reach: Reach) -> None:
        """What the length that is typed can still become, beside its chance in this size."""
        if piece is not self._piece or cord not in self.given:
            return
        field, said = self.given[cord]
        if field.value == have[cord]:
            words = reach_words(reach, have, piece.plan, self._session.document.sheet.units)
            said.setText(f"{said.text().split('; it', 1)[0]}; it{words.partition(cord)[2]}")
