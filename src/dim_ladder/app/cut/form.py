"""What a piece should become: size, ease, what closes it, what is left of the ends. Every field is an edit of the plan."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from dim_ladder.app.cut.loop import SizeLoop
from dim_ladder.app.cut.risk import RiskSlider
from dim_ladder.app.fields import Field, length_field
from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.app.sizes import SizesButton
from dim_ladder.app.theme import theme
from dim_ladder.app.typing import keep_typing
from dim_ladder.base import InputError, format_length
from dim_ladder.commands import SetPlan
from dim_ladder.library import FASTENINGS
from dim_ladder.publish.choices import SizeRow
from dim_ladder.scale import Closing, Plan, closing_of
from dim_ladder.scale.closing import NOTHING, follows, opens_mm
from dim_ladder.scale.cuts import finish_needs
from dim_ladder.scale.size import slips_on
from dim_ladder.shelf.sizes import SizeTable

FOLLOWS = "as hung"


class PlanForm(QWidget):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.size_field = length_field("size", width=110)
        self.loop = SizeLoop(self.size_field)
        self.girth = QPushButton("worn round")
        self.length = QPushButton("plain length")
        for button in (self.girth, self.length):
            button.setCheckable(True)
            button.clicked.connect(partial(self._target, button is self.girth))
        self.sizes = SizesButton(session, "Sizes", self._of_table)
        self.ease = length_field("ease", default="mm", width=80)
        self.fastening = QComboBox()
        self.fastening.setMinimumContentsLength(13)
        self.fastening.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.fastening.setAccessibleName("Fastening")
        self.fastening.addItem(FOLLOWS, "")
        for key, f in FASTENINGS.items():
            self.fastening.addItem(f.words, key)
        self.fastening.activated.connect(self._closed)
        self.adds = self._optional("what the fastening adds", "Your own one, measured; empty as usual")
        self.opens = self._optional("how much it opens", "By how much wider it opens than it is worn")
        self.hand = self._optional(
            "the widest girth it must pass", "Of a piece that is slipped on: whether it can be put on, and sits then", "a hand"
        )  # fmt: skip
        self.tail = length_field("what the finish needs of every end", default="mm", width=80)
        self.tail.setToolTip(
            "What the finish cannot do without of every end: an end of which less is left is short"
        )
        self.hold = length_field("to hold of every end", default="mm", width=80)
        self.hold.setToolTip(
            "What you like to hold of every end, where the piece takes as much as is likeliest"
        )
        self.risk = RiskSlider()
        self.risk.chosen.connect(self._risked)
        self.size_field.editingFinished.connect(self._sized)
        self.ease.editingFinished.connect(self._eased)
        for field, name in ((self.tail, "tail_mm"), (self.hold, "hold_mm")):
            field.editingFinished.connect(partial(self._held, field, name))
        own = (
            (self.adds, "fastening_mm", 1000),
            (self.opens, "open_mm", 2000),
            (self.hand, "pass_mm", 20_000),
        )
        for field, name, most in own:
            field.editingFinished.connect(partial(self._owned, field, name, most))
        self._fields = {
            "size": self.size_field, "ease": self.ease, "tail_mm": self.tail, "hold_mm": self.hold,
            "adds": self.adds, "opens": self.opens, "hand": self.hand,
        }  # fmt: skip
        for name, field in self._fields.items():
            keep_typing(session, field, name)
            field.refused.connect(session.said)
        self._labels: dict[Field, QWidget] = {}
        self._lay_out()

    def _optional(self, name: str, tip: str, hint: str = "") -> Field:
        field = length_field(name, default="mm", optional=True, width=80, hint=hint)
        field.setToolTip(tip)
        return field

    def _lay_out(self) -> None:
        kind = QHBoxLayout()
        kind.addWidget(self.girth)
        kind.addWidget(self.length)
        kind.addWidget(self.sizes)
        kind.addStretch(1)
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(8)
        grid.addLayout(kind, 0, 0, 1, 2)
        rows = (
            ("ease", self.ease), ("closed by", self.fastening), ("it adds", self.adds), ("it opens by", self.opens),
            ("must pass", self.hand), ("finish needs", self.tail), ("to hold", self.hold),
        )  # fmt: skip
        for k, (text, widget) in enumerate(rows, 1):
            label = Label(text)
            grid.addWidget(label, k, 0)
            left = Qt.AlignmentFlag.AlignLeft if isinstance(widget, Field) else Qt.AlignmentFlag(0)
            grid.addWidget(widget, k, 1, left)
            if isinstance(widget, Field):
                self._labels[widget] = label
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(len(rows) + 1, 1)
        row = QHBoxLayout()
        row.setSpacing(18)
        row.addWidget(self.loop, 5)
        row.addLayout(grid, 4)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.risk)
        layout.addLayout(row, 1)

    # -- edits -------------------------------------------------------------------------------------

    @property
    def _plan(self) -> Plan:
        return self._session.document.plan

    def change(self, **changes: object) -> None:
        """One edit of the plan."""
        self._session.do(SetPlan(plan=Plan.model_validate({**self._plan.model_dump(), **changes})))

    def _of_table(self, table: SizeTable, row: SizeRow | None) -> None:
        """A size of a table: a girth or a length, as the table says."""
        if row is not None:
            self.change(target=table.of, size_mm=row.size_mm, chosen=self._plan.locked)

    def _target(self, girth: bool, _checked: bool = False) -> None:
        self.change(target="girth" if girth else "length", chosen=self._plan.locked)
        self.fill()

    def _closed(self, _index: int) -> None:
        self.closed_by(str(self.fastening.currentData()))

    def closed_by(self, key: str) -> None:
        """Another fastening, which is of another length."""
        self.change(fastening=key, fastening_mm=None, chosen=self._plan.locked)

    def _risked(self, risk: float) -> None:
        if risk != self._plan.risk:
            self.change(risk=risk)

    def _sized(self) -> None:
        if not _typed(self.size_field):
            return
        value = self.size_field.value
        if value is None:
            return
        if not 1 <= value <= 20_000:
            self._session.said.emit(f"A size of {format_length(value)} cannot be tied. Give 1 mm to 20 m")
            return
        if abs(value - self._plan.size_mm) > 0.01:
            self.change(size_mm=value, chosen=self._plan.locked)

    def _eased(self) -> None:
        if not _typed(self.ease):
            return
        value = self.ease.value
        if value is not None and abs(value - self._plan.ease_mm) > 0.01:
            if value > 2000:
                self._session.said.emit(f"An ease of {format_length(value)} is more than 2 m. Check the unit")
                return
            self.change(ease_mm=value, chosen=self._plan.locked)

    def _owned(self, field: Field, name: str, most: float) -> None:
        """A length that may be left empty: then it is as usual, or nobody asks."""
        if not _typed(field) or field.wrong:
            return
        if field.value is not None and field.value > most:
            self._session.said.emit(
                f"{format_length(field.value)} is more than {format_length(most)}. Check the unit"
            )
            self.fill()
            return
        if name == "pass_mm":  # the piece stays as it is
            self.change(pass_mm=field.value or None)
        else:
            self.change(**{name: field.value}, chosen=self._plan.locked)

    def _held(self, field: Field, name: str) -> None:
        if not _typed(field):
            return
        value = field.value
        if value is None or abs(value - self._tails()[name]) < 0.01:
            return
        if value > 2000:
            self._session.said.emit(f"{format_length(value)} of every end is more than 2 m. Check the unit")
            self.fill()  # what counts is what stands there
            return
        self.change(**{name: value})

    def _tails(self) -> dict[str, float]:
        """What is said now of every end, by name in the plan."""
        need, hold = finish_needs(self._session.weave, self._plan)
        return {"tail_mm": need, "hold_mm": hold}

    # -- what is shown -----------------------------------------------------------------------------

    def closing(self) -> Closing:
        """What closes the piece now; nothing for a fastening that is not there."""
        try:
            return closing_of(self._session.weave, self._plan)
        except InputError:
            return NOTHING

    def fill(self) -> None:
        """Everything as the plan has it, but for what is being typed."""
        session, plan = self._session, self._plan
        system = session.document.sheet.units
        girth, closing = plan.target == "girth", self.closing()
        self.girth.setChecked(girth)
        self.length.setChecked(not girth)
        self._see(self.ease, girth)
        self._see(self.adds, bool(closing.of.part))
        self._see(self.opens, closing.of.opens)
        self._see(self.hand, slips_on(plan, closing))
        self.adds.setToolTip(f"How long {closing.of.part} is, where you measured it; empty as usual")
        tails = self._tails()
        self._put(self.size_field, plan.size_mm, system)
        self._put(self.ease, plan.ease_mm, system)
        self._put(self.tail, tails["tail_mm"], system)
        self._put(self.hold, tails["hold_mm"], system)
        self._put(self.hand, plan.pass_mm, system)
        self._put(self.adds, closing.adds_mm, system)
        self._put(self.opens, opens_mm(plan, closing), system)
        self.fastening.setCurrentIndex(max(0, self.fastening.findData(plan.fastening)))
        own, _ = follows(session.weave)
        said = FASTENINGS[own].words if own else "not said yet" if girth else FASTENINGS["none"].words
        self.fastening.setItemText(0, f"{said}, {FOLLOWS}" if own else said)
        self.risk.show_risk(plan.risk)
        cords = session.weave.cords
        self.loop.show_kind(girth, cords[-1].colour if cords else theme().ink, closing.key)

    def _see(self, field: Field, seen: bool) -> None:
        field.setVisible(seen)
        self._labels[field].setVisible(seen)

    def _put(self, field: Field, mm: float | None, system: str) -> None:
        if not field.hasFocus() or not field.isModified():
            field.put("" if mm is None else format_length(mm, system))


def _typed(field: Field) -> bool:
    """Whether somebody wrote in it since it was filled: what is shown is rounded, and leaving a field is no edit."""
    typed = field.isModified()
    field.setModified(False)
    return typed
