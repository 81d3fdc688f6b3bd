"""Traces of the open weave: of all of it for the ladder, up to the section that is recorded for the board.

A trace follows every edit at once. What takes longer than a glance (thousands of steps) is drawn in slices between
key presses, can be stopped, and is never waited for: until it is done, the ladder ends where the trace does.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QObject, QTimer, Signal

from dim_ladder.base import Cancelled, Problem
from dim_ladder.commands.draft import Draft
from dim_ladder.notation import Weave
from dim_ladder.trace import Trace, Tracer

AT_ONCE_S = 0.2  # what is drawn in this time is not put off
SLICE_S = 0.04
TOLD_EVERY_S = 0.25


class Traces(QObject):
    """grown : what was put off is drawn, or stopped. progressed : a little more is drawn, a few times a second."""

    grown = Signal()
    progressed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._for_ladder, self._for_board = Tracer(), Tracer()
        # The weave cut after the section that is recorded, kept while it lasts, and the board last shown.
        self._upto: tuple[Weave, tuple[int, int | None], Weave] | None = None
        self._shown: tuple[Weave, int, int | None, Draft | None, Trace] | None = None
        self._weave: Weave | None = None
        self._counts: dict[
            str, int
        ] = {}  # sections that are worked more than once for what follows: see commands/shown.py
        self._at: tuple[int, int | None] = (0, None)
        self._left = False  # a trace that was put off
        self.stopped = False
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._slice)
        self._told = 0.0

    @property
    def busy(self) -> bool:
        """Whether some of the weave is not traced yet, or tracing it was stopped."""
        return self._left

    @property
    def progress(self) -> str:
        done, of = max(self._for_ladder.progress, self._for_board.progress, key=lambda p: p[1] - p[0])
        return f"{done:,} of {of:,} steps traced"

    def follow(self, weave: Weave, counts: dict[str, int]) -> Trace:
        """The trace of a weave with every section once, or as often as counts say, as far as it is drawn at once."""
        self._weave, self._left, self.stopped = weave, False, False
        if counts != self._counts:
            self._counts, self._shown = counts, None
        self._timer.stop()
        return self._ladder(AT_ONCE_S)

    def board(self, weave: Weave, section: int, cursor: int | None, draft: Draft | None, keep: bool) -> Trace:
        """Up to a section, with the draft as its last step. cursor : of that section only so many items.
        keep : this is what the board shows now."""
        if self._left:
            return self.ladder
        shown = self._shown
        if shown is not None and shown[0] is weave and shown[1:4] == (section, cursor, draft):
            return shown[4]
        self._at = (section, cursor)
        found = self._board(weave, self._at, draft, AT_ONCE_S)
        if found is not None and keep:
            self._shown = (weave, section, cursor, draft, found)
        return found or self.ladder

    def stop(self) -> None:
        """Leave the rest undrawn; the next edit draws on."""
        if self._left:
            self._timer.stop()
            self.stopped = True
            self.grown.emit()

    def _put_off(self) -> None:
        self._left = True
        self._timer.start()

    def _ladder(self, seconds: float) -> Trace:
        assert self._weave is not None
        try:
            self.ladder = self._for_ladder.trace(
                self._weave, counts=self._units(self._weave), cancel=_after(seconds)
            )
        except Cancelled:
            self._put_off()
            self.ladder = self._for_ladder.so_far(
                self._weave,
                Problem("This weave is not traced to its end yet", "Wait, or undo the edit: Ctrl+Z"),
            )
        return self.ladder

    def _board(
        self, weave: Weave, at: tuple[int, int | None], draft: Draft | None, seconds: float
    ) -> Trace | None:
        section, cursor = at
        if self._upto is None or self._upto[0] is not weave or self._upto[1] != at:
            sections = weave.sections[: section + 1]
            if cursor is not None and sections:
                sections = (*sections[:-1], replace(sections[-1], items=sections[-1].items[:cursor]))
            self._upto = (weave, at, replace(weave, sections=sections))
        step = (section, draft.item()) if draft is not None and draft.begun else None
        try:
            return self._for_board.trace(
                self._upto[2], counts=self._units(weave, section), draft=step, cancel=_after(seconds)
            )
        except Cancelled:
            self._put_off()
            return None

    def _units(self, weave: Weave, recorded: int = -1) -> dict[str, int]:
        """recorded : of this section one unit, which is being made."""
        return {
            s.name: 1 if i == recorded else self._counts.get(s.name, 1) for i, s in enumerate(weave.sections)
        }

    def _slice(self) -> None:
        """A little more, then the window again. Only the last slice is shown: drawing the ladder costs too."""
        weave = self._weave
        assert weave is not None
        try:
            found = self._for_ladder.trace(weave, counts=self._units(weave), cancel=_after(SLICE_S))
            self.ladder = found
        except Cancelled:
            found = None
        if found is None or self._board(weave, self._at, None, SLICE_S) is None:
            if time.monotonic() > self._told + TOLD_EVERY_S:
                self._told = time.monotonic()
                self.progressed.emit()
            return
        self._timer.stop()
        self._left = False
        self.grown.emit()


def _after(seconds: float) -> Callable[[], bool]:
    end = time.monotonic() + seconds
    return lambda: time.monotonic() > end
