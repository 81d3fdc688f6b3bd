"""Instruments beside the form: connected ones with what they say, and taking a reading into the field in hand."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.fields import Field, clear
from dim_ladder.app.labels import Label
from dim_ladder.app.session import Session
from dim_ladder.app.theme import mono, sized
from dim_ladder.app.tie.form import TieForm
from dim_ladder.app.tie.reading import read_left
from dim_ladder.base import DimLadderError
from dim_ladder.instruments import KINDS, Measure, Port, Simulated, ports

STEP = {False: 1.5, True: 0.2}  # mm and g by which a value must change to count as a hand's doing
LOOK_MS = 500
NAMELESS = "n/a"


class Ear(QObject):
    """What the reading thread says, on the interface thread. heard : value, mass, steady, unit."""

    heard = Signal(float, bool, bool, str)
    ended = Signal(str)

    def hear(self, m: Measure) -> None:
        self.heard.emit(m.value, m.mass, m.steady, m.unit)

    def end(self, why: str) -> None:
        self.ended.emit(why)


@dataclass
class _Known:
    """A connected instrument. simulated : set where it is not there."""

    name: str
    port: Port
    ear: Ear
    simulated: Simulated | None
    measure: Measure | None = None
    label: QLabel | None = None


class Instruments(QWidget):
    def __init__(self, session: Session, form: TieForm, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._form = session, form
        self.known: list[_Known] = []
        self._hand: _Known | None = None  # the one whose value was changed last
        self._field: Field | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 0, 8, 20)
        layout.setSpacing(6)
        head = QHBoxLayout()
        title = Label("Instruments")
        title.setFont(sized(1.0, True))
        self.choice = QComboBox()
        self.choice.setAccessibleName("Instrument to connect")
        self.choice.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.connect_button = QPushButton("Connect")
        self.connect_button.clicked.connect(self._connect_chosen)
        head.addWidget(title)
        head.addWidget(self.choice, 1)
        head.addWidget(self.connect_button)
        layout.addLayout(head)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        layout.addLayout(self.rows)
        self.show_ports()
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._focused)
        session.closing.connect(self.close_all)
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)

    def show_ports(self) -> None:
        """What can be connected now."""
        self.choice.clear()
        there = ports()
        # What a machine has built in without anything on it stands last.
        for device, words in there:
            if words != NAMELESS:
                self.choice.addItem(f"{device}  {words}" if words != device else device, device)
        for kind, made in KINDS.items():
            self.choice.addItem(f"simulated {made.words}", f"simulated:{kind}")
        for device, words in there:
            if words == NAMELESS:
                self.choice.addItem(device, device)

    # -- connecting --------------------------------------------------------------------------------

    def _connect_chosen(self, _checked: bool = False) -> None:
        which = str(self.choice.currentData() or "")
        if which:
            self.connect_to(which)

    def connect_to(self, which: str) -> bool:
        """A port, or `simulated:` and a kind."""
        kind = which.removeprefix("simulated:")
        simulated = None
        try:
            if kind != which:
                simulated = Simulated(kind)
            ear = Ear(self)
            port = Port(simulated.port if simulated else which, ear.hear, ear.end)
        except DimLadderError as e:
            self._session.said.emit(str(e))
            if simulated is not None:
                simulated.close()
            return False
        known = _Known(f"simulated {kind}" if simulated else which, port, ear, simulated)
        ear.heard.connect(partial(self._heard, known))
        ear.ended.connect(partial(self._ended, known))
        self.known.append(known)
        self._hand = self._hand or known
        self._build()
        self._timer.start()
        return True

    def leave(self, known: _Known, _checked: bool = False) -> None:
        """Let an instrument go."""
        if known not in self.known:
            return
        self.known.remove(known)
        known.port.close()
        if known.simulated is not None:
            known.simulated.close()
        known.ear.deleteLater()
        if self._hand is known:
            self._hand = self.known[0] if self.known else None
        if not self.known:
            self._timer.stop()
        self._build()

    def close_all(self) -> None:
        """Let all of them go: the window closes."""
        for known in list(self.known):
            self.leave(known)

    def _build(self) -> None:
        clear(self.rows)
        for known in self.known:
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            line.setSpacing(6)
            known.label = Label()
            known.label.setFont(mono(0.9))
            line.addWidget(known.label, 1)
            line.addWidget(self._plain("let go", f"Disconnect {known.name}", partial(self.leave, known)))
            self.rows.addWidget(row)
            if known.simulated is not None:
                self.rows.addWidget(self._hand_of(known, known.simulated))
            self._say_value(known)

    def _hand_of(self, known: _Known, simulated: Simulated) -> QWidget:
        """What a hand would do with an instrument that is not there."""
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(18, 0, 0, 4)
        line.setSpacing(6)
        put = Field("what lies on it", read_left, optional=True, width=70, hint="put on")
        put.setAccessibleName(f"Put on the {known.name}")
        put.editingFinished.connect(partial(self._put, known, put))
        line.addWidget(put)
        for words, then in (
            ("zero", simulated.press_zero),
            ("unit", simulated.press_unit),
            ("unplug", simulated.unplug),
        ):
            line.addWidget(self._plain(words, f"{words} of the {known.name}", then))
        line.addStretch(1)
        return row

    def _plain(self, words: str, name: str, then: object) -> QPushButton:
        button = QPushButton(words)
        button.setObjectName("plain")
        button.setAccessibleName(name)
        button.clicked.connect(lambda _checked=False: then())  # type: ignore[operator]
        return button

    def _put(self, known: _Known, field: Field) -> None:
        if known.simulated is not None and field.value is not None and not field.wrong:
            known.simulated.put(field.value)

    # -- hearing -----------------------------------------------------------------------------------

    def _heard(self, known: _Known, value: float, mass: bool, steady: bool, unit: str) -> None:
        before = known.measure
        known.measure = Measure(value, mass, steady, unit)
        if before is None or abs(before.value - value) > STEP[mass]:
            self._hand = known
        self._say_value(known)

    def _ended(self, known: _Known, why: str) -> None:
        self._session.said.emit(f"{known.name}: {why}. What was taken stays; connect it again to go on")
        self.leave(known)

    def _look(self) -> None:
        for known in self.known:
            self._say_value(known)

    def _say_value(self, known: _Known) -> None:
        if known.label is None:
            return
        m = known.measure
        hand = "›" if known is self._hand else " "
        if m is None or known.port.silent:
            text = "says nothing"
        else:
            text = f"{m.value:.2f} g" if m.mass else f"{m.value:.1f} mm"
            text += "" if m.steady else "  moving"
        known.label.setText(f"{hand} {known.name}  {text}")

    # -- taking ------------------------------------------------------------------------------------

    def _focused(self, _old: QWidget | None, now: QWidget | None) -> None:
        if isinstance(now, Field) and now in self._form.fields():
            self._field = now

    def take(self) -> bool:
        """What the instrument in hand says goes into the field that has, or had last, the focus; on to the next one."""
        fields = self._form.fields()
        field = self._field if self._field in fields else next((f for f in fields if not f.text()), None)
        hand = self._hand
        if hand is None or hand.measure is None:
            self._session.said.emit("No instrument says anything: connect one under the form")
            return False
        m = hand.measure
        if field is None:
            self._session.said.emit("Every field has a value: choose the one to read anew")
            return False
        if not m.steady or hand.port.silent:
            self._session.said.emit(f"The {hand.name} is not steady yet")
            return False
        lefts = [line.left for line in self._form.lines]
        counts = [*self._form.counts.values(), self._form.minutes]
        if field in counts or (m.mass and field not in lefts):
            what = "grams" if m.mass else "a length"
            self._session.said.emit(
                f"The {hand.name} says {what}; {field.accessibleName()} is something else"
            )
            return False
        if m.value < 0:
            self._session.said.emit(f"The {hand.name} says less than nothing: set it to zero first")
            return False
        field.setText(f"{m.value:.2f} g" if m.mass else f"{m.value:.1f} mm")
        after = fields[fields.index(field) + 1 :]
        nearest = next((f for f in after if not f.text() and f not in counts), None)
        if nearest is not None:
            nearest.setFocus()
            self._field = nearest
        return True
