"""The tight weave as it looks: from the front, from behind, and on edge; cords as cords, the nearer ones in front."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.base.colours import lightness
from dim_ladder.notation import Weave
from dim_ladder.shape.rope import Array, turned
from dim_ladder.shape.sheath import PLAIN, Look, Piece, cord_pieces, sheath_of
from dim_ladder.shape.value import TightShape
from dim_ladder.trace import trace
from dim_ladder.trace.display import PAPER, Disc, Ink, Label, Picture, Shape
from dim_ladder.trace.look import end_colours, end_patterns, letter

SIDES = ("front", "back", "edge")
PIECE, LONG = (
    0.8,
    1.3,
)  # diameters of cord that are drawn at once, at one depth; where cords are thin on paper
NODE = 2.2  # pixels between the points of a line, about
MARGIN = 0.8  # diameters
NAMES = 22.0  # pixels above and below, where ends are named


@dataclass(frozen=True, slots=True)
class Strand:
    """A line of cord to be drawn, (n, 3) in diameters. end : whose, by number."""

    line: Array
    look: Look
    diameter: float
    end: int


@dataclass(frozen=True, slots=True)
class Cords:
    """How the ends look, by their place at the start."""

    looks: Sequence[Look]


def cords_of(weave: Weave, section: str) -> Cords:
    """The looks of the ends as they stand when a section begins; on a former, of the cords."""
    found = weave.section(section)
    if found is not None and found.former is not None:
        return Cords(
            [Look(c.colour, k, sheath_of(c.kind)) for k, c in enumerate(weave.cords)] or [Look("#888888")]
        )
    t = trace(weave, section=section, units=1)
    kinds = [c.kind if (c := weave.cord_of(e)) else "" for e in t.ends]
    return Cords(
        [Look(c, p, sheath_of(k)) for c, p, k in zip(end_colours(t), end_patterns(t), kinds, strict=True)]
    )


def strands_of(shape: TightShape, cords: Cords, units: int) -> list[Strand]:
    """The lines of so many units, one below the other, every cord in its own look wherever it has come to."""
    many = len(cords.looks)
    if shape.kind == "closed":
        names = {e: k for k, e in enumerate(dict.fromkeys(shape.ends))}
        return [
            Strand(s, cords.looks[names[e] % many], d, names[e])
            for s, e, d in zip(shape.lines, shape.ends, shape.diameter, strict=True)
        ]
    if shape.kind == "held":
        return [Strand(s, cords.looks[k], shape.diameter[k], k) for k, s in enumerate(shape.lines)]
    ends = range(len(shape.lines))
    parts: list[list[Array]] = [[] for _ in ends]
    holder = list(ends)  # which end's cord runs through each strand, unit by unit
    middle = units * shape.angle / 2
    for u in range(units):
        for k, line in enumerate(shape.lines):
            # Turned so that the middle of a spiral faces the eye whatever its length.
            at = turned(turned(line, u, shape.angle, shape.pitch), 1, -middle, 0.0)
            parts[holder[k]].append(at if u == units - 1 else at[:-1])
        after = list(ends)
        for k, f in enumerate(shape.follow):
            after[f] = holder[k]
        holder = after
    return [Strand(np.vstack(parts[e]), cords.looks[e], shape.diameter[e], e) for e in ends]


def face(
    shape: TightShape, cords: Cords, side: str = "front", *, units: int = 6, scale: float = 18.0, ink: Ink = PAPER,
    names: bool = False,
) -> Picture:  # fmt: skip
    """So many units of the band, one below the other. scale : pixels to a diameter. names : say which end is which."""
    strands = strands_of(shape, cords, units)
    seen = view_of(shape, side)
    return draw(strands, seen, scale=scale, ink=ink, names=names, title=title_of(shape, units, seen))


def title_of(shape: TightShape, units: int, seen: str) -> str:
    """What a reader who cannot see the picture is told."""
    what = {
        "cell": f"{units} units of the tight weave",
        "held": "the tight knot",
        "closed": "the tight work",
    }[shape.kind]
    return f"{what}, {'on edge' if seen == 'edge' else f'from {seen}' if seen == 'above' else f'from the {seen}'}"


def extent(strands: Sequence[Strand], side: str) -> tuple[float, float]:
    """Width and height of what is drawn, in diameters."""
    every = np.vstack([_seen(s.line, side)[0] for s in strands])
    reach = max((s.diameter for s in strands), default=1.0) / 2 + MARGIN - 0.5
    wide, tall = np.ptp(every, axis=0) + 2 * reach
    return float(wide), float(tall)


def draw(
    strands: Sequence[Strand], side: str, *, scale: float = 18.0, ink: Ink = PAPER, names: bool = False, title: str = "",
    frame: tuple[Array, Array] | None = None,
) -> Picture:  # fmt: skip
    """Lines of cord as they look from one side. frame : corners of what is shown, in diameters, as seen."""
    if side not in (*SIDES, "above"):
        raise InputError(f"there is no side “{side}”", ", ".join(SIDES))
    seen = [_seen(s.line, side) for s in strands]
    reach = max((s.diameter for s in strands), default=1.0) / 2 + MARGIN - 0.5
    every = np.vstack([flat for flat, _ in seen])
    low, high = frame if frame is not None else (every.min(axis=0) - reach, every.max(axis=0) + reach)
    deep = np.concatenate([d for _, d in seen])
    near, far = float(deep.max()), float(deep.min())
    above = NAMES if names else 0.0
    shift = np.array([0.0, above])
    pieces: list[Piece] = []
    for s, (flat, depth) in zip(strands, seen, strict=True):
        line = _smooth(np.column_stack([(flat - low) * scale + shift, depth]), scale)
        width = scale * s.diameter
        length = width * (LONG if width < PLAIN else PIECE)
        pieces += cord_pieces(line, s.look, width, near, far, length, ink)
    shapes: list[Shape] = [x for piece in sorted(pieces, key=_depth) for x in piece.lines]
    size = (high - low) * scale + np.array([0.0, 2 * above])
    if names:
        shapes += _names(strands, seen, low, scale, shift, float(size[1]), ink)
    return Picture(float(size[0]), float(size[1]), tuple(shapes), title, ink.paper)


def _depth(piece: Piece) -> float:
    return piece.depth


def _names(
    strands: Sequence[Strand], seen: Sequence[tuple[Array, Array]], low: Array, scale: float, shift: Array, height: float, ink: Ink
) -> list[Shape]:  # fmt: skip
    """The letter of every end above where it comes in and below where it goes out; moved apart where they are close."""
    ys = [flat[:, 1] for flat, _ in seen]
    top, foot = min(float(y.min()) for y in ys), max(float(y.max()) for y in ys)
    out: list[Shape] = []
    for at_top in (True, False):
        found = []
        for s, (flat, _) in zip(strands, seen, strict=True):
            x, y = flat[0 if at_top else -1]
            if abs(float(y) - (top if at_top else foot)) < 1.5:
                found.append(((float(x) - float(low[0])) * scale + float(shift[0]), s))
        found.sort(key=lambda f: f[0])
        places: list[float] = []
        for x, _ in found:
            places.append(max(x, places[-1] + 17.0) if places else x)
        off = (sum(x for x, _ in found) - sum(places)) / max(len(found), 1)
        y = 10.0 if at_top else height - 10.0
        for x, (_, s) in zip(places, found, strict=True):
            out.append(Disc(x + off, y, 8.0, s.look.colour, ink.ink, 1.0))
            out.append(Label(x + off, y + 4, letter(s.end), 11, _on(s.look.colour), "middle", True))
    return out


def _on(colour: str) -> str:
    return "#ffffff" if lightness(colour) < 0.45 else "#14202a"


def _smooth(line: Array, scale: float) -> Array:
    """Points about NODE pixels apart on a smooth curve through these. line : (n, 3), pixels and depth."""
    step = float(np.sqrt((np.diff(line[:, :2], axis=0) ** 2).sum(axis=1)).mean()) if len(line) > 1 else 1.0
    if step < NODE * 0.8:
        keep = max(1, round(NODE / max(step, 1e-6)))
        at = np.unique(np.concatenate([np.arange(0, len(line), keep), [len(line) - 1]]))
        return np.asarray(line[at], np.float64)
    more = min(6, max(1, round(step / (2 * NODE))))
    if more == 1 or len(line) < 3:
        return line
    p = np.vstack([2 * line[0] - line[1], line, 2 * line[-1] - line[-2]])
    a, b, c, d = p[:-3], p[1:-2], p[2:-1], p[3:]
    out = []
    for k in range(more):  # a cardinal spline through the points
        u = k / more
        out.append(
            0.5 * (2 * b + (c - a) * u + (2 * a - 5 * b + 4 * c - d) * u * u + (3 * b - a - 3 * c + d) * u**3)
        )
    return np.asarray(np.vstack([np.stack(out, axis=1).reshape(-1, 3), line[-1:]]), np.float64)


def view_of(shape: TightShape, side: str) -> str:
    """From where a side is seen: what goes round has no edge, it is seen from above."""
    return "above" if shape.kind == "closed" and side == "edge" else side


def _seen(line: Array, side: str) -> tuple[Array, Array]:
    """Points on paper, (n, 2), and how near each is to the eye."""
    x, y, z = line.T
    if side == "front":
        return np.column_stack([x, y]), z
    if side == "back":
        return np.column_stack([-x, y]), -z
    if side == "above":
        return np.column_stack([x, z]), -y
    return np.column_stack([z, y]), x
