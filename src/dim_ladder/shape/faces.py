"""The tight weave as it looks: from the front, from behind, and on edge; cords as cords, the nearer ones in front."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.notation import Weave
from dim_ladder.shape.lift import Array
from dim_ladder.shape.tighten import TightShape
from dim_ladder.trace import trace
from dim_ladder.trace.display import PAPER, Command, Ink, Line, Picture, Shape, cord_lines
from dim_ladder.trace.look import end_colours, end_patterns

SIDES = ("front", "back", "edge")
PIECE = 4  # nodes to a piece that is drawn at once, at one depth
MARGIN = 0.8  # diameters


@dataclass(frozen=True, slots=True)
class Cords:
    """How the ends look, by their place at the start: colours and patterns."""

    colours: Sequence[str]
    patterns: Sequence[int]


def cords_of(weave: Weave, section: str) -> Cords:
    """The looks of the ends as they stand when a section begins."""
    t = trace(weave, section=section, units=1)
    return Cords(end_colours(t), end_patterns(t))


def face(
    shape: TightShape,
    cords: Cords,
    side: str = "front",
    *,
    units: int = 6,
    scale: float = 18.0,
    ink: Ink = PAPER,
) -> Picture:
    """So many units of the band, one below the other. scale : pixels to a cord's diameter."""
    if side not in SIDES:
        raise InputError(f"there is no side “{side}”", ", ".join(SIDES))
    pieces: list[tuple[float, Array, Array, int]] = []
    holder = list(range(len(shape.lines)))  # which end's cord runs through each strand, unit by unit
    for u in range(units):
        for k, line in enumerate(shape.lines):
            flat, depth = _seen(line + np.array([0.0, u * shape.pitch, 0.0]), side)
            for i in range(0, len(flat) - 1, PIECE):
                stop = min(i + PIECE + 1, len(flat))
                # The cord reaches a little under its neighbours along the line, its gap does not: no seam shows.
                longer = flat[max(i - 1, 0) : stop + 1]
                pieces.append((float(depth[i:stop].mean()), flat[i:stop], longer, holder[k]))
        after = [0] * len(holder)
        for k, f in enumerate(shape.follow):
            after[f] = holder[k]
        holder = after
    every = np.vstack([p[1] for p in pieces])
    low = every.min(axis=0) - MARGIN
    width, height = (np.ptp(every, axis=0) + 2 * MARGIN) * scale
    shapes: list[Shape] = []
    for _, points, longer, end in sorted(pieces, key=lambda p: p[0]):
        shapes.append(Line(_path((points - low) * scale), scale * 1.14, ink.paper, False, (), "gap"))
        path = _path((longer - low) * scale)
        shapes += cord_lines(path, cords.colours[end], scale, ink, pattern=cords.patterns[end])
    title = f"{units} units of the tight weave, {'on edge' if side == 'edge' else f'from the {side}'}"
    return Picture(float(width), float(height), tuple(shapes), title, ink.paper)


def _path(points: Array) -> tuple[Command, ...]:
    return tuple(("L" if n else "M", (float(x), float(y))) for n, (x, y) in enumerate(points))


def _seen(line: Array, side: str) -> tuple[Array, Array]:
    """Points on paper, (n, 2), and how near each is to the eye."""
    x, y, z = line.T
    if side == "front":
        return np.column_stack([x, y]), z
    if side == "back":
        return np.column_stack([-x, y]), -z
    return np.column_stack([z, y]), x
