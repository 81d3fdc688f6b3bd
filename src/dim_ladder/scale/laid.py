"""Where each part of a length lies on the piece: what closes it, where it begins and ends, every section with its units."""

from __future__ import annotations

import math
from dataclasses import dataclass

from dim_ladder.base import format_length
from dim_ladder.notation import Weave
from dim_ladder.scale.solve import Piece
from dim_ladder.scale.units import Option

BOTH_ENDS = ("side-buckle", "buckle-and-ring", "loop-and-stopper", "loop-and-button", "loop-through-knot")
LEAST = 0.5  # mm of a part; less is none


@dataclass(frozen=True, slots=True)
class Part:
    """A stretch of the piece. kind : "fastening", "ends" (where it begins and ends) or "section". units : of a section. beside : it lies on
    others or beside them from where the part of that name begins, and adds nothing."""

    name: str
    kind: str
    mm: float
    units: int = 0
    beside: str = ""

    def words(self, system: str) -> str:
        """What it is and how long."""
        what = f"{self.units} × {self.name}" if self.kind == "section" else self.name
        return f"{what} {format_length(round(self.mm), system)}"


@dataclass(frozen=True, slots=True)
class Laid:
    """parts : from one end of the piece to the other. sums : what the wanted length is made of, name and mm. wanted_mm : all of the
    piece as it was asked for, with what closes it; mm : as it becomes."""

    parts: tuple[Part, ...]
    sums: tuple[tuple[str, float], ...]
    wanted_mm: float
    mm: float


def laid(weave: Weave, piece: Piece, option: Option | None = None) -> Laid:
    """A piece part by part. option : another answer than the one taken."""
    taken = piece.option if option is None else option
    units, wider = taken.counts, taken.stretch - piece.stretch
    adds = piece.closing.adds_mm
    names = {s.name: s for s in weave.sections}
    ring = not any(piece.pitch.values())
    parts: list[Part] = []
    if not ring:
        half = adds / 2 if piece.closing.key in BOTH_ENDS else adds
        words = piece.closing.of.words if half == adds else f"half of the {piece.closing.of.words}"
        parts.append(Part(words, "fastening", half))
        parts.append(Part("where it begins", "ends", piece.fixed_mm / 2))
        last = ""
        for s in (s for s in weave.sections if s.name in units):
            mm = (piece.pitch.get(s.name, 0.0) + wider * piece.room.get(s.name, 0.0)) * units[s.name]
            lies = s.name in piece.lying
            on = (s.over or s.on or last) if lies else ""
            parts.append(Part(s.name, "section", mm, units[s.name], on))
            last = last if lies or names[s.name].kind != "body" else s.name
        parts.append(Part("where it ends", "ends", piece.fixed_mm / 2))
        if half < adds:
            parts.append(Part(words, "fastening", adds - half))
    else:
        parts = [Part(s, "section", piece.wanted_mm, n) for s, n in list(units.items())[:1]]
    kept = tuple(p for p in parts if abs(p.mm) >= LEAST)
    plan = piece.plan
    if plan.target == "girth":
        sums = [("girth", plan.size_mm), ("ease", plan.ease_mm)]
        if not ring:
            sums.append(("outside the body", math.pi * piece.thickness_mm))
    else:
        sums = [("length", plan.size_mm)]
    return Laid(
        kept,
        tuple((name, mm) for name, mm in sums if abs(mm) >= LEAST),
        piece.wanted_mm + (0.0 if ring else adds),
        sum(p.mm for p in kept if not p.beside),
    )
