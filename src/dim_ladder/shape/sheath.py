"""One cord on paper: outline, a round body in the light, and the sheath by which cord is known."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from dim_ladder.base.colours import lightness, mix
from dim_ladder.library import cord_kind
from dim_ladder.notation import Weave
from dim_ladder.picture.display import STRIPES, Command, Disc, Ink, Line
from dim_ladder.shape.rope import Array

LIGHT = (-0.55, -0.83)  # where the light comes from, on paper
DEEP, SHADOW = 0.5, 0.75  # how dark the furthest is by itself, and what no light comes to
FINE = 11.0  # pixels to a diameter, from which the sheath is drawn
SMALL = 9.0  # below which its light is one line and not three
PLAIN = 5.0  # below which only outline, body and a highlight are
# Of a cord drawn at once: so many widths along, or so many diameters in depth. With its sheath, and where it is thin.
CORNER = 0.8  # cosine of the sharpest corner that is cut off on the screen
DIM = 0.5  # of the depth of the work
FULL, THIN = (1.3, 0.5), (3.2, 0.8)
# Marks of a sheath, in widths: how far apart along the cord, and strokes from (along, across) to (along, across).
SHEATHS: dict[str, tuple[float, tuple[tuple[float, float, float, float], ...]]] = {
    "braid": (0.27, ((0.0, -0.41, 0.17, -0.05), (0.30, 0.41, 0.13, 0.05))),
    "twist": (0.40, ((0.0, -0.42, 0.16, -0.22), (0.16, -0.22, 0.34, 0.18), (0.34, 0.18, 0.46, 0.42))),
    "smooth": (0.9, ((0.0, -0.24, 0.5, -0.24), (0.35, 0.24, 0.85, 0.24))),
    "flat": (
        0.34,
        ((0.0, -0.4, 0.12, -0.3), (0.17, -0.3, 0.29, -0.4), (0.0, 0.4, 0.12, 0.3), (0.17, 0.3, 0.29, 0.4)),
    ),
}
# What is of a second colour, on a braid: as SHEATHS, and how wide a stroke is. Tracer threads wind both ways round the cord; mottling lies
# in short flecks, nowhere like the one before.
SECONDS: dict[str, tuple[float, tuple[tuple[float, float, float, float], ...], float]] = {
    "tracer": (1.1, ((0.0, -0.37, 0.55, 0.37), (0.55, 0.37, 1.1, -0.37)), 0.12),
    "mottled": (
        2.9,
        ((0.0, -0.26, 0.3, -0.05), (0.55, 0.16, 0.75, 0.28), (0.9, -0.22, 1.3, -0.27), (1.45, 0.05, 1.75, 0.25), (2.1, -0.1, 2.3, -0.26), (2.4, 0.26, 2.7, 0.1)),
        0.22,
    ),
}  # fmt: skip


def look_of(kind: str, colour: str, pattern: int = 0) -> Look:
    """How a cord of a kind looks in a colour: as the kind says, else by its material."""
    found = cord_kind(kind)
    return Look(colour, pattern, found.sheath or sheath_of(kind), found.second)


def look_in(weave: Weave, end: str) -> Look:
    """How the cord of an end looks in a weave; what is no cord of it, grey."""
    cord = weave.cord_of(end)
    if cord is None:
        return NOBODY
    return look_of(cord.kind, cord.colour, [c.name for c in weave.cords].index(cord.name))


def sheath_of(kind: str) -> str:
    """How a kind of cord is sheathed, by its first word."""
    first = kind.split("-")[0].lower()
    return {
        "cotton": "twist",
        "hemp": "twist",
        "jute": "twist",
        "linen": "twist",
        "polyester": "smooth",
        "waxed": "smooth",
        "flat": "flat",
    }.get(first, "braid")


@dataclass(frozen=True, slots=True)
class Look:
    """How one end's cord looks. pattern : threads along it, by place of the end, so that it is known without colour. second : the
    colour of what its own sheath shows of another one."""

    colour: str
    pattern: int = 0
    sheath: str = "braid"
    second: str = ""


NOBODY = Look("#888888")


class Piece(NamedTuple):
    """A short piece of cord as it is drawn. depth : of its middle. thin : without a sheath."""

    depth: float
    lines: tuple[Line | Disc, ...]
    thin: bool = False


def cord_pieces(
    line: Array,
    look: Look,
    width: float,
    near: float,
    far: float,
    ink: Ink,
    wide_at: Array | None = None,
    quick: bool = False,
    dark_at: Array | None = None,
) -> list[Piece]:
    """A cord in short pieces, each at one depth. line : (n, 3), pixels and depth in diameters. near, far : depths of the
    whole work, for the shade. wide_at : (n,) how wide it looks along the line, of its width. quick : without its sheath. dark_at : (n,)
    how much of the light is kept from it, 0 to 1."""
    xy, whole = line[:, :2], width
    step = np.sqrt((np.diff(xy, axis=0) ** 2).sum(axis=1))
    along = np.concatenate([[0.0], np.cumsum(step)])
    t = np.gradient(xy, axis=0)
    t /= np.maximum(np.sqrt((t * t).sum(axis=1)), 1e-9)[:, None]
    normal = np.column_stack([-t[:, 1], t[:, 0]])
    # By point after it, where the line bends by more than a corner can hide that is cut off.
    way = np.diff(xy, axis=0)
    bent = _sums((way[:-1] * way[1:]).sum(axis=1) < CORNER * step[:-1] * step[1:])
    aside = normal * (normal @ np.array(LIGHT))[:, None]
    plain = quick or width < PLAIN
    small = width < SMALL
    # Lines from below to above: how far towards the light, how wide, and how much lighter or darker than the body.
    bands = [(0.0, 1.0, None), (0.0, 0.86, -0.16)]
    bands += [(0.12, 0.42, 0.16)] if plain or small else [(0.07, 0.62, 0.0), (0.15, 0.34, 0.16)]
    middle = _commands(xy)
    paths = [_commands(xy + aside * (width * off)) if off else middle for off, _, _ in bands]
    threads = () if plain else STRIPES[look.pattern % len(STRIPES)]
    glint = [] if plain or small else _commands(xy + aside * (width * 0.24))
    # Cords that cross are a diameter apart in depth: pieces that keep to less than that are never drawn the wrong way.
    length, deep = THIN if plain else FULL
    sunk = np.concatenate([[0.0], np.cumsum(np.abs(np.diff(line[:, 2])))])
    parts = along / (length * width) + sunk / deep
    count = max(1, round(float(parts[-1])))
    cuts = np.unique(np.searchsorted(parts, np.linspace(0, parts[-1], count + 1)[1:-1]))
    stops = [0, *(int(c) for c in cuts if 0 < c < len(line) - 1), len(line) - 1]
    fine = whole >= FINE and not quick
    across = normal if wide_at is None else normal * wide_at[:, None]
    marks = (
        _marks(xy, along, across, SHEATHS.get(look.sheath, SHEATHS["braid"]), width, stops) if fine else {}
    )
    second = SECONDS.get(look.sheath) if look.second and not plain else None
    others = _marks(xy, along, across, second[:2], width, stops) if second else {}
    dark = mix(look.colour, "#000000", 0.58)
    if ink.dark and lightness(dark) < 0.25:
        dark = mix(ink.paper, "#000000", 0.6)
    out = []
    depth, looks, unlit = (_sums(of) for of in (line[:, 2], wide_at, dark_at))
    for k, (a, b) in enumerate(pairwise(stops)):
        many = b + 1 - a
        z = (depth[b + 1] - depth[a]) / many
        width = whole * round((looks[b + 1] - looks[a]) / many, 2) if looks else whole
        shade = (near - z) / max(near - far, 1e-9)
        if unlit:  # what lies deep is not dark for that alone
            shade = min(1.0, DEEP * shade + SHADOW * (unlit[b + 1] - unlit[a]) / many)
        shade = round(8 * shade) / 8
        body, tones = _tones(look.colour, look.pattern, shade)
        # The cord reaches a little under its neighbours along the line: no seam shows.
        a, b = max(a - 1, 0), min(b + 2, len(line))
        along_it = _begin(middle[a:b])
        back = bent[max(a, b - 2)] > bent[a]
        made = [
            Line(
                along_it if path is middle else _begin(path[a:b]),
                width * wide,
                dark if lift is None else tones[lift],
                turns=back,
            )
            for path, (_, wide, lift) in zip(paths, bands, strict=True)
            if not (plain and lift == 0.16 and shade > DIM)  # no light falls that far down
        ]
        made += [
            Line(along_it, width * wide * 0.55, tone) for (wide, _), tone in zip(threads, body, strict=False)
        ]
        if k in others:
            tone = mix(look.second, "#0b1216", 0.06 + 0.26 * shade)
            made.append(Line(tuple(others[k]), width * SECONDS[look.sheath][2], tone, True))
        if k in marks:
            made.append(Line(tuple(marks[k]), width * 0.055, tones["mark"]))
        if glint:
            made.append(Line(_begin(glint[a:b]), width * 0.075, tones["glint"]))
        out.append(Piece(z, tuple(made), plain))
    return out


def bead_piece(at: Array, depth: float, radius: float, colour: str) -> Piece:
    """A ball in the light. at : (2,) pixels."""
    x, y = float(at[0]), float(at[1])
    dark = mix(colour, "#000000", 0.55)
    out = [Disc(x, y, radius, dark), Disc(x, y, radius * 0.93, mix(colour, "#000000", 0.16))]
    for off, part, lift in ((0.10, 0.74, 0.0), (0.22, 0.48, 0.18), (0.34, 0.24, 0.4), (0.42, 0.10, 0.8)):
        out.append(
            Disc(
                x + LIGHT[0] * off * radius,
                y + LIGHT[1] * off * radius,
                radius * part,
                mix(colour, "#ffffff", lift),
            )
        )
    return Piece(depth, tuple(out))


@lru_cache(maxsize=512)
def _tones(colour: str, pattern: int, shade: float) -> tuple[tuple[str, ...], dict[float | str | None, str]]:
    """Colours of the tracer threads, and of the body by how much lighter or darker a band is."""
    body = mix(colour, "#0b1216", 0.06 + 0.26 * shade)
    threads = []
    for _, lift in STRIPES[pattern % len(STRIPES)]:
        if lift > 0 and lightness(colour) > 0.72:
            lift = -lift * 0.7  # on a pale cord a darker thread shows, a lighter one does not
        threads.append(mix(body, "#ffffff" if lift > 0 else "#000000", abs(lift) * 0.8))
    return tuple(threads), {
        -0.16: mix(body, "#000000", 0.16), 0.0: body, 0.16: mix(body, "#ffffff", 0.16),
        "mark": mix(body, "#000000", 0.34 if lightness(body) > 0.2 else 0.6),
        "glint": mix(body, "#ffffff", 0.5 - 0.3 * shade),
    }  # fmt: skip


def _sums(of: Array | None) -> list[float]:
    """Sums of the first so many values, from none on: what a mean of any run of them is worked out from, thousands of times."""
    return [] if of is None else [0.0, *np.cumsum(of).tolist()]


def _commands(xy: Array) -> list[Command]:
    return [("L", (x, y)) for x, y in xy.tolist()]


def _begin(path: list[Command]) -> tuple[Command, ...]:
    return (("M", path[0][1]), *path[1:])


def _marks(
    xy: Array,
    along: Array,
    normal: Array,
    sheath: tuple[float, tuple[tuple[float, float, float, float], ...]],
    width: float,
    stops: list[int],
) -> dict[int, list[Command]]:
    """The strokes of the sheath, by the piece on which they lie."""
    apart, strokes = sheath
    k = np.arange(int(along[-1] / width / apart) + 1)[:, None]
    stroke = np.array(strokes)
    ends = []
    for a, u in ((0, 1), (2, 3)):
        at = np.clip(((k * apart + stroke[:, a]) * width).ravel(), 0, along[-1])
        across = np.broadcast_to(stroke[:, u], (len(k), len(stroke))).ravel() * width
        ends.append(
            np.column_stack(
                [
                    np.interp(at, along, xy[:, i]) + np.interp(at, along, normal[:, i]) * across
                    for i in range(2)
                ]
            )
        )
    middle = (k * apart + (stroke[:, 0] + stroke[:, 2]) / 2).ravel() * width
    which = np.searchsorted(along[stops[1:-1]], middle, "right")
    out: dict[int, list[Command]] = {}
    for n, p, q in zip(which.tolist(), ends[0].tolist(), ends[1].tolist(), strict=True):
        out.setdefault(n, []).extend((("M", (p[0], p[1])), ("L", (q[0], q[1]))))
    return out
