"""What stands on the cords of a chain of bights, in the picture of all of it: beads, and slack that was left.

The chain is drawn up without them (shape/chained.py); where they are on one unit among many others is known from that. Its units are found
on the chain as what lies like it.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dim_ladder.shape.rope import Array, along_of
from dim_ladder.shape.standing import turn_of
from dim_ladder.shape.value import Standing, TightShape

WINDOW = 3.0  # diameters of cord to either side of it, by which its place is known again
STEP = 0.1  # diameters between the places that are tried
NEAR = 0.35  # of the cord of a unit, within which the next one is looked for
POINTS = 41


def on_units(chain: TightShape, cell: TightShape, units: int) -> TightShape:
    """A chain with what stands on the cords of its units. cell : one of them, with that."""
    beads: list[tuple[int, float, str, int]] = []
    many = len({of for *_, of in cell.beads})
    for strand, part, name, of in cell.beads:
        for u, at in enumerate(_again(chain, cell, strand, part, units)):
            beads.append((strand, at, name, u * many + of))
    standing = []
    for s in cell.standing:
        line = cell.lines[s.strand]
        part = float(along_of(line)[turn_of(line, s)] / along_of(line)[-1])
        found = _again(chain, cell, s.strand, part, units)
        standing += [Standing(s.strand, at, s.mm, s.side, True) for at in found]
    return replace(chain, beads=tuple(beads), standing=tuple(standing))


def _again(chain: TightShape, cell: TightShape, strand: int, part: float, units: int) -> list[float]:
    """Where a place of a strand of the unit is on each of so many units of the chain, from the top down, as parts of its length."""
    line = chain.lines[strand]
    along = along_of(line)
    unit = float(along_of(cell.lines[strand])[-1])
    like = _about(*_on_and_on(cell, strand), (1 + part) * unit)
    # The units lie in the middle of it, with the begin above them and the lock below.
    middle = along[-1] / 2

    def nearest(low: float, high: float) -> float:
        tried = np.arange(max(low, 0.0), min(high, float(along[-1])), STEP)
        return float(min(tried, key=lambda s: _unlike(_about(line, along, float(s)), like)))

    here = nearest(middle - unit / 2, middle + unit / 2)
    found = [here]
    for way in (-1, 1):
        at = here
        for _ in range(units):
            at += way * unit
            if not WINDOW < at < along[-1] - WINDOW:
                break
            at = nearest(at - NEAR * unit, at + NEAR * unit)
            found.append(at)
    found.sort(key=lambda s: _unlike(_about(line, along, s), like))
    return sorted(s / float(along[-1]) for s in found[:units])


def _on_and_on(cell: TightShape, strand: int) -> tuple[Array, Array]:
    """A strand in three units that go on in each other, and how far along it its points lie."""
    step = np.array([0.0, cell.pitch, 0.0])
    line = cell.lines[strand]
    every = np.vstack([line[:-1] - step, line[:-1], line + step])
    return every, along_of(every)


def _about(line: Array, along: Array, at: float) -> Array:
    """(POINTS, 3) cord about a place, from its middle."""
    s = at + np.linspace(-WINDOW, WINDOW, POINTS)
    out = np.column_stack([np.interp(s, along, line[:, k]) for k in range(3)])
    return np.asarray(out - out.mean(axis=0))


def _unlike(a: Array, b: Array) -> float:
    """How far two pieces of cord lie otherwise, the one turned about the way down as it fits best."""
    p, q = a[:, 0] + 1j * a[:, 2], b[:, 0] + 1j * b[:, 2]
    aside = float((np.abs(p) ** 2).sum() + (np.abs(q) ** 2).sum() - 2 * np.abs(np.vdot(p, q)))
    return aside + float(((a[:, 1] - b[:, 1]) ** 2).sum())
