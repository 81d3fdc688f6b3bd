"""A wheel, a calliper and a scale that are not there, on pseudo-terminals: noise, unit button, zero, glitches, unplugging."""

from __future__ import annotations

import contextlib
import os
import threading
import tty
from dataclasses import dataclass

import numpy as np

from dim_ladder.base import WorldError

PERIOD_S = 0.2
GLITCHES = ("#", "ERR", "12.3.4 mm S", "\xff\xfe??", "mm", "batt low")


@dataclass(frozen=True, slots=True)
class Kind:
    """units : what its unit button goes through, with what a unit is in mm or g. noise : sd, mm or g. digits : sent."""

    words: str
    units: tuple[tuple[str, float], ...]
    noise: float
    digits: int
    start: float


KINDS: dict[str, Kind] = {
    "wheel": Kind("measuring wheel", (("mm", 1.0), ("cm", 10.0), ("in", 25.4)), 0.8, 1, 1000.0),
    "calliper": Kind("calliper", (("mm", 1.0), ("in", 25.4)), 0.02, 2, 11.8),
    "scale": Kind("pocket scale", (("g", 1.0), ("oz", 28.349523125)), 0.02, 2, 6.2),
}


class Simulated:
    """An instrument on a pseudo-terminal. value : mm or g that lie on it; `port` is what to open."""

    def __init__(self, kind: str, seed: int = 1, glitch: float = 0.03, period_s: float = PERIOD_S) -> None:
        self.kind = KINDS[kind]
        self.value = self.kind.start
        self._zero, self._unit = 0.0, 0
        self._moved = 0
        self._random = np.random.default_rng(seed)
        self._glitch, self._period = glitch, period_s
        try:
            self._master, self._slave = os.openpty()
        except OSError as e:
            raise WorldError(f"There is no pseudo-terminal: {e.strerror}", "Use a real instrument") from None
        tty.setraw(self._slave)
        os.set_blocking(self._master, False)
        self.port = os.ttyname(self._slave)
        self._stop = threading.Event()
        self._lock = threading.Lock()
        self._thread = threading.Thread(target=self._speak, name=f"simulated {kind}", daemon=True)
        self._thread.start()

    # -- what a hand does with it ------------------------------------------------------------------

    def put(self, value: float) -> None:
        """Another length under the wheel or between the jaws, another mass on the pan; it takes a moment to be steady."""
        with self._lock:
            self.value, self._moved = value, 2

    def press_zero(self) -> None:
        """What lies on it now counts as nothing."""
        with self._lock:
            self._zero = self.value

    def press_unit(self) -> str:
        """The next unit; which one."""
        with self._lock:
            self._unit = (self._unit + 1) % len(self.kind.units)
            return self.kind.units[self._unit][0]

    def unplug(self) -> None:
        """Pull the plug in the middle of a line."""
        with contextlib.suppress(OSError):
            os.write(self._master, b"  12")
        self.close()

    def line(self) -> str:
        """What it says next."""
        with self._lock:
            if self._random.random() < self._glitch:
                return str(self._random.choice(GLITCHES))
            unit, size = self.kind.units[self._unit]
            unsteady = self._moved > 0
            self._moved = max(0, self._moved - 1)
            noise = self.kind.noise * (20 if unsteady else 1) * self._random.standard_normal()
            shown = (self.value - self._zero + noise) / size
            return f"{shown:+.{self.kind.digits + (size > 1)}f} {unit} {'U' if unsteady else 'S'}"

    def _speak(self) -> None:
        while not self._stop.wait(self._period):
            with contextlib.suppress(OSError):  # nobody listens, and the buffer is full
                os.write(self._master, (self.line() + "\r\n").encode("latin-1"))

    def close(self) -> None:
        if self._stop.is_set():
            return
        self._stop.set()
        self._thread.join(2.0)
        for fd in (self._master, self._slave):
            with contextlib.suppress(OSError):
                os.close(fd)
