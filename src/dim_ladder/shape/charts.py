"""What a shape says, as pictures: cord of every end as bars, and cord against pitch."""

from __future__ import annotations

from collections.abc import Sequence

from dim_ladder.base.colours import mix
from dim_ladder.picture.display import PAPER, Area, Disc, Ink, Label, Line, Picture, Shape
from dim_ladder.shape.faces import Cords
from dim_ladder.shape.packing import Packed
from dim_ladder.shape.value import TightShape

HARD = 0.06  # overlap from which a packing is said to be harder than cord allows


def cord_bars(shape: TightShape, cords: Cords, ink: Ink = PAPER, width: float = 300) -> Picture:
    """Cord of every end in one unit, as a cord so long, in mm."""
    ends = list(shape.per_end)
    numbers = [cords.number(k, e) for k, e in enumerate(ends)]
    taken = shape.taken_mm()
    most = max(taken.values())
    row, left, right = 24.0, 26.0, 58.0
    shapes: list[Shape] = []
    for k, (e, n) in enumerate(zip(ends, numbers, strict=True)):
        mm = taken[e]
        y = 14 + k * row
        look = cords.look(n)
        long = max(2.0, (width - left - right) * mm / most)
        shapes.append(Label(10, y + 4, cords.letter(n), 12, ink.ink, "middle", True))
        path = (("M", (left, y)), ("L", (left + long, y)))
        shapes.append(Line(path, 13, mix(look.colour, "#000000", 0.5)))
        shapes.append(Line(path, 10.6, look.colour))
        shapes.append(
            Line(
                (("M", (left, y - 2.4)), ("L", (left + long, y - 2.4))),
                2.4,
                mix(look.colour, "#ffffff", 0.35),
            )
        )
        shapes.append(Label(left + long + 8, y + 4, f"{mm:.0f} mm", 12, ink.ink, "start"))
    title = "cord in one unit: " + ", ".join(
        f"{cords.letter(n)} {taken[e]:.0f} mm" for e, n in zip(ends, numbers, strict=True)
    )
    return Picture(width, 28 + row * (len(ends) - 1), tuple(shapes), title, ink.paper)


def packing_chart(
    curve: Sequence[Packed], shape: TightShape, measured_mm: float | None, ink: Ink = PAPER, width: float = 300, height: float = 190,
) -> Picture:  # fmt: skip
    """All cord in a unit against its pitch, in mm; the natural pitch, and the one that was measured."""
    mm = shape.unit_mm
    xs, ys = [p.pitch * mm for p in curve], [p.cord * mm for p in curve]
    if measured_mm is not None:
        xs.append(measured_mm)
    left, right, up, down = 44.0, 14.0, 20.0, 34.0
    x0, x1 = min(xs), max(xs)
    y0, y1 = min(ys) * 0.97, max(ys) * 1.02

    def x(v: float) -> float:
        return left + (width - left - right) * (v - x0) / max(x1 - x0, 1e-9)

    def y(v: float) -> float:
        return height - down - (height - up - down) * (v - y0) / max(y1 - y0, 1e-9)

    shapes: list[Shape] = []
    hard = [p for p in curve if p.overlap > HARD]
    if hard:
        edge = x(max(p.pitch for p in hard) * mm)
        top, foot = up, height - down
        shapes.append(
            Area(((left, top), (edge, top), (edge, foot), (left, foot)), mix(ink.paper, ink.ink, 0.07))
        )
    for part in range(3):
        v = y0 + (y1 - y0) * part / 2
        shapes.append(
            Line((("M", (left, y(v))), ("L", (width - right, y(v)))), 1.0, mix(ink.paper, ink.ink, 0.12))
        )
        shapes.append(Label(left - 6, y(v) + 4, f"{v:.0f}", 11, ink.quiet, "end"))
        u = x0 + (x1 - x0) * part / 2
        shapes.append(Label(x(u), height - down + 15, f"{u:.0f}", 11, ink.quiet))
    path = tuple(("L" if n else "M", (x(p.pitch * mm), y(p.cord * mm))) for n, p in enumerate(curve))
    shapes.append(Line(path, 2.0, ink.ink))
    here = min(curve, key=lambda p: abs(p.pitch - shape.pitch))
    shapes.append(Disc(x(here.pitch * mm), y(here.cord * mm), 5, ink.ink))
    shapes.append(Label(x(here.pitch * mm) - 6, y(here.cord * mm) - 10, "drawn up", 11, ink.ink, "middle"))
    if measured_mm is not None:
        at = x(measured_mm)
        shapes.append(Line((("M", (at, up)), ("L", (at, height - down))), 1.6, ink.signal, False, (4, 3)))
        anchor = "start" if at < width * 0.6 else "end"
        shapes.append(
            Label(
                at + (5 if anchor == "start" else -5),
                up + 10,
                f"yours {measured_mm:.1f}",
                11,
                ink.signal,
                anchor,
                True,
            )
        )
    shapes.append(Label(left - 34, 11, "mm of cord in a unit", 11, ink.quiet, "start"))
    shapes.append(Label(width - right, height - 5, "mm of band in a unit", 11, ink.quiet, "end"))
    title = f"cord in a unit against its pitch: {len(curve)} packings, drawn up at {shape.pitch * mm:.1f} mm"
    return Picture(width, height, tuple(shapes), title, ink.paper)


def contact_map(shape: TightShape, cords: Cords, ink: Ink = PAPER, width: float = 300) -> Picture:
    """Which cords press on which in a unit: a dot where two meet, the larger the longer they lie against each other."""
    n = len(shape.ends)
    numbers = [cords.number(k, e) for k, e in enumerate(shape.ends)]
    step = min(24.0, (width - 40) / max(n, 1))
    top, left = 34.0, 30.0
    most = max((length for *_, length in shape.touching), default=1.0)
    shapes: list[Shape] = [Label(10, 12, "presses on", 11, ink.quiet, "start")]
    hair = mix(ink.paper, ink.ink, 0.12)

    def at(k: int) -> float:
        return (k + 0.5) * step

    for k in range(n):
        for x, y in ((left - 14, top + at(k)), (left + at(k), top - 12)):
            shapes.append(Disc(x, y, 5, cords.look(numbers[k]).colour, ink.ink, 0.8))
        shapes.append(Line((("M", (left, top + at(k))), ("L", (left + at(k), top + at(k)))), 1.0, hair))
        shapes.append(
            Line((("M", (left + at(k), top + at(k))), ("L", (left + at(k), top + n * step))), 1.0, hair)
        )
        shapes.append(
            Label(left + n * step + 8, top + at(k) + 4, cords.letter(numbers[k]), 11, ink.quiet, "start")
        )
    for a, b, length in shape.touching:
        r = max(1.5, (step / 2 - 1) * (length / most) ** 0.5)
        shapes.append(Disc(left + at(min(a, b)), top + at(max(a, b)), r, ink.ink))
    mm = shape.unit_mm
    told = sorted(shape.touching, key=lambda t: -t[2])
    title = "cords that press on each other in a unit: " + (
        ", ".join(
            f"{cords.letter(numbers[a])} on {cords.letter(numbers[b])} along {length * mm:.0f} mm"
            for a, b, length in told[:8]
        )
        or "none"
    )
    return Picture(width, top + n * step + 8, tuple(shapes), title, ink.paper)
