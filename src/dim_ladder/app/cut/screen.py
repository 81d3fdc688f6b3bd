"""Size, whole units and cuts: what do I cut?"""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from dim_ladder.app.cut.asks import Asks
from dim_ladder.app.cut.drawing import CutDrawing, sentence
from dim_ladder.app.cut.form import PlanForm
from dim_ladder.app.cut.options import Units, colours_of
from dim_ladder.app.labels import Label
from dim_ladder.app.painting import PictureView
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized, theme
from dim_ladder.base import format_length
from dim_ladder.calibrate import Calibration
from dim_ladder.commands import SetCount
from dim_ladder.library import FASTENINGS
from dim_ladder.scale import Piece, solve
from dim_ladder.scale.cuts import odds, why_words
from dim_ladder.scale.laid import laid
from dim_ladder.scale.reach import more_words, one_more
from dim_ladder.scale.stretch import span_words
from dim_ladder.scale.tape import tape_picture

OFFERED = (
    "side-buckle",
    "loop-and-button",
    "sliding",
    "slip-on",
    "none",
)  # where nothing says what closes it


class CutScreen(QWidget):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.piece: Piece | None = None
        self.headline = Label()
        self.headline.setFont(sized(1.35, True))
        self.headline.setWordWrap(True)
        self.headline.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.form = PlanForm(session)
        self.units = Units()
        self.units.chosen.connect(lambda counts, kept: self.form.change(chosen=counts, kept=kept))
        self.units.counted.connect(lambda name, how: session.do(SetCount(section=name, count=how)))
        self.doubt = Label()
        self.doubt.setWordWrap(True)
        self.closings: dict[str, QPushButton] = {}
        self._doubt_card = self._card()
        self.tape = PictureView(1.0)
        self.tape.setAccessibleName("The piece beside a tape")
        self.derive = QPushButton("Where these numbers come from")
        self.derive.setObjectName("plain")
        self.derive.setCheckable(True)
        self.derived = Label()
        self.derived.setWordWrap(True)
        self.derived.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.derived.hide()
        self.derive.toggled.connect(self.derived.setVisible)
        self.more = Label()
        self.more.setWordWrap(True)
        self.more.setObjectName("quiet")
        self.why = Label()
        self.why.setObjectName("quiet")
        self.why.setWordWrap(True)
        self.drawing = CutDrawing()
        self.asks = Asks(session)
        self._lay_out()
        session.changed.connect(self.refresh)
        session.calibrated.connect(self.refresh)
        self.refresh()

    def _card(self) -> QFrame:
        """What is in doubt, and what has to be asked once."""
        card = QFrame()
        card.setObjectName("say")
        inside = QVBoxLayout(card)
        inside.setContentsMargins(12, 8, 12, 8)
        inside.addWidget(self.doubt)
        self._closings = QWidget()
        row = QHBoxLayout(self._closings)
        row.setContentsMargins(0, 0, 0, 0)
        for key in OFFERED:
            button = QPushButton(FASTENINGS[key].words)
            button.clicked.connect(partial(self._close, key))
            row.addWidget(button)
            self.closings[key] = button
        row.addStretch(1)
        inside.addWidget(self._closings)
        card.hide()
        return card

    def _lay_out(self) -> None:
        middle = QHBoxLayout()
        middle.setSpacing(18)
        middle.addWidget(self.form, 8)
        middle.addWidget(self.units, 4)
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(24, 16, 20, 16)
        layout.setSpacing(10)
        layout.addWidget(self.headline)
        layout.addWidget(self._doubt_card)
        layout.addLayout(middle)
        layout.addWidget(self.tape)
        layout.addWidget(self.drawing)
        layout.addWidget(self.why)
        layout.addWidget(self.more)
        layout.addWidget(self.derive, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self.derived)
        layout.addWidget(self.asks)
        layout.addStretch(1)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what is in it has the focus
        scroll.setWidgetResizable(True)
        scroll.setWidget(page)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)

    def _close(self, key: str, _checked: bool = False) -> None:
        self.form.closed_by(key)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._draw_tape()

    def refresh(self) -> None:
        self.form.fill()
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
        since = (
            f" Closed by a {piece.closing.of.words}, since {piece.closing.why}." if piece.closing.why else ""
        )
        free = span_words(session.weave, piece.stretch, system)
        since += f" Leave {free}." if free else ""
        self.why.setText(f"{piece.why}.{since}{rest_words(piece, system)}{chance}{basis}")
        why = [why_words(c, piece.order, piece.plan, system) for c in piece.cuts]
        units = ", ".join(
            f"{n} × {s} of {piece.pitch[s]:.1f} mm" for s, n in piece.counts.items() if s in piece.pitch
        )
        fixed = f"{piece.fixed_mm:.0f} mm where it begins and ends" if piece.fixed_mm >= 0.5 else ""
        self.derived.setText(
            "\n".join(
                [
                    f"{piece.why}.",
                    f"{', '.join(filter(None, (units, fixed)))}: {piece.option.length_mm:.0f} mm.",
                    *(f"{w}." for w in why),
                ]
            )
        )
        said = [f"{words}." for words in (piece.fit, piece.doubt) if words]
        self.doubt.setText("\n".join(said))
        self._closings.setVisible(piece.closing.asked)
        self._doubt_card.setVisible(bool(said))
        self.drawing.show_piece(piece, system)
        self.units.show_piece(session.weave, piece, system)
        self._draw_tape()
        self.asks.show_piece(piece)
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

    def _draw_tape(self) -> None:
        """The piece to scale, as wide as there is room."""
        piece, session = self.piece, self._session
        if piece is None:
            self.tape.show_picture(None)
            self.tape.setFixedHeight(0)
            return
        wide = max(360.0, float(self.width() - 64))
        of = laid(session.weave, piece)
        picture = tape_picture(of, colours_of(piece), theme().pen, wide, session.document.sheet.units)
        self.tape.setFixedHeight(round(picture.height))
        self.tape.show_picture(picture)

    def _nothing(self, text: str) -> None:
        self.piece = None
        self.headline.setText(text)
        self.why.setText("")
        self.derived.setText("")
        self.more.setText("")
        self._doubt_card.hide()
        self.drawing.show_piece(None, "metric")
        self._draw_tape()
        self.asks.show_piece(None)
        self.units.show_piece(self._session.weave, None, "metric")


def rest_words(piece: Piece, system: str) -> str:
    """What becomes of the rest that whole units leave: a band round a body sits looser or tighter by it."""
    error = piece.option.error_mm
    if piece.plan.target != "girth" or abs(error) < 0.5 or not piece.pitch:
        return ""
    ease = piece.plan.ease_mm + error
    if ease < 0:
        return f" In whole units it is {format_length(-ease, system)} tighter than the body."
    return f" In whole units its ease becomes {format_length(round(ease), system)}."


def headline(piece: Piece, system: str) -> str:
    """What to read out: every cord's cut, fold and chance."""
    return (
        ". ".join(s[0].upper() + s[1:] for s in (sentence(c, piece.order, system) for c in piece.cuts)) + "."
    )
