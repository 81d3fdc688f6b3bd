"""What the ties teach: rates, what does not fit, what to tie next, charts, and the ties that are logged."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from dim_ladder.app.fields import clear
from dim_ladder.app.labels import Label
from dim_ladder.app.theme import mono, sized, theme
from dim_ladder.app.tie.chartview import ChartBox
from dim_ladder.app.tie.reading import quiet
from dim_ladder.base import format_length
from dim_ladder.calibrate import Calibration, Tie
from dim_ladder.calibrate.advice import Candidate
from dim_ladder.calibrate.misfit import Misfit
from dim_ladder.calibrate.rings import BASE_MM
from dim_ladder.commands.lessons import VIEWS, Lesson

SHOWN = 8  # ties in the list, the newest first


class Lessons(QWidget):
    """asked : another chart is wanted. fixed : a tie as it should be. removed, changed : a tie, by its id. outdated :
    ties of another version are still right."""

    asked = Signal()
    fixed = Signal(object)
    removed = Signal(str)
    changed = Signal(str)
    outdated = Signal()

    def __init__(
        self, say: Callable[[str], None], attempt: Callable[[Callable[[], object]], object], named: Callable[[str], str],
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        """named : a text with ends as makers see them, by their letters."""
        super().__init__(parent)
        self._named = named
        self.headline = Label()
        self.headline.setFont(sized(1.15, True))
        self.headline.setWordWrap(True)
        self.rates = Label()
        self.rates.setTextFormat(Qt.TextFormat.RichText)
        self.rates.setWordWrap(True)
        self.rates.setAccessibleName("Cord per unit by role")
        self.cards = QVBoxLayout()
        self.cards.setSpacing(6)
        self.advice = Label()
        self.advice.setWordWrap(True)
        self.advice.setAccessibleName("What to tie next")
        self.notes = quiet("")
        self.notes.setWordWrap(True)
        self.chart = ChartBox(say, attempt, named)
        self.chart.view.chosen.connect(self._chosen)
        self.pills = QButtonGroup(self)
        views = QHBoxLayout()
        views.setSpacing(6)
        for name, words in VIEWS.items():
            pill = QPushButton(words)
            pill.setCheckable(True)
            pill.setChecked(name == "use")
            pill.setProperty("view", name)
            pill.clicked.connect(self.asked)
            self.pills.addButton(pill)
            views.addWidget(pill)
        views.addStretch(1)
        self.list = QVBoxLayout()
        self.list.setSpacing(0)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 20, 20, 12)
        layout.setSpacing(8)
        for part in (self.headline, self.cards, self.rates, self.advice, views, self.chart, self.notes):
            if isinstance(part, QWidget):
                layout.addWidget(part)
            else:
                layout.addLayout(part)
        logged = Label("Logged")
        logged.setFont(sized(1.0, True))
        layout.addWidget(logged)
        layout.addLayout(self.list)
        layout.addStretch(1)

    @property
    def view(self) -> str:
        """The chart that is wanted."""
        button = self.pills.checkedButton()
        return str(button.property("view")) if button else "use"

    def _chosen(self, spot: object) -> None:
        tie = getattr(spot, "tie", "")
        if tie:
            self.changed.emit(tie)

    def show_nothing(self, why: str) -> None:
        self.headline.setText(why)
        self.rates.setText("")
        self.advice.setText("")
        self.notes.setText("")
        clear(self.cards)
        self.chart.show_chart(None)

    def show_rates(self, c: Calibration, *, typed: bool) -> None:
        """What is known at once, before the rest is worked out."""
        count = f"{c.ties} test tie{'s' if c.ties != 1 else ''}"
        if typed:
            self.headline.setText(f"With this tie ({count}, piece to piece ±{c.tie_spread:.1%}):")
        elif c.ties:
            self.headline.setText(
                f"From {count} in {len(c.data.sittings)} sitting{'s' if len(c.data.sittings) != 1 else ''}; piece to piece ±{c.tie_spread:.1%}"
            )
        elif c.prior.shaped:
            self.headline.setText("From its tight shape alone, so far. One tie narrows it a lot.")
        else:
            self.headline.setText("From the drawing alone, so far: wide. One tie narrows it a lot.")
        self.rates.setText(rates_html(c))

    def show_lesson(self, lesson: Lesson) -> None:
        c = lesson.calibration
        clear(self.cards)
        if c.refusal:
            self.cards.addWidget(self._card(f"Not to be relied on: {c.refusal}.", None))
        for misfit in lesson.misfits[:3]:
            self.cards.addWidget(self._card(self._named(misfit.words), misfit))
        for why in c.left_out[:3]:
            self.cards.addWidget(quiet(f"Left out: {self._named(why)}"))
        if c.data.outdated:
            again = QPushButton("They are still right: count them")
            again.setToolTip(
                "Ties of another version of the weave count as if they had been tied on this one"
            )
            again.clicked.connect(self.outdated)
            row = QHBoxLayout()
            row.addWidget(again)
            row.addStretch(1)
            holder = QWidget()
            holder.setLayout(row)
            self.cards.addWidget(holder)
        said = [f"Next: {a.words}{_minutes(lesson, a)}." for a in lesson.next_ties[:2]]
        said += [f"{lesson.enough}."] if lesson.enough else []
        self.advice.setText("\n".join(said))
        self.advice.setVisible(bool(said))
        notes = [r.words for r in lesson.rules]
        if lesson.timing.ties:
            for s in c.prior.fits:
                unit = lesson.timing.unit(s)
                low, high = unit.interval(0.9)
                notes.append(
                    f"A unit of {s} takes {unit.median:.1f} minutes, 9 in 10 between {low:.1f} and {high:.1f}."
                )
        notes += [f"By {d.by}: {d.words}." for d in lesson.drifts]
        self.notes.setText("\n".join(notes))
        self.chart.show_chart(lesson.chart)

    def _card(self, words: str, misfit: Misfit | None) -> QWidget:
        card = QFrame()
        card.setObjectName("say")
        layout = QVBoxLayout(card)
        layout.setContentsMargins(12, 8, 12, 8)
        text = Label(words)
        text.setWordWrap(True)
        layout.addWidget(text)
        if misfit is not None:
            row = QHBoxLayout()
            whose = misfit.tie or "all ties"
            if misfit.repairs or misfit.drop:
                fix = QPushButton("Change it so" if misfit.repairs else "Take it out")
                fix.setAccessibleName(f"{'Change' if misfit.repairs else 'Take out'} {whose}: {misfit.cause}")
                fix.clicked.connect(partial(self._fix, misfit))
                row.addWidget(fix)
            if misfit.tie:
                look = QPushButton("Look at it")
                look.setAccessibleName(f"Look at {misfit.tie}")
                look.clicked.connect(partial(self._look, misfit.tie))
                row.addWidget(look)
            row.addStretch(1)
            layout.addLayout(row)
        return card

    def _fix(self, misfit: Misfit, _checked: bool = False) -> None:
        self.fixed.emit(misfit)

    def _look(self, tie: str, _checked: bool = False) -> None:
        self.changed.emit(tie)

    def fill_list(self, ties: tuple[Tie, ...]) -> None:
        clear(self.list)
        for tie in reversed(ties[-SHOWN:]):
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            units = ", ".join(f"{n} × {s}" for s, n in tie.counts.items()) or "not counted"
            length = f", {format_length(tie.length_mm)} long" if tie.length_mm else ""
            text = Label(f"{tie.id}  {tie.date}  {units}{length}  {tie.tension}")
            text.setFont(mono(0.82))
            text.setWordWrap(True)
            line.addWidget(text, 1)
            for words, what, signal in (("change", "Change", self._look), ("remove", "Remove", self._remove)):
                button = QPushButton(words)
                button.setObjectName("plain")
                button.setAccessibleName(f"{what} tie {tie.id}")
                button.clicked.connect(partial(signal, tie.id))
                line.addWidget(button)
            self.list.addWidget(row)
        if len(ties) > SHOWN:
            self.list.addWidget(quiet(f"and {len(ties) - SHOWN} before them"))
        if not ties:
            self.list.addWidget(
                quiet("Nothing logged yet. Cut, tie six units, measure what is left: a minute’s work.")
            )

    def _remove(self, tie: str, _checked: bool = False) -> None:
        self.removed.emit(tie)


def _minutes(lesson: Lesson, tie: Candidate) -> str:
    counts = tie.counts or {s: float(n) for s, n in lesson.calibration.prior.fixed.items()}
    minutes = lesson.timing.piece(counts).median if lesson.timing.ties else 0.0
    return f", and about {minutes:.0f} minutes" if minutes >= 1 else ""


def rates_html(c: Calibration) -> str:
    """The table of rates. Names of roles are the program's own, sections are plain names."""
    t = theme()
    several = len(c.prior.sections) > 1
    head = f"<tr style='color:{t.quiet}'><td>role</td>{'<td>section</td>' if several else ''}<td align='right'>a unit</td><td align='right'>half within</td><td align='right'>9 in 10 within</td><td align='right'>per length</td></tr>"
    rows = []
    for role in c.prior.roles:
        for section in c.prior.sections:
            spread = c.per_unit(role, section)
            if spread.median < 0.5:
                continue
            ring = f"on {format_length(BASE_MM)} round"
            per = ring if section in c.prior.rings else f"{c.per_length(role, section).median:.2f}"
            (a, b), (lo, hi) = spread.interval(0.5), spread.interval(0.9)
            rows.append(
                f"<tr><td>{role}&nbsp;&nbsp;</td>{f'<td>{section}&nbsp;&nbsp;</td>' if several else ''}<td align='right'><b>{spread.median:.0f} mm</b></td>"
                f"<td align='right'>&nbsp;&nbsp;{a:.0f} to {b:.0f}</td>"
                f"<td align='right'>&nbsp;&nbsp;{lo:.0f} to {hi:.0f}</td>"
                f"<td align='right'>&nbsp;&nbsp;{per}</td></tr>"
            )
    return f"<table cellspacing='0' cellpadding='3'>{head}{''.join(rows)}</table>"
