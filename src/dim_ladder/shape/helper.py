"""Pulling tight in another process: the window neither shares the interpreter's lock with it nor holds its compiler.

`switch_on` makes `elsewhere` use a helper process; until then, and where none can be had, it works right here. A helper
ends by itself after some idle time, and with the program that began it. What crosses are values of our own, pickled,
between two ends of a socket that nobody else has.
"""

from __future__ import annotations

import contextlib
import os
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from multiprocessing.connection import Connection, Pipe
from typing import Any

from dim_ladder.shape.engine import ready

IDLE_S = 120.0  # after which a helper ends; another one is begun when it is needed
LOOK_S = 0.03  # how often somebody who waits asks whether he still wants it
MOST = 2  # helpers
RUN = "import dim_ladder.shape.helper as h; h.main()"

Stop = Callable[[], bool]
Work = Callable[
    ..., Iterator[Any]
]  # a generator that takes values and `stop`; a function of a module, so that it has a name


class Gone(Exception):
    """The helper has ended."""


class Helper:
    """One process, one request at a time."""

    def __init__(self) -> None:
        self.free = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._end: Connection | None = None

    def begin(self) -> Connection:
        """The way to the process, which is begun where it is not there."""
        if self._process is None or self._process.poll() is not None or self._end is None:
            self.end()
            mine, other = Pipe()
            with other:
                fd = other.fileno()
                command = [sys.executable, "-c", RUN, str(fd)]
                self._process = subprocess.Popen(command, stdin=subprocess.DEVNULL, pass_fds=(fd,))
            self._end = mine
        return self._end

    def end(self) -> None:
        if self._end is not None:
            self._end.close()
        if self._process is not None:
            self._process.terminate()
            self._process.wait()
        self._process = self._end = None

    def ask(self, work: Work, args: tuple[Any, ...], stop: Stop) -> Iterator[Any]:
        """Values as they come. Raises Gone when the helper ends before its work does, else what the work raises."""
        told = over = False
        try:
            end = self.begin()
            end.send((work, args))
            while True:
                while not end.poll(LOOK_S):
                    if not told and stop():
                        end.send(None)
                        told = True
                kind, value = end.recv()
                if kind == "value":
                    yield value
                    if not told and stop():
                        end.send(None)
                        told = True
                    continue
                over = True
                if kind == "failed":
                    raise value
                return
        except (OSError, EOFError) as e:
            over = True
            self.end()
            raise Gone(str(e)) from e
        finally:
            if not over:  # nobody takes the rest
                self._leave_off(told)

    def _leave_off(self, told: bool) -> None:
        try:
            assert self._end is not None
            if not told:
                self._end.send(None)
            while self._end.recv()[0] == "value":
                pass
        except (OSError, EOFError):
            self.end()


_helpers: list[Helper] = []
_on = False
_making = threading.Lock()


def switch_on() -> None:
    """From now on work is done by helpers; the first one is begun at once, so that it is there when it is needed."""
    global _on
    _on = True
    with contextlib.suppress(OSError), _taken() as first:
        first.begin()


def switch_off() -> None:
    """Everything is done here again; helpers end."""
    global _on
    _on = False
    with _making:
        for h in _helpers:
            with h.free:
                h.end()
        _helpers.clear()


def is_on() -> bool:
    return _on


@contextlib.contextmanager
def _taken() -> Iterator[Helper]:
    """A helper that is free, or becomes so."""
    with _making:
        found = next((h for h in _helpers if h.free.acquire(blocking=False)), None)
        if found is None and len(_helpers) < MOST:
            found = Helper()
            found.free.acquire()
            _helpers.append(found)
        first = _helpers[0]
    if found is None:
        first.free.acquire()
        found = first
    try:
        yield found
    finally:
        found.free.release()


def elsewhere(work: Work, *args: Any, stop: Stop) -> Iterator[Any]:
    """The values of `work(*args, stop=stop)`: from a helper where they are switched on. One that ends in the midst is begun
    anew once; after that the work is done here."""
    for _ in range(2 if _on else 0):
        with _taken() as helper:
            try:
                yield from helper.ask(work, args, stop)
            except Gone:
                continue
            return
    yield from work(*args, stop=stop)


def _serve(end: Connection) -> None:
    """The helper's own life: request after request, until nobody wants anything for long or the other end is closed."""
    ready()  # loads what was compiled, beside the first work
    while end.poll(IDLE_S):
        request = end.recv()
        if request is None:  # a stop that came when all was done
            continue
        work, args = request
        try:
            for value in work(*args, stop=end.poll):
                end.send(("value", value))
            end.send(("over", None))
        except (OSError, EOFError):
            raise
        except Exception as e:
            end.send(("failed", e))


def main() -> None:
    with contextlib.suppress(OSError, EOFError, KeyboardInterrupt):
        os.nice(5)  # what the person sees comes first
        _serve(Connection(int(sys.argv[1])))
