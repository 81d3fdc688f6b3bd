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
_LINE = re.compile(r"^([A-Za-z][\w.-]*[:\s]\s*)?([+-]?\d+(?:[.,]\d+)?)\s*([A-Za-z]{1,2})(?:\s+([SU]))?\s*$")


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
    _, number, unit, flag = found.groups()
    value, unit = float(number.replace(",", ".")), unit.lower()
    mass = unit in TO_G
    scale = TO_G.get(unit) or TO_MM.get(unit)
    if scale is None or not math.isfinite(value) or abs(value * scale) > (MOST_G if mass else MOST_MM):
        return None
    return Measure(value * scale, mass, flag != "U", unit)


@dataclass
class _Manner:
    """How an instrument was heard to speak: a line that lacks what its others have lacks its head or its end."""

    named: bool = False
    plus: bool = False
    flagged: bool = False
    unit: str = ""

    def torn(self, found: re.Match[str], first: bool) -> bool:
        name, number, unit, flag = found.group(1), found.group(2), found.group(3).lower(), found.group(4)
        if first and not name and number[0] not in "+-":
            return True  # the port may have been opened in the midst of it
        headless = (self.named and not name) or (self.plus and number[0] not in "+-")
        endless = (self.flagged and not flag) or (
            not flag and unit != self.unit and self.unit.startswith(unit)
        )
        return headless or endless

    def heard(self, found: re.Match[str]) -> None:
        self.named = self.named or bool(found.group(1))
        self.plus = self.plus or found.group(2)[0] == "+"
        self.flagged = self.flagged or bool(found.group(4))
        self.unit = found.group(3).lower()


class Lines:
    """Bytes as they come, cut into lines; a line that never ends is given up, one that lacks its head or its end is a
    glitch."""

    def __init__(self) -> None:
        self._rest = b""
        self._manner = _Manner()
        self._first = True
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
            line = raw.decode("ascii", "replace")
            measure, found = read_line(line), _LINE.match(line.strip())
            first, self._first = self._first, False
            if measure is None or found is None:
                self.glitches += 1
                continue
            torn = self._manner.torn(found, first)
            self._manner.heard(found)
            if torn:
                self.glitches += 1
            else:
                out.append(measure)
        return out
