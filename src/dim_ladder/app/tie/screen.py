"""A test tie: asked in the order in which it is measured, and at once what it teaches."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from itertools import pairwise

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dim_ladder.app.fields import Field
from dim_ladder.app.session import Session
from dim_ladder.app.theme import theme
from dim_ladder.app.tie.form import TieForm
from dim_ladder.app.tie.instruments import Instruments
from dim_ladder.app.tie.lessons import Lessons
from dim_ladder.app.tie.reading import Asked
from dim_ladder.app.tie.state import NAME
from dim_ladder.base import DimLadderError
from dim_ladder.calibrate import Calibration, Tie, calibrate
from dim_ladder.calibrate.misfit import Misfit
from dim_ladder.calibrate.prior import Prior
from dim_ladder.commands import AddTie, RemoveTie, ReplaceTie
from dim_ladder.commands.edits import SetTies
from dim_ladder.commands.lessons import Lesson, lesson
from dim_ladder.notation import working_ends
from dim_ladder.trace.ends import letter

TYPED_MS = 150  # after the last key, what is typed is looked at


class TieScreen(QWidget):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.preview: Calibration | None = None
        self.lesson: Lesson | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(TYPED_MS)
        self._timer.timeout.connect(self._ask_preview)
        self.form = TieForm(session)
        self.lessons = Lessons(session.said.emit, self._attempt, self._named)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.instruments = Instruments(session, self.form)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.form)
        column.addWidget(self.instruments)
        column.addStretch(1)
        layout.addWidget(_scrolled(left, 384), 6)
        layout.addWidget(_scrolled(self.lessons, 384), 7)
        self.form.edited.connect(self._timer.start)
        self.form.logged.connect(self.log_tie)
        self.form.left_off.connect(self._forget)
        self.form.built.connect(self._order)
        self.lessons.asked.connect(self._ask_lesson)
        self.lessons.fixed.connect(self._fix)
        self.lessons.removed.connect(self._remove)
        self.lessons.changed.connect(self._change)
        self.lessons.outdated.connect(self._still_right)
        session.changed.connect(self.refresh)
        session.calibrated.connect(self._show)
        self.form.switch()
        self.refresh()

    # What the form and the lessons hold, by their old places.
    counts = property(lambda self: self.form.counts)
    lines = property(lambda self: self.form.lines)
    length: Field = property(lambda self: self.form.length)  # type: ignore[assignment]
    minutes: Field = property(lambda self: self.form.minutes)  # type: ignore[assignment]
    tension: QButtonGroup = property(lambda self: self.form.tension)  # type: ignore[assignment]
    headline: QLabel = property(lambda self: self.lessons.headline)  # type: ignore[assignment]
    log: QPushButton = property(lambda self: self.form.log)  # type: ignore[assignment]

    def _attempt(self, work: Callable[[], object]) -> None:
        try:
            work()
        except DimLadderError as e:
            self._session.said.emit(str(e))

    def _named(self, text: str) -> str:
        """A text with ends as they stand on the form: by cord and letter."""
        for k, end in enumerate(working_ends(self._session.weave)):
            text = re.sub(rf"(?<![\w.]){re.escape(end)}(?!\w)", f"{end.split('.')[0]} {letter(k)}", text)
        return text

    def _still_right(self) -> None:
        """Ties of another version count as if they had been tied on this one."""
        c = self._session.calibration
        for tie in self._session.document.ties:
            if c is not None and tie.id in c.data.outdated:
                now = {s: c.prior.versions.get(s, v) for s, v in tie.versions.items()}
                self._session.do(ReplaceTie(id=tie.id, tie=tie.model_copy(update={"versions": now})))

    def refresh(self) -> None:
        self.form.refresh()
        self.lessons.fill_list(self._session.document.ties)
        self._order()
        self._show()

    def _order(self) -> None:
        """Tab goes from field to field as they are read, whenever they were made."""
        parts = (self.form, self.instruments, self.lessons)
        found = [
            w
            for part in parts
            for w in part.findChildren(QWidget)
            if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.window() is self.window()
        ]
        for before, after in pairwise([self, *found]):
            QWidget.setTabOrder(before, after)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._order()
        self._show()

    # -- the tie -----------------------------------------------------------------------------------

    def tie(self) -> Tie | None:
        return self.form.tie()

    def fill(self, tie: Tie) -> None:
        """What is known of a tie already, as from tying along."""
        self.refresh()
        self.form.fill(tie)
        units = ", ".join(f"{n} × {s}" for s, n in tie.counts.items()) or "no whole unit"
        self._session.said.emit(
            f"Tied along: {units}. Measure what is left of every end, and the tied length."
        )

    def log_tie(self) -> bool:
        """Keep the form as a test tie."""
        tie = self.form.tie()
        if tie is None:
            return False
        for r in tie.readings:
            if r.cut_mm is not None and r.left_mm is not None and r.left_mm >= r.cut_mm:
                self._session.said.emit(
                    f"{', '.join(r.ends)}: more is left over than was cut. Are the two exchanged?"
                )
                return False
        if not any(tie.counts.values()) and tie.length_mm is None:
            self._session.said.emit(
                "Say how many units you tied, or how long it is; without either the cord cannot be shared out"
            )
            next(iter(self.form.counts.values()), self.form.length).setFocus()
            return False
        if not tie.readings and tie.length_mm is None:
            self._session.said.emit(
                "Nothing is measured yet: give a cut and what was left over, or the tied length"
            )
            return False
        edit = ReplaceTie(id=tie.id, tie=tie) if self.form.changing else AddTie(tie=tie)
        with self._session.custody.keeper.done_with(NAME):
            done = self._session.do(edit)
        if not done:
            return False
        self.form.after_log()
        self._forget()
        return True

    def _remove(self, tie: str) -> None:
        if self.form.changing is not None and self.form.changing.id == tie:
            self.form.leave()
        self._session.do(RemoveTie(id=tie))

    def _change(self, tie: str) -> None:
        found = next((t for t in self._session.document.ties if t.id == tie), None)
        if found is None:  # the one that is being typed
            self.form.setFocus()
            return
        self.form.change(found)
        self._forget()

    def _fix(self, misfit: Misfit) -> None:
        """The likely slip taken out of a tie, or of all of them, by one click: logged ones, or the one in the form."""
        logged = self._session.document.ties
        if misfit.drop and any(t.id == misfit.tie for t in logged):
            self._remove(misfit.tie)
            return
        new = {t.id: t for t in misfit.repairs}
        if self.form.changing is None and new and all(any(t.id == i for t in logged) for i in new):
            one = ReplaceTie(id=misfit.tie, tie=misfit.repairs[0]) if len(new) == 1 else None
            self._session.do(one or SetTies(ties=tuple(new.get(t.id, t) for t in logged)))
        elif len(new) == 1:
            self.form.put(misfit.repairs[0])
            self._timer.start()

    # -- what it teaches ---------------------------------------------------------------------------

    def _forget(self) -> None:
        """What was typed is not looked at any more."""
        self._timer.stop()
        self._session.jobs.drop("preview")
        self.preview = None
        self._show()

    def _typed(self) -> Tie | None:
        """The tie in the form, where enough of it is there to teach something."""
        if self.form.wrong() is not None or self._session.calibration is None:
            return None
        counted = any(f.value for f in self.form.counts.values())
        read = any(_whole(line) for line in self.form.lines)
        if (counted and (read or self.form.length.value)) or (read and self.form.length.value):
            return self.form.tie()
        return None

    def _ask_preview(self) -> None:
        """The calibration with what is typed so far, on a thread."""
        tie = self._typed()
        c = self._session.calibration
        if tie is None or c is None:
            if self.preview is not None:
                self._forget()
            return
        ties = (*(t for t in self._session.document.ties if t.id != tie.id), tie)
        self._session.jobs.ask(
            self, "preview", partial(_fitted, c.prior, ties), partial(self._previewed, tie), self._failed
        )

    def _previewed(self, tie: Tie, calibration: Calibration) -> None:
        self.preview = calibration
        self._show(tie)

    def _failed(self, error: Exception) -> None:
        self._session.said.emit(str(error))

    def _show(self, typed: Tie | None = None) -> None:
        c = self.preview or self._session.calibration
        if c is None or not c.is_of(self._session.weave):
            self.lessons.show_nothing(
                self._session.not_counted("Record a unit first; then its cord can be counted.")
            )
            return
        self.form.regroup()
        self.lessons.show_rates(c, typed=self.preview is not None)
        self._ask_lesson(typed=typed)

    def _ask_lesson(self, _checked: bool = False, *, typed: Tie | None = None) -> None:
        c = self.preview or self._session.calibration
        s = self._session
        if c is None or not c.is_of(s.weave) or not self.isVisible():
            return
        if typed is None and self.preview is not None:
            typed = self._typed()
        ties = s.document.ties
        if typed is not None:
            ties = (*(t for t in ties if t.id != typed.id), typed)
        work = partial(lesson, s.weave, c, ties, s.document.plan, self.lessons.view, theme().pen, typed)
        s.jobs.ask(self, "lesson", work, self._taught, self._failed)

    def _taught(self, found: Lesson) -> None:
        if found.calibration is (self.preview or self._session.calibration):
            self.lesson = found
            self.lessons.show_lesson(found)


def _whole(line: Asked) -> bool:
    return bool(line.cut.value) and line.left.value is not None


def _fitted(prior: Prior, ties: tuple[Tie, ...]) -> Calibration:
    return calibrate(None, ties, prior)


def _scrolled(widget: QWidget, width: int) -> QScrollArea:
    area = QScrollArea()
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what is in it has the focus
    area.setWidget(widget)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setMinimumWidth(width)
    return area
