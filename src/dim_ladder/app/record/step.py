"""This step: its sentence, its picture, whether the unit lies flat, and what is wrong."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from dim_ladder.app.labels import Label
from dim_ladder.app.painting import PictureView
from dim_ladder.app.record.lying import Lying
from dim_ladder.app.record.tightside import TightSide
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized, theme
from dim_ladder.base import InputError, Problem
from dim_ladder.library import CAUTIONS, FINISHES
from dim_ladder.notation import Section
from dim_ladder.picture.former import round_picture
from dim_ladder.picture.look import Style
from dim_ladder.picture.windows import window_end, window_of
from dim_ladder.trace.former import former_work
from dim_ladder.words.former import called_out
from dim_ladder.words.headings import step_heading
from dim_ladder.words.sentences import step_sentence

SHOWN_CALLS = 5
LOUD = ("stop", "slip", "spiral")
QUIET_TURNS = ("flat", "meant", "wrapped", "laid", "woven", "net", "straight")


class StepPanel(QFrame):
    """Shows the chosen rung, else the step in hand, else the last one recorded."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setObjectName("side")
        self.setMinimumWidth(220)
        self._problems: tuple[Problem, ...] = ()
        self._lying = Lying(session.jobs, self, "lying-step", self.refresh)
        self.title = Label()
        self.title.setFont(sized(1.15, True))
        self.sentence = Label()
        self.picture = PictureView(1.15)
        self.picture.setAccessibleName("Picture of the step")
        self.caution = Label()
        self.caution.setObjectName("problem")
        self.turning = Label()
        self.notes = Label()
        self.problems = Label()
        self.problems.setObjectName("problem")
        told = QWidget()
        layout = QVBoxLayout(told)
        layout.setContentsMargins(0, 0, 4, 0)
        layout.setSpacing(10)
        for label in (self.title, self.sentence, self.caution, self.turning, self.notes, self.problems):
            label.setWordWrap(True)
            label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            label.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout.addWidget(self.title)
        layout.addWidget(self.sentence)
        # What is wrong stands above the picture: below it, it might be out of sight.
        layout.addWidget(self.caution)
        layout.addWidget(self.problems)
        layout.addWidget(self.turning)
        layout.addWidget(self.picture)
        layout.addWidget(self.notes)
        layout.addStretch(1)
        # Much can be said of a step: that scrolls, and the tight weave stays below it.
        self.told = QScrollArea()
        self.told.setAccessibleName("This step")
        self.told.setWidget(told)
        self.told.setWidgetResizable(True)
        self.told.setFrameShape(QFrame.Shape.NoFrame)
        self.told.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.told.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.tight = TightSide(session)
        side = QVBoxLayout(self)
        side.setContentsMargins(20, 16, 12, 16)
        side.setSpacing(10)
        side.addWidget(self.told, 1)
        side.addWidget(self.tight)
        session.traced.connect(self.refresh)
        self.refresh()

    def show_problems(self, problems: tuple[Problem, ...]) -> None:
        self._problems = problems
        self.refresh()

    def _former(self, section: Section) -> None:
        """What is called out on a round former, and the work seen along it."""
        self.caution.setText("")
        try:
            work = former_work(section)
        except InputError as e:
            self.title.setText("On a round former")
            self.sentence.setText(str(e))
            self.picture.show_picture(None)
            return
        self.title.setText(f"{work.leads} leads, {work.bights} bights")
        calls = [f"{c.run + 1}. {c.text}" if c.run >= 0 else c.text for c in called_out(section)]
        if len(calls) > SHOWN_CALLS:
            calls = [*calls[:SHOWN_CALLS], f"… {len(calls)} in all, on the sheet"]
        self.sentence.setText("\n".join(calls))
        colours = [c.colour for c in self._session.weave.cords] or ["#888888"]
        self.picture.show_picture(round_picture(work, colours, None, theme().pen, 230.0))

    def refresh(self) -> None:
        s = self._session
        trace, step = s.ladder, s.chosen
        if s.draft is not None and s.draft.begun:
            trace = s.board()
            step = len(trace.steps) - 1
        elif step < 0:
            step = max(
                (i for i, r in enumerate(trace.steps) if r.op.section == s.section and not r.op.unit),
                default=-1,
            )
        section = s.weave.sections[s.section] if s.weave.sections else None
        if section is not None and section.former is not None and step < 0:
            self._former(section)
        elif 0 <= step < len(trace.steps):
            record = trace.steps[step]
            voice = s.document.sheet.vocabulary
            knot = next(
                (
                    h
                    for i in range(step, -1, -1)
                    if trace.steps[i].op is record.op and (h := step_heading(trace, i, voice))
                ),
                "",
            )
            self.title.setText(f"Step {step + 1}" + (f" · {knot}" if knot else ""))
            self.sentence.setText(step_sentence(trace, step, voice, s.document.sheet.lie))
            finish = FINISHES.get(record.finish)
            self.caution.setText("\n".join(CAUTIONS[k] for k in finish.cautions) if finish else "")
            if record.hops:
                first, last = window_of(trace, step), window_end(trace, step)
                self.picture.show_later(
                    partial(self._lying.draw, trace, first, step, last, theme().pen, Style(), True)
                )
            else:
                self.picture.show_picture(None)
        else:
            self.title.setText("No step yet")
            self.sentence.setText(
                "A step is what one end does before it rests. Press the end’s letter on the board, then O for over or "
                "U for under each tail it crosses, then Return."
            )
            self.caution.setText("")
            self.picture.show_picture(None)
        self.caution.setVisible(bool(self.caution.text()))
        notes = s.checks.notes if s.checks is not None else ()
        loud = [text for kind, text in notes if kind in LOUD]
        self.turning.setText("\n".join(loud or [text for kind, text in notes if kind in QUIET_TURNS]))
        self.turning.setFont(sized(1.0, bool(loud)))
        self.turning.setVisible(bool(self.turning.text()))
        quiet = [text for kind, text in notes if kind not in (*LOUD, *QUIET_TURNS)]
        self.notes.setText("\n".join(quiet))
        self.notes.setVisible(bool(quiet))
        # What the script pane places by line is not told once more without it.
        told = {p.message: str(p) for p in (*trace.problems, *self._problems)}
        lines = list(told.values())[:4]
        self.problems.setText("\n".join(lines))
        self.problems.setVisible(bool(lines))
