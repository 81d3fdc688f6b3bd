"""Axes and marks that all charts of the calibration share."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from dim_ladder.base.colours import mix
from dim_ladder.picture.display import Area, Disc, Ink, Label, Line, Picture, Shape

MARKS = ("disc", "square", "diamond", "ring", "cross")


class Frame:
    """Two axes: from values to places on paper. Shapes are added in drawing order."""

    def __init__(
        self, ink: Ink, x: tuple[float, float], y: tuple[float, float], width: float = 430, height: float = 250,
        right: float = 20.0,
    ) -> None:  # fmt: skip
        self.ink, self.width, self.height = ink, width, height
        self.x0, self.x1 = x if x[1] > x[0] else (x[0] - 0.5, x[0] + 0.5)
        self.y0, self.y1 = y
        self.left, self.right, self.up, self.down = 64.0, right, 26.0, 34.0
        self.shapes: list[Shape] = []

    def x(self, value: float) -> float:
        return self.left + (self.width - self.left - self.right) * (value - self.x0) / (self.x1 - self.x0)

    def y(self, value: float) -> float:
        tall = self.height - self.up - self.down
        return self.height - self.down - tall * (value - self.y0) / (self.y1 - self.y0)

    def nice(self, parts: int, *, vertical: bool = False) -> list[float]:
        """Round values along an axis, about so many."""
        low, high = (self.y0, self.y1) if vertical else (self.x0, self.x1)
        step = nice((high - low) / parts)
        first = math.ceil(low / step - 1e-9)
        return [step * k for k in range(first, math.floor(high / step + 1e-9) + 1)]

    def across(self, name: str, ticks: Sequence[float], said: Mapping[float, str] | None = None) -> None:
        """The horizontal axis."""
        for value, text in ({t: f"{t:g}" for t in ticks} | dict(said or {})).items():
            self.shapes.append(Label(self.x(value), self.height - self.down + 16, text, 11, self.ink.quiet))
        self.shapes.append(Label(self.width - self.right, self.height - 4, name, 11, self.ink.quiet, "end"))

    def across_lengths(self, name: str) -> None:
        per, unit = _unit(self.x1)
        self.across(f"{unit} {name}", [], {v: f"{v / per:g}" for v in self.nice(4)})

    def upward(self, name: str, ticks: Sequence[float], said: Mapping[float, str] | None = None) -> None:
        """The vertical axis, with a hairline for every value."""
        hair = mix(self.ink.paper, self.ink.ink, 0.15)
        for value, text in ({t: f"{t:g}" for t in ticks} | dict(said or {})).items():
            if not self.y0 - 1e-9 <= value <= self.y1 + 1e-9:
                continue
            at = self.y(value)
            self.shapes.append(
                Line((("M", (self.left, at)), ("L", (self.width - self.right, at))), 1.0, hair)
            )
            self.shapes.append(Label(self.left - 6, at + 4, text, 11, self.ink.quiet, "end"))
        self.shapes.append(Label(12, 12, name, 11, self.ink.quiet, "start"))

    def up_lengths(self, name: str) -> None:
        per, unit = _unit(self.y1)
        self.upward(f"{unit} {name}", [], {v: f"{v / per:g}" for v in self.nice(4, vertical=True)})

    def line(self, at: Sequence[tuple[float, float]], colour: str, width: float, dash: tuple[float, ...] = ()) -> None:  # fmt: skip
        """A line through values."""
        if len(at) > 1:
            path = tuple(("L" if k else "M", (self.x(x), self.y(y))) for k, (x, y) in enumerate(at))
            self.shapes.append(Line(path, width, colour, False, dash))

    def names(self, labels: Sequence[tuple[float, str, int]]) -> None:
        """What marks stand for, beside the chart: height on paper, name, mark; moved apart where they are close."""
        at = -1e9
        for y, name, kind in sorted(labels):
            at = max(y, at + 14)
            self.shapes += mark(kind, self.width - self.right + 12, at, self.ink)
            self.shapes.append(Label(self.width - self.right + 22, at + 4, name, 12, self.ink.ink, "start"))

    def picture(self, title: str) -> Picture:
        return Picture(self.width, self.height, tuple(self.shapes), title, self.ink.paper)


def nice(value: float) -> float:
    """The round number nearest above a step: 1, 2 or 5 of a power of ten."""
    scale = 10.0 ** math.floor(math.log10(max(value, 1e-12)))
    part = value / scale
    return (1 if part < 1.5 else 2 if part < 3.5 else 5 if part < 7.5 else 10) * scale


def _unit(most_mm: float) -> tuple[float, str]:
    return (1000.0, "m") if most_mm > 1500 else (10.0, "cm")


def mark(kind: int, x: float, y: float, ink: Ink) -> list[Shape]:
    r = 4.2
    which = MARKS[kind % len(MARKS)]
    if which == "square":
        return [Area(((x - r, y - r), (x + r, y - r), (x + r, y + r), (x - r, y + r)), ink.ink)]
    if which == "diamond":
        return [Area(((x, y - r * 1.3), (x + r * 1.3, y), (x, y + r * 1.3), (x - r * 1.3, y)), ink.ink)]
    if which == "cross":
        return [
            Line((("M", (x - r, y - r)), ("L", (x + r, y + r))), 2.0, ink.ink),
            Line((("M", (x - r, y + r)), ("L", (x + r, y - r))), 2.0, ink.ink),
        ]
    return [Disc(x, y, r, ink.paper if which == "ring" else ink.ink, ink.ink, 1.4)]
