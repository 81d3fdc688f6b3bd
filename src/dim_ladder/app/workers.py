"""Long work off the interface thread: frozen requests in, results back, stale ones dropped."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, QTimer, Signal

from dim_ladder.base import DimLadderError

_Answers = dict[
    tuple[str, int], tuple[bool, Any]
]  # one writer and one reader per key: safe under the interpreter


class _Report(QObject):
    # Only plain values cross in the signal: Python objects in a queued signal (None above all) lose references in
    # PySide 6.12 and crash the interpreter later. Results wait in the job itself.
    done = Signal(str, int)


class _Job(QRunnable):
    def __init__(
        self, key: str, number: int, work: Callable[[], Any], report: _Report, answers: _Answers
    ) -> None:
        super().__init__()
        self._key, self._number, self._work, self._report, self._answers = key, number, work, report, answers

    def run(self) -> None:
        try:
            self._answers[self._key, self._number] = (True, self._work())
        except Exception as e:  # handed to the interface thread, which tells input from bug
            self._answers[self._key, self._number] = (False, e)
        self._report.done.emit(self._key, self._number)


class Jobs(QObject):
    """One line of requests per key: only the newest answer of a key is delivered."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(2)
        self._report = _Report(self)
        self._report.done.connect(self._deliver)
        self._newest: dict[str, int] = {}
        self._waiting: dict[str, tuple[Callable[[Any], None], Callable[[DimLadderError], None]]] = {}
        self._answers: _Answers = {}
        self._timers: dict[str, QTimer] = {}
        self._running = 0

    @property
    def busy(self) -> bool:
        return self._running > 0 or bool(self._timers)

    def ask(
        self,
        key: str,
        work: Callable[[], Any],
        then: Callable[[Any], None],
        failed: Callable[[DimLadderError], None],
        *,
        after_ms: int = 0,
    ) -> None:
        """Run `work` on a thread; it must only touch immutable values. then, failed : on the interface thread.

        after_ms : begin when nothing newer was asked under this key for so long. Python threads share one lock, so
        work begun right after a key press would slow the very picture that the key press is waiting for.
        """
        number = self._newest.get(key, 0) + 1
        self._newest[key] = number
        self._waiting[key] = (then, failed)
        job = _Job(key, number, work, self._report, self._answers)
        timer = self._timers.pop(key, None)
        if timer is not None:
            timer.stop()
            timer.deleteLater()
        if after_ms <= 0:
            self._start(job)
            return
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.timeout.connect(partial(self._ripe, key, job))
        self._timers[key] = timer
        timer.start(after_ms)

    def _ripe(self, key: str, job: _Job) -> None:
        self._timers.pop(key).deleteLater()
        self._start(job)

    def _start(self, job: _Job) -> None:
        self._running += 1
        self._pool.start(job)

    def _deliver(self, key: str, number: int) -> None:
        self._running -= 1
        done, result = self._answers.pop((key, number))
        if number != self._newest.get(key):
            return
        then, failed = self._waiting[key]
        if done:
            then(result)
        elif isinstance(result, DimLadderError):
            failed(result)
        else:
            raise result

    def finish(self) -> None:
        """Wait for what runs, deliver nothing more."""
        self._newest.clear()
        for timer in self._timers.values():
            timer.stop()
        self._timers.clear()
        self._pool.waitForDone()
