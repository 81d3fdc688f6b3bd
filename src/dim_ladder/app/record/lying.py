"""Flat weaves as they lie: working that out takes up to a second or two, so they hang until it is done on a thread."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QObject

from dim_ladder.app.workers import Jobs
from dim_ladder.picture.diagrams import diagram
from dim_ladder.picture.display import Ink, Picture
from dim_ladder.picture.look import Style
from dim_ladder.picture.woven import is_woven
from dim_ladder.trace import Trace

PAUSE_MS = 120


class Lying:
    """Draws diagrams for one view, the owner. again : called when a weave that was asked for can be drawn as it lies."""

    def __init__(self, jobs: Jobs, owner: QObject, key: str, again: Callable[[], None]) -> None:
        self._jobs, self._owner, self._key, self._again = jobs, owner, key, again
        self._known: tuple[Trace, int, int] | None = None

    def draw(
        self, trace: Trace, first: int, step: int, last: int, ink: Ink, style: Style, focus: bool
    ) -> Picture:
        """As it lies where that is known (or needs no working out), else hanging."""
        make = partial(diagram, trace, first, step, ink, style, layout_to=last, focus=focus)
        if not is_woven(trace, first, last):
            return make()
        known = self._known
        if known is not None and known[0] is trace and known[1:] == (first, last):
            return make()
        self._jobs.ask(
            self._owner,
            self._key,
            make,
            partial(self._done, (trace, first, last)),
            self._failed,
            after_ms=PAUSE_MS,
        )
        return make(ease=False)

    def _done(self, known: tuple[Trace, int, int], _: Picture) -> None:
        self._known = known
        self._again()

    def _failed(self, error: Exception) -> None:
        """It stays hanging, which is right too."""
