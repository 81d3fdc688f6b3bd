"""Playback: the recorded steps made before one's eyes, forward and back, at any speed, from the front or from behind."""

from __future__ import annotations

import time

from PySide6.QtCore import QObject, QTimer, Signal

from dim_ladder.app.session import Session
from dim_ladder.app.theme import theme
from dim_ladder.picture.display import Ink, Picture
from dim_ladder.picture.look import Style
from dim_ladder.picture.motion import Motion, eased_time
from dim_ladder.publish.motion import HOLD_S, step_seconds
from dim_ladder.trace import Trace

FRAME_MS = 16
SPEEDS = (0.25, 0.5, 1.0, 2.0, 4.0)


class Player(QObject):
    """moment : see Motion; the rungs follow it. Emits moved for every frame, and stopped once it stands."""

    moved = Signal()
    stopped = Signal()

    def __init__(self, session: Session, style: Style, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._style = style
        self.on = False  # whether the board shows the player's moment
        self.playing = False
        self.forward = True
        self.speed = 1.0
        self.behind = False
        self.moment = 0.0
        self._made: tuple[Trace, int, int, Ink, bool, Motion] | None = None
        self._held = 0.0  # seconds that the finished step has stood
        self._last = 0.0
        self._moving_rung = False
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME_MS)
        self._timer.timeout.connect(self._tick)
        session.traced.connect(self._traced)

    # -- the stretch -------------------------------------------------------------------------------

    def stretch(self) -> tuple[int, int] | None:
        """First and last step: the chosen passage, else all that the ladder shows of the section."""
        s = self._session
        steps = s.ladder.steps
        passage = s.passage()
        section = next(
            (i for i, x in enumerate(s.weave.sections) if passage and x.name == passage[0]), s.section
        )
        several = passage is not None and s.anchor not in (-1, s.chosen)
        at = [
            i for i, r in enumerate(steps)
            if r.op.section == section and not r.quiet and not r.op.unit and (not several or (passage and passage[1] <= r.op.item <= passage[2]))
        ]  # fmt: skip
        return (at[0], at[-1]) if at else None

    def motion(self) -> Motion | None:
        """The motion of the stretch; the same one while weave, stretch and colours are the same."""
        if self.on and self._made is not None and self._made[0] is self._session.ladder:
            first, last = self._made[1:3]
        else:
            found = self.stretch()
            if found is None:
                return None
            first, last = found
        trace, pen = self._session.ladder, theme().pen
        made = self._made
        if made is None or made[0] is not trace or made[1:5] != (first, last, pen, self.behind):
            style = Style(self._style.unit, self._style.row, self._style.cord, behind=self.behind)
            # While it moves, everything hangs: easing a flat weave takes longer than a frame.
            self._made = made = (
                trace,
                first,
                last,
                pen,
                self.behind,
                Motion(trace, first, last, pen, style, ease=False),
            )
        return made[5]

    def picture(self) -> Picture | None:
        motion = self.motion()
        return motion.picture(self.shown_moment()) if motion is not None else None

    # -- play --------------------------------------------------------------------------------------

    def play(self, forward: bool = True) -> None:
        """Play from the chosen rung, or from the beginning (back: from the end) of the stretch; again: stop."""
        if self.playing and forward == self.forward:
            self.pause()
            return
        motion = self._enter()
        if motion is None:
            return
        self.forward = forward
        if forward and self.moment >= motion.end:
            self.moment = motion.begin
        elif not forward and self.moment <= motion.begin:
            self.moment = motion.end
        self.playing = True
        self._held, self._last = HOLD_S, time.monotonic()
        self._timer.start()
        self._follow()

    def _enter(self) -> Motion | None:
        """Begin to show moments: at the chosen rung, with its step about to be made."""
        s = self._session
        if s.draft is not None:
            s.said.emit("Rest the end first, or let it go: then the steps can be played")
            return None
        if self.on:
            return self.motion()
        motion = self.motion()
        if motion is None:
            s.said.emit("There is no step to play yet")
            return None
        chosen = s.chosen if motion.first <= s.chosen <= motion.last else motion.first
        several = s.anchor not in (-1, s.chosen)
        self.moment = float(motion.first if several else chosen)
        self.on = True
        return motion

    def pause(self) -> None:
        self.playing = False
        self._timer.stop()
        self.stopped.emit()

    def leave(self) -> None:
        """Back to the board as it is."""
        self.pause()
        if self.on:
            self.on = False
            self._made = None
            self.moved.emit()
            self.stopped.emit()

    def step(self, by: int) -> None:
        """One step on or back, at rest."""
        motion = self._enter()
        if motion is None:
            return
        self.pause()
        whole = int(self.moment)
        to = whole + 1 if by > 0 else (whole if self.moment > whole else whole - 1)
        self.seek(min(max(float(to), motion.begin), motion.end))

    def seek(self, moment: float) -> None:
        motion = self._enter()
        if motion is not None:
            self.moment = min(max(moment, motion.begin), motion.end)
            self._follow()

    def turn_over(self) -> None:
        """Seen from the other side."""
        self.behind = not self.behind
        if self._enter() is not None:
            self._follow()

    def faster(self, by: int) -> None:
        at = min(max(SPEEDS.index(self.speed) + by, 0), len(SPEEDS) - 1)
        self.speed = SPEEDS[at]
        self.moved.emit()

    def advance(self, seconds: float) -> None:
        """Go on by so much time; stops at the end of the stretch."""
        motion = self.motion()
        if motion is None:
            self.leave()
            return
        left = seconds * self.speed
        while left > 0 and self.playing:
            left = self._onwards(motion, left)
        self._follow()

    def _onwards(self, motion: Motion, left: float) -> float:
        """Use some of the time; what is left of it."""
        d = 1 if self.forward else -1
        at_rest = self.moment == int(self.moment)
        if at_rest and self._held < HOLD_S:
            used = min(left, HOLD_S - self._held)
            self._held += used
            return left - used
        if self.moment >= motion.end if self.forward else self.moment <= motion.begin:
            self.pause()
            return 0.0
        step = int(self.moment) if self.forward or not at_rest else int(self.moment) - 1
        whole = step_seconds(motion.parts(step))
        goal = step + 1.0 if self.forward else float(step)
        way = abs(goal - self.moment) * whole
        if left < way and not self._session.settings.motion:
            left = way  # no motion: from rest to rest
        if left < way:
            self.moment += d * left / whole
            return 0.0
        self.moment, self._held = goal, 0.0
        return left - way

    def shown_moment(self) -> float:
        """The moment as it is drawn: a hand begins and ends slowly."""
        whole = int(self.moment)
        return whole + eased_time(self.moment - whole)

    def _tick(self) -> None:
        now = time.monotonic()
        # A slow frame must not make the tip jump.
        self.advance(min(now - self._last, 0.1))
        self._last = now

    def _follow(self) -> None:
        """The rung of the moment is the chosen one, everywhere."""
        motion = self.motion()
        if motion is not None:
            step = motion.step_at(self.moment) if self.moment > motion.begin else motion.first
            if step != self._session.chosen:
                self._moving_rung = True
                self._session.choose(step)
                self._moving_rung = False
        self.moved.emit()

    def _as_before(self) -> bool:
        """Whether the steps that are played are there as they were; what hangs after them may hang otherwise, in another size."""
        made, now = self._made, self._session.ladder
        if made is None or made[0] is now:
            return made is not None
        first, last = made[1:3]
        was = [r.op for r in made[0].steps[first : last + 1]]
        return self.stretch() == (first, last) and was == [r.op for r in now.steps[first : last + 1]]

    def _traced(self) -> None:
        """Another rung was chosen, or the weave changed, by hand: the board is itself again."""
        if self.on and not self._moving_rung:
            s = self._session
            motion = self.motion() if self._as_before() else None
            same = motion is not None and s.draft is None and motion.step_at(self.moment) == s.chosen
            if not same:
                self.leave()
