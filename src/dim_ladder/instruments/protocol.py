"""The lines that instruments speak; docs/formats.md has them for people who build one.

A line is ASCII, ended by a line feed: a value, its unit, and `S` while it is steady or `U` while it is not, with blanks
between; words before the value are the instrument's own. Anything else is a glitch: it is counted and left out.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

TO_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
TO_G = {"g": 1.0, "kg": 1000.0, "oz": 28.349523125}
LONGEST = 80  # characters of a line
MOST_MM, MOST_G = 1_000_000.0, 100_000.0
_LINE = re.compile(r"^(?:[A-Za-z][\w.-]*[:\s]\s*)?([+-]?\d+(?:[.,]\d+)?)\s*([A-Za-z]{1,2})(?:\s+([SU]))?\s*$")


@dataclass(frozen=True, slots=True)
class Measure:
    """value : mm, or g where mass. steady : whether the instrument holds it still. unit : as it was sent."""

    value: float
    mass: bool
    steady: bool
    unit: str


def read_line(line: str) -> Measure | None:
    """What a line says; None for a glitch."""
    found = _LINE.match(line.strip()) if len(line) <= LONGEST else None
    if found is None:
        return None
    number, unit, flag = found.groups()
    value, unit = float(number.replace(",", ".")), unit.lower()
    mass = unit in TO_G
    scale = TO_G.get(unit) or TO_MM.get(unit)
    if scale is None or not math.isfinite(value) or abs(value * scale) > (MOST_G if mass else MOST_MM):
        return None
    return Measure(value * scale, mass, flag != "U", unit)


class Lines:
    """Bytes as they come, cut into lines; a line that never ends is given up."""

    def __init__(self) -> None:
        self._rest = b""
        self.glitches = 0

    def feed(self, data: bytes) -> list[Measure]:
        """The measures of every line that is whole by now."""
        *lines, self._rest = (self._rest + data).replace(b"\r", b"\n").split(b"\n")
        if len(self._rest) > 4 * LONGEST:
            self._rest = b""
            self.glitches += 1
        out = []
        for raw in lines:
            if not raw.strip():
                continue
            measure = read_line(raw.decode("ascii", "replace"))
            if measure is None:
                self.glitches += 1
            else:
                out.append(measure)
        return out
