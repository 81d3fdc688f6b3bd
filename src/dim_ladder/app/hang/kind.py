"""What a kind of cord is: read, changed, and tried on the knot that makers measure."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.fields import Field
from dim_ladder.app.kinds import keep
from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.base import DimLadderError, InputError, format_length, read_length, read_number
from dim_ladder.library import CordKind, check_kind, cord_kind, own_kinds
from dim_ladder.library.kinds import PATTERNS
from dim_ladder.shape.trying import half_knots

TRY_MS = 400


class KindDialog(QDialog):
    """One kind, by its name in the script. What is changed is kept beside the weaves of the workshop."""

    def __init__(self, session: Session, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._name = session, name
        was = cord_kind(name)
        self.setWindowTitle(f"The kind {name}")
        self.setMinimumWidth(520)
        self.words = QLineEdit(was.words)
        self.words.setAccessibleName("What it is called")
        self.source = QLineEdit(was.source)
        self.source.setAccessibleName("Where the figures come from")
        self.source.setCursorPosition(0)
        self.fields = {
            "diameter": Field("Diameter", lambda t: read_length(t, None, maximum=40)),
            "thick": Field("Lies flat, so thick", _thick),
            "grams_per_metre": Field(
                "Grams per metre", partial(read_number, what="a mass per metre", example="6.6")
            ),
            "give": Field("Gives way by, in %", _percent),
            "soft": Field("Hardness", partial(read_number, what="a hardness", example="0.4")),
            "grip": Field("Grip", partial(read_number, what="a grip", example="0.8")),
            "stretch": Field("Stretches by, in %", _percent),
            "spread": Field("Uncertain by, in %", _percent),
        }
        tips = {
            "thick": "Of flat cord, whose diameter is how wide it lies; 0 for round cord",
            "stretch": "How much longer it is under a hand's pull than slack, as it is measured out",
            "give": "How much flatter a hand can press it, at most, as a part of its thickness",
            "soft": "How hard it has to be pressed for that: 0.3 for a soft sheath, 2 for waxed cord",
            "grip": "How much of what two ends are drawn apart by stays in the work: 0.6 for satin, 0.9 for wax",
        }
        form = QFormLayout()
        form.addRow("Called", self.words)
        for key, field in self.fields.items():
            form.addRow(field.accessibleName(), field)
            if key in tips:
                hint = Label(tips[key])
                hint.setObjectName("quiet")
                hint.setWordWrap(True)
                form.addRow("", hint)
            field.taken.connect(self._changed)
        self.sheath = QComboBox()
        self.sheath.setAccessibleName("Sheath")
        for p in PATTERNS:
            self.sheath.addItem(p or "as its material", p)
        self.sheath.setCurrentIndex(PATTERNS.index(was.sheath))
        self.second = QLineEdit(was.second)
        self.second.setAccessibleName("Colour of its tracer threads or mottling")
        self.second.setPlaceholderText("#f0d070")
        self.second.setFixedWidth(110)
        looks = QHBoxLayout()
        looks.addWidget(self.sheath)
        looks.addWidget(Label("second colour"))
        looks.addWidget(self.second)
        looks.addStretch(1)
        form.addRow("Sheath", looks)
        form.addRow("Comes from", self.source)
        self.tried = Label()
        self.tried.setWordWrap(True)
        self.wrong = Label()
        self.wrong.setWordWrap(True)
        row = QHBoxLayout()
        self.keep, self.ships, leave = (
            QPushButton("Keep it"),
            QPushButton("As it ships"),
            QPushButton("Leave it"),
        )
        self.ships.setEnabled(name in own_kinds())
        self.ships.setToolTip("Let go of the figures of one's own")
        self.keep.clicked.connect(self._keep)
        self.ships.clicked.connect(self._ship)
        leave.clicked.connect(self.reject)
        for button in (self.keep, self.ships, leave):
            row.addWidget(button)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.tried)
        column.addWidget(self.wrong)
        column.addLayout(row)
        self._show(was)

    def _show(self, kind: CordKind) -> None:
        for key, field in self.fields.items():
            value = getattr(kind, key)
            field.setText(
                format_length(value)
                if key in ("diameter", "thick")
                else f"{100 * value:g}"
                if key in ("give", "spread", "stretch")
                else f"{value:g}"
            )

    def kind(self) -> CordKind:
        """As it stands in the fields. Raises InputError where it cannot be."""
        got: dict[str, float] = {}
        for key, field in self.fields.items():
            if field.value is None:
                raise InputError(field.wrong or f"{field.accessibleName()} is empty", "Write a number")
            got[key] = field.value / 100 if key in ("give", "spread", "stretch") else field.value
        kind = CordKind(
            self.words.text().strip(), got["diameter"], got["grams_per_metre"], got["give"], got["soft"], got["grip"],
            got["spread"], self.source.text().strip(), self.sheath.currentData(), self.second.text().strip(), got["thick"], got["stretch"],
        )  # fmt: skip
        check_kind(self._name, kind)
        return kind

    def _changed(self) -> None:
        try:
            kind = self.kind()
        except InputError as e:
            self.wrong.setText(str(e))
            return
        self.wrong.setText("")
        self.tried.setText("Half knots over two fillers in it: being drawn up …")
        self._session.jobs.ask(
            self, "kind-try", partial(half_knots, kind), self._took, self._failed, after_ms=TRY_MS
        )

    def _took(self, size: tuple[float, float, float, float]) -> None:
        long, wide, thick, cord = size
        self.tried.setText(
            f"Half knots over two fillers in it: each {format_length(long)} long, the band {format_length(wide)} wide and "
            f"{format_length(thick)} thick; the workers take {cord:.1f} times its length. Tie ten and compare."
        )

    def _failed(self, error: DimLadderError) -> None:
        self.tried.setText(str(error))

    def _keep(self) -> None:
        try:
            self._take(self.kind())
        except DimLadderError as e:
            self.wrong.setText(str(e))

    def _ship(self) -> None:
        try:
            self._take(None)
        except DimLadderError as e:
            self.wrong.setText(str(e))

    def _take(self, kind: CordKind | None) -> None:
        path = self._session.path
        done = keep(path.parent if path is not None else None, self._name, kind)
        self._session.kinds_changed()
        self._session.said.emit(done)
        self.accept()


def _thick(text: str) -> float:
    return 0.0 if text.strip() in ("0", "round") else read_length(text, None, maximum=40)


def _percent(text: str) -> float:
    return read_number(text.rstrip(" %"), "a part in per cent", "50")
