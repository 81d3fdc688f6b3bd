"""Cord used against units, as a picture and as the table behind it."""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.base.colours import mix
from dim_ladder.calibrate.model import Calibration
from dim_ladder.calibrate.ties import Tie, usable_readings
from dim_ladder.trace.display import PAPER, Area, Disc, Ink, Label, Line, Picture, Shape

# Roles differ by mark as well as by shade, so that the chart reads in black and white.
MARKS = ("disc", "square", "diamond", "ring")


@dataclass(frozen=True, slots=True)
class Point:
    """One reading per end: units of the section, cord used per end in mm."""

    role: str
    units: int
    used_mm: float
    tie: str


def points(calibration: Calibration, ties: tuple[Tie, ...], section: str) -> tuple[Point, ...]:
    """Readings of one role each; a reading over ends of different roles cannot be shown as a point."""
    out = []
    for tie in ties:
        n = tie.counts.get(section, 0)
        for ends, used in usable_readings(tie):
            found = {calibration.prior.role_of.get(e, "") for e in ends}
            if n and len(found) == 1 and "" not in found:
                out.append(Point(found.pop(), n, used / len(ends), tie.id))
    return tuple(out)


def use_chart(
    calibration: Calibration,
    ties: tuple[Tie, ...],
    section: str,
    ink: Ink = PAPER,
    width: float = 430,
    height: float = 250,
) -> Picture:
    """Expected cord per end against units, with the 90 % band of a new tie, for every role."""
    found = points(calibration, ties, section)
    most = max([p.units for p in found] + [10])
    steps = [most * i / 10 for i in range(11)]
    roles = calibration.prior.roles
    sample = {r: next(iter(e for e, x in calibration.prior.role_of.items() if x == r)) for r in roles}
    bands = {r: [calibration.need(sample[r], {section: s}) for s in steps] for r in roles}
    top = max([p.used_mm for p in found] + [b[-1].quantile(0.95) for b in bands.values()]) * 1.05
    left, right, up, down = 52.0, 96.0, 26.0, 34.0

    def x(units: float) -> float:
        return left + (width - left - right) * units / most

    def y(mm: float) -> float:
        return height - down - (height - up - down) * mm / top

    shapes: list[Shape] = []
    hair = mix(ink.paper, ink.ink, 0.15)
    unit, name = (1000.0, "m") if top > 1500 else (10.0, "cm")
    for i in range(5):
        value = _nice(top / 4) * i
        if value <= top:
            shapes.append(Line((("M", (left, y(value))), ("L", (width - right, y(value)))), 1.0, hair))
            shapes.append(Label(left - 6, y(value) + 4, f"{value / unit:g}", 11, ink.quiet, "end"))
    for i in range(0, most + 1, max(1, most // 5)):
        shapes.append(Label(x(i), height - down + 16, str(i), 11, ink.quiet))
    shapes.append(Label(width - right, height - 4, f"units of {section}", 11, ink.quiet, "end"))
    shapes.append(Label(12, 12, f"{name} of cord per end", 11, ink.quiet, "start"))
    labels: list[tuple[float, str, int]] = []
    for k, role in enumerate(roles):
        tone = mix(ink.ink, ink.paper, 0.22 * k)
        upper = [(x(s), y(b.quantile(0.95))) for s, b in zip(steps, bands[role], strict=True)]
        lower = [(x(s), y(b.quantile(0.05))) for s, b in zip(steps, bands[role], strict=True)]
        shapes.append(Area((*upper, *reversed(lower)), mix(ink.paper, ink.ink, 0.08)))
        middle = [(x(s), y(b.median)) for s, b in zip(steps, bands[role], strict=True)]
        path = (("M", middle[0]), *(("L", p) for p in middle[1:]))
        shapes.append(Line(path, 1.6, tone, False, (6, 3) if k % 2 else ()))
        labels.append((middle[-1][1], role, k))
    for p in found:
        shapes += _mark(roles.index(p.role), x(p.units), y(p.used_mm), ink)
    at = -1e9
    for yy, role, k in sorted(labels):
        at = max(yy, at + 14)
        shapes += _mark(k, width - right + 12, at, ink)
        shapes.append(Label(width - right + 22, at + 4, role, 12, ink.ink, "start"))
    title = f"Cord used per end against units of {section}, {len(found)} readings"
    return Picture(width, height, tuple(shapes), title, ink.paper)


def _nice(value: float) -> float:
    scale = 1.0
    while value >= 10:
        value, scale = value / 10, scale * 10
    return (1 if value < 1.5 else 2 if value < 3.5 else 5 if value < 7.5 else 10) * scale


def _mark(kind: int, x: float, y: float, ink: Ink) -> list[Shape]:
    r = 4.2
    which = MARKS[kind % len(MARKS)]
    if which == "square":
        return [Area(((x - r, y - r), (x + r, y - r), (x + r, y + r), (x - r, y + r)), ink.ink)]
    if which == "diamond":
        return [Area(((x, y - r * 1.3), (x + r * 1.3, y), (x, y + r * 1.3), (x - r * 1.3, y)), ink.ink)]
    return [Disc(x, y, r, ink.paper if which == "ring" else ink.ink, ink.ink, 1.4)]
