"""The whole piece drawn to scale, beside a ruler, hanging or lying. How it is joined from its sections: shape/joined.py."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dim_ladder.picture.display import PAPER, Ink, Label, Line, Picture, Shape
from dim_ladder.shape.faces import Bead, Strand, draw
from dim_ladder.shape.rope import Array

RULER = 46.0  # pixels
TEXT = 11


@dataclass(frozen=True, slots=True)
class Whole:
    """strands : lines of cord in diameters. unit_mm : of the thickest cord. length_mm : from the first section to the end of
    the last. left_out : sections that could not be pulled tight, and why they are not in it. begin : where it begins above the first
    section, in diameters, where arms are worked upwards. laps : diameters by which its ends, and what closes it, lap when that is closed: a
    button in its loop, two halves of a buckle."""

    strands: tuple[Strand, ...]
    unit_mm: float
    length_mm: float
    left_out: tuple[str, ...]
    beads: tuple[Bead, ...] = ()
    begin: float = 0.0
    laps: float = 0.0


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
    return _measured(drawn, strands, scale, piece, ink, lying) if ruler else drawn


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
    p: Picture, strands: tuple[Strand, ...], scale: float, piece: Whole, ink: Ink, lying: bool
) -> Picture:
    """With a ruler along it, in mm from where its first knot begins."""
    axis = 0 if lying else 1
    low = min(float(s.line[:, axis].min()) for s in strands)
    reach = max(s.diameter for s in strands) / 2 + 0.3
    per_mm = scale / piece.unit_mm
    zero = (reach - low + piece.begin) * scale
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
