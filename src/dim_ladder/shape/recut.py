"""Where one unit of a body ends and the next begins, told anew once it lies.

Cord slides through work that is drawn up, and of a cord that goes on from strand to strand only the whole is known: where one strand ends and
the next begins slides along it, in bars with a runner by more than a unit. Then the piece would begin in the middle of its work, with ends in
each other's places. Every end hangs in its place between two units: so a cut across is looked for, level or falling to its sides, at which the ends lie in order, each going
on in the one that it must. What slid past all others by whole units is brought beside them first.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dim_ladder.shape.pull import across
from dim_ladder.shape.rope import Array, Held, Rope, along_of, rope, turned

UNEVEN = 0.5  # of the pitch, from which on strands that begin so far from each other's height are cut anew
ASTRAY = 0.5  # diameters, by which an end lies on the wrong side of its neighbour
ROLLED = -0.8  # how nearly cords lie in the opposite order, of what rolled over
BESIDE = 1.0  # diameters, by which cords lie beside each other at least where their order is seen
LEVELS = 24  # heights in a unit at which a cut is tried
# Bars of hitches that slant overlap from unit to unit: cuts are tried that fall so much on a diameter, to one side or to both.
FALLS = (
    (0.0, 0.0),
    *((way * fall, 0.0) for fall in (0.5, 1.0, 1.5) for way in (1, -1)),
    *((0.0, way * fall) for fall in (0.5, 1.0, 1.5) for way in (1, -1)),
)
AT = 0.02  # diameters between the points of a cord that is cut


@dataclass(frozen=True, slots=True)
class _Cord:
    """A cord from its first strand until it is back in its place. strands : by unit. x : (n, 3), with a unit more at either end. along : (n,) of its
    length, 0 where its first strand begins. starts : where each strand does, and the last one ends."""

    strands: tuple[int, ...]
    x: Array
    along: Array
    starts: Array


def recut(r: Rope) -> Rope | None:
    """The same cords, cut into strands where a unit ends, where that is not where they are cut. None where nothing is to be cut anew, or no
    cut across has every end in its place. Where nothing is held straight ends are before and behind each other, too: there it is
    the nearest level, where every cord goes down all the way, as in a plait."""
    c = r.curves
    if r.angle or c.bonds or c.beads or min(c.follow) < 0 or not _slid(r):
        return None
    if not len(r.held):
        return _level(r, [_cord(r, orbit) for orbit in orbits(c.follow)])
    for v, side in FALLS:
        beside = brought_beside(r, v, side)
        cords = [_cord(beside, orbit) for orbit in orbits(c.follow)]
        down = [_fallen(r, cord.x, v, side) for cord in cords]
        start = float(_fallen(r, beside.x[r.first[:-1]], v, side).mean())
        for level in sorted(np.linspace(-0.5, 0.5, LEVELS, endpoint=False), key=abs):
            cuts = [
                _cuts(cord, y, start + level * r.pitch, r.pitch) for cord, y in zip(cords, down, strict=True)
            ]
            places = _places(cords, cuts)
            if places is not None:
                return _cut(beside, cords, cuts, places)
    return None


def faced(r: Rope) -> Rope:
    """The same with its front in front. What does not turn is free to roll over as a whole while it is drawn up, as a net of knots of one hand does:
    then its cords lie from right to left."""
    follow = r.curves.follow
    if r.angle or min(follow) < 0:
        return r
    strand = np.repeat(np.arange(len(follow)), np.diff(r.first))
    every = list(orbits(follow))
    place = np.array([np.mean(orbit) for orbit in every])
    x = np.array([r.x[np.isin(strand, orbit), 0].mean() for orbit in every])
    # Of a few cords about one line, as the workers and the filler of a band, noise would tell.
    if np.ptp(place) == 0 or np.ptp(x) < BESIDE or np.corrcoef(place, x)[0, 1] > ROLLED:
        return r
    return replace(r, x=r.x * np.array([-1.0, 1.0, -1.0]))


def brought_beside(r: Rope, v: float = 0.0, side: float = 0.0) -> Rope:
    """The same with each cord where the others begin, on a line that falls as one of FALLS says. What is as it was a unit further on may slide past them
    by many units, and nothing holds it back, as a core that hitches slide along: there it is no other, but the piece would begin with as much
    of it alone."""
    c = r.curves
    if c.bonds or c.beads or min(c.follow) < 0:
        return r
    begins = _fallen(r, r.x[r.first[:-1]], v, side)
    strand = np.repeat(np.arange(len(begins)), np.diff(r.first))
    units = np.zeros(len(begins), np.int64)
    for orbit in orbits(c.follow):
        off = float(np.median(begins) - begins[orbit].mean()) / r.pitch
        units[orbit] = round(off / len(orbit)) * len(orbit)
    if not units.any():
        return r
    held = r.held.copy()
    held[:, 2] += units[strand[held[:, 0]]] - units[strand[held[:, 1]]]
    return replace(r, x=turned(r.x, units[strand], r.angle, r.pitch), held=held)


def _fallen(r: Rope, x: Array, v: float, side: float) -> Array:
    """(n,) how far down places lie, from a line across that falls so much to both sides and to the left."""
    off = x[:, 0] - r.x[:, 0].mean()
    return np.asarray(x[:, 1] + v * np.abs(off) + side * off, np.float64)


def _level(r: Rope, cords: Sequence[_Cord]) -> Rope | None:
    """The same cut at one level, each strand as near as can be to where it began. None where any cord turns up again."""
    if any((np.diff(c.x[:, 1]) <= 0).any() for c in cords):
        return None
    start, best = float(r.x[r.first[:-1], 1].mean()), np.inf
    for level in np.linspace(-0.5, 0.5, LEVELS, endpoint=False):
        down = [start + (level + np.arange(len(c.strands) + 1)) * r.pitch for c in cords]
        cuts = [np.interp(y, c.x[:, 1], c.along) for c, y in zip(cords, down, strict=True)]
        slid = [np.abs(cut - c.starts) / np.diff(c.starts).mean() for c, cut in zip(cords, cuts, strict=True)]
        if (off := max(float(x.max()) for x in slid)) < best:
            best, nearest = off, cuts
    return _cut(r, cords, nearest, [c.strands for c in cords])


def _slid(r: Rope) -> bool:
    """Whether strands begin elsewhere than between two units, as they lie."""
    start = r.x[r.first[:-1]]
    return bool(np.ptp(start[:, 1]) > UNEVEN * r.pitch or not _in_order(start[:, 0]))


def orbits(follow: Sequence[int]) -> Iterator[list[int]]:
    """Strands that one cord runs through, unit by unit."""
    seen: set[int] = set()
    for e in range(len(follow)):
        orbit: list[int] = []
        while e not in seen:
            seen.add(e)
            orbit.append(e)
            e = follow[e]
        if orbit:
            yield orbit


def _cord(r: Rope, orbit: list[int]) -> _Cord:
    """A cord, unit below unit."""
    lines = r.strands()
    one = np.vstack([lines[s][:-1] + np.array([0.0, k * r.pitch, 0.0]) for k, s in enumerate(orbit)])
    down = np.array([0.0, len(orbit) * r.pitch, 0.0])
    x = np.vstack([one - down, one, one + down])
    along = along_of(x)
    at = np.cumsum([0, *(len(lines[s]) - 1 for s in orbit)]) + len(one)
    along = along - along[len(one)]
    return _Cord(tuple(orbit), x, along, along[at])


def _cuts(c: _Cord, y: Array, level: float, pitch: float) -> Array:
    """(units + 1,) how far along a cord it goes down through a level, and through those a unit and more below; NaN where it never does. Where it
    goes up again in between, the middle one. y : (n,) how far down each of its points is."""
    out = np.full(len(c.strands) + 1, np.nan)
    for k in range(len(out)):
        below = y >= level + k * pitch
        at = np.flatnonzero(below[1:] != below[:-1])
        if len(at) % 2:
            n = at[len(at) // 2]
            part = (level + k * pitch - y[n]) / (y[n + 1] - y[n])
            out[k] = c.along[n] + part * (c.along[n + 1] - c.along[n])
    return out


def _places(cords: Sequence[_Cord], cuts: Sequence[Array]) -> list[tuple[int, ...]] | None:
    """By cord, which strand each of its parts is: they go on in each other as its strands do, and lie from left to right. None where they cannot."""
    if any(np.isnan(cut).any() or (np.diff(cut) <= 0).any() for cut in cuts):
        return None
    x = [np.interp(cut[:-1], c.along, c.x[:, 0]) for c, cut in zip(cords, cuts, strict=True)]
    ranks = np.argsort(np.argsort(np.concatenate(x), kind="stable"), kind="stable")
    out, lies = [], np.zeros(len(ranks))
    for c, own, rank in zip(cords, x, np.split(ranks, np.cumsum([len(v) for v in x])[:-1]), strict=True):
        ways = [np.roll(c.strands, -k) for k in range(len(c.strands))]
        best = min(ways, key=lambda way: int(np.abs(way - rank).sum()))
        out.append(tuple(int(s) for s in best))
        lies[best] = own
    return out if _in_order(lies) else None


def _in_order(x: Array) -> bool:
    """Whether strands lie from left to right, but for a little."""
    return bool((np.maximum.accumulate(x) - x).max() <= ASTRAY)


def _cut(r: Rope, cords: Sequence[_Cord], cuts: Sequence[Array], places: Sequence[Sequence[int]]) -> Rope:
    """The rope of the strands that are cut so."""
    lines: list[Array] = [np.empty((0, 3))] * len(r.curves.follow)
    for c, cut, mine in zip(cords, cuts, places, strict=True):
        for k, place in enumerate(mine):
            at = np.linspace(cut[k], cut[k + 1], max(8, int((cut[k + 1] - cut[k]) / AT)))
            line = np.column_stack([np.interp(at, c.along, c.x[:, a]) for a in range(3)])
            lines[place] = line - [0.0, k * r.pitch, 0.0]

    def now(strand: int, part: float) -> tuple[int, float, int]:
        """Strand, part of it, and how many units further down that strand then begins."""
        for c, cut, mine in zip(cords, cuts, places, strict=True):
            if strand in c.strands:
                own = c.strands.index(strand)
                at = c.starts[own] + part * (c.starts[own + 1] - c.starts[own])
                whole, many = c.starts[-1] - c.starts[0], len(mine)
                turns = int(np.floor((at - cut[0]) / whole))
                at -= turns * whole
                k = int(np.clip(np.searchsorted(cut, at, side="right") - 1, 0, many - 1))
                return mine[k], float((at - cut[k]) / (cut[k + 1] - cut[k])), k + turns * many - own
        raise AssertionError(strand)

    held = []
    for h in r.straight():
        one, part, down = now(h.strand, h.part)
        other, other_part, further = now(h.other, h.other_part)
        held.append(Held(one, part, other, other_part, h.units + further - down, h.run))
    step = float((r.spacing() / across(r)).mean())
    return rope(replace(r.curves, strands=tuple(lines), held=tuple(held)), step, r.pitch, r.angle)
