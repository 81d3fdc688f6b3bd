"""A simulated instrument from the command line."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable

from dim_ladder.base import InputError
from dim_ladder.instruments import KINDS, Simulated, read_line


def run_instrument(kind: str, seed: int, glitch: float, say: Callable[[str], None]) -> None:
    """Speaks until standard input says unplug, or the process is stopped. say : told the port, once."""
    if kind not in KINDS:
        raise InputError(f"there is no instrument “{kind}”", ", ".join(KINDS))
    it = Simulated(kind, seed, glitch)
    say(it.port)
    sys.stdout.flush()
    try:
        for line in sys.stdin:
            if not obey(it, line.strip()):
                return
        threading.Event().wait()  # nobody speaks to it; it goes on
    except KeyboardInterrupt:
        pass
    finally:
        it.close()


def obey(it: Simulated, line: str) -> bool:
    """Do what a line says; whether it goes on."""
    word = line.lower()
    if word == "unplug":
        it.unplug()
        return False
    if word == "zero":
        it.press_zero()
    elif word == "unit":
        it.press_unit()
    elif word:
        found = read_line(line)
        if found is None:
            print(f"“{line}” is not a length, a mass, zero, unit or unplug", file=sys.stderr)
        else:
            it.put(found.value)
    return True
