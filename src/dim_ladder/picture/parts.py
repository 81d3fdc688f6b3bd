"""A diagram in parts, so that the step in hand can be shown at any moment of its way.

What was there before lies under; movers draw their ways; each new crossing shows once a mover has come to it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

from dim_ladder.base.colours import lightness, mix
from dim_ladder.picture.display import Anchor, Area, Command, Disc, Ink, Label, Picture, Shape, cord_lines

Point = tuple[float, float]
FINE = 6  # straight pieces to a bend


@dataclass(frozen=True, slots=True)
class Mover:
    """An end on its way. path : from where it left to its tip. head : the direction it rests in. label : its letter on
    a disc at rest, if there is one. width : of the cord. letter : "" for none."""

    end: int
    path: tuple[Command, ...]
    head: Point
    colour: str
    width: float
    pattern: int
    cord: float
    label: tuple[Shape, ...] = ()
    letter: str = ""


@dataclass(frozen=True, slots=True)
class Parts:
    """fresh : shapes with the part of the way (0..1) at which they begin to show. over : on top of all. part : whether only some hops
    of the step are made here."""

    width: float
    height: float
    ink: Ink
    under: tuple[Shape, ...]
    movers: tuple[Mover, ...]
    fresh: tuple[tuple[float, tuple[Shape, ...]], ...]
    over: tuple[Shape, ...]
    anchors: tuple[Anchor, ...] = ()
    part: bool = False


def assemble(parts: Parts, progress: float = 1.0) -> Picture:
    """The picture when the movers have made so much of their way: 0 before it, 1 at rest."""
    shapes = list(parts.under)
    done = progress >= 1.0
    for m in parts.movers:
        shapes += mover_shapes(m, parts.ink, progress)
    for at, more in parts.fresh:
        if at <= progress or done:
            shapes += more
    shapes += parts.over
    for m in parts.movers:
        shapes += m.label if done else _badge(m, progress)
    return Picture(
        parts.width, parts.height, tuple(shapes), "", parts.ink.paper, parts.anchors if done else ()
    )


def mover_shapes(m: Mover, ink: Ink, progress: float) -> list[Shape]:
    """The way of a mover so far, as a cord, with an arrow once it rests."""
    path = m.path if progress >= 1.0 else polyline(cut(flattened(m.path), progress))
    if len(path) < 2:
        return []
    lines = cord_lines(path, m.colour, m.width, ink, pattern=m.pattern, tag=f"end{m.end}")
    if progress < 1.0:
        return list(lines)
    tip = path[-1][1][-2:]
    return [*lines, *arrow((tip[0], tip[1]), m.head, m.colour, m.cord)]


def _badge(m: Mover, progress: float) -> list[Shape]:
    """The letter of a mover, where its tip is."""
    points = cut(flattened(m.path), progress)
    if not points:
        return []
    x, y = points[-1]
    r = m.cord * 0.75
    pen = "#ffffff" if lightness(m.colour) < 0.62 else "#1c2328"
    out: list[Shape] = [Disc(x, y, r, m.colour, mix(m.colour, "#000000", 0.45), 1.4, "label")]
    if m.letter:
        out.append(Label(x, y + r * 0.42, m.letter, r * 1.25, pen, "middle", True, "label"))
    return out


def arrow(tip: Point, towards: Point, colour: str, cord: float) -> list[Shape]:
    """An arrow head at a tip; towards : a vector of length 1."""
    (x, y), (dx, dy) = tip, towards
    w, h = cord * 0.95, cord * 1.15

    def spot(side: float, along: float) -> Point:
        return x + dx * along - dy * side, y + dy * along + dx * side

    outer = (spot(w, -h * 0.35), spot(-w, -h * 0.35), spot(0, h))
    inner = (spot(w * 0.62, -h * 0.15), spot(-w * 0.62, -h * 0.15), spot(0, h * 0.68))
    return [Area(outer, mix(colour, "#000000", 0.45), "arrow"), Area(inner, colour, "arrow")]


# -- ways ------------------------------------------------------------------------------------------


def flattened(path: tuple[Command, ...]) -> list[Point]:
    """A path as points, bends cut into short straight pieces."""
    out: list[Point] = []
    for op, a in path:
        if op == "Q":
            (x0, y0), (cx, cy, x, y) = out[-1], a
            for k in range(1, FINE + 1):
                t = k / FINE
                s = 1 - t
                out.append((s * s * x0 + 2 * s * t * cx + t * t * x, s * s * y0 + 2 * s * t * cy + t * t * y))
        else:
            out.append((a[0], a[1]))
    return out


def polyline(points: list[Point]) -> tuple[Command, ...]:
    return tuple(("L" if i else "M", p) for i, p in enumerate(points))


def way_length(points: list[Point]) -> float:
    return sum(math.dist(a, b) for a, b in pairwise(points))


def cut(points: list[Point], part: float) -> list[Point]:
    """The first part (0..1) of a way, by length."""
    left = way_length(points) * min(max(part, 0.0), 1.0)
    out = points[:1]
    for a, b in pairwise(points):
        step = math.dist(a, b)
        if step >= left:
            f = left / step if step else 0.0
            out.append((a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f))
            return out
        out.append(b)
        left -= step
    return out


def passed_at(points: list[Point], spot: Point, near: float) -> float | None:
    """At which part (0..1) of a way it last comes within `near` of a spot; None where it never does."""
    total = way_length(points)
    gone, found = 0.0, None
    for a, b in pairwise(points):
        step = math.dist(a, b)
        if step > 0:
            f = ((spot[0] - a[0]) * (b[0] - a[0]) + (spot[1] - a[1]) * (b[1] - a[1])) / step**2
            f = min(max(f, 0.0), 1.0)
            if math.dist((a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f), spot) <= near:
                found = (gone + step * f) / total if total else 1.0
        gone += step
    return found
