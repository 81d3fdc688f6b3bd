"""Python's cycle collector, on the interface thread only.

The collector runs on whichever thread happens to allocate. On a worker it would destroy window parts whose last
references form a cycle, and Qt aborts when a timer or widget is destroyed on a foreign thread. So automatic
collection is off, and a timer of the interface thread does it by the same thresholds.
"""

from __future__ import annotations

import ctypes
import gc

from PySide6.QtCore import QObject, QTimer

EVERY_MS = 1500
GIVE_BACK = 8  # times that: pictures come and go, and what they leave free is given back to the system


def _trimmer() -> object | None:
    """The C library's way to give free memory back; None where it has none."""
    try:
        return ctypes.CDLL(None).malloc_trim
    except (AttributeError, OSError):
        return None


class Collector(QObject):
    """Switches automatic collection off for the life of the application and collects on its own thread."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._thresholds = gc.get_threshold()
        gc.disable()
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY_MS)
        self._timer.timeout.connect(self._tick)
        self._ticks = 0
        self._trim = _trimmer()
        self._timer.start()

    def _tick(self) -> None:
        self.check()
        self._ticks += 1
        if callable(self._trim) and self._ticks % GIVE_BACK == 0:
            self._trim(0)

    def check(self) -> int:
        """Collect the oldest generation that is due; -1 when none is."""
        counts = gc.get_count()
        due = max((g for g in range(3) if counts[g] > self._thresholds[g]), default=-1)
        if due >= 0:
            gc.collect(due)
        return due
