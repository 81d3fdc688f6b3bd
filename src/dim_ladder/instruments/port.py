"""A serial port read on a thread of its own, so that nothing waits for it."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable

from dim_ladder.base import WorldError
from dim_ladder.instruments.protocol import Lines, Measure

BAUD, WAIT_S = 9600, 0.1
SILENT_S = 3.0  # after which an instrument is said to be silent


class Port:
    """An open port. heard : called on the reading thread with every measure. ended : once, with why, unless it was closed."""

    def __init__(
        self, name: str, heard: Callable[[Measure], None], ended: Callable[[str], None], baud: int = BAUD
    ) -> None:
        """Raises WorldError where the port cannot be opened."""
        import serial

        try:
            self._serial = serial.Serial(name, baud, timeout=WAIT_S)
        except (OSError, ValueError) as e:
            why = getattr(e, "strerror", None) or str(e)
            raise WorldError(
                f"{name} cannot be opened: {why}",
                "Plug it in, or choose another port; you may need the group “dialout”",
            ) from None
        self.name = name
        self.lines = Lines()
        self.last_heard = time.monotonic()
        self._heard, self._ended = heard, ended
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._read, name=f"instrument {name}", daemon=True)
        self._thread.start()

    @property
    def silent(self) -> bool:
        """Whether nothing was heard for a while."""
        return time.monotonic() - self.last_heard > SILENT_S

    @property
    def glitches(self) -> int:
        """Lines that could not be read."""
        return self.lines.glitches

    def _read(self) -> None:
        why = ""
        while not self._stop.is_set():
            try:
                data = self._serial.read(max(1, self._serial.in_waiting))
            except Exception as e:  # a driver that is pulled out raises whatever it likes
                why = str(e) or type(e).__name__
                break
            for measure in self.lines.feed(data):
                self.last_heard = time.monotonic()
                self._heard(measure)
        if not self._stop.is_set():
            self._ended(f"{self.name} was unplugged ({why})" if why else f"{self.name} ended")

    def close(self) -> None:
        """Leave off, and wait for the thread."""
        self._stop.set()
        with contextlib.suppress(Exception):
            self._serial.cancel_read()
        if threading.current_thread() is not self._thread:
            self._thread.join(2.0)
        with contextlib.suppress(Exception):
            self._serial.close()


def ports() -> list[tuple[str, str]]:
    """Serial ports of this machine: name, and what it calls itself."""
    from serial.tools import list_ports

    return [(p.device, p.description or p.device) for p in sorted(list_ports.comports())]
