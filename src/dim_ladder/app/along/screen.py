"""Tying along: the whole screen for the step in hand, to be read from two metres away with cord in both hands."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QCloseEvent, QKeyEvent, QMouseEvent, QResizeEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QStackedLayout, QVBoxLayout, QWidget

from dim_ladder.app.along.begin import BeginPage
from dim_ladder.app.along.clock import Clock, clock_words
from dim_ladder.app.along.nearby import Nearby
from dim_ladder.app.along.pictures import beat_picture
from dim_ladder.app.along.progress import CordProgress
from dim_ladder.app.along.store import Store
from dim_ladder.app.labels import Label
from dim_ladder.app.look.gallery import Gallery
from dim_ladder.app.look.tightener import content_of
from dim_ladder.app.painting import PictureView
from dim_ladder.app.session import Session
from dim_ladder.app.theme import sized, theme
from dim_ladder.base import InputError
from dim_ladder.calibrate import Tie
from dim_ladder.commands.tying import (
    Beat,
    Tying,
    as_tie,
    begun,
    cautions,
    checkpoint,
    digest,
    heading,
    seconds_left,
    sentence,
    side_due,
    start,
    tape,
    unit_seconds,
)
from dim_ladder.trace import Trace

SIDES = {"left": "← from the left", "right": "from the right →", "middle": "↓ from the middle", "": ""}
BACK = (Qt.Key.Key_Backspace, Qt.Key.Key_Left, Qt.Key.Key_PageUp, Qt.Key.Key_Up)
UNUSED = (
    Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta, Qt.Key.Key_AltGr, Qt.Key.Key_CapsLock,
    Qt.Key.Key_NumLock, Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_VolumeUp, Qt.Key.Key_VolumeDown, Qt.Key.Key_VolumeMute,
)  # fmt: skip
HINT = "Space, any key, a pedal or a click: next   ·   Backspace: back   ·   P: pause   ·   W: where am I?   ·   S: looks wrong?   ·   E: end, to the test tie   ·   Esc: leave for now"


class Along(QWidget):
    """ended : the test tie it makes. left : it was closed with the place kept."""

    ended = Signal(object)
    left = Signal()

    def __init__(self, session: Session, clock: Callable[[float], Clock] = Clock) -> None:
        super().__init__(None)
        self._session = session
        self._new_clock = clock
        self._store = Store(session.path, session.weave.name)
        self.weave = session.weave
        self.trace: Trace | None = None
        self.beats: tuple[Beat, ...] = ()
        self.tying: Tying | None = None
        self.clock = clock(0.0)
        self.setWindowTitle(f"Tying along: {session.weave.name}")
        self.setAutoFillBackground(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(900, 600)

        self.section, self.knot, self.time = Label(), Label(), Label()
        self.side, self.unit, self.step, self.tape = Label(), Label(), Label(), Label()
        self.sentence, self.check, self.hint = Label(), Label(), Label(HINT)
        self.time.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        for label in (self.sentence, self.check, self.knot, self.tape, self.hint):
            label.setWordWrap(True)
        self.unit.setAccessibleName("Unit")
        self.hint.setObjectName("quiet")
        self.check.setObjectName("problem")
        self.side.setObjectName("problem")
        self.picture = PictureView(4.0)
        self.progress = CordProgress()
        self.nearby = Nearby()
        self.nearby.picked.connect(self._go)
        self.begin = BeginPage()
        self.begin.go_on.connect(self._go_on)
        self.begin.anew.connect(self._anew)
        self.begin.refused.connect(self.close)

        side = QVBoxLayout()
        side.setSpacing(2)
        for widget in (self.side, self.unit, self.step, self.tape):
            side.addWidget(widget)
        side.addStretch(1)
        side.addWidget(self.check)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(self.picture, 3)
        body.addLayout(side, 2)
        head = QGridLayout()
        head.addWidget(self.section, 0, 0)
        head.addWidget(self.time, 0, 1)
        head.setColumnStretch(0, 1)
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(32, 20, 32, 12)
        layout.setSpacing(8)
        layout.addLayout(head)
        layout.addWidget(self.knot)
        layout.addLayout(body, 1)
        layout.addWidget(self.sentence)
        layout.addWidget(self.progress)
        layout.addWidget(self.hint)
        self.pages = QStackedLayout(self)
        self.gallery = Gallery(session.jobs, "along-slips", letters=1.25)
        self.wrong = QWidget()
        wrong = QVBoxLayout(self.wrong)
        wrong.setContentsMargins(32, 24, 32, 16)
        title, back = Label("Does it look like one of these?"), Label("Any key goes back to the step")
        title.setFont(sized(2.0, True))
        back.setFont(sized(1.2))
        back.setObjectName("quiet")
        wrong.addWidget(title)
        wrong.addWidget(self.gallery, 1)
        wrong.addWidget(back)
        for whole in (self.begin, page, self.nearby, self.wrong):
            self.pages.addWidget(whole)
        self._page = page
        self._ticker = self.startTimer(1000)
        self._offer()

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)

    # -- beginning ---------------------------------------------------------------------------------

    def _offer(self) -> None:
        """What was being tied, and what could be begun."""
        kept = self._store.load()
        changed = kept is not None and kept.weave != digest(self.weave)
        place = ""
        if kept is not None and not changed:
            try:
                _, beats = begun(self.weave, kept.counts)
            except InputError:
                kept = None
            else:
                if kept.at >= len(beats) or not kept.at:
                    kept = None
                else:
                    b = beats[kept.at]
                    place = f"unit {b.unit} of {b.section}, step {b.step}, {clock_words(kept.seconds)} worked so far"
        self._kept = kept if not changed else None
        self.begin.offer(self._session, place if self._kept is not None else "", changed)

    def _go_on(self) -> None:
        if self._kept is not None:
            self._take(self._kept)

    def _anew(self, counts: dict[str, int]) -> None:
        self._take(start(self.weave, counts, datetime.date.today().isoformat()))

    def _take(self, tying: Tying) -> None:
        try:
            self.trace, self.beats = begun(self.weave, tying.counts)
        except InputError as e:
            self.begin.say(str(e))
            return
        self.tying = tying
        self.clock = self._new_clock(tying.seconds)
        self.clock.go()
        self.pages.setCurrentWidget(self._page)
        self.setFocus()
        self.refresh()

    # -- the way -----------------------------------------------------------------------------------

    @property
    def finished(self) -> bool:
        return self.tying is not None and self.tying.at >= len(self.beats)

    def next(self) -> None:
        if self.tying is None:
            return
        if self.finished:
            self.end()
            return
        self._keep(self.tying.next(self.beats, self.clock.seconds))

    def back(self) -> None:
        if self.tying is not None:
            self._keep(self.tying.back(self.clock.seconds))

    def _go(self, at: int) -> None:
        if self.tying is not None and at >= 0:
            self._keep(self.tying.go(at, self.clock.seconds))
        self.pages.setCurrentWidget(self._page)
        self.setFocus()

    def _keep(self, tying: Tying) -> None:
        self.tying = tying
        trouble = self._store.keep(tying)
        self.refresh()
        if trouble:
            self.check.setText(trouble)
            self.check.show()

    def pause(self) -> None:
        if self.clock.running:
            self.clock.pause()
        else:
            self.clock.go()
        self.refresh()

    def where(self) -> None:
        """What the work looks like at nearby steps."""
        if self.tying is not None and self.trace is not None:
            self.nearby.show_near(self.weave, self.trace, self.beats, self.tying.at)
            self.pages.setCurrentWidget(self.nearby)
            self.nearby.setFocus()

    def slips(self) -> None:
        """How this section goes wrong, next to the right one; any key goes back."""
        if self.tying is None or self.finished:
            return
        section = self.weave.section(self.beats[self.tying.at].section)
        if section is not None:
            self.gallery.show_slips(self.weave, section.name, content_of(self.weave, section), theme().pen)
            self.pages.setCurrentWidget(self.wrong)
            self.setFocus()

    def end(self) -> None:
        """Enough is tied: what is known of it becomes a test tie."""
        if self.tying is None:
            self.close()
            return
        tying = self.tying.model_copy(update={"seconds": self.clock.seconds})
        tie: Tie = as_tie(tying, self.beats)
        self._store.forget()
        self.tying = None
        self.ended.emit(tie)
        self.close()

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self) -> None:
        t = self.tying
        if t is None or self.trace is None:
            return
        calibration = self._session.calibration if self._session.weave is self.weave else None
        beat = self.beats[min(t.at, len(self.beats) - 1)]
        done = t.done(self.beats)
        self._show_time()
        self.section.setText(self.weave.name)
        self.unit.setText(f"{beat.unit}" if beat.units == 1 else f"{beat.unit} / {beat.units}")
        reads = tape(calibration, done)
        self.tape.setText(f"tape reads {reads}" if reads else "")
        check = checkpoint(t, self.beats, calibration)
        if not self.finished:
            check = "\n".join([check, *cautions(self.trace, beat)]).strip()
        self.check.setText(check)
        self.check.setVisible(bool(check))
        made = sum(1 / b.steps for b in self.beats[: t.at] if b.section == beat.section)
        cords = self.weave.cords
        self.progress.show_progress(made, beat.units, cords[0].colour if cords else theme().ink)
        if self.finished:
            self.knot.setText("All is tied")
            self.side.setText("")
            self.step.setText("")
            self.sentence.setText(
                "Measure what is left of every end. The next key takes you to the test tie, with the counts and the time filled in."
            )
            self.picture.show_picture(None)
            return
        sheet = self._session.document.sheet
        self.knot.setText(heading(self.trace, beat, sheet.vocabulary))
        due = side_due(self.trace, beat)
        self.side.setText(SIDES[due])
        self.step.setText(f"unit of {beat.section}, step {beat.step} of {beat.steps}")
        text = sentence(self.trace, beat, sheet.vocabulary, sheet.lie)
        self.sentence.setText(text if self.clock.running else f"Paused. Any key goes on.\n{text}")
        self.picture.show_later(partial(beat_picture, self.weave, self.trace, beat, theme().pen))

    def _show_time(self) -> None:
        t = self.tying
        if t is None:
            return
        words = clock_words(self.clock.seconds) + ("" if self.clock.running else " (paused)")
        each, left = unit_seconds(t, self.beats), seconds_left(t, self.beats)
        if each is not None:
            words += f"   a unit takes {clock_words(each)}"
        if left is not None and left > 0:
            words += f", about {clock_words(left)} to go"
        self.time.setText(words)

    def timerEvent(self, event: object) -> None:
        self._show_time()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Letters grow with the screen: a sentence is a twentieth of its height."""
        super().resizeEvent(event)
        base = self.fontMetrics().height() or 16
        unit = min(self.height(), self.width() * 0.66) / base

        for label, part, bold in (
            (self.section, 0.032, True), (self.time, 0.028, False), (self.knot, 0.036, True), (self.side, 0.058, True),
            (self.unit, 0.19, True), (self.step, 0.036, False), (self.tape, 0.036, False), (self.sentence, 0.05, False),
            (self.check, 0.04, True), (self.hint, 0.02, False),
        ):  # fmt: skip
            label.setFont(sized(max(unit * part, 0.9), bold))

    # -- hands -------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat():
            return  # a pedal that is held down is one step
        key = Qt.Key(event.key())
        if self.pages.currentWidget() is self.wrong:
            self._back_to_work()
            return
        if key == Qt.Key.Key_Escape:
            self.close()
        elif self.tying is None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.begin.press()
        elif self.tying is None or key in UNUSED:
            super().keyPressEvent(event)
        elif not self.clock.running:
            self.pause()
        elif key in BACK:
            self.back()
        elif key == Qt.Key.Key_P:
            self.pause()
        elif key == Qt.Key.Key_W:
            self.where()
        elif key == Qt.Key.Key_S:
            self.slips()
        elif key == Qt.Key.Key_E:
            self.end()
        else:
            self.next()

    def _back_to_work(self) -> None:
        """From the slips to the step in hand."""
        self.gallery.leave()
        self.pages.setCurrentWidget(self._page)
        self.setFocus()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.pages.currentWidget() is self.wrong:
            self._back_to_work()
            return
        if self.tying is None or self.pages.currentWidget() is not self._page:
            return
        if not self.clock.running:
            self.pause()
        elif event.button() == Qt.MouseButton.RightButton:
            self.back()
        else:
            self.next()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.tying is not None:
            self.clock.pause()
            self._store.keep(self.tying.model_copy(update={"seconds": self.clock.seconds}))
        self.left.emit()
        super().closeEvent(event)
