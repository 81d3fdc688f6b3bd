"""The tight weave turned in the hand: as it looks from anywhere."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dim_ladder.picture.display import PAPER, Ink, Picture
from dim_ladder.shape.faces import MARGIN, Bead, Strand, draw
from dim_ladder.shape.rope import Array

MOST_TIP = 80.0  # degrees forwards or back, beyond which above and below would change places in the hand


@dataclass(frozen=True, slots=True)
class Held:
    """What is turned: its lines and beads about their own middle. wide, tall : in diameters, whichever way it is turned."""

    strands: tuple[Strand, ...]
    beads: tuple[Bead, ...]
    wide: float
    tall: float

    def seen(
        self, turn: float, tip: float, *, scale: float = 18.0, ink: Ink = PAPER, quick: bool = False, title: str = ""
    ) -> Picture:  # fmt: skip
        """turn : degrees about the work, its right side towards the eye; tip : its top towards the eye."""
        way = rotation(turn, tip)
        corner = np.array([self.wide, self.tall]) / 2
        return draw(
            [replace(s, line=s.line @ way.T) for s in self.strands], "front", scale=scale, ink=ink, title=title,
            beads=[replace(b, at=b.at @ way.T) for b in self.beads], frame=(-corner, corner), quick=quick,
        )  # fmt: skip


def held(strands: Sequence[Strand], beads: Sequence[Bead] = ()) -> Held:
    """Lines of cord, to be turned."""
    every = np.vstack([s.line for s in strands])
    middle = (every.min(axis=0) + every.max(axis=0)) / 2
    moved = tuple(replace(s, line=s.line - middle) for s in strands)
    out = np.hypot(every[:, 0] - middle[0], every[:, 2] - middle[2]).max()
    reach = float(max(s.diameter for s in strands)) / 2 + MARGIN
    tall = float(np.ptp(every[:, 1]))
    return Held(
        moved, tuple(replace(b, at=b.at - middle) for b in beads), 2 * (float(out) + reach),
        float(np.hypot(tall, 2 * out)) + 2 * reach,
    )  # fmt: skip


def rotation(turn: float, tip: float) -> Array:
    """(3, 3): first about y, then about x, in degrees."""
    a, b = np.radians([turn, float(np.clip(tip, -MOST_TIP, MOST_TIP))])
    about_y = np.array([[np.cos(a), 0, -np.sin(a)], [0, 1, 0], [np.sin(a), 0, np.cos(a)]])
    about_x = np.array([[1, 0, 0], [0, np.cos(b), np.sin(b)], [0, -np.sin(b), np.cos(b)]])
    return np.asarray(about_x @ about_y, np.float64)
