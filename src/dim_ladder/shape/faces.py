"""The tight weave as it looks: from the front, from behind, and on edge; cords as cords, the nearer ones in front."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.base.colours import lightness
from dim_ladder.library.kinds import BULGE
from dim_ladder.notation import Weave
from dim_ladder.picture.display import PAPER, Command, Disc, Ink, Label, Line, Picture, Shape
from dim_ladder.shape.light import shadows
from dim_ladder.shape.measure import cut_off, reach_of
from dim_ladder.shape.ribbons import filled, widths
from dim_ladder.shape.rope import Array, turned
from dim_ladder.shape.sheath import FINE, LIGHT, Look, Piece, bead_piece, cord_pieces, look_of
from dim_ladder.shape.spaced import opened
from dim_ladder.shape.standing import with_loops
from dim_ladder.shape.value import TightShape
from dim_ladder.trace import trace
from dim_ladder.trace.ends import end_colours, end_patterns, letter, letter_of

SIDES = ("front", "back", "edge")
NODE = 3.2  # pixels between the points of a line, about
# Of thin cord, from point to point: so many times as far where it is straight, or so much turn, or depth.
STRAIGHT, BEND, DIVE = 4.0, 0.95, 0.75
REACH = 0.4  # widths, from which a piece of cord reaches under its neighbours, at most
STROKE = 12  # points of a path, about
LAYER = 0.4  # diameters of depth in which thin pieces are drawn together: cords that cross are further apart
MARGIN = 0.8  # diameters
TAIL = 2.5  # diameters of straight tail that are shown of a held knot
NAMES = 22.0  # pixels above and below, where ends are named


@dataclass(frozen=True, slots=True)
class Strand:
    """A line of cord to be drawn, (n, 3) in diameters. end : whose, by number. spread : how wide it lies where it is pressed flat, of its
    diameter. letter : of its end, where that is not the one of its number."""

    line: Array
    look: Look
    diameter: float
    end: int
    spread: float = BULGE
    letter: str = ""


@dataclass(frozen=True, slots=True)
class Bead:
    """at : its middle, (3,), and radius, in diameters."""

    at: Array
    radius: float
    colour: str


@dataclass(frozen=True, slots=True)
class Cords:
    """How the ends look, by their place where a section begins; names : what they are called, where that is known. letters : of each, which
    it keeps from where it first hung."""

    looks: Sequence[Look]
    names: Sequence[str] = ()
    letters: Sequence[str] = ()

    def number(self, strand: int, end: str) -> int:
        """Which end a strand is."""
        first = end.split("+")[0]
        return self.names.index(first) if first in self.names else strand

    def look(self, number: int) -> Look:
        return self.looks[number % len(self.looks)]

    def letter(self, number: int) -> str:
        return self.letters[number] if number < len(self.letters) else letter(number)


def cords_of(weave: Weave, section: str) -> Cords:
    """The looks of the ends as they stand when a section begins; on a former, of the cords."""
    found = weave.section(section)
    if found is not None and found.former is not None:
        return Cords([look_of(c.kind, c.colour, k) for k, c in enumerate(weave.cords)] or [Look("#888888")])
    t = trace(weave, section=section, units=1)
    kinds = [c.kind if (c := weave.cord_of(e)) else "" for e in t.ends]
    return Cords(
        [look_of(k, c, p) for c, p, k in zip(end_colours(t), end_patterns(t), kinds, strict=True)],
        t.ends,
        [letter_of(t, e) for e in range(len(t.ends))],
    )


def strands_of(
    shape: TightShape, cords: Cords, units: int, tails: tuple[float, float] = (TAIL, TAIL)
) -> list[Strand]:
    """The lines of so many units, one below the other, every cord in its own look wherever it has come to.

    tails : diameters that are shown of a held knot's tails, above and below.
    """
    shape = opened(shape)
    many = len(cords.looks)
    spread = shape.spread or (BULGE,) * len(shape.lines)
    if shape.kind == "closed":
        names = {e: k for k, e in enumerate(dict.fromkeys(shape.ends))}
        return [
            Strand(s, cords.looks[names[e] % many], d, names[e])
            for s, e, d in zip(shape.lines, shape.ends, shape.diameter, strict=True)
        ]
    numbers = [cords.number(k, e) for k, e in enumerate(shape.ends)]
    if shape.kind == "held":
        return [
            Strand(s, cords.look(n), d, n, b, cords.letter(n))
            for s, n, d, b in zip(
                worked(with_loops(shape), *tails), numbers, shape.diameter, spread, strict=True
            )
        ]
    ends = range(len(shape.lines))
    parts: list[list[Array]] = [[] for _ in ends]
    holder = list(ends)  # which end's cord runs through each strand, unit by unit
    # Turned so that the middle of a spiral faces the eye whatever its length.
    copies = [
        np.stack([_in_unit(shape, k, line, u, units) for u in range(units)])
        for k, line in enumerate(with_loops(shape))
    ]
    for u in range(units):
        for k, every in enumerate(copies):
            parts[holder[k]].append(every[u] if u == units - 1 else every[u][:-1])
        holder = shape.handed_on(holder)
    return [
        Strand(np.vstack(parts[e]), cords.look(n), shape.diameter[e], n, spread[e], cords.letter(n))
        for e, n in zip(ends, numbers, strict=True)
    ]


def _in_unit(shape: TightShape, strand: int, line: Array, unit: int, units: int) -> Array:
    """A line of a strand as it lies in one of so many units."""
    angle, pitch, axis = shape.places[strand] if shape.places else (shape.angle, shape.pitch, 0.0)
    aside = np.array([axis, 0.0, 0.0])
    return np.asarray(
        turned(turned(line - aside, 1, -units * angle / 2, 0.0), unit, angle, pitch) + aside, np.float64
    )


def worked(lines: Sequence[Array], above: float, below: float) -> list[Array]:
    """With so much of the straight tails of a held knot, above and below what is tied."""
    reach = reach_of(lines)
    if reach is None:
        return list(lines)
    return cut_off(lines, reach[0] - above, reach[1] + below)


def beads_of(shape: TightShape, weave: Weave, units: int) -> list[Bead]:
    """The beads of so many units, where they are threaded. On the tails of a held knot they are pushed up to it."""
    known, shape = {b.name: b for b in weave.beads}, opened(shape)
    reach = reach_of(shape.lines) if shape.kind == "held" else None
    out = []
    for u in range(units if shape.kind == "cell" else 1):
        threaded: dict[int, list[Array]] = {}
        for strand, part, name, of in shape.beads:
            if name not in known:
                continue
            radius = known[name].diameter / 2 / shape.unit_mm
            line = _in_unit(shape, strand, shape.lines[strand], u, units)
            along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
            at = part * along[-1]
            if reach is not None:
                y = np.interp(at, along, line[:, 1])
                top, foot = reach[0] - radius, reach[1] + radius
                if not top <= y <= foot:
                    near = top if y < top else foot
                    at = along[int(np.argmin(np.abs(line[:, 1] - near)))]
            place = np.array([np.interp(at, along, line[:, k]) for k in range(3)])
            threaded.setdefault(of, []).append(place)
        for of, places in threaded.items():  # on several ends, its middle is between them
            name = next(n for *_, n, b in shape.beads if b == of)
            out.append(
                Bead(np.mean(places, axis=0), known[name].diameter / 2 / shape.unit_mm, known[name].colour)
            )
    return _side_by_side(out)


def _side_by_side(beads: list[Bead]) -> list[Bead]:
    """Beads on neighbouring cords do not lie in each other: each gives way to its side by half of what is lacking."""
    for a, b in combinations(range(len(beads)), 2):
        p, q = beads[a], beads[b]
        gap = q.at - p.at
        # Apart across the band by so much that their middles are as far as both are thick.
        wanted = (p.radius + q.radius) ** 2 - float(gap[1] ** 2 + gap[2] ** 2)
        lacking = np.sqrt(max(wanted, 0.0)) - abs(float(gap[0]))
        if lacking > 0:
            aside = np.array([np.sign(gap[0]) or 1.0, 0.0, 0.0]) * lacking / 2
            beads[a], beads[b] = replace(p, at=p.at - aside), replace(q, at=q.at + aside)
    return beads


def face(
    shape: TightShape, cords: Cords, side: str = "front", *, units: int = 6, scale: float = 18.0, ink: Ink = PAPER,
    names: bool = False, beads: Sequence[Bead] = (),
) -> Picture:  # fmt: skip
    """So many units of the band, one below the other. scale : pixels to a diameter. names : say which end is which."""
    strands = strands_of(shape, cords, units)
    seen = view_of(shape, side)
    title = title_of(shape, units, seen)
    return draw(strands, seen, scale=scale, ink=ink, names=names, title=title, beads=beads)


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
    beads: Sequence[Bead] = (), frame: tuple[Array, Array] | None = None, quick: bool = False,
) -> Picture:  # fmt: skip
    """Lines of cord, and beads on them, as they look from one side. frame : corners of what is shown, (2,) each, in diameters;
    by default as much as there is. quick : without its sheath, as while it moves."""
    if side not in (*SIDES, "above"):
        raise InputError(f"there is no side “{side}”", ", ".join(SIDES))
    strands = [replace(s, line=filled(s.line)) for s in strands]
    seen = [_seen(s.line, side) for s in strands]
    reach = max((s.diameter for s in strands), default=1.0) / 2 + MARGIN - 0.5
    every = np.vstack([flat for flat, _ in seen])
    low, high = every.min(axis=0) - reach, every.max(axis=0) + reach
    balls = [(b, *_seen(b.at[None], side)) for b in beads]
    for b, flat, _ in balls:
        low, high = np.minimum(low, flat[0] - b.radius - 0.3), np.maximum(high, flat[0] + b.radius + 0.3)
    if frame is not None:
        low, high = frame
    deep = np.concatenate([d for _, d in seen])
    near, far = float(deep.max()), float(deep.min())
    above = NAMES if names else 0.0
    shift = np.array([0.0, above])
    pieces: list[Piece] = []
    wide = _wide(strands, side, 0.0 if quick else scale)
    dark = [np.zeros(len(d)) for _, d in seen] if quick else shadows(seen, LIGHT)
    for s, (flat, depth), part, kept in zip(strands, seen, wide, dark, strict=True):
        line = _smooth(np.column_stack([(flat - low) * scale + shift, depth, part, kept]), scale)
        if not quick and scale * s.diameter >= FINE:
            line = filled(line, REACH * scale * s.diameter)
        pieces += cord_pieces(
            line[:, :3],
            s.look,
            scale * s.diameter,
            near,
            far,
            ink,
            line[:, 3],
            quick,
            None if quick else line[:, 4],
        )
    pieces += [
        bead_piece((flat[0] - low) * scale + shift, float(z[0]) + b.radius, b.radius * scale, b.colour)
        for b, flat, z in balls
    ]
    shapes: list[Shape] = _in_layers(sorted(pieces, key=_depth))
    size = (high - low) * scale + np.array([0.0, 2 * above])
    if names:
        shapes += _names(strands, seen, low, scale, shift, float(size[1]), ink)
    return Picture(float(size[0]), float(size[1]), tuple(shapes), title, ink.paper)


def _wide(strands: Sequence[Strand], side: str, scale: float) -> list[Array]:
    """How wide every cord looks along its line, of its diameter; where it is thin on paper, that all along."""
    if scale < FINE or not strands:
        return [np.ones(len(s.line)) for s in strands]
    eye = {"front": (0.0, 0.0, 1.0), "back": (0.0, 0.0, -1.0), "above": (0.0, -1.0, 0.0)}.get(
        side, (1.0, 0.0, 0.0)
    )
    return widths(
        [s.line for s in strands], [s.diameter for s in strands], np.array(eye), [s.spread for s in strands]
    )


def _depth(piece: Piece) -> float:
    return piece.depth


def _in_layers(pieces: Sequence[Piece]) -> list[Shape]:
    """Pieces from far to near. Thin ones of about one depth cannot cross: all their outlines are one path, and all their
    bodies, of a colour: no seam shows where pieces meet. Paths are kept short, because long ones are slow to paint."""
    out: list[Shape] = []
    layer: dict[tuple[tuple[str, float], ...], list[tuple[list[Command], ...]]] = {}
    floor = 0.0

    def draw_layer() -> None:
        # Outline and body go the same way, and share it: it is made once for the screen.
        ready = [(key, [tuple(tuple(w) for w in ways) for ways in chunks]) for key, chunks in layer.items()]
        for k in range(3):
            for key, chunks in ready:
                if k < len(key):
                    out.extend(Line(ways[max(0, k - 1)], key[k][1], key[k][0]) for ways in chunks)
        layer.clear()

    for piece in pieces:
        if not piece.thin:
            draw_layer()
            out.extend(piece.lines)
            continue
        if layer and piece.depth - floor > LAYER:
            draw_layer()
        if not layer:
            floor = piece.depth
        lines = [x for x in piece.lines if isinstance(x, Line)]
        chunks = layer.setdefault(tuple((x.colour, x.width) for x in lines), [])
        if not chunks or len(chunks[-1][0]) >= STROKE:
            chunks.append(tuple([] for _ in lines[1:]))
        for way, line in zip(chunks[-1], lines[1:], strict=True):  # the outline goes the way of the body
            way.extend(line.path)
    draw_layer()
    return out


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
            out.append(
                Label(x + off, y + 4, s.letter or letter(s.end), 11, _on(s.look.colour), "middle", True)
            )
    return out


def _on(colour: str) -> str:
    return "#ffffff" if lightness(colour) < 0.45 else "#14202a"


def _smooth(line: Array, scale: float) -> Array:
    """Points about NODE pixels apart on a smooth curve through these. line : (n, 3 and more), pixels, depth, and what else goes along."""
    step = float(np.sqrt((np.diff(line[:, :2], axis=0) ** 2).sum(axis=1)).mean()) if len(line) > 1 else 1.0
    if step < NODE * 0.8:
        return _thinned(line)
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
    return np.asarray(np.vstack([np.stack(out, axis=1).reshape(-1, line.shape[1]), line[-1:]]), np.float64)


def _thinned(line: Array) -> Array:
    """Fewer points: many where it bends or dives, few where it runs straight."""
    d = np.diff(line, axis=0)
    length = np.hypot(d[:, 0], d[:, 1])
    t = d[:, :2] / np.maximum(length, 1e-9)[:, None]
    # The angle itself: what turns back on itself on paper bends most of all.
    turn = np.abs(np.arctan2(t[1:, 0] * t[:-1, 1] - t[1:, 1] * t[:-1, 0], (t[1:] * t[:-1]).sum(axis=1)))
    parts = np.cumsum(length / (STRAIGHT * NODE) + np.abs(d[:, 2]) / DIVE)
    parts[1:] += np.cumsum(turn) / BEND
    at = np.flatnonzero(np.diff(np.floor(parts))) + 1
    return np.asarray(line[np.unique(np.concatenate([[0], at, [len(line) - 1]]))], np.float64)


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
