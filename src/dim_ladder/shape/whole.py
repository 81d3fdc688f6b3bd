"""The whole piece: what it hangs on, start, body in all its units, finish, to scale, beside a ruler.

Each section is pulled tight by itself; between two of them cords are led over by a smooth curve. That is a picture of how
the piece looks and how long it is, not of how its sections press on each other.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType

import numpy as np

from dim_ladder.library import FASTENINGS, cord_kind
from dim_ladder.library.kinds import BULGE
from dim_ladder.notation import Span, Weave, working_ends
from dim_ladder.picture.display import PAPER, Ink, Label, Line, Picture, Shape
from dim_ladder.shape.closing import even
from dim_ladder.shape.faces import Bead, Cords, Strand, beads_of, draw, strands_of
from dim_ladder.shape.hung import STUB, fitting, hung
from dim_ladder.shape.rope import Array
from dim_ladder.shape.sheath import Look, look_of
from dim_ladder.shape.value import TightShape

TRIM = 0.3  # diameters of tail that are kept of a held knot
JOIN = 0.6  # diameters between two sections
LED = 4.0  # diameters over which a cord comes out of a section and lies straight
RULER = 46.0  # pixels
TEXT = 11


@dataclass(frozen=True, slots=True)
class Whole:
    """strands : lines of cord in diameters. unit_mm : of the thickest cord. length_mm : from the first section to the end of
    the last. left_out : sections that could not be pulled tight, and why they are not in it."""

    strands: tuple[Strand, ...]
    unit_mm: float
    length_mm: float
    left_out: tuple[str, ...]
    beads: tuple[Bead, ...] = ()


def whole(
    weave: Weave, shapes: Mapping[str, TightShape], counts: Mapping[str, int], fastening: str = "none",
    free: Mapping[str, float] = MappingProxyType({}), adds_mm: float | None = None,
) -> Whole:  # fmt: skip
    """The whole piece. shapes : of the sections that have one. counts : units of each. fastening : what closes it. free : mm of free
    cord in a unit of each. adds_mm : what the fastening adds, None as usual."""
    names = working_ends(weave)
    unit = max((s.unit_mm for s in shapes.values()), default=4.0)
    look = {e: _look(weave, e, names) for e in names}
    size = {e: (cord_kind(c.kind).across if (c := weave.cord_of(e)) else unit) / unit for e in names}
    spread = {e: cord_kind(c.kind).spreads for e in names if (c := weave.cord_of(e))}
    parts: dict[str, list[Array]] = {}
    y, way, left_out = 0.0, 1.0, []
    reach = 0.0  # of all of it, below
    at: dict[str, tuple[TightShape, float, float]] = {}
    beads: list[Bead] = []
    for s in weave.sections:
        shape = shapes.get(s.name)
        gap = free.get(s.name, 0.0) / unit
        if shape is None and gap > 0 and not s.over and not s.on:
            y += way * gap * max(1, counts.get(s.name, 1))
            reach = max(reach, y)
            continue
        core = at.get(s.over)
        if shape is None or shape.kind == "closed" or s.on or (s.over and core is None):
            left_out.append(s.name)
            continue
        if core is not None:  # the work is turned end for end, and tied back over what is there
            way, y = -way, core[2]
        gap *= shape.period
        looks = [look.get(e.split("+")[0], Look("#888888")) for e in shape.ends]
        units = max(1, round(counts.get(s.name, 1) / shape.period))
        scale = shape.unit_mm / unit
        # Where cord is left free in a unit, every unit stands by itself.
        holder = list(shape.ends)
        above = bool(s.items) and isinstance(s.items[0], Span)
        begin = y
        for _ in range(units if gap else 1):
            y += way * gap * above
            held = beads_of(shape, weave, 1 if gap else units)
            tail = max([TRIM, *(2 * b.radius + TRIM for b in held)])
            drawn = strands_of(shape, Cords(looks), 1 if gap else units, tail)
            lines = [(even(x.line) if shape.kind == "held" else x.line) * scale for x in drawn]
            top = float(np.mean([line[0, 1] for line in lines]))
            middle = np.array([np.mean([line[:, 0].mean() for line in lines]), top, 0.0])
            if core is not None:
                lines = _round_oval(lines, holder.index(s.over), core[0], core[0].unit_mm / unit)
            lying, level = np.array([way, way, 1.0]), np.array([0.0, y, 0.0])
            for name, line in zip(holder, lines, strict=True):
                for end, moved in _by_end(name, (line - middle) * lying + level):
                    if end not in names:
                        continue  # the finished work that it is tied over
                    if end in parts:
                        parts[end].append(_led(parts[end][-1], moved))
                    parts.setdefault(end, []).append(moved)
            beads += [
                replace(b, at=(b.at * scale - middle) * lying + level, radius=b.radius * scale) for b in held
            ]
            # Where a unit of a body ends not all its cords do: it is as long as it says.
            if shape.kind == "cell":
                y += way * (1 if gap else units) * shape.pitch * scale
            else:
                y += way * (max(float(line[-1, 1]) for line in lines) - top)
            y += way * gap * (not above)
            after = list(holder)
            for k, f in enumerate(shape.follow):
                if f >= 0:
                    after[f] = holder[k]
            holder = after
        at[s.name] = shape, min(begin, y), max(begin, y)
        reach = max(reach, y)
        y += way * JOIN
    length = reach
    out: list[Strand] = []
    tops = {e: p[0][0] for e, p in parts.items() if e in names[: len(weave.hang.ends)] or not weave.hang.ends}
    for e, found in parts.items():
        foot = found[-1][-1]
        stub = even(np.array([foot, foot + np.array([0.0, way * STUB, 0.0])]))
        line = np.vstack([*found, stub[1:]])
        out.append(
            Strand(
                line,
                look.get(e, Look("#888888")),
                size.get(e, 1.0),
                names.index(e) if e in names else 0,
                spread.get(e, BULGE),
            )
        )
    if parts:
        # Where a layer was tied back over the work, its foot is where that was turned.
        feet = [p[-1][-1] if way > 0 else np.array([p[-1][-1][0], reach, 0.0]) for p in parts.values()]
        fit = fitting(weave, fastening, shapes)
        usual = FASTENINGS[fastening].adds_mm if fastening in FASTENINGS else 0.0
        adds = usual if adds_mm is None else adds_mm
        strands, balls = hung(weave, tops, feet, look, size, names, unit, fit, fastening, adds)
        out += strands
        beads += balls
    return Whole(tuple(out), unit, length * unit, tuple(left_out), tuple(beads))


def _round_oval(lines: list[Array], core: int, inner: TightShape, scale: float) -> list[Array]:
    """Cord that was worked round a round core, laid round finished work as it is: as far along its outline as along the core's, and as far out."""
    a, b = inner.width * scale / 2, inner.thickness * scale / 2
    wide, half = max(a, b), min(a, b)
    side = wide - half  # half of the straight part of its outline
    r = (4 * side + 2 * np.pi * half) / (2 * np.pi)
    axis = np.array([lines[core][:, 0].mean(), lines[core][:, 2].mean()])
    out = []
    for line in lines:
        x, z = line[:, 0] - axis[0], line[:, 2] - axis[1]
        far = np.hypot(x, z)
        if far.max() < r / 2:  # the core itself
            out.append(line)
            continue
        # Along a quarter of the outline from its broad side's middle: straight, then round.
        angle = np.arctan2(np.abs(x), np.abs(z))
        along = r * angle
        turn = np.clip((along - side) / half, 0.0, np.pi / 2)
        px = np.minimum(along, side) + half * np.sin(turn)
        pz = half * np.cos(turn)
        off = far - r
        px, pz = px + off * np.sin(turn), pz + off * np.cos(turn)
        if a < b:
            px, pz = pz, px
        out.append(np.column_stack([axis[0] + np.sign(x) * px, line[:, 1], axis[1] + np.sign(z) * pz]))
    return out


def _by_end(name: str, line: Array) -> list[tuple[str, Array]]:
    """The line of an end; of a cord that was laid in by its fold those of both its ends, from the fold down."""
    a, _, b = name.partition("+")
    if not b:
        return [(a, line)]
    fold = int(np.argmin(line[:, 1]))
    fold = min(max(fold, 3), len(line) - 4)
    return [(a, line[: fold + 1][::-1]), (b, line[fold:])]


def _look(weave: Weave, end: str, names: tuple[str, ...]) -> Look:
    cord = weave.cord_of(end)
    if cord is None:
        return Look("#888888")
    return look_of(cord.kind, cord.colour, [c.name for c in weave.cords].index(cord.name))


def _led(before: Array, after: Array) -> Array:
    """A smooth way from where one section leaves a cord to where the next takes it up, without its two ends."""
    a, b = before[-1], after[0]
    reach = float(np.linalg.norm(b - a))
    bend = min(reach, LED)
    ta = (before[-1] - before[-3]) / max(float(np.linalg.norm(before[-1] - before[-3])), 1e-9) * bend
    tb = (after[2] - after[0]) / max(float(np.linalg.norm(after[2] - after[0])), 1e-9) * bend
    u = np.linspace(0, 1, max(4, round(reach / 0.25)))[1:-1, None]
    return np.asarray(
        (2 * u**3 - 3 * u**2 + 1) * a
        + (u**3 - 2 * u**2 + u) * ta
        + (3 * u**2 - 2 * u**3) * b
        + (u**3 - u**2) * tb
    )


def whole_picture(
    piece: Whole,
    side: str = "front",
    *,
    scale: float = 12.0,
    ink: Ink = PAPER,
    ruler: bool = True,
    lying: bool = False,
) -> Picture:
    """scale : pixels to a diameter. lying : with the start on the left."""
    strands, beads = piece.strands, piece.beads
    if lying:  # a quarter turn, as seen from the side that is asked for
        strands = laid(strands, side)
        beads = tuple(replace(b, at=_laid(b.at[None], side)[0]) for b in beads)
        side = "front"
    title = f"the whole piece, {round(piece.length_mm)} mm of it worked"
    drawn = draw(strands, side, scale=scale, ink=ink, title=title, beads=beads)
    return _measured(drawn, strands, scale, piece.unit_mm, ink, lying) if ruler else drawn


def laid(strands: tuple[Strand, ...], side: str) -> tuple[Strand, ...]:
    """Turned so that their start lies on the left and the side that is asked for is seen from the front."""
    return tuple(replace(s, line=_laid(s.line, side)) for s in strands)


def _laid(line: Array, side: str) -> Array:
    x, y, z = line.T
    if side == "back":
        return np.column_stack([y, x, -z])
    if side == "edge":
        return np.column_stack([y, -z, x])
    return np.column_stack([y, -x, z])


def _measured(
    p: Picture, strands: tuple[Strand, ...], scale: float, unit_mm: float, ink: Ink, lying: bool
) -> Picture:
    """With a ruler along it, in mm from where the first section begins."""
    axis = 0 if lying else 1
    low = min(float(s.line[:, axis].min()) for s in strands)
    reach = max(s.diameter for s in strands) / 2 + 0.3
    per_mm = scale / unit_mm
    zero = (reach - low) * scale
    length = p.width if lying else p.height
    every = next((e for e in (1, 5, 10, 50) if e * per_mm >= 4.0), 100)
    shapes: list[Shape] = list(p.shapes)
    edge = (p.height if lying else p.width) + 14.0

    def at(along: float, across: float) -> tuple[float, float]:
        return (along, edge + across) if lying else (edge + across, along)

    shapes.append(Line((("M", at(zero, 0)), ("L", at(length, 0))), 1.0, ink.quiet))
    mm = 0
    while zero + mm * per_mm <= length:
        y = zero + mm * per_mm
        big = mm % (every * 10) == 0
        shapes.append(
            Line(
                (("M", at(y, 0)), ("L", at(y, 9 if big else 5 if mm % (every * 5) == 0 else 3))),
                1.0,
                ink.quiet,
            )
        )
        if big:
            x, v = at(y, 13)
            shapes.append(
                Label(x, v + (TEXT if lying else 4), str(mm), TEXT, ink.quiet, "middle" if lying else "start")
            )
        mm += every
    wide, tall = (p.width, p.height + RULER) if lying else (p.width + RULER, p.height)
    return Picture(wide, tall, tuple(shapes), p.title, p.background)
