"""Numbers beside the passages of a step, where there are many: the same as in its sentence."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

from dim_ladder.base.colours import mix
from dim_ladder.picture.display import Disc, Label, Line, Shape
from dim_ladder.picture.look import Style
from dim_ladder.picture.parts import Parts, Point, flattened, passed_at
from dim_ladder.trace.led import marks
from dim_ladder.trace.value import StepRecord

AROUND = 12  # directions in which a number may stand beside its passage


def spots(parts: Parts) -> dict[int, Point]:
    """Where crossings lie."""
    return {a.which: (a.x, a.y) for a in parts.anchors if a.kind == "crossing"}


def numbered(parts: Parts, record: StepRecord, hops: range | None, style: Style) -> Parts:
    """With the number of every passage, from when the end has come to it. hops : of a step that is told over several pictures, those
    that are shown; where they are drawn with what came before them, the numbers of that stand too."""
    there = spots(parts)
    cords = [p for m in parts.movers for p in flattened(m.path)]
    for s in parts.under:
        if isinstance(s, Line) and s.tag.startswith("end"):
            cords += flattened(s.path)
    ways = [flattened(m.path) for m in parts.movers]
    taken: list[Point] = [(a.x, a.y) for a in parts.anchors if a.kind == "tail"]
    fresh = list(parts.fresh)
    for k, number in marks(record).items():
        h = record.hops[k]
        n = h.edge if h.edge >= 0 else h.start
        if n not in there or (hops is not None and (k >= hops.stop or (parts.part and k < hops.start))):
            continue
        spot = _beside(there[n], cords, taken, style, parts)
        taken.append(spot)
        came = [passed_at(way, there[n], style.unit * 0.2) for way in ways]
        at = max((f for f in came if f is not None), default=1.0)
        fresh.append((at, tuple(_number(number, spot, style, parts))))
    return replace(parts, fresh=tuple(fresh))


def _number(number: int, spot: Point, style: Style, parts: Parts) -> list[Shape]:
    (x, y), r, ink = spot, style.unit * max(0.3, style.letter * 0.82), parts.ink
    size = r * (1.35 if number < 10 else 1.1)
    return [
        Disc(x, y, r, ink.paper, mix(ink.signal, ink.paper, 0.35), 1.2, "number"),
        Label(x, y + size * 0.35, str(number), size, ink.signal, "middle", True, "number"),
    ]


def _beside(spot: Point, cords: list[Point], taken: list[Point], style: Style, parts: Parts) -> Point:
    """Where the number of a passage stands: next to it, as clear of cords and of other numbers as it can be."""
    u = style.unit
    near = [p for p in cords if math.dist(p, spot) < 2.5 * u]

    def clear(p: Point) -> float:
        edge = min(p[0], p[1], parts.width - p[0], parts.height - p[1]) - u * 0.32
        cord = min((math.dist(p, q) for q in near), default=u)
        other = min((math.dist(p, q) for q in taken), default=4 * u)
        return min(cord, u * 0.8) + min(0.0, 2 * edge) + min(0.0, 2 * (other - 0.7 * u))

    tries = [
        (spot[0] + f * u * math.cos(math.tau * k / AROUND), spot[1] + f * u * math.sin(math.tau * k / AROUND))
        for f in (0.62, 0.8)
        for k in range(AROUND)
    ]
    return max(tries, key=lambda p: round(clear(p), 3))


def half_way(record: StepRecord, hops: range, parts: Parts, style: Style) -> float:
    """How far on its way the end is when some hops are made, of a step that is drawn as one: half way to the next passage."""
    if hops.stop >= len(record.hops) or not parts.movers:
        return 1.0
    way, there = flattened(parts.movers[-1].path), spots(parts)
    done = _come(way, range(record.start, record.hops[hops.stop - 1].stop), there, style)
    coming = _come(way, range(record.hops[hops.stop].start, record.stop), there, style)
    return (max(done, default=0.0) + min(coming, default=1.0)) / 2


def _come(way: list[Point], crossings: range, there: Mapping[int, Point], style: Style) -> list[float]:
    found = [passed_at(way, there[n], style.unit * 0.2) for n in crossings if n in there]
    return [f for f in found if f is not None]
