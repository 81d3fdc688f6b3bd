"""How much work a document may ask for, in one place: a script may come from a stranger, and a slip of the finger asks for
as much. Bounds of what a script may hold; and a meter that long work is told of as it goes, which stops it when it is too
much or nobody waits for it any more.

A unit of work is about a microsecond on a slow machine; what a unit is stands where it is spent, and the same script always
takes the same.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from contextvars import ContextVar

from dim_ladder.base.errors import Cancelled, InputError

# What a script may hold. Far more than any work that was seen: a wall hanging of 200 cords, a sampler of 100 knots.
MOST_CORDS = 600
MOST_TAILS = 2 * MOST_CORDS
MOST_SECTIONS = 300
MOST_KNOTS = 400
MOST_BEADS = 200
MOST_LAYERS = 24  # one over the other
MOST_REFS = 60_000  # ends named in it, ranges written out
MOST_NAME = 120  # characters
MOST_LINE = 4000  # characters
MOST_PICTURES = 3000  # of steps, drawn one by one
MOST_PROBLEMS = 100  # that are told at once

# What working it out may take.
STEP_WORK = 250_000  # one step: a third of a second; the heaviest of any knot known takes a twentieth of it
TRACE_WORK = 6_000_000  # all steps of a trace
# Pulling all sections of a weave tight, where it is waited for; a rough rule stands in beyond it.
SHAPES_WORK = 30_000_000
NO_END = 10**15  # goes on as long as it was asked to
COMMAND_WORK = 60_000_000  # one command of the command line
JOB_WORK = 120_000_000  # anything that is worked out beside the window
ASK_EVERY = 20_000  # units, after which it is asked whether somebody still waits


class TooMuch(InputError):
    """More work than a weave may ask for."""

    def __init__(self, what: str = "This weave") -> None:
        super().__init__(
            f"{what} asks for more work than it can be given", "Make it simpler, or repeat less of it"
        )


class Meter:
    """Counts work. Raises TooMuch above `most`, and Cancelled when `cancel` says so."""

    def __init__(self, most: int, cancel: Callable[[], bool] | None = None, what: str = "This weave") -> None:
        self.left = most
        self._cancel, self._what = cancel, what
        self._ask = ASK_EVERY

    def spend(self, units: int) -> None:
        self.left -= units
        self._ask -= units
        if self.left < 0:
            raise TooMuch(self._what)
        if self._ask < 0:
            self._ask = ASK_EVERY
            if self._cancel is not None and self._cancel():
                raise Cancelled


_METERS: ContextVar[tuple[Meter, ...]] = ContextVar("meters", default=())


def spend(units: int = 1) -> None:
    """So much work is about to be done. Raises TooMuch, Cancelled."""
    for meter in _METERS.get():
        meter.spend(units)


@contextlib.contextmanager
def metered(most: int, cancel: Callable[[], bool] | None = None, what: str = "This weave") -> Iterator[Meter]:
    """Work in here is counted; outer meters count it too."""
    meter = Meter(most, cancel, what)
    token = _METERS.set((*_METERS.get(), meter))
    try:
        yield meter
    finally:
        _METERS.reset(token)
