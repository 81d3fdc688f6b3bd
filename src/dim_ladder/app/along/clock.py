"""Time that is worked, without the pauses."""

from __future__ import annotations

import time
from collections.abc import Callable


class Clock:
    """now : seconds that only ever grow; another one in tests."""

    def __init__(self, worked: float = 0.0, now: Callable[[], float] = time.monotonic) -> None:
        self._worked, self._now = worked, now
        self._since: float | None = None

    @property
    def running(self) -> bool:
        return self._since is not None

    @property
    def seconds(self) -> float:
        return self._worked + (self._now() - self._since if self._since is not None else 0.0)

    def go(self) -> None:
        if self._since is None:
            self._since = self._now()

    def pause(self) -> None:
        self._worked, self._since = self.seconds, None


def clock_words(seconds: float) -> str:
    """Minutes and seconds, hours before them where there are any."""
    s = round(seconds)
    hours, rest = divmod(s, 3600)
    return f"{hours}:{rest // 60:02}:{rest % 60:02}" if hours else f"{rest // 60}:{rest % 60:02}"
