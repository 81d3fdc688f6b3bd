"""Which pieces of cord are near each other, in plain numpy: the reference for shape/fast.py."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import combinations
from types import ModuleType

import numpy as np

from dim_ladder.shape.apart import NOTHING, Drawn, drawn_apart
from dim_ladder.shape.rope import Array, Ints, Rope, turned

SKIN = (
    0.3  # beyond contact, in diameters: pairs are looked for anew only when nodes have moved about half of it
)
# Along one cord nothing nearer than a half turn of its tightest bend counts as another piece of it.
ASTRAY = 0.1  # of its length, by which one of two strands that lie side by side may be ahead of the other
HALF_TURN = np.pi / 2
SOFT_TURN = 0.55 * HALF_TURN  # of cord that gives way, which bends round less
FADING = 0.25  # diameters along the cord, over which they come to count
PRESSED = 0.75  # of what it gives: so near do flat cords lie on each other that are led as one
PIECE = 0.2  # diameters: pieces of this length are pressed as Curves.soft says
AT_ONCE = (
    0.15  # diameters, by which a bead draws in ends that run through it between two looks at what is near
)
BENDING = 0.3  # of what cord gives where it is pressed, it gives where it bends round itself
BENDS = (0.35, 0.8)  # along the cord, in diameters, over which its bending is watched


@dataclass(frozen=True, slots=True)
class Pairs:
    """i, j, down : (m,) nodes, the second in a unit so much further down. rest : (m,) nearest they may come, in
    diameters. The first `touching` are of different pieces of cord; from `bound` on they are held so far
    apart, as the halves of a flat cord; those between keep one cord from bending more sharply
    than round a centre half a diameter away. floor : (m,) distance beyond which soft cord is hard, rest for rigid cord; soft : (m,)
    the spring between the two. drawn : what hands draw apart."""

    i: Ints
    j: Ints
    down: Ints
    rest: Array
    touching: int
    bound: int
    floor: Array
    soft: Array
    drawn: Drawn = NOTHING


def between(r: Rope, by: ModuleType, skin: float = SKIN, times: float = 0.0) -> Pairs:
    """What is near, by one engine or the other, of rigid cord or (times above 0) of cord that gives way."""
    if not times or not any(r.curves.give):
        found: Pairs = by.near(r, skin)
        return found
    soft: Pairs = by.softened(r, by.near(r, skin, SOFT_TURN), times)
    return soft


def softened(r: Rope, p: Pairs, times: float = 1.0) -> Pairs:
    """The same pairs between cords that give way: softly at first, the harder the denser they are pressed, as fibre masses do
    (van Wyk, J. Textile Inst. 37 (1946) T285: pressure grows as the cube of density), and hard from a part of their distance
    on. Force goes with the pieces that are pressed, so that it does not depend on how near each other nodes stand.
    times : harder than it is."""
    give, room = r.gives(), r.room()
    mean = (give[p.i] * r.radius[p.i] + give[p.j] * r.radius[p.j]) / (room[p.i] + room[p.j])
    h = r.spacing()[r.cord]
    # Every cord is drawn with the tension that its own figures are of: thin cord is pressed as much of its thickness as thick cord.
    soft = times * r.curves.soft * h[p.i] * h[p.j] / PIECE / (r.radius[p.i] + r.radius[p.j]) ** 3
    # It bends less sharply than it is pressed flat; what is bound side by side stays so.
    number = np.arange(len(p.rest))
    mean = np.where(number < p.touching, mean, mean * BENDING)
    own = number < p.bound
    mean[: p.touching][led_as_one(r, p.i[: p.touching], p.j[: p.touching])] = (
        0.0  # they are pressed as they are
    )
    rest = p.rest.copy()
    arc, t = _along(r, p), p.touching
    # Pieces of one bend are no nearer than that bend lets them be.
    round_it = np.isfinite(arc) & (arc < HALF_TURN)
    # They begin to count little by little along the cord, so that nothing comes and goes with its length.
    into = np.clip((arc[round_it] - SOFT_TURN) / FADING, 0.0, 1.0)
    rest[:t][round_it] *= np.sin(arc[round_it]) * into * (2 - into)
    floor = np.where(own, rest * (1 - mean), rest)
    return replace(p, rest=rest, floor=floor, soft=np.where(own, soft, 0.0), drawn=drawn_apart(r))


def _along(r: Rope, p: Pairs) -> Array:
    """(touching,) how far apart two nodes are along their cord, in its diameters; without end for different cords."""
    t = p.touching
    i, j, s = p.i[:t], p.j[:t], p.down[:t]
    c = r.cord[i]
    ahead = s + r.unit[i] - r.unit[j]
    along = np.abs(r.far[j] + ahead // r.units[c] * r.total[c] - r.far[i])
    along = np.where(r.closed[c], np.minimum(along, r.total[c] - along), along)
    same = (c == r.cord[j]) & (ahead % r.units[c] == 0)
    return np.where(same, along * r.spacing()[c] / (2 * r.radius[i]), np.inf)


def reach_down(r: Rope, skin: float) -> int:
    """How many units further down anything can be near."""
    if not r.curves.repeats:
        return 0
    return int((np.ptp(r.x[:, 1]) + widest(r) + skin) / max(r.pitch, 0.2)) + 1


def widest(r: Rope) -> float:
    """Diameter of the thickest cord or bead here."""
    return float(2 * r.room().max())


def near(r: Rope, skin: float = SKIN, turn: float = HALF_TURN) -> Pairs:
    """All pairs within contact and `skin`, in this unit and the next ones, and the bends. turn : diameters along one cord, nearer
    than which nothing is another piece of it."""
    out: list[tuple[Ints, Ints, Ints]] = []
    h, room = r.spacing(), r.room()
    for s in range(reach_down(r, skin) + 1):
        image = turned(r.x, s, r.angle, r.pitch)
        i, j = _close(r.x, image, widest(r) + skin)
        if s == 0:
            i, j = i[i < j], j[i < j]
        d = r.x[i] - image[j]
        rest = room[i] + room[j]
        keep = (d * d).sum(axis=1) < (rest + skin) ** 2
        keep &= ~_same_piece(r, i, j, s, h, turn * rest)
        out.append((i[keep], j[keep], np.full(int(keep.sum()), s, np.int64)))
    i, j, down = (np.concatenate([o[k] for o in out]) for k in range(3))
    return with_bends(r, i, j, down, bends(r, h), h)


def with_bends(
    r: Rope, i: Ints, j: Ints, down: Ints, bent: tuple[Ints, Ints, Ints, Array], h: Array
) -> Pairs:
    """Pairs of different pieces, then the bends of each cord, then what lies side by side."""
    room = r.room()
    rest = room[i] + room[j]
    if r.curves.stacked:
        rest[led_as_one(r, i, j)] *= 1 - PRESSED * float(r.gives().max())
    through = _threaded_together(r)
    for a, b in through:
        for one, other in ((a, b), (b, a)):
            ball = ((i == one) & _about(r, j, other, h)) | ((j == one) & _about(r, i, other, h))
            rest[ball] = r.radius[one] + r.radius[other]
    parts = [(i, j, down, rest), bent]
    m = len(i) + len(bent[0])
    parts += [_bond(r, a, b) for a, b in r.curves.bonds]
    parts += [_side_by_side(r, a, b) for a, b in through]
    ai, aj, ad, rest = (np.concatenate([part[k] for part in parts]) for k in range(4))
    return Pairs(ai, aj, ad, rest, len(i), m, rest, np.zeros(len(rest)))


def _threaded_together(r: Rope) -> list[tuple[int, int]]:
    """Nodes at which two ends run through the same bead."""
    of = [b.of for b in r.curves.beads]
    return [(int(r.bead[k]), int(r.bead[n])) for k, n in combinations(range(len(of)), 2) if of[k] == of[n]]


def _about(r: Rope, k: Ints, node: int, h: Array) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which of these nodes lie on the cord of one of them, as near to it as the bead there reaches."""
    c = r.cord[node]
    along = np.abs(r.far[k] - r.far[node])
    along = np.minimum(along, r.total[c] - along)
    return np.asarray((r.cord[k] == c) & (along * h[c] < 1.3 * r.room()[node]))


def _side_by_side(r: Rope, a: int, b: int) -> tuple[Ints, Ints, Ints, Array]:
    """Two ends in one bead, which holds them together; from afar it draws them in little by little, or cord would be drawn long beside it."""
    if not r.curves.repeats:
        units = 0
    else:
        units = round((r.x[a, 1] - r.x[b, 1]) / r.pitch)
    one, other = (a, b) if units >= 0 else (b, a)
    apart = float(np.linalg.norm(turned(r.x[[other]], abs(units), r.angle, r.pitch) - r.x[one]))
    rest = max(float(r.radius[a] + r.radius[b]), apart - AT_ONCE)
    return np.array([one]), np.array([other]), np.array([abs(units)]), np.array([rest])


def led_as_one(r: Rope, i: Ints, j: Ints) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which pairs are of two flat cords of which one lies on the other."""
    strand = np.repeat(np.arange(len(r.first) - 1), np.diff(r.first))
    out = np.zeros(len(i), bool)
    for a, b in r.curves.stacked:
        out |= ((strand[i] == a) & (strand[j] == b)) | ((strand[i] == b) & (strand[j] == a))
    return out


def _lies(r: Rope, a: int, b: int) -> Array:
    """(n,) how far flat cords that are led as one are apart, of their diameters: edge to edge, or one flat on the other."""
    if (a, b) in r.curves.stacked:
        return 1 - PRESSED * r.gives()
    return r.spreads() if r.curves.spread else np.ones(len(r.x))


def _bond(r: Rope, a: int, b: int) -> tuple[Ints, Ints, Ints, Array]:
    """The nodes of two strands, one by one, a cord's width from each other: those as far along either, or, where bonds slide, the nearest
    about there."""
    n, m = int(r.first[a + 1] - r.first[a]), int(r.first[b + 1] - r.first[b])
    i = np.arange(n)
    j = np.minimum(np.rint(i * m / n).astype(np.int64), m - 1)
    if r.curves.bonds_slide:
        near = int(ASTRAY * m)
        about = np.clip(j[:, None] + np.arange(-near, near + 1), 0, m - 1)
        d = r.x[i + r.first[a], None] - r.x[about + r.first[b]]
        j = np.maximum.accumulate(about[i, (d * d).sum(axis=2).argmin(axis=1)])  # neither turns back
    i, j = i + r.first[a], j + r.first[b]
    part = _lies(r, a, b)
    return i, j, np.zeros(n, np.int64), r.radius[i] * part[i] + r.radius[j] * part[j]


def _same_piece(
    r: Rope, i: Ints, j: Ints, s: int, h: Array, turn: Array
) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    c = r.cord[i]
    ahead = s + r.unit[i] - r.unit[j]
    same = (c == r.cord[j]) & (ahead % r.units[c] == 0)
    along = np.abs(r.far[j] + ahead // r.units[c] * r.total[c] - r.far[i])
    around = np.where(r.closed[c], np.minimum(along, r.total[c] - along), along)
    return np.asarray(same & (around * h[c] < turn))


def bends(r: Rope, h: Array) -> tuple[Ints, Ints, Ints, Array]:
    """Of every node those BENDS further along, and how near they may come: the chord of a bend of half a diameter."""
    d = 2 * r.radius
    out = []
    for many in counts(r, h):
        i, j, s = np.arange(len(r.x)), np.arange(len(r.x)), np.zeros(len(r.x), np.int64)
        for k in range(int(many.max())):
            go = (k < many) & (j >= 0)
            s[go] += r.down[j[go]]
            j[go] = r.nxt[j[go]]
        ok = j >= 0
        arc = np.minimum(many * h[r.cord] / d, HALF_TURN)
        out.append((i[ok], j[ok], s[ok], (d * np.sin(arc))[ok]))
    return tuple(np.concatenate([o[k] for o in out]) for k in range(4))  # type: ignore[return-value]


def counts(r: Rope, h: Array | None = None) -> Ints:
    """(BENDS, n) how many pieces each of BENDS is from every node on."""
    spacing = r.spacing() if h is None else h
    d = 2 * r.radius
    return np.stack([np.maximum(2, np.rint(b * d / spacing[r.cord])).astype(np.int64) for b in BENDS])


def _close(x: Array, y: Array, reach: float) -> tuple[Ints, Ints]:
    """Pairs of rows of x and y within reach, by boxes of that size: each row meets only those of 27 boxes."""
    low = np.minimum(x.min(axis=0), y.min(axis=0)) - reach
    box, other = (np.floor((a - low) / reach).astype(np.int64) for a in (x, y))
    span = np.maximum(box.max(axis=0), other.max(axis=0)) + 2

    def key(b: Ints) -> Ints:
        return np.asarray((b[:, 0] * span[1] + b[:, 1]) * span[2] + b[:, 2], np.int64)

    keys = key(other)
    order = np.argsort(keys, kind="stable")
    keys = keys[order]
    rows, partners = [], []
    for dx in (-1, 0, 1):
        for dy in (-1, 0, 1):
            for dz in (-1, 0, 1):
                wanted = key(box + np.array([dx, dy, dz]))
                a, b = np.searchsorted(keys, wanted, "left"), np.searchsorted(keys, wanted, "right")
                many = b - a
                i = np.repeat(np.arange(len(x)), many)
                start = np.repeat(a - np.concatenate([[0], np.cumsum(many)[:-1]]), many)
                rows.append(i)
                partners.append(order[start + np.arange(len(i))])
    i, j = np.concatenate(rows), np.concatenate(partners)
    d = x[i] - y[j]
    close = (d * d).sum(axis=1) < reach * reach
    i, j = i[close], j[close]
    by = np.lexsort((j, i))
    return i[by], j[by]
