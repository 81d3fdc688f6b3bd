"""The calibration of the open weave, refitted on a thread; and what all weaves say of their cord."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from dim_ladder.app.workers import PAINTING, Jobs
from dim_ladder.base import DimLadderError, WorldError
from dim_ladder.base.state import state_folder
from dim_ladder.calibrate import Calibration, Softness, Tie
from dim_ladder.commands.calibrating import Shapes, calibrations, keep_cords, load_cords
from dim_ladder.notation import Weave

CORDS = "cords.json"


class Calibrator(QObject):
    """fitted : there is another calibration, or none."""

    fitted = Signal()
    said = Signal(str)

    def __init__(self, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._jobs = jobs
        self._name = ""
        self._ties: tuple[Tie, ...] = ()
        self._shapes = Shapes()
        self.cords = load_cords(state_folder() / CORDS)
        self.calibration: Calibration | None = None

    def ask(self, weave: Weave, ties: Sequence[Tie], path: Path | None, after_ms: int, large: bool) -> None:
        """From a snapshot: at once from the shapes that are known, better as they come. large : of large work too, which takes a while."""
        self._name, self._ties = str(path) if path else "", tuple(ties)
        work = partial(_fits, weave, self._ties, self.softness(), self._shapes, large)
        self._jobs.follow(self, "calibrate", work, self._fitted, self._last, self._failed, after_ms=after_ms)

    def softness(self) -> Softness:
        """What other weaves say of the cord of this one."""
        return self.cords.others(self._name, self._ties)

    def clear(self) -> None:
        """There is nothing to calibrate now."""
        self._jobs.drop("calibrate")
        self._fitted(None)

    def _failed(self, error: DimLadderError) -> None:
        self.said.emit(str(error))

    def _fitted(self, calibration: Calibration | None) -> None:
        self.calibration = calibration
        self.fitted.emit()

    def _last(self, calibration: Calibration | None) -> None:
        if calibration is not self.calibration:
            self._fitted(calibration)
        if calibration is None or not self._name or calibration.refusal:
            return
        path = state_folder() / CORDS
        told = self.cords.told(self._name, calibration, self._ties)
        if told == self.cords:
            return
        told = self.cords = load_cords(path).told(
            self._name, calibration, self._ties
        )  # with what other windows say
        try:
            keep_cords(told, path)
        except (OSError, WorldError) as e:
            self.said.emit(f"What is known of this cord cannot be kept: {e}")


def _fits(
    weave: Weave,
    ties: tuple[Tie, ...],
    softness: Softness,
    shapes: Shapes,
    large: bool,
    stale: Callable[[], bool],
) -> Iterator[Calibration]:
    """On a thread that waits while something is painted."""

    def enough() -> bool:
        with PAINTING:
            return stale()

    return calibrations(weave, ties, softness, shapes, enough, large)
