"""Pictures of work on a former: unrolled flat, and round as one looks down the former."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

from dim_ladder.base.colours import mix
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
from dim_ladder.trace.former import FormerWork, HalfCycle

Point = tuple[float, float]
TURN = 0.9  # how far before an edge, in rows, a strand begins to round off
FINE = 0.1


def _height(work: FormerWork, t: float, up: bool) -> float:
    """y of a strand after t half bights on a run of p, with its turns at the edges rounded."""
    p = work.leads
    y = t if up else p - t

    def soft(d: float) -> float:  # distance from an edge: a parabola that meets the straight run at TURN
        return d if d >= TURN else (d * d + TURN * TURN) / (2 * TURN)

    if y < p / 2:
        return soft(y)
    return p - soft(p - y)


def _track(work: FormerWork, run: HalfCycle, shift: float, a: float, b: float) -> list[Point]:
    """Points of one pass of a run between a and b half bights, `shift` to the left of the way."""
    steps = max(2, math.ceil((b - a) / FINE))
    out = []
    for k in range(steps + 1):
        t = a + (b - a) * k / steps
        x, y = run.start + t, _height(work, t, run.up)
        e = 0.02
        dy = (_height(work, t + e, run.up) - _height(work, t - e, run.up)) / (2 * e)
        n = math.hypot(1.0, dy)
        out.append((x - shift * dy / n, y + shift / n))
    return out


def _shifts(work: FormerWork) -> list[float]:
    """Places of the passes beside the middle of a strand, in half bights."""
    gap = min(0.5, 1.4 / (work.passes + 0.4))
    return [(i - (work.passes - 1) / 2) * gap for i in range(work.passes)]


def _cord_width(work: FormerWork, unit: float) -> float:
    gap = min(0.5, 1.4 / (work.passes + 0.4)) if work.passes > 1 else 0.62
    return unit * gap * 0.86


class _Plane:
    """Where points of the unrolled work go on paper, and which part of a run is to be seen."""

    def __init__(
        self, place: Callable[[Point], Point], windows: Callable[[float, float], Iterable[float]]
    ) -> None:
        self.place, self.windows = place, windows


def flat_picture(
    work: FormerWork,
    colours: list[str],
    laid: int | None = None,
    ink: Ink = PAPER,
    unit: float = 22.0,
    *,
    focus: bool = False,
) -> Picture:
    """The work unrolled, the near edge below; what leaves on the right comes in on the left.

    laid : how many half cycles are there (None: all). focus : the last one strong, with an arrow, the others quiet.
    """
    around, p = 2 * work.bights, work.leads
    margin = unit * 1.1
    width, height = around * unit + 2 * margin, p * unit + 2 * margin

    def place(q: Point) -> Point:
        return margin + q[0] * unit, height - margin - q[1] * unit

    def windows(a: float, b: float) -> list[float]:
        first = math.floor((-0.5 - b) / around) + 1
        return [k * around for k in range(first, math.ceil((around + 0.5 - a) / around))]

    shapes = _drawn(work, colours, laid, ink, unit, focus, _Plane(place, windows), (-0.5, around + 0.5))
    edge = mix(ink.paper, ink.ink, 0.35)
    for x in (margin, width - margin):
        shapes.append(
            Line((("M", (x, margin * 0.4)), ("L", (x, height - margin * 0.4))), 1.2, edge, dash=(5.0, 4.0))
        )
    for b in range(work.bights):
        x = margin + 2 * b * unit
        shapes.append(
            Label(x, height - margin * 0.08, str(b + 1), unit * 0.68, ink.ink, "middle", tag="bight")
        )
    title = f"{p} leads, {work.bights} bights, unrolled"
    return Picture(width, height, tuple(shapes), title, ink.paper)


def round_picture(
    work: FormerWork, colours: list[str], laid: int | None = None, ink: Ink = PAPER, size: float = 320.0,
    *, focus: bool = False,
) -> Picture:  # fmt: skip
    """The work as a ring, the far edge inside."""
    around, p = 2 * work.bights, work.leads
    inner = max(1.6, around / (2 * math.pi) - p / 2)
    unit = (size / 2 - 8) / (inner + p + 0.6)
    middle = size / 2

    def place(q: Point) -> Point:
        a = q[0] / around * 2 * math.pi - math.pi / 2
        r = (inner + p - q[1] + 0.3) * unit
        return middle + r * math.cos(a), middle + r * math.sin(a)

    def windows(a: float, b: float) -> list[float]:
        return [0.0]

    shapes = _drawn(work, colours, laid, ink, unit, focus, _Plane(place, windows), None)
    core = Disc(middle, middle, inner * unit * 0.55, mix(ink.paper, ink.ink, 0.12), "", 0.0, "former")
    return Picture(
        size, size, (core, *shapes), f"{p} leads, {work.bights} bights, seen along the former", ink.paper
    )


def _drawn(
    work: FormerWork,
    colours: list[str],
    laid: int | None,
    ink: Ink,
    unit: float,
    focus: bool,
    plane: _Plane,
    clip: tuple[float, float] | None,
) -> list[Shape]:
    runs = work.half_cycles()
    count = len(runs) if laid is None else laid
    cord = _cord_width(work, unit)
    shifts = _shifts(work)
    out: list[Shape] = []

    def colour(run: HalfCycle) -> str:
        return colours[run.strand % len(colours)]

    def strength(n: int) -> float:
        return 0.42 if focus and n != count - 1 else 1.0

    def pieces(run: HalfCycle, shift: float, a: float, b: float) -> Iterable[tuple[Command, ...]]:
        for k in plane.windows(run.start + a, run.start + b):
            for part in _clipped([(x + k, y) for x, y in _track(work, run, shift, a, b)], clip):
                yield _path([plane.place(q) for q in part])

    def draw(run: HalfCycle, a: float, b: float) -> None:
        for shift in shifts:
            for path in pieces(run, shift, a, b):
                out.extend(
                    cord_lines(
                        path, colour(run), cord, ink, pattern=run.strand, strength=strength(run.number)
                    )
                )

    length = float(work.leads)
    whole = count - 1 if focus and count else count
    for strand in range(work.strands):  # in one go, so that a strand shows no seam where it turns
        mine = [r for r in runs[:whole] if r.strand == strand]
        if not mine:
            continue
        for shift in shifts:
            points: list[Point] = []
            for n, r in enumerate(mine):
                ahead = mine[0].start + n * work.leads - r.start
                points += [(x + ahead, y) for x, y in _track(work, r, shift, 0.0, length)[1 if n else 0 :]]
            if len(mine) == 2 * work.bights // work.strands:  # it meets its beginning
                far = 2 * work.bights * work.leads // work.strands
                points += [(x + far, y) for x, y in _track(work, mine[0], shift, 0.0, 0.4)]
            for k in plane.windows(points[0][0], points[-1][0]):
                for part in _clipped([(x + k, y) for x, y in points], clip):
                    path = _path([plane.place(q) for q in part])
                    out.extend(
                        cord_lines(
                            path,
                            colours[strand % len(colours)],
                            cord,
                            ink,
                            pattern=strand,
                            strength=0.42 if focus else 1.0,
                        )
                    )
    if whole < count:
        draw(runs[count - 1], 0.0, length)
    strip = 2 * shifts[-1] + cord / unit  # all passes of a strand, in half bights
    half, spare = strip / 2 + 0.12, 0.05 if clip or work.passes == 1 else 0.22
    for run in runs[:count]:
        for m in work.meetings(run):
            if m.over and m.other < count:
                t = float(m.y if run.up else work.leads - m.y)
                a, b = max(-0.4, t - half), min(length + 0.4, t + half)
                for path in pieces(run, 0.0, a, b):
                    out.append(Line(path, strip * unit + cord * 0.5, ink.paper, False, (), "gap"))
                draw(run, a - spare, b + spare)
    if focus and count:
        tip = runs[count - 1]
        end = _track(work, tip, 0.0, work.leads - 0.6, float(work.leads))
        k = -math.floor(end[-1][0] / (2 * work.bights)) * 2 * work.bights if clip else 0
        tail, point = plane.place((end[0][0] + k, end[0][1])), plane.place((end[-1][0] + k, end[-1][1]))
        out.append(_head(tail, point, cord, mix(colour(tip), "#000000", 0.35)))
    return out


def _head(a: Point, b: Point, cord: float, fill: str) -> Area:
    d = math.hypot(b[0] - a[0], b[1] - a[1]) or 1.0
    ux, uy = (b[0] - a[0]) / d, (b[1] - a[1]) / d
    w = cord * 0.95
    return Area(
        (
            (b[0] + ux * w * 1.3, b[1] + uy * w * 1.3),
            (b[0] - uy * w, b[1] + ux * w),
            (b[0] + uy * w, b[1] - ux * w),
        ),
        fill,
        "arrow",
    )


def _clipped(points: list[Point], clip: tuple[float, float] | None) -> list[list[Point]]:
    if clip is None:
        return [points]
    out: list[list[Point]] = [[]]
    for q in points:
        if clip[0] <= q[0] <= clip[1]:
            out[-1].append(q)
        elif out[-1]:
            out.append([])
    return [part for part in out if len(part) > 1]


def _path(points: list[Point]) -> tuple[Command, ...]:
    return (("M", points[0]), *(("L", q) for q in points[1:]))
