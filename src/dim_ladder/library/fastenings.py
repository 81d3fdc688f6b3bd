"""Fastenings: what closes a piece, and what it adds to it. Lengths in mm; cautions by key of CAUTIONS.

What they add are estimates from the drawing of each: half a loop beyond the work, a button's middle, a buckle of the common size for
bands as wide as two cords over two. Whoever measures their own gives that length instead.
"""

from __future__ import annotations

from dataclasses import dataclass

from dim_ladder.notation import nearest


@dataclass(frozen=True, slots=True)
class Fastening:
    """What closes the piece. adds_mm : length it contributes to the closed inner girth. item : what must be at hand for it, "" where
    it is tied. part : what one lays a tape on for a length of one's own, "" where there is none. opens : it lets the piece become
    wider, to be put on. shut : nothing opens, and the piece is slipped on."""

    words: str
    adds_mm: float
    cautions: tuple[str, ...] = ()
    item: str = ""
    part: str = ""
    opens: bool = False
    shut: bool = False


# Knots that hold in a loop.
BUTTONS = frozenset(("button", "button-two", "round-button", "diamond-2", "diamond-4"))
STOPPERS = frozenset(
    ("stopper", "overhand", "overhand-round", "figure-eight", "walker-3", "wall-3", "wall-4", "crown-wall-4", "coil-3", "coil-5")
)  # fmt: skip

SLIDE_MM = 25.0  # of a sliding closure: three to four turns of what is tied over the ends
OPENS_MM = 60.0  # by how much one opens where nobody says: a hand over its wrist

FASTENINGS: dict[str, Fastening] = {
    "none": Fastening("no fastening", 0.0),
    "slip-on": Fastening("none, it slips on", 0.0, shut=True),
    "side-buckle": Fastening(
        "side-release buckle", 32.0, item="a side-release buckle as wide as the work", part="the closed buckle"
    ),
    "buckle-and-ring": Fastening(
        "side-release buckle with a ring", 38.0, ("neck",),
        item="a side-release buckle and a ring, both as wide as the work", part="the closed buckle with its ring",
    ),
    "loop-and-stopper": Fastening("loop and stopper knot", 12.0, part="the stopper knot"),
    "loop-and-button": Fastening("loop and button", 15.0, part="the button"),
    "loop-through-knot": Fastening("loop drawn through a knot of the work", 10.0, part="the loop beyond the work"),
    "ring": Fastening("ring at one end", 20.0, item="a ring", part="the ring"),
    "sliding": Fastening("sliding closure", SLIDE_MM, ("neck",), part="the closure", opens=True),
}  # fmt: skip


def nearest_fastening(name: str) -> str:
    """A remedy for an unknown fastening."""
    return nearest(name, FASTENINGS)
