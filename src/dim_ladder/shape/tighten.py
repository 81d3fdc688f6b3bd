"""One unit of a band pulled tight: the shortest cord that stays the same weave and does not lie in itself.

Every strand is pulled straight, what overlaps is pushed apart, and the pitch shrinks while there is room: the way a hand
draws a knot up. Plain numpy. What it leaves out: friction, stretch, flat cord, and turning as a whole.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from dim_ladder.notation import Weave
from dim_ladder.shape.cell import Cell
from dim_ladder.shape.lift import Array, lift
from dim_ladder.trace import trace

STEP = 0.3  # between nodes, in diameters
PULL = (
    0.5  # part of the way to the middle of its neighbours that a node goes at once: no cord can pass another
)
EVERY = 20  # steps between looking anew for what is near
ROOM_LEFT, TOO_DEEP = (
    0.03,
    0.08,
)  # overlaps, in diameters, below which the pitch shrinks and above which it grows
SHRINK, GROW = 0.9985, 1.0005
MOST = 6000
CALM = 0.004  # change of pitch and lengths over WINDOW steps below which it is tight
WINDOW = 600
PASSED = 0.8  # an overlap, at any step, from which on cords may have passed through each other
TURN_OUT = 0.1  # the overlap that is still called tight


@dataclass(frozen=True, slots=True)
class TightShape:
    """In cord diameters. pitch : of one unit. per_end : cord that each end takes in a unit, the mean over the units until
    it is back in its place. overlap : the deepest that is left. deepest : that was
    ever there; cords would have to lie wholly in each other (1) to pass through. lines : centre lines, (n, 3), by the end whose place
    they begin at; the next unit of each goes on in `follow`. converged : whether it was tight when it ended."""

    ends: tuple[str, ...]
    pitch: float
    width: float
    thickness: float
    per_end: dict[str, float]
    overlap: float
    deepest: float
    converged: bool
    steps: int
    lines: tuple[Array, ...]
    follow: tuple[int, ...]


def tighten(weave: Weave, section: str, *, step: float = STEP, most: int = MOST) -> Iterator[TightShape]:
    """Shapes of one unit, tighter and tighter; the last one is the answer. Raises InputError where it cannot repeat."""
    one = trace(weave, section=section, units=1)
    cell = Cell(lift(one), step)
    history: list[tuple[float, float]] = []
    calm = False
    done = 0
    deepest = 0.0
    while done < most and not calm:
        cell.space_out()
        cell.look()
        for _ in range(EVERY):
            a, b = cell.neighbours()
            cell.x += PULL * ((a + b) / 2 - cell.x)
            deepest = max(deepest, cell.overlap())
            cell.push(4)
            deep = cell.overlap()
            cell.pitch *= SHRINK if deep < ROOM_LEFT else GROW if deep > TOO_DEEP else 1.0
        done += EVERY
        history.append((cell.pitch, float(cell.lengths().sum())))
        calm = _calm(history)
        if done % (EVERY * 10) == 0 or calm or done >= most:
            yield _shape(one.ends, cell, calm, done, deepest)


def tight(weave: Weave, section: str) -> TightShape:
    """The tight shape of a section."""
    *_, last = tighten(weave, section)
    return last


def _calm(history: list[tuple[float, float]]) -> bool:
    last = history[-(WINDOW // EVERY) :]
    if len(last) < WINDOW // EVERY:
        return False
    pitch, length = np.array(last).T
    return bool(np.ptp(pitch) < CALM * pitch[-1] and np.ptp(length) < CALM * length[-1])


def _shape(ends: tuple[str, ...], cell: Cell, calm: bool, done: int, deepest: float) -> TightShape:
    cell.look()
    lengths = cell.lengths()
    mean = lengths.copy()
    for orbit in _orbits(cell.follow):
        mean[orbit] = lengths[orbit].mean()
    deep = cell.overlap()
    width, thickness = np.ptp(cell.x[:, 0]) + 1.0, np.ptp(cell.x[:, 2]) + 1.0
    return TightShape(
        ends, float(cell.pitch), float(width), float(thickness),
        {e: float(mean[i]) for i, e in enumerate(ends)}, deep, deepest, calm and deep < TURN_OUT and deepest < PASSED, done,
        tuple(cell.strands()), cell.follow,
    )  # fmt: skip


def _orbits(follow: tuple[int, ...]) -> list[list[int]]:
    """Ends whose strands one cord runs through, unit by unit."""
    out: list[list[int]] = []
    seen: set[int] = set()
    for e in range(len(follow)):
        orbit: list[int] = []
        while e not in seen:
            seen.add(e)
            orbit.append(e)
            e = follow[e]
        if orbit:
            out.append(orbit)
    return out
