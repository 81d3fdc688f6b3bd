"""What a face view is given: how to make the picture at any scale, and how large it is in diameters."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial

from dim_ladder.app.workers import PAINTING
from dim_ladder.calibrate import Calibration
from dim_ladder.commands.piece import pieces
from dim_ladder.notation import Weave
from dim_ladder.picture.display import Ink, Picture
from dim_ladder.scale import Plan
from dim_ladder.shape import TightShape
from dim_ladder.shape.faces import NAMES, Bead, Cords, draw, extent, strands_of, title_of, view_of
from dim_ladder.shape.whole import RULER, Whole, laid, whole_picture


@dataclass(frozen=True, slots=True)
class Shown:
    make: Callable[[float], Picture]
    natural: tuple[float, float]
    beside: float = 0.0


def units_for(shape: TightShape, mm: float, most: int = 40) -> int:
    """So many units that about `mm` of the work is seen."""
    if shape.kind != "cell":
        return 1
    return max(2, min(most, round(mm / max(shape.pitch * shape.unit_mm + sum(shape.free), 1.0))))


def shown(
    shape: TightShape,
    cords: Cords,
    side: str,
    units: int,
    ink: Ink,
    *,
    names: bool = False,
    beads: Sequence[Bead] = (),
) -> Shown:
    """One face of a shape."""
    strands = strands_of(shape, cords, units)
    seen = view_of(shape, side)
    title = title_of(shape, units, seen)

    def make(scale: float) -> Picture:
        return draw(strands, seen, scale=scale, ink=ink, names=names, title=title, beads=beads)

    return Shown(make, extent(strands, seen), 2 * NAMES if names else 0.0)


def shown_whole(piece: Whole, side: str, ink: Ink) -> Shown:
    """The whole piece, lying."""
    size = extent(laid(piece.strands, side), "front")
    return Shown(partial(_whole, piece, side, ink), size, RULER)


def _whole(piece: Whole, side: str, ink: Ink, scale: float) -> Picture:
    return whole_picture(piece, side, scale=scale, ink=ink, lying=True)


def pieces_of(
    weave: Weave, calibration: Calibration | None, plan: Plan, stale: Callable[[], bool]
) -> Iterator[Whole]:
    """The piece as it comes together, on a thread that waits while something is painted."""

    def enough() -> bool:
        with PAINTING:
            return stale()

    return pieces(weave, calibration, plan, enough)
