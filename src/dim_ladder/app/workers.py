"""Long work off the interface thread: frozen requests in, results back, stale ones dropped."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, QTimer, Signal
from shiboken6 import isValid

from dim_ladder.base import Cancelled, DimLadderError
from dim_ladder.base.budget import JOB_WORK, metered

_Answers = dict[
    tuple[str, int], tuple[bool, Any]
]  # one writer and one reader per key: safe under the interpreter


# Held by whoever paints on a thread. Every call of a painter gives the interpreter's lock away and waits for it again:
# beside work that computes, painting would take ten times as long. So such work asks for this between two of its parts.
PAINTING = threading.Lock()
KEPT = 512  # jobs that are held on to, far more than run or wait at a time


class _Report(QObject):
    # Only plain values cross in the signal: Python objects in a queued signal (None above all) lose references in
    # PySide 6.12 and crash the interpreter later. Results wait in the job itself.
    done = Signal(str, int)
    part = Signal(str, int)


class _Job(QRunnable):
    def __init__(
        self, key: str, number: int, work: Callable[[], Any], report: _Report, answers: _Answers, stale: Callable[[], bool]
    ) -> None:  # fmt: skip
        super().__init__()
        self._key, self._number, self._report, self._answers = key, number, report, answers
        self._work: Callable[[], Any] | None = work
        self._stale = stale

    def run(self) -> None:
        # Given up with the run: a job is kept long after it, and would keep all that it works on.
        work, self._work = self._work, None
        assert work is not None
        try:
            with metered(JOB_WORK, self._stale):  # what nobody waits for any more leaves off in the midst
                self._answers[self._key, self._number] = (True, work())
        except Cancelled:
            self._answers[self._key, self._number] = (True, None)  # delivered to nobody
        except Exception as e:  # handed to the interface thread, which tells input from bug
            self._answers[self._key, self._number] = (False, e)
        self._report.done.emit(self._key, self._number)


class _Stream(QRunnable):
    """A generator's values, one after the other; those nobody has taken yet give way to newer ones."""

    def __init__(
        self, key: str, number: int, work: Callable[[], Iterator[Any]], report: _Report, answers: _Answers,
        parts: dict[tuple[str, int], Any], stale: Callable[[], bool],
    ) -> None:  # fmt: skip
        super().__init__()
        self._key, self._number, self._report, self._answers = key, number, report, answers
        self._work: Callable[[], Iterator[Any]] | None = work
        self._parts, self._stale = parts, stale

    def run(self) -> None:
        work, self._work = self._work, None  # as in _Job
        assert work is not None
        me = (self._key, self._number)
        last: Any = None
        try:
            with metered(JOB_WORK, self._stale):
                for last in work():
                    if self._stale():
                        break
                    self._parts[me] = last
                    self._report.part.emit(*me)
            self._answers[me] = (True, last)
        except Cancelled:
            self._answers[me] = (True, last)
        except Exception as e:  # handed to the interface thread, which tells input from bug
            self._answers[me] = (False, e)
        self._report.done.emit(*me)


@dataclass(frozen=True, slots=True)
class _Wanted:
    """Who waits for the newest answer of a key, and what it is told. each : of a generator's values."""

    owner: QObject
    number: int
    then: Callable[[Any], None]
    failed: Callable[[DimLadderError], None]
    each: Callable[[Any], None] | None = None


class Jobs(QObject):
    """One line of requests per key: only the newest answer of a key is delivered, and only to who is still there.

    Every request has an owner, the part of the window that waits for the answer. Qt may have deleted it by the time the
    answer comes (a screen closed, a dialog done): then what runs leaves off, and nothing is delivered.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(2)
        self._slow = QThreadPool(self)  # what goes on for seconds does not keep what takes a moment waiting
        self._slow.setMaxThreadCount(
            1
        )  # two that compute under one lock take longer than one after the other
        self._report = _Report(self)
        self._report.done.connect(self._deliver)
        self._report.part.connect(self._deliver_part)
        self._parts: dict[tuple[str, int], Any] = {}
        self._newest: dict[str, int] = {}
        self._waiting: dict[str, _Wanted] = {}
        self._answers: _Answers = {}
        self._timers: dict[str, QTimer] = {}
        self._running = 0
        self._kept: deque[QRunnable] = deque(maxlen=KEPT)

    @property
    def busy(self) -> bool:
        return self._running > 0 or bool(self._timers)

    def ask(
        self,
        owner: QObject,
        key: str,
        work: Callable[[], Any],
        then: Callable[[Any], None],
        failed: Callable[[DimLadderError], None],
        *,
        after_ms: int = 0,
    ) -> None:
        """Run `work` on a thread; it must only touch immutable values. then, failed : on the interface thread, while the
        owner is there.

        after_ms : begin when nothing newer was asked under this key for so long. Python threads share one lock, so
        work begun right after a key press would slow the very picture that the key press is waiting for.
        """
        number = self._next(key)
        self._waiting[key] = _Wanted(owner, number, then, failed)
        job = _Job(
            key, number, work, self._report, self._answers,
            lambda: self._newest.get(key) != number or not isValid(owner),
        )  # fmt: skip
        self._begin(key, job, after_ms)

    def _begin(self, key: str, job: QRunnable, after_ms: int) -> None:
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

    def follow(
        self, owner: QObject, key: str, work: Callable[[Callable[[], bool]], Iterator[Any]], each: Callable[[Any], None],
        then: Callable[[Any], None], failed: Callable[[DimLadderError], None], *, after_ms: int = 0,
    ) -> None:  # fmt: skip
        """As `ask`, for a generator: `each` of its values as they come, the newest where they come too fast, and `then` the
        last one. work is given what to ask whether it may leave off: because something newer was asked for, or nobody is there
        any more."""
        number = self._next(key)
        self._waiting[key] = _Wanted(owner, number, then, failed, each)

        def stale() -> bool:
            return self._newest.get(key) != number or not isValid(owner)

        job = _Stream(key, number, partial(work, stale), self._report, self._answers, self._parts, stale)
        self._begin(key, job, after_ms)

    def drop(self, key: str) -> None:
        """Nothing is wanted under this key any more: what runs leaves off, nothing is delivered."""
        self._next(key)
        self._waiting.pop(key, None)
        timer = self._timers.pop(key, None)
        if timer is not None:
            timer.stop()
            timer.deleteLater()

    def _next(self, key: str) -> int:
        self._newest[key] = self._newest.get(key, 0) + 1
        return self._newest[key]

    def _wanted(self, key: str, number: int) -> _Wanted | None:
        """Who is to be told of an answer; None where it is stale or nobody is there any more."""
        wanted = self._waiting.get(key)
        if wanted is None or wanted.number != number:
            return None
        if not isValid(wanted.owner):
            self.drop(key)
            return None
        return wanted

    def _deliver_part(self, key: str, number: int) -> None:
        value = self._parts.pop((key, number), None)
        wanted = self._wanted(key, number)
        if value is not None and wanted is not None and wanted.each is not None:
            wanted.each(value)

    def _ripe(self, key: str, job: QRunnable) -> None:
        self._timers.pop(key).deleteLater()
        wanted = self._waiting.get(key)
        if wanted is None or not isValid(wanted.owner):
            self.drop(key)
            return
        self._start(job)

    def _start(self, job: QRunnable) -> None:
        # Kept here, not deleted by the pool: an error that a job ended with leads back to it from this thread, and the
        # thread it ran on may still be on its way out of it.
        job.setAutoDelete(False)
        self._kept.append(job)
        self._running += 1
        (self._slow if isinstance(job, _Stream) else self._pool).start(job)

    def _deliver(self, key: str, number: int) -> None:
        self._running -= 1
        done, result = self._answers.pop((key, number))
        wanted = self._wanted(key, number)
        if wanted is None:
            return
        del self._waiting[key]  # answered: nothing of the owner is held on to
        if done:
            wanted.then(result)
        elif isinstance(result, DimLadderError):
            wanted.failed(result)
        else:
            raise result

    def finish(self) -> None:
        """Wait for what runs, deliver nothing more."""
        self._newest.clear()
        self._waiting.clear()
        for timer in self._timers.values():
            timer.stop()
        self._timers.clear()
        self._pool.waitForDone()
        self._slow.waitForDone()
