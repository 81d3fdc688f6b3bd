"""Size, whole units and cuts."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.cut.drawing import CutDrawing, sentence
from dim_ladder.app.fields import Field, clear, length_field
from dim_ladder.app.labels import Label
from dim_ladder.app.painting import paint_shapes
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized, theme
from dim_ladder.app.typing import keep_typing
from dim_ladder.base import format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.commands import SetPlan
from dim_ladder.library import FASTENINGS
from dim_ladder.picture.display import cord_lines
from dim_ladder.scale import Option, Piece, Plan, solve
from dim_ladder.scale.cuts import given_cut, given_words, odds, tails
from dim_ladder.scale.girth import for_size
from dim_ladder.scale.reach import Reach, largest_size, more_words, one_more, reach_words
from dim_ladder.scale.size import slips_on

RISKS = (("1 in 10", 0.1), ("1 in 20", 0.05), ("1 in 50", 0.02), ("1 in 100", 0.01), ("1 in 500", 0.002))


class SizeLoop(QWidget):
    """The girth on the loop, the length on the strap: the number stands where it acts."""

    def __init__(self, field: Field, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._field = field
        field.setParent(self)
        self._girth = True
        self._colour = "#1f6f8b"
        self.setMinimumSize(QSize(190, 200))

    def show_kind(self, girth: bool, colour: str) -> None:
        self._girth, self._colour = girth, colour
        self._place()
        self.update()

    def _place(self) -> None:
        y = self.height() / 2 - 8 if self._girth else self.height() / 2 - 46
        self._field.move(round(self.width() / 2 - self._field.width() / 2), round(y - 6))

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._place()

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QPointF(self.width() / 2, self.height() / 2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._girth:
            rx, ry = min(self.width() / 2 - 24, 128.0), min(self.height() / 2 - 16, 84.0)
            for width, colour in ((16.0, "#00000055"), (13.0, self._colour)):
                pen = QPen(QColor(t.ink) if width > 14 else QColor(colour), width)
                painter.setPen(pen)
                painter.drawEllipse(middle, rx, ry)
            # the fastening
            painter.setPen(QPen(QColor(t.ink), 1.5))
            painter.setBrush(QColor(t.raised))
            painter.drawRoundedRect(QRectF(middle.x() - 20, middle.y() + ry - 11, 40, 22), 5, 5)
            word = "girth of the body"
            at = middle.y() - 34
        else:
            path = (("M", (24.0, middle.y() + 8)), ("L", (self.width() - 24.0, middle.y() + 8)))
            paint_shapes(painter, cord_lines(path, self._colour, 15.0, t.pen))
            word = "length of the piece"
            at = middle.y() - 76
        painter.setFont(sized(0.92))
        painter.setPen(QColor(t.quiet))
        painter.drawText(QRectF(0, at - 8, self.width(), 20), Qt.AlignmentFlag.AlignCenter, word)
        painter.end()


class CutScreen(QWidget):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.piece: Piece | None = None
        self.headline = Label()
        self.headline.setFont(sized(1.35, True))
        self.headline.setWordWrap(True)
        self.headline.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.size_field = length_field("size", width=110)
        self.loop = SizeLoop(self.size_field)
        self.girth = QPushButton("worn round")
        self.length = QPushButton("plain length")
        for button in (self.girth, self.length):
            button.setCheckable(True)
            button.clicked.connect(partial(self._target, button is self.girth))
        self.ease = length_field("ease", default="mm", width=80)
        self.fastening = QComboBox()
        self.fastening.setMinimumContentsLength(12)
        self.fastening.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.fastening.setAccessibleName("Fastening")
        for key, f in FASTENINGS.items():
            self.fastening.addItem(f.words, key)
        self.fastening.activated.connect(
            lambda: self._change(fastening=str(self.fastening.currentData()), chosen={})
        )
        self.risk = QComboBox()
        self.risk.setAccessibleName("Chance of running short")
        for text, value in RISKS:
            self.risk.addItem(text, value)
        self.risk.activated.connect(lambda: self._change(risk=float(self.risk.currentData())))
        self.size_field.editingFinished.connect(self._sized)
        self.ease.editingFinished.connect(self._eased)
        keep_typing(session, self.size_field, "size")
        keep_typing(session, self.ease, "ease")
        self.tail = length_field("what the finish needs of every end", default="mm", width=80)
        self.tail.setToolTip(
            "What the finish cannot do without of every end: an end of which less is left is short"
        )
        self.hold = length_field("to hold of every end", default="mm", width=80)
        self.hold.setToolTip(
            "What you like to hold of every end, where the piece takes as much as is likeliest"
        )
        for field, name in ((self.tail, "tail_mm"), (self.hold, "hold_mm")):
            field.editingFinished.connect(partial(self._held, field, name))
            keep_typing(session, field, name)
        for field in (self.size_field, self.ease, self.tail, self.hold):
            field.refused.connect(session.said)
        self.more = Label()
        self.more.setWordWrap(True)
        self.more.setObjectName("quiet")
        self.why = Label()
        self.why.setObjectName("quiet")
        self.why.setWordWrap(True)
        self.doubt = Label()
        self.doubt.setWordWrap(True)
        self._doubt_card = QFrame()
        self._doubt_card.setObjectName("say")
        inside = QVBoxLayout(self._doubt_card)
        inside.setContentsMargins(12, 8, 12, 8)
        inside.addWidget(self.doubt)
        self._doubt_card.hide()
        self.options = QVBoxLayout()
        self.options.setSpacing(6)
        self.drawing = CutDrawing()
        self.asks = QVBoxLayout()
        self.asks.setSpacing(6)
        self.given: dict[
            str, tuple[Field, QLabel]
        ] = {}  # by cord: a cut that is asked about, and what it would do

        form = QGridLayout()
        form.setHorizontalSpacing(14)
        form.setVerticalSpacing(10)
        kind = QHBoxLayout()
        kind.addWidget(self.girth)
        kind.addWidget(self.length)
        kind.addStretch(1)
        form.addLayout(kind, 0, 0, 1, 2)
        self.hand = length_field("the widest girth it must pass", optional=True, width=80, hint="a hand")
        self.hand.setToolTip("Of a piece that nothing opens: whether it can be put on, and sits then")
        self.hand.editingFinished.connect(self._handed)
        self.hand.refused.connect(session.said)
        keep_typing(session, self.hand, "hand")
        self._hand_label = Label("must pass")
        self._ease_label = Label("ease")
        form.addWidget(self._ease_label, 1, 0)
        form.addWidget(self.ease, 1, 1, Qt.AlignmentFlag.AlignLeft)
        form.addWidget(Label("fastening"), 2, 0)
        form.addWidget(self.fastening, 2, 1)
        form.addWidget(Label("may run short"), 3, 0)
        form.addWidget(self.risk, 3, 1, Qt.AlignmentFlag.AlignLeft)
        form.addWidget(Label("finish needs"), 4, 0)
        form.addWidget(self.tail, 4, 1, Qt.AlignmentFlag.AlignLeft)
        form.addWidget(Label("to hold"), 5, 0)
        form.addWidget(self.hold, 5, 1, Qt.AlignmentFlag.AlignLeft)
        form.addWidget(self._hand_label, 6, 0)
        form.addWidget(self.hand, 6, 1, Qt.AlignmentFlag.AlignLeft)
        form.setColumnStretch(1, 1)
        form.setRowStretch(7, 1)
        units = QVBoxLayout()
        title = Label("Whole units")
        title.setFont(sized(1.0, True))
        units.addWidget(title)
        units.addLayout(self.options)
        units.addStretch(1)
        middle = QHBoxLayout()
        middle.setSpacing(18)
        middle.addWidget(self.loop, 4)
        middle.addLayout(form, 4)
        middle.addLayout(units, 4)
        cuts = Label("Cuts")
        cuts.setFont(sized(1.0, True))
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(24, 20, 20, 20)
        layout.setSpacing(14)
        layout.addWidget(self.headline)
        layout.addWidget(self._doubt_card)
        layout.addLayout(middle)
        layout.addWidget(self.why)
        layout.addWidget(self.more)
        layout.addSpacing(8)
        layout.addWidget(cuts)
        layout.addWidget(self.drawing)
        layout.addLayout(self.asks)
        layout.addStretch(1)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what is in it has the focus
        scroll.setWidgetResizable(True)
        scroll.setWidget(page)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        session.changed.connect(self.refresh)
        session.calibrated.connect(self.refresh)
        self.refresh()

    # -- edits -------------------------------------------------------------------------------------

    def _change(self, **changes: object) -> None:
        plan = self._session.document.plan
        self._session.do(SetPlan(plan=Plan.model_validate({**plan.model_dump(), **changes})))

    def _target(self, girth: bool, _checked: bool = False) -> None:
        self._change(target="girth" if girth else "length", chosen={})
        self._fill()

    def _sized(self) -> None:
        self.size_field.setModified(False)
        value = self.size_field.value
        if value is None:
            return
        if not 1 <= value <= 20_000:
            self._session.said.emit(f"A size of {format_length(value)} cannot be tied. Give 1 mm to 20 m")
            return
        if abs(value - self._session.document.plan.size_mm) > 0.01:
            self._change(size_mm=value, chosen={})

    def _handed(self) -> None:
        """What it must pass; nothing where nobody asks."""
        if not self.hand.isModified() or self.hand.wrong:
            return
        self.hand.setModified(False)
        self._change(pass_mm=self.hand.value)

    def _eased(self) -> None:
        self.ease.setModified(False)
        value = self.ease.value
        if value is not None and abs(value - self._session.document.plan.ease_mm) > 0.01:
            if value > 2000:
                self._session.said.emit(f"An ease of {format_length(value)} is more than 2 m. Check the unit")
                return
            self._change(ease_mm=value, chosen={})

    def _held(self, field: Field, name: str) -> None:
        field.setModified(False)
        value = field.value
        if value is None or abs(value - self._tails()[name]) < 0.01:
            return
        if value > 2000:
            self._session.said.emit(f"{format_length(value)} of every end is more than 2 m. Check the unit")
            self._fill()  # what counts is what stands there
            return
        self._change(**{name: value})

    def _tails(self) -> dict[str, float]:
        """What is said now of every end, by name in the plan."""
        held = tails(self._session.weave, self._session.document.plan)
        return {
            "tail_mm": max(held.need.values(), default=0.0),
            "hold_mm": max(held.hold.values(), default=0.0),
        }

    def _choose(self, counts: dict[str, int], _checked: bool = False) -> None:
        self._change(chosen=counts)

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self) -> None:
        self._fill()
        session = self._session
        calibration = session.calibration
        if calibration is None or session.ladder.problems:
            self._nothing(session.not_counted("Record a unit first; then it can be sized."))
            return
        weave, plan = session.weave, session.document.plan
        if not calibration.is_of(weave):
            return  # a fit of another weave is on its way out
        # An answer that has not been asked for yet takes some tens of milliseconds, now and then some hundreds.
        session.jobs.ask(
            self,
            "piece",
            partial(solve, weave, calibration, plan),
            partial(self._solved, calibration),
            self._unsolved,
        )

    def _unsolved(self, error: Exception) -> None:
        self._nothing(str(error))

    def _solved(self, calibration: Calibration, piece: Piece) -> None:
        session = self._session
        if calibration is not session.calibration or piece.plan != session.document.plan:
            return  # another is on its way
        self.piece = piece
        system = session.document.sheet.units
        self.headline.setText(headline(piece, system))
        basis = (
            "" if calibration.ties else " No test tie yet, so the cuts are generous: one tie narrows them."
        )
        chance = f" {odds(piece.chance_short)} that any end of the piece is short of what its finish needs."
        self.why.setText(piece.why + "." + chance + basis)
        said = [f"{words}." for words in (piece.fit, piece.doubt) if words]
        self.doubt.setText("\n".join(said))
        self._doubt_card.setVisible(bool(said))
        self.drawing.show_piece(piece, system)
        self._show_options(piece, system)
        self._show_asks(tuple(c.cord for c in piece.cuts))
        self.more.setText("")
        session.jobs.ask(
            self,
            "one-more",
            partial(one_more, session.weave, calibration, piece),
            partial(self._more, piece),
            lambda _: None,
            after_ms=200,
        )

    def _more(self, piece: Piece, found: dict[str, dict[str, float]]) -> None:
        if piece is self.piece:
            said = more_words(found, self._session.document.sheet.units)
            self.more.setText(f"{said}." if said else "")

    def _show_asks(self, cords: tuple[str, ...]) -> None:
        """A field for every cord: what would another cut do?"""
        if tuple(self.given) != cords:
            clear(self.asks)
            self.given = {}
            for cord in cords:
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
                self.asks.addWidget(row)
                self.given[cord] = (field, said)
        self._answer()

    def _answer(self, _text: str = "") -> None:
        s, piece = self._session, self.piece
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
        if piece is not self.piece or cord not in self.given:
            return
        field, said = self.given[cord]
        if field.value == have[cord]:
            words = reach_words(reach, have, piece.plan, self._session.document.sheet.units)
            said.setText(f"{said.text().split('; it', 1)[0]}; it{words.partition(cord)[2]}")

    def _nothing(self, text: str) -> None:
        self.piece = None
        self.headline.setText(text)
        self.why.setText("")
        self.more.setText("")
        self._doubt_card.hide()
        self.drawing.show_piece(None, "metric")
        self._show_asks(())
        self._show_options(None, "metric")

    def _fill(self) -> None:
        document = self._session.document
        plan, system = document.plan, document.sheet.units
        girth = plan.target == "girth"
        self.girth.setChecked(girth)
        self.length.setChecked(not girth)
        self.ease.setVisible(girth)
        self._ease_label.setVisible(girth)
        closed = slips_on(plan, self._session.weave)
        self.hand.setVisible(closed)
        self._hand_label.setVisible(closed)
        if not self.hand.hasFocus() or not self.hand.isModified():
            self.hand.put("" if plan.pass_mm is None else format_length(plan.pass_mm, system))
        if not self.size_field.hasFocus() or not self.size_field.isModified():
            self.size_field.put(format_length(plan.size_mm, system))
        if not self.ease.hasFocus() or not self.ease.isModified():
            self.ease.put(format_length(plan.ease_mm, system))
        for field, name in ((self.tail, "tail_mm"), (self.hold, "hold_mm")):
            if not field.hasFocus() or not field.isModified():
                field.put(format_length(self._tails()[name], system))
        self.fastening.setCurrentIndex(max(0, self.fastening.findData(plan.fastening)))
        nearest = min(range(len(RISKS)), key=lambda i: abs(RISKS[i][1] - plan.risk))
        self.risk.setCurrentIndex(nearest)
        cords = self._session.weave.cords
        self.loop.show_kind(girth, cords[-1].colour if cords else theme().ink)

    def _show_options(self, piece: Piece | None, system: str) -> None:
        clear(self.options)
        if piece is None:
            return
        for option in (piece.option, *piece.alternatives):
            button = QPushButton(option_words(option, system))
            button.setCheckable(True)
            button.setChecked(option is piece.option)
            button.setStyleSheet("text-align: left;")
            button.clicked.connect(partial(self._choose, option.counts))
            self.options.addWidget(button)


def option_words(option: Option, system: str) -> str:
    units = ", ".join(f"{n} × {k}" for n, k in option.counts.items())
    error = option.error_mm
    off = (
        "exact"
        if abs(error) < 0.5
        else f"{format_length(abs(error), system)} {'over' if error > 0 else 'under'}"
    )
    return f"{units}: {format_length(option.length_mm, system)}, {off}"


def headline(piece: Piece, system: str) -> str:
    """What to read out: every cord's cut, fold and chance."""
    return (
        ". ".join(s[0].upper() + s[1:] for s in (sentence(c, piece.order, system) for c in piece.cuts)) + "."
    )
