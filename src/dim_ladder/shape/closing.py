"""What closes a piece, to scale, as lines of cord and beads like the rest of it."""

from __future__ import annotations

import numpy as np

from dim_ladder.shape.faces import Bead, Strand
from dim_ladder.shape.rope import Array
from dim_ladder.shape.sheath import Look

PLASTIC, METAL = Look("#343c42", 2, "smooth"), Look("#9aa3a8", 0, "smooth")
FRAME_MM, RING_MM = 3.2, 2.6  # how thick a buckle's frame and a ring are
BESIDE_MM = 3.0  # of a buckle's frame beyond the band, on each side
OVERLAP = 0.15  # radians beyond a full turn, or a slit stood open where it closes
NOBODY = -1


def buckle_half(x: float, y: float, wide: float, unit_mm: float, half: float, *, up: bool) -> Strand:
    """One half of a side-release buckle: above y or below it. wide : the band between its outermost cords, in diameters; half : as
    long as that."""
    across = wide + 2 * BESIDE_MM / unit_mm
    return Strand(_frame(x, y - half if up else y, across, half), PLASTIC, FRAME_MM / unit_mm, NOBODY)


def ring(x: float, y: float, across: float, unit_mm: float) -> Strand:
    """A ring so far across that stands above y, lying flat."""
    thick = RING_MM / unit_mm
    turn = np.linspace(0, 2 * np.pi + OVERLAP, 73)
    r = (across - thick) / 2
    return Strand(
        np.column_stack([x + r * np.sin(turn), y - r - r * np.cos(turn), np.zeros(73)]), METAL, thick, NOBODY
    )


def loop(x: float, y: float, long: float, look: Look) -> Strand:
    """A standing loop above y, as long as that."""
    return Strand(_loop(x, y, long), look, 1.0, NOBODY)


def stopper(x: float, y: float, long: float, look: Look) -> Bead:
    """A stopper or button below y, of which nobody said how it is tied."""
    return Bead(np.array([x, y + long / 2, 0.0]), long / 2, look.colour)


def coil(x: float, y: float, r: float, long: float, look: Look) -> Strand:
    """A sliding closure up from y round what runs through it, of which nobody said how it is tied."""
    return Strand(_coil(x, y, r, long), look, 1.0, NOBODY)


def _frame(x: float, y: float, wide: float, high: float) -> Array:
    """A frame with round corners, from y down."""
    r = min(wide, high) * 0.28
    corners = [(x + wide / 2 - r, y + r, -np.pi / 2), (x + wide / 2 - r, y + high - r, 0.0),
               (x - wide / 2 + r, y + high - r, np.pi / 2), (x - wide / 2 + r, y + r, np.pi)]  # fmt: skip
    points = [(x, y)]
    for cx, cy, begin in corners:
        points += [(cx + r * np.cos(a), cy + r * np.sin(a)) for a in np.linspace(begin, begin + np.pi / 2, 9)]
    points.append((x, y))
    return even(np.array([(a, b, 0.0) for a, b in points]))


def _loop(x: float, y: float, long: float) -> Array:
    """A standing loop above y, as long as that."""
    u = np.linspace(0, 1, 60)
    wide = long * 0.32
    return even(
        np.column_stack(
            [
                x + wide * np.sin(2 * np.pi * u),
                y - long * np.sin(np.pi * u) ** 1.5,
                0.4 * np.cos(2 * np.pi * u),
            ]
        )
    )


def _coil(x: float, y: float, r: float, long: float) -> Array:
    """Turns side by side round what runs through them, from y up."""
    turns = max(3, round(long))
    u = np.linspace(0, 2 * np.pi * turns, 24 * turns)
    return even(np.column_stack([x + r * np.cos(u), y - long + long * u / u[-1], 1.3 * np.sin(u)]))


def even(line: Array) -> Array:
    """The same line with points a fifth of a diameter apart."""
    d = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    u = np.linspace(0, d[-1], max(4, round(d[-1] / 0.2)) + 1)
    return np.column_stack([np.interp(u, d, line[:, k]) for k in range(3)])
