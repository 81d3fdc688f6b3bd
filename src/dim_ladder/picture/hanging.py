"""How the cords hang before the first step, as a picture: on a bar, a ring, a buckle, from a loop, on a former."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from dim_ladder.base.colours import lightness, mix
from dim_ladder.notation import LEGGED
from dim_ladder.picture.display import (
    PAPER,
    Area,
    Command,
    Disc,
    Ink,
    Label,
    Line,
    Picture,
    Shape,
    cord_lines,
)
from dim_ladder.trace.ends import letter

UNIT, CORD = 30.0, 12.0
TOP, LEG = 62.0, 92.0  # height of what it hangs on, and length of the tails below it


JOIN = 12.0  # below what it hangs on


@dataclass(frozen=True, slots=True)
class Hung:
    """One end as it hangs: which cord (by number), and the cord's colour and pattern."""

    cord: int
    colour: str
    pattern: int = 0


def hanging_picture(on: str, ends: Sequence[Hung], ink: Ink = PAPER, *, labels: bool = True) -> Picture:
    """Ends from left to right. Two ends of one cord are joined by its fold; a single end comes from where it is held."""
    n = max(len(ends), 1)
    width = UNIT * (n + 1.6)
    xs = [UNIT * (i + 1.3) for i in range(len(ends))]
    bottom = TOP + LEG
    shapes: list[Shape] = []
    folds = _folds(ends)
    hitched = on in ("ring", "buckle")
    back = _behind(on, width, ink)
    shapes += back
    deepest = max((j - i for i, j in folds), default=1)
    # Wide folds first, so that narrow ones lie on them; single ends last.
    for i, j in sorted(folds, key=lambda f: f[0] - f[1]):
        rise = 14.0 + 26.0 * (j - i) / deepest
        shapes += _cord(_fold(on, xs[i], xs[j], rise, bottom), ends[i], ink)
        if ends[i].colour != ends[j].colour:  # two cords joined: the other one from the join down
            shapes += _cord((("M", (xs[j], TOP + JOIN)), ("L", (xs[j], bottom))), ends[j], ink)
        if hitched:
            shapes += _cord(_bight(xs[i], xs[j]), ends[i], ink, gap=True)
    if on in LEGGED:
        shapes += _below(on, ends, xs, bottom, ink)
    paired = {k for f in folds for k in f}
    for k, x in enumerate(xs):
        if k not in paired:
            top = TOP - 22.0 if on in ("cold-start", "former") else TOP
            shapes += _cord((("M", (x, top)), ("L", (x, bottom))), ends[k], ink)
    shapes += _front(on, xs, width, bottom, ink)
    if labels:
        for k, x in enumerate(xs):
            fill = ends[k].colour
            pen = "#ffffff" if lightness(fill) < 0.62 else "#1c2328"
            shapes.append(Disc(x, bottom + 14, 10.5, fill, mix(fill, "#000000", 0.4), 1.2))
            shapes.append(Label(x, bottom + 18.5, letter(k), 12.5, pen, "middle", True))
    height = bottom + (30.0 if labels else 8.0) + (24.0 if on in LEGGED else 0.0)
    return Picture(width, height, tuple(shapes), f"{len(ends)} ends hanging on: {on}", ink.paper)


def _below(on: str, ends: Sequence[Hung], xs: Sequence[float], bottom: float, ink: Ink) -> list[Shape]:
    """What the two legs in the middle come to below: a loop, or the near half with the fold or the join of two cords on it."""
    middle = len(ends) // 2
    if len(ends) < 4:
        return []
    a, b = xs[middle - 1], xs[middle]
    left, right = ends[middle - 1], ends[middle]
    r = (b - a) / 2
    foot = bottom + (26.0 if on == "thirds" else 30.0)
    shapes: list[Shape] = _rod(a - 26, b + 26, foot - 2, ink, 9.0) if on != "thirds" else []
    centre = (a + r, foot + r)
    shapes += _cord((("M", (a, bottom)), ("L", (a, foot)), ("Q", (a, foot + r, *centre))), left, ink)
    shapes += _cord((("M", (b, bottom)), ("L", (b, foot)), ("Q", (b, foot + r, *centre))), right, ink)
    return shapes


def _folds(ends: Sequence[Hung]) -> list[tuple[int, int]]:
    seen: dict[int, int] = {}
    out = []
    for k, e in enumerate(ends):
        if e.cord in seen:
            out.append((seen.pop(e.cord), k))
        else:
            seen[e.cord] = k
    return out


def _cord(path: tuple[Command, ...], e: Hung, ink: Ink, *, gap: bool = False) -> list[Shape]:
    lines: list[Shape] = [Line(path, CORD + 5.0, ink.paper, False, (), "gap")] if gap else []
    return [*lines, *cord_lines(path, e.colour, CORD, ink, pattern=e.pattern)]


def _fold(on: str, a: float, b: float, rise: float, bottom: float) -> tuple[Command, ...]:
    """From one tail up, over what it hangs on, and down to the other."""
    top = TOP - rise
    if on in ("ring", "buckle"):  # a lark's head: the legs go up behind it
        top = TOP - 9.0
    middle = (a + b) / 2
    r = min((b - a) / 2, rise)
    return (
        ("M", (a, bottom)), ("L", (a, top + r)), ("Q", (a, top, a + r, top)), ("L", (max(middle, a + r), top)),
        ("L", (b - r, top)), ("Q", (b, top, b, top + r)), ("L", (b, bottom)),
    )  # fmt: skip


def _bight(a: float, b: float) -> tuple[Command, ...]:
    """The fold of a lark's head, in front of both legs."""
    y, r = TOP + 17.0, 8.0
    return (
        ("M", (a - 7.0, TOP - 6.0)), ("Q", (a - 9.0, y, a + r, y)), ("L", (b - r, y)), ("Q", (b + 9.0, y, b + 7.0, TOP - 6.0)),
    )  # fmt: skip


def _rod(x0: float, x1: float, y: float, ink: Ink, width: float = 11.0) -> list[Shape]:
    path: tuple[Command, ...] = (("M", (x0, y)), ("L", (x1, y)))
    return [
        Line(path, width, mix(ink.ink, ink.paper, 0.15), True),
        Line(path, width * 0.45, mix(ink.ink, ink.paper, 0.45), True),
    ]


def _circle(x: float, y: float, rx: float, ry: float) -> tuple[Command, ...]:
    pts = [
        (x + rx * math.cos(2 * math.pi * k / 48), y + ry * math.sin(2 * math.pi * k / 48)) for k in range(49)
    ]
    return tuple(("L" if k else "M", p) for k, p in enumerate(pts))


def _behind(on: str, width: float, ink: Ink) -> list[Shape]:
    """What it hangs on, as far as it lies behind the cords."""
    steel, shine = mix(ink.ink, ink.paper, 0.2), mix(ink.ink, ink.paper, 0.55)
    middle = width / 2
    if on == "ring":
        ring = _circle(middle, TOP - 24.0, max(width * 0.36, 26.0), 28.0)
        return [Line(ring, 9.0, steel), Line(ring, 3.5, shine)]
    if on == "buckle":
        x0, x1, y0 = 8.0, width - 8.0, 12.0
        frame: tuple[Command, ...] = (
            ("M", (x0, TOP)), ("L", (x0, y0 + 8)), ("Q", (x0, y0, x0 + 8, y0)), ("L", (x1 - 8, y0)),
            ("Q", (x1, y0, x1, y0 + 8)), ("L", (x1, TOP)), ("L", (x0, TOP)),
        )  # fmt: skip
        return [Line(frame, 11.0, steel, True), Line(frame, 4.5, shine, True)]
    if on == "former":
        hoop = _circle(middle, TOP + 10.0, max(width * 0.46, 30.0), 44.0)
        return [Area(tuple((p[0], p[1]) for _, p in hoop), mix(ink.paper, "#b98f5a", 0.45)), Line(hoop, 2.0, mix("#b98f5a", "#000000", 0.3))]  # fmt: skip
    if on == "cold-start":
        return []
    return _rod(8.0, width - 8.0, TOP, ink) if on != "loop" else []


def _front(on: str, xs: list[float], width: float, bottom: float, ink: Ink) -> list[Shape]:
    """What holds the cords from the front."""
    if on == "cold-start":  # a clip across all of them
        a, b = (xs[0] if xs else 20.0) - 14.0, (xs[-1] if xs else 40.0) + 14.0
        body = ((a, TOP - 8), (b, TOP - 8), (b - 4, TOP + 12), (a + 4, TOP + 12))
        return [Area(body, mix(ink.ink, ink.paper, 0.25)), *_rod(a + 6, b - 6, TOP + 2, ink, 3.0)]
    if on == "closed-loop":
        return _rod(8.0, width - 8.0, bottom - 14.0, ink)
    if on == "former":
        return [Disc(xs[0] if xs else width / 2, TOP - 18, 7.0, mix(ink.ink, ink.paper, 0.3), ink.ink, 1.0)]
    return []
