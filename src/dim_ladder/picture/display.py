"""A picture as a list of shapes, drawn the same on screen, in SVG and in PDF. Units are pixels at 96 dpi, y downwards."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from dim_ladder.base.colours import lightness, mix

Command = tuple[str, tuple[float, ...]]  # ("M", (x, y)), ("L", (x, y)), ("Q", (cx, cy, x, y))


class Line(NamedTuple):
    """A stroked path. A tuple, because a picture of tight work has thousands and they are made while somebody waits. turns : it turns
    back on itself somewhere, where its corner has to be round to be seen as a turn."""

    path: tuple[Command, ...]
    width: float
    colour: str
    round_cap: bool = False
    dash: tuple[float, ...] = ()
    tag: str = ""
    turns: bool = False


@dataclass(frozen=True, slots=True)
class Area:
    """A filled polygon."""

    points: tuple[tuple[float, float], ...]
    fill: str
    tag: str = ""


@dataclass(frozen=True, slots=True)
class Disc:
    x: float
    y: float
    r: float
    fill: str  # "" for none
    stroke: str = ""
    width: float = 0.0
    tag: str = ""


@dataclass(frozen=True, slots=True)
class Label:
    """Text on its baseline. anchor : start, middle or end."""

    x: float
    y: float
    text: str
    size: float
    colour: str
    anchor: str = "middle"
    bold: bool = False
    tag: str = ""


Shape = Line | Area | Disc | Label


@dataclass(frozen=True, slots=True)
class Anchor:
    """A place in a picture that can be clicked. kind : "tail", "loop", "crossing" or "region"; which : end or crossing.

    A region is that beside end `which`, on its left (or right) as it hangs, above its `count`-th crossing from the tail.
    """

    kind: str
    which: int
    x: float
    y: float
    count: int = 0
    left: bool = False


@dataclass(frozen=True, slots=True)
class Picture:
    """Shapes in drawing order. title : what a reader who cannot see it is told. anchors : what can be clicked."""

    width: float
    height: float
    shapes: tuple[Shape, ...]
    title: str = ""
    background: str = ""
    anchors: tuple[Anchor, ...] = ()


@dataclass(frozen=True, slots=True)
class Ink:
    """The colours of paper and pen that a picture is drawn with."""

    paper: str = "#fbf7ef"
    ink: str = "#22303a"
    quiet: str = "#8b9298"
    signal: str = "#d6402b"

    @property
    def dark(self) -> bool:
        return lightness(self.paper) < 0.5


PAPER = Ink()
WHITE = Ink(paper="#ffffff")

# Cords also differ by stripes along them, so that they can be told apart without colour. Each stripe: width as a part
# of the cord's, and how much lighter (positive) or darker it is than the body.
STRIPES: tuple[tuple[tuple[float, float], ...], ...] = (
    ((0.14, 0.30),),
    ((0.40, 0.62), (0.14, 0.0)),
    ((0.22, -0.62),),
    ((0.46, -0.55), (0.18, 0.65)),
    ((0.34, 0.75),),
)


def cord_lines(
    path: tuple[Command, ...],
    colour: str,
    width: float,
    ink: Ink,
    *,
    pattern: int = 0,
    strength: float = 1.0,
    tag: str = "",
    round_cap: bool = False,
) -> list[Line]:
    """A path as a cord: outline, body, highlight, pattern. strength 1 is full colour, 0 is gone."""
    body = mix(ink.paper, colour, strength)
    dark = mix(mix(colour, "#000000", 0.45), ink.paper, 1 - strength * 0.9)
    if ink.dark and lightness(dark) < 0.3:
        dark = mix(ink.paper, "#000000", 0.5)
    out = [
        Line(path, width, dark, round_cap, (), tag),
        Line(path, width * 0.78, body, round_cap, (), tag),
    ]
    for part, lift in STRIPES[pattern % len(STRIPES)]:
        if lift > 0 and lightness(colour) > 0.72:
            lift = -lift * 0.7  # on a pale cord a darker stripe shows, a lighter one does not
        stripe = mix(body, "#ffffff" if lift > 0 else "#000000", abs(lift) * max(strength, 0.45))
        out.append(Line(path, width * part, stripe, round_cap, (), tag))
    return out
