"""A test tie: asked in the order in which it is measured, and at once what it teaches."""

from __future__ import annotations

import datetime
from dataclasses import dataclass
from functools import partial

from pydantic import ValidationError
from PySide6.QtCore import QSize, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.fields import Field, clear, length_field, read_count, read_minutes
from dim_ladder.app.painting import PictureView, paint_shapes
from dim_ladder.app.session import Session
from dim_ladder.app.theme import mono, sized, theme
from dim_ladder.base import format_length
from dim_ladder.calibrate import Calibration, Reading, Tie, calibrate
from dim_ladder.calibrate.charts import use_chart
from dim_ladder.commands import AddTie, RemoveTie
from dim_ladder.notation import working_ends
from dim_ladder.trace.display import cord_lines
from dim_ladder.trace.look import letter


class Swatch(QWidget):
    """A short piece of cord."""

    def __init__(self, colour: str, pattern: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._colour, self._pattern = colour, pattern
        self.setFixedSize(QSize(44, 18))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        path = (("M", (7.0, 9.0)), ("L", (37.0, 9.0)))
        paint_shapes(
            painter, cord_lines(path, self._colour, 11.0, theme().pen, pattern=self._pattern, round_cap=True)
        )
        painter.end()


@dataclass(frozen=True, slots=True)
class _Line:
    """One reading to take: these ends, cut and left over."""

    ends: tuple[str, ...]
    cut: Field
    left: Field


class TieScreen(QWidget):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._apart: set[str] = set()  # cords whose ends are measured one by one
        self._together: set[str] = set()  # cords whose ends are measured together
        self._shape: object = None
        self.counts: dict[str, Field] = {}
        self.lines: list[_Line] = []
        self.preview: Calibration | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(150)
        self._timer.timeout.connect(self._ask_preview)

        self._form = QWidget()
        self._form_layout = QVBoxLayout(self._form)
        self._form_layout.setContentsMargins(24, 20, 12, 20)
        self._form_layout.setSpacing(14)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what is in it has the focus
        scroll.setWidgetResizable(True)
        scroll.setWidget(self._form)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setMinimumWidth(430)

        self.headline = QLabel()
        self.headline.setFont(sized(1.15, True))
        self.headline.setWordWrap(True)
        self.headline.setTextFormat(Qt.TextFormat.PlainText)
        self.rates = QLabel()
        self.rates.setTextFormat(Qt.TextFormat.RichText)
        self.rates.setWordWrap(True)
        self.rates.setAccessibleName("Cord per unit by role")
        self.chart = PictureView(1.25)
        self.chart.setAccessibleName("Cord used against units")
        self.list = QVBoxLayout()
        self.list.setSpacing(2)
        right = QWidget()
        side = QVBoxLayout(right)
        side.setContentsMargins(16, 20, 20, 16)
        side.setSpacing(10)
        side.addWidget(self.headline)
        side.addWidget(self.rates)
        side.addWidget(self.chart, 1)
        logged = QLabel("Logged")
        logged.setFont(sized(1.0, True))
        side.addWidget(logged)
        side.addLayout(self.list)
        side.addStretch(0)
        right_scroll = QScrollArea()
        right_scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what is in it has the focus
        right_scroll.setWidgetResizable(True)
        right_scroll.setWidget(right)
        right_scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(scroll, 6)
        layout.addWidget(right_scroll, 7)
        session.changed.connect(self.refresh)
        session.calibrated.connect(self._show)
        self.refresh()

    # -- the form ----------------------------------------------------------------------------------

    def refresh(self) -> None:
        weave = self._session.weave
        shape = (
            working_ends(weave),
            tuple((c.name, c.colour) for c in weave.cords),
            tuple((s.name, s.kind, bool(s.items)) for s in weave.sections),
        )
        if shape != self._shape:
            self._shape = shape
            self._build()
        self._fill_list()
        self._show()

    def _build(self) -> None:
        kept = {line.ends: (line.cut.text(), line.left.text()) for line in self.lines}
        kept_counts = {name: f.text() for name, f in self.counts.items()}
        clear(self._form_layout)
        self.lines, self.counts = [], {}
        weave = self._session.weave
        head = QLabel("A test tie")
        head.setFont(sized(1.5, True))
        self._form_layout.addWidget(head)
        self._form_layout.addWidget(
            self._quiet(
                "Lengths as you read them: 17 cm, 82,5 cm, 9 1/8 in, 30 + 12.5 cm. What you did not measure stays empty."
            )
        )
        grid_box = QWidget()
        grid = QGridLayout(grid_box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(4, 1)
        row = 0
        title = QLabel("Before you tie")
        title.setFont(sized(1.0, True))
        grid.addWidget(title, row, 0, 1, 2)
        grid.addWidget(self._quiet("cut", Qt.AlignmentFlag.AlignRight), row, 2)
        grid.addWidget(self._quiet("left over", Qt.AlignmentFlag.AlignRight), row, 3)
        row += 1
        for index, cord in enumerate(weave.cords):
            groups = self._groups(cord.name)
            ends = tuple(e for g in groups for e in g)
            for k, group in enumerate(groups):
                grid.addWidget(Swatch(cord.colour, index), row, 0)
                letters = " and ".join(letter(working_ends(weave).index(e)) for e in group)
                grid.addWidget(QLabel(f"{cord.name}  {letters}"), row, 1)
                cut = length_field(f"{cord.name} {letters} cut", optional=True, width=80)
                left = length_field(f"{cord.name} {letters} left over", optional=True, width=80)
                for field, text in zip((cut, left), kept.get(group, ("", "")), strict=True):
                    field.put(text)
                    self._watch(field)
                grid.addWidget(cut, row, 2)
                grid.addWidget(left, row, 3)
                if len(ends) > 1 and k == 0:
                    words = "together" if len(groups) > 1 else "apart"
                    toggle = QPushButton(words)
                    toggle.setObjectName("plain")
                    toggle.setToolTip("Measure both ends of this cord together, or each by itself")
                    toggle.setAccessibleName(f"Measure {cord.name} {words}")
                    toggle.clicked.connect(partial(self._toggle, cord.name))
                    grid.addWidget(toggle, row, 4, Qt.AlignmentFlag.AlignLeft)
                self.lines.append(_Line(group, cut, left))
                row += 1
        self._form_layout.addWidget(grid_box)
        self._form_layout.addWidget(self._after(kept_counts))
        self._form_layout.addStretch(1)

    def _after(self, kept: dict[str, str]) -> QWidget:
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(2, 1)
        title = QLabel("What you tied")
        title.setFont(sized(1.0, True))
        grid.addWidget(title, 0, 0, 1, 2)
        row = 1
        for section in self._session.weave.sections:
            if section.kind == "finish" or not section.items:
                continue
            field = Field(f"units of {section.name}", read_count, optional=True)
            field.put(kept.get(section.name, ""))
            self._watch(field)
            self.counts[section.name] = field
            grid.addWidget(QLabel(f"units of {section.name}"), row, 0)
            grid.addWidget(field, row, 1)
            row += 1
        self.length = length_field("tied length", optional=True)
        self.thickness = length_field("thickness", default="mm", optional=True, hint="mm")
        self.minutes = Field("minutes", read_minutes, optional=True)
        for text, field in (
            ("tied length", self.length),
            ("thickness", self.thickness),
            ("minutes", self.minutes),
        ):
            self._watch(field)
            grid.addWidget(QLabel(text), row, 0)
            grid.addWidget(field, row, 1)
            row += 1
        grid.addWidget(QLabel("tension"), row, 0)
        tension = QHBoxLayout()
        tension.setSpacing(6)
        self.tension = QButtonGroup(box)
        for name in ("tight", "snug", "easy"):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setChecked(name == "snug")
            self.tension.addButton(button)
            tension.addWidget(button)
        tension.addStretch(1)
        grid.addLayout(tension, row, 1, 1, 2)
        row += 1
        self.note = QLineEdit()
        self.note.setPlaceholderText("a note")
        self.note.setAccessibleName("note")
        grid.addWidget(QLabel("note"), row, 0)
        grid.addWidget(self.note, row, 1, 1, 2)
        row += 1
        self.log = QPushButton("Log this tie")
        self.log.setObjectName("next")
        self.log.setToolTip("Keep the readings as a test tie (Ctrl+Return)")
        self.log.clicked.connect(self.log_tie)
        grid.addWidget(self.log, row, 0, 1, 2, Qt.AlignmentFlag.AlignLeft)
        return box

    def _quiet(self, text: str, align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft) -> QLabel:
        label = QLabel(text)
        label.setObjectName("quiet")
        label.setWordWrap(len(text) > 30)
        label.setAlignment(align)
        return label

    def _watch(self, field: Field) -> None:
        field.taken.connect(self._timer.start)
        field.refused.connect(self._session.said)

    def _is_apart(self, cord: str) -> bool:
        """Ends of different roles eat differently and are asked one by one, unless the maker says otherwise."""
        if f"{cord}.m" in working_ends(self._session.weave):
            return False  # in thirds: only two of its four strands have an end that can be measured
        if cord in self._apart or cord in self._together:
            return cord in self._apart
        calibration = self._session.calibration
        ends = [e for e in working_ends(self._session.weave) if e.split(".")[0] == cord]
        role_of = calibration.prior.role_of if calibration else {}
        return len({role_of.get(e, e) for e in ends}) > 1

    def _groups(self, cord: str) -> list[tuple[str, ...]]:
        """Which ends of a cord are measured in one reading."""
        ends = tuple(e for e in working_ends(self._session.weave) if e.split(".")[0] == cord)
        if not ends:
            return []
        return [(e,) for e in ends] if len(ends) == 1 or self._is_apart(cord) else [ends]

    def _regroup(self) -> None:
        """Ask anew once the roles are known, unless something is typed already."""
        wanted = [g for c in self._session.weave.cords for g in self._groups(c.name)]
        typed = any(f.text() for line in self.lines for f in (line.cut, line.left))
        if wanted != [line.ends for line in self.lines] and not typed:
            self._build()

    def _toggle(self, cord: str, _checked: bool = False) -> None:
        apart = self._is_apart(cord)
        (self._together if apart else self._apart).add(cord)
        (self._apart if apart else self._together).discard(cord)
        self._build()

    # -- the tie -----------------------------------------------------------------------------------

    def tie(self) -> Tie | None:
        """The form as a tie; None (said why) when something in it cannot be read."""
        fields = [*self.counts.values(), self.length, self.thickness, self.minutes]
        fields += [f for line in self.lines for f in (line.cut, line.left)]
        for f in fields:
            if f.wrong:
                self._session.said.emit(f"{f.accessibleName()}: {f.wrong}")
                f.setFocus()
                return None
        readings = tuple(
            Reading(ends=line.ends, cut_mm=line.cut.value, left_mm=line.left.value)
            for line in self.lines
            if line.cut.value is not None or line.left.value is not None
        )
        checked = self.tension.checkedButton()
        numbers = [
            int(t.id[1:]) for t in self._session.document.ties if t.id[:1] == "T" and t.id[1:].isdigit()
        ]
        try:
            return Tie(
                id=f"T{max(numbers, default=0) + 1}",
                date=datetime.date.today().isoformat(),
                tension=checked.text() if checked else "",
                counts={s: int(f.value) for s, f in self.counts.items() if f.value is not None},
                length_mm=self.length.value,
                thickness_mm=self.thickness.value,
                minutes=self.minutes.value,
                readings=readings,
                note=self.note.text()[:2000],
            )
        except ValidationError as e:
            self._session.said.emit(f"This tie cannot be kept: {e.errors()[0]['msg']}")
            return None

    def fill(self, tie: Tie) -> None:
        """What is known of a tie already, as from tying along: counts and minutes. Readings are still to be taken."""
        self.refresh()
        for name, field in self.counts.items():
            if name in tie.counts:
                field.put(str(tie.counts[name]))
        if tie.minutes is not None:
            self.minutes.put(f"{tie.minutes:g}")
        if tie.note and not self.note.text():
            self.note.setText(tie.note)
        units = ", ".join(f"{n} × {s}" for s, n in tie.counts.items()) or "no whole unit"
        self._session.said.emit(
            f"Tied along: {units}. Measure what is left of every end, and the tied length."
        )
        first = next((line.cut if line.cut.value is None else line.left for line in self.lines), self.length)
        first.setFocus()

    def log_tie(self) -> bool:
        """Keep the form as a test tie."""
        tie = self.tie()
        if tie is None:
            return False
        for r in tie.readings:
            if r.cut_mm is not None and r.left_mm is not None and r.left_mm >= r.cut_mm:
                self._session.said.emit(
                    f"{', '.join(r.ends)}: more is left over than was cut. Are the two exchanged?"
                )
                return False
        if not tie.counts or not any(tie.counts.values()):
            self._session.said.emit(
                "Say how many units you tied; without the count the cord cannot be shared out"
            )
            next(iter(self.counts.values()), self.length).setFocus()
            return False
        if not tie.readings and tie.length_mm is None:
            self._session.said.emit(
                "Nothing is measured yet: give a cut and what was left over, or the tied length"
            )
            return False
        if not self._session.do(AddTie(tie=tie)):
            return False
        for line in self.lines:
            line.left.put("")
        self.length.put("")
        self.minutes.put("")
        self.note.clear()
        self.preview = None
        self._show()
        return True

    # -- what it teaches ---------------------------------------------------------------------------

    def _ask_preview(self) -> None:
        """The calibration with what is typed so far, on a thread."""
        if any(f.wrong for line in self.lines for f in (line.cut, line.left)):
            return
        readings = [
            line
            for line in self.lines
            if line.cut.value and line.left.value is not None and line.left.value < line.cut.value
        ]
        counted = any(f.value for f in self.counts.values())
        tie = (
            self.tie() if counted and (readings or self.length.value) and self._session.calibration else None
        )
        if tie is None:
            self.preview = None
            self._show()
            return
        session = self._session
        weave, ties = session.weave, (*session.document.ties, tie)
        session.jobs.ask(
            "preview", lambda: calibrate(weave, ties), self._previewed, lambda e: session.said.emit(str(e))
        )

    def _previewed(self, calibration: Calibration) -> None:
        self.preview = calibration
        self._show()

    def _show(self) -> None:
        c = self.preview or self._session.calibration
        if c is None:
            self.headline.setText("Record a unit first; then its cord can be counted.")
            self.rates.setText("")
            self.chart.show_picture(None)
            return
        self._regroup()
        ties = self._session.document.ties
        count = f"{c.ties} test tie{'s' if c.ties != 1 else ''}"
        if self.preview is not None:
            self.headline.setText(f"With this tie ({count}, tie to tie ±{c.tie_spread:.1%}):")
        elif c.ties:
            self.headline.setText(f"From {count}; tie to tie ±{c.tie_spread:.1%}")
        else:
            self.headline.setText("From the drawing alone, so far: wide. One tie narrows it a lot.")
        self.rates.setText(rates_html(c))
        section = next((s for s in c.prior.sections if self._session.weave.section(s)), c.prior.sections[0])
        self.chart.show_picture(use_chart(c, ties, section, theme().pen))

    def _fill_list(self) -> None:
        clear(self.list)
        for tie in reversed(self._session.document.ties[-8:]):
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            units = ", ".join(f"{n} × {s}" for s, n in tie.counts.items())
            length = f", {format_length(tie.length_mm)} long" if tie.length_mm else ""
            text = QLabel(f"{tie.id}  {tie.date}  {units}{length}  {tie.tension}")
            text.setTextFormat(Qt.TextFormat.PlainText)
            text.setFont(mono(0.82))
            text.setWordWrap(True)
            remove = QPushButton("remove")
            remove.setObjectName("plain")
            remove.setAccessibleName(f"Remove tie {tie.id}")
            remove.clicked.connect(partial(self._remove, tie.id))
            line.addWidget(text, 1)
            line.addWidget(remove)
            self.list.addWidget(row)
        if not self._session.document.ties:
            self.list.addWidget(
                self._quiet("Nothing logged yet. Cut, tie six units, measure what is left: a minute’s work.")
            )

    def _remove(self, tie_id: str, _checked: bool = False) -> None:
        self._session.do(RemoveTie(id=tie_id))


def rates_html(c: Calibration) -> str:
    """The table of rates. Names of roles are the program's own, sections are plain names."""
    t = theme()
    several = len(c.prior.sections) > 1
    head = f"<tr style='color:{t.quiet}'><td>role</td>{'<td>section</td>' if several else ''}<td align='right'>a unit</td><td align='right'>9 in 10 within</td><td align='right'>per length</td></tr>"
    rows = []
    for role in c.prior.roles:
        for section in c.prior.sections:
            spread = c.per_unit(role, section)
            lo, hi = spread.interval(0.9)
            rows.append(
                f"<tr><td>{role}&nbsp;&nbsp;</td>{f'<td>{section}&nbsp;&nbsp;</td>' if several else ''}<td align='right'><b>{spread.median:.0f} mm</b></td>"
                f"<td align='right'>&nbsp;&nbsp;{lo:.0f} to {hi:.0f} mm</td>"
                f"<td align='right'>&nbsp;&nbsp;{c.per_length(role, section).median:.2f}</td></tr>"
            )
    return f"<table cellspacing='0' cellpadding='3'>{head}{''.join(rows)}</table>"
