"""From the traced diagram to strands in space that are the same weave, loose and without any contact.

A body that repeats becomes a cell that goes on in itself; a start, a finish or a single knot has its ends held.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.notation import Add, Drop, Span, Through, Turn
from dim_ladder.shape.compact import GAP, compact
from dim_ladder.shape.rope import Array, Held
from dim_ladder.shape.value import Standing
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.cores import cores

HEIGHT = 0.7  # of a crossing's over above the middle, and of its under below: 1.4 diameters apart
ROOM = 1.6  # below the last row, for the way to the next unit's places
BESIDE = 1.3  # between held ends, which hang side by side
SLANT = 1.5  # down for every diameter aside, on the way to places: slanting side by side they do not touch
LEAD = 3.0  # of straight cord above and below what is held
DROPPED = 3  # points of a tail that is laid aside, behind the work
SIDEWAYS = (
    9.0  # how far out the two ends of a cord that is laid in by its fold are held, while it is drawn up
)
BEYOND = 4.0  # all others, where the two ends of a runner are held
IN_FRONT = 2.0  # of what hangs there, or behind it
BEHIND = 3.0  # where an end hangs before it is laid in and after it is dropped: behind all work


Point = tuple[float, float, float]
Threaded = tuple[int, float, str, int]


@dataclass(frozen=True, slots=True)
class Lifted:
    """strands : (n, 3) points of every end, from its place at the top to the place it comes to at the bottom.
    follow : by end, the end whose strand of the next unit goes on from there; -1 where ends are held. height : of the
    unit. ends : by strand the end it is; of a cord laid in by its fold its two ends. beads : strand, how far
    along it as a part of its length, name, and which of the beads it is, of every bead on every end that runs through it. standing : slack
    that is left standing. loose : by strand, whether its
    upper and its lower tail hang behind the work, because the end was laid in there and dropped there. held_straight, beside : as in
    Curves. bights : strand, and how far along it, of the tip of whatever passes doubled,
    and whether it has a name, for what is led through it later."""

    strands: tuple[Array, ...]
    follow: tuple[int, ...]
    height: float
    ends: tuple[tuple[int, ...], ...] = ()
    beads: tuple[Threaded, ...] = ()
    standing: tuple[Standing, ...] = ()
    loose: tuple[tuple[bool, bool], ...] = ()
    held_straight: tuple[Held, ...] = ()
    beside: tuple[int, ...] = ()
    bights: tuple[tuple[int, float, bool], ...] = ()

    @property
    def held(self) -> bool:
        return -1 in self.follow


def repeats(t: Trace) -> bool:
    """Whether one unit can go on in the next as it is."""
    return t.settled and not t.turned and _plain(t)


def _can_be_held(t: Trace) -> bool:
    """Whether the work is never laid anew: its ends may come and go."""
    deeds = (s.deed for s in t.steps if s.deed is not None)
    return not any(s.quiet for s in t.steps) and all(isinstance(d, Turn | Add | Span | Drop) for d in deeds)


def _came(t: Trace, end: int) -> bool:
    """Whether an end was laid in by itself, not by the fold of its cord."""
    return end >= t.hung and not any(end in pair for pair in t.folds)


def _other(t: Trace, end: int) -> int:
    """The other end of a cord that was laid in by its fold."""
    return next(b if a == end else a for a, b in t.folds if end in (a, b))


def _away(t: Trace, end: int) -> int:
    """On which side the ends of a cord are held that was laid in by its fold: away from where it lies across the others, so that they bear it."""
    adds = (s.deed for s in t.steps if isinstance(s.deed, Add) and t.ends[end] in s.deed.ends)
    return -1 if any(a.refs and a.over for a in adds) else 1


def _plain(t: Trace) -> bool:
    """Free cord changes nothing of what is knotted: it is drawn, and counted, beside it."""
    return not any(
        s.quiet or (s.deed is not None and not isinstance(s.deed, Turn | Span) and not s.waits)
        for s in t.steps
    )


def lift(t: Trace, sizes: Sequence[float] | None = None, *, held: bool = False, across: int = -1) -> Lifted:
    """One unit of a section. sizes : of every end, in diameters (1 each by default). held : its ends are held, it does not
    go on. across : an end that is held level across the others. Raises InputError where it cannot be made."""
    size = list(sizes) if sizes is not None else [1.0] * len(t.ends)
    if t.problems:
        if not trace(t.weave).problems:
            raise InputError("it passes a loop of the work above it", "Its size is guessed from the drawing")
        raise InputError(str(t.problems[0]), "Mend that step first")
    if held and not _can_be_held(t):
        raise InputError(
            "work is laid anew in this section after its first knot",
            "Begin a section of its own there; until then its size is guessed from the drawing",
        )
    if not held and not repeats(t):
        raise InputError(
            "this section does not repeat with the same ends in the same lie",
            "Its size is guessed from the drawing",
        )
    if not t.crossings:
        raise InputError("nothing crosses here", "Record a step first")
    x, y = compact(t, size, short=across >= 0)
    bottom = max(y.values()) + GAP
    on_lane: dict[tuple[int, int], list[tuple[float, float]]] = {}
    on_row: dict[tuple[int, int], list[tuple[float, float]]] = {}
    for c in t.crossings:
        # The thinner of the two goes out of the way of the thicker one.
        up = HEIGHT if c.lane_over else -HEIGHT
        on_lane.setdefault((c.lane_end, c.lane), []).append((y[c.row], up * size[c.row_end]))
        on_row.setdefault((c.row_end, c.row), []).append((x[c.lane], -up * size[c.lane_end]))
    tops = [x[p[0]] for p in t.paths]
    places = sorted(tops[: t.hung])
    middle = sum(places) / len(places)
    apart = BESIDE * max(size)
    side = [middle + (k - (len(places) - 1) / 2) * apart for k in range(len(places))]
    below = [middle + (k - (len(t.order) - 1) / 2) * apart for k in range(len(t.order))]
    feet = [x[p[-1]] for p in t.paths]
    goal = below if held else places
    up = max(ROOM, SLANT * max(abs(a - b) for a, b in zip(side, places, strict=True)))
    room = max([ROOM, *(SLANT * abs(feet[e] - goal[k]) for k, e in enumerate(t.order))])
    strands: list[list[Point]] = []
    dropped: list[int] = []
    follow = [-1] * len(t.ends)
    for end, path in enumerate(t.paths):
        came = end >= t.hung
        single = _came(t, end)
        by_fold = came and not single
        begin = t.paths[_other(t, end)][0] if by_fold and path[1:2] == (t.tops[end],) else path[0]
        points = [(x[begin], y[t.tops[end]] if came else 0.0, 0.0)]
        foot = y[t.tips[end]] if t.tips[end] >= 0 else bottom
        for i, piece in enumerate(path):
            if begin != path[0] and not i:
                continue  # at its fold a cord has no piece going down of its own: it goes on from its other half
            if i % 2 == 0:
                a, b = points[-1][1], y[path[i + 1]] if i + 1 < len(path) else foot
                met = _between(on_lane.get((end, piece), []), a, b)
                points += [(x[piece], at, z) for at, z in met]
                points.append((x[piece], b, 0.0))
            else:
                a, b = points[-1][0], x[path[i + 1]]
                met = _between(on_row.get((end, piece), []), a, b)
                points += [(at, y[piece], z) for at, z in met]
                points.append((b, y[piece], 0.0))
        if t.tips[end] >= 0:
            behind = -BEHIND - apart * len(dropped)
            dropped.append(end)
            points += [(x[path[-1]], y_, behind) for y_ in (foot, bottom + room, bottom + room + LEAD)]
            if not came:
                first = places.index(tops[end])
                points[:0] = [(side[first], -up - LEAD, 0.0), (side[first], -up, 0.0)]
            strands.append(
                _from_behind(points, up, apart * sum(_came(t, e) for e in range(end))) if single else points
            )
            continue
        place = t.order.index(end)
        if held:
            if not came:
                first = places.index(tops[end])
                points[:0] = [(side[first], -up - LEAD, 0.0), (side[first], -up, 0.0)]
            if single:
                points = _from_behind(points, up, apart * sum(_came(t, e) for e in range(end)))
            points += [(below[place], bottom + room, 0.0), (below[place], bottom + room + LEAD, 0.0)]
        else:
            points.append((places[place], bottom + room, 0.0))
            follow[end] = tops.index(places[place])
        strands.append(points)
    whole: dict[int, tuple[tuple[int, ...], list[Point]]] = {
        e: ((e,), points) for e, points in enumerate(strands) if e < t.hung or _came(t, e)
    }
    for n, (a, b) in enumerate(t.folds if held else ()):
        left = t.order.index(a) < t.order.index(b) if {a, b} <= set(t.order) else True
        front = _away(t, a) * (IN_FRONT + n * apart)
        sides = ((a, -1 if left else 1), (b, 1 if left else -1))
        one, two = (
            # One that is laid aside is held aside from where it was.
            _sideways(
                strands[e] if t.tips[e] < 0 else strands[e][:-DROPPED],
                middle + s * (SIDEWAYS + apart * len(below) / 2),
                front,
            )
            for e, s in sides
        )
        whole[a] = ((a, b), [*one[::-1], *two])  # from the fold out to both sides
    if across >= 0:
        far = min(x.values()) - BEYOND, max(x.values()) + BEYOND  # nothing slips over its ends
        right = t.order.index(across) > t.start.index(across)
        idle = len({e for c in t.crossings for e in (c.lane_end, c.row_end)}) < len(t.order)
        led = _sideways(strands[across], far[right], IN_FRONT * idle)
        whole[across] = ((across,), _sideways(led[::-1], far[not right], IN_FRONT * idle)[::-1])
    lines = tuple(
        np.array([points[0], *(q for p, q in pairwise(points) if p != q)]) for _, points in whole.values()
    )
    kept = follow if not held else [-1] * len(lines)
    owners = tuple(ends for ends, _ in whole.values())
    beads = []
    for number, p in enumerate(p for s in t.steps for p in s.placed if p.kind == "bead"):
        for e in p.ends:
            strand = next((k for k, ends in enumerate(owners) if e in ends), -1)
            if strand >= 0:
                at = x.get(p.lane, tops[e]), _row(t, y, p.row, e, p.lane)
                part = _level(lines[strand], at, p.lane in t.paths[e][::2])
                beads.append((strand, part, p.text, number))
    beside = _beside(t, owners)
    standing = _standing(t, x, y, lines, owners, beside)
    loose = tuple((_came(t, ends[0]), t.tips[ends[-1]] >= 0) for ends in owners)
    strand_of = {e: k for k, ends in enumerate(owners) for e in ends}
    straight = []
    for n, core in cores(t).items():
        c = t.crossings[n]
        at = x[c.lane], y[c.row]
        if core.end in strand_of and core.other in strand_of:
            a, b = strand_of[core.end], strand_of[core.other]
            straight.append(Held(a, _part(lines[a], at), b, _part(lines[b], at), 0, core.run))
    return Lifted(
        lines,
        tuple(kept),
        bottom + room,
        owners,
        tuple(beads),
        standing,
        loose,
        tuple(straight),
        beside,
        _bights(t, x, y, lines, owners),
    )


def _standing(
    t: Trace,
    x: dict[int, float],
    y: dict[int, float],
    lines: Sequence[Array],
    owners: Sequence[tuple[int, ...]],
    beside: Sequence[int],
) -> tuple[Standing, ...]:
    out = []
    for p in (p for s in t.steps for p in s.placed if p.kind == "leave" and p.lane in x and p.row in y):
        for e in p.ends:
            strand = next((k for k, ends in enumerate(owners) if e in ends), -1)
            if strand >= 0:
                part = _part(lines[strand], (x[p.lane], y[p.row]))
                # To its side of the work that it is of, whatever hangs beside that.
                own = [line for line, of in zip(lines, beside, strict=True) if of == beside[strand]]
                middle = float(np.mean(np.vstack(own)[:, 0]))
                out.append(Standing(strand, part, p.mm, 1 if x[p.lane] > middle else -1))
    return tuple(out)


def _bights(
    t: Trace,
    x: dict[int, float],
    y: dict[int, float],
    lines: Sequence[Array],
    owners: Sequence[tuple[int, ...]],
) -> tuple[tuple[int, float, bool], ...]:
    """Tips of what passes doubled: between the last crossing on the way there and the first one on the way back."""
    out = []
    for s in t.steps:
        strand = next((k for k, ends in enumerate(owners) if s.end in ends), -1)
        if len(s.ends) != 1 or strand < 0:
            continue
        line = lines[strand]
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
        for h in s.hops:
            if not isinstance(h.hop, Through) or not h.hop.bight or h.stop - h.start < 2:
                continue
            last = (h.start + h.stop) // 2
            there, back = (
                along[np.hypot(line[:, 0] - x[c.lane], line[:, 1] - y[c.row]) < 1e-6]
                for c in t.crossings[last - 1 : last + 1]
            )
            if len(there) and len(back):  # what passes its own loop is met twice there, the loop first
                out.append((strand, float((there.max() + back.max()) / 2 / along[-1]), bool(h.hop.name)))
    return tuple(out)


def _beside(t: Trace, owners: Sequence[tuple[int, ...]]) -> tuple[int, ...]:
    """By strand, of which of several works it is that do not touch each other."""
    of = {e: k for k, ends in enumerate(owners) for e in ends}
    pairs = [(c.lane_end, c.row_end) for c in t.crossings]
    pairs += zip(
        t.start, t.order, strict=False
    )  # where ends change places, what goes on from another is of its work
    for placed in (p for s in t.steps for p in s.placed if p.kind == "bead"):
        pairs += pairwise(placed.ends)  # a bead on both holds them together
    number = list(range(len(owners)))
    for a, b in pairs:
        if a in of and b in of:
            old, new = number[of[b]], number[of[a]]
            number = [new if n == old else n for n in number]
    every = sorted(set(number))
    return tuple(every.index(n) for n in number)


def _sideways(points: list[Point], to: float, front: float) -> list[Point]:
    """From its last crossing an end is led out in front of all that hangs, instead of down."""
    last = max((k for k, p in enumerate(points) if p[2]), default=0)
    x, y, _ = points[min(last + 1, len(points) - 1)]
    y = min(y, points[last][1] + GAP / 2) if points[last][0] == x else y
    before = to - np.sign(to - x) * BEYOND / 2  # out there first, and then level with the rest
    return [*points[: last + 1], (x, y, 0.0), (x, y, front), (float(before), y, front), (to, y, front)]


def _from_behind(points: list[Point], up: float, further: float) -> list[Point]:
    """Laid in by itself: down from above behind all work, and forward to where it begins."""
    x, y, _ = points[0]
    behind = -BEHIND - further
    return [(x, -up - LEAD, behind), (x, -up, behind), (x, y, behind), *points]


def _part(line: Array, at: tuple[float, float]) -> float:
    """How far along a line the corner nearest to a place of the drawing is, as a part of its length."""
    d = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    k = int(np.argmin(np.abs(line[:, 0] - at[0]) + np.abs(line[:, 1] - at[1])))
    return float(d[k] / d[-1])


def _row(t: Trace, y: dict[int, float], row: int, end: int, lane: int) -> float:
    """Where a row of the drawing that crosses nothing lies on a lane of an end: between what that meets above it and below."""
    if row in y:
        return y[row]
    met = {c.row for c in t.crossings if end in (c.lane_end, c.row_end)}
    path = t.paths[end]
    k = next((i for i, piece in enumerate(path) if i % 2 == 0 and piece == lane), -1)
    if k >= 0:
        met = {c.row for c in t.crossings if c.lane == lane} | {
            *path[max(k - 1, 0) : k],
            *path[k + 1 : k + 2],
        }
    above = [y[r] for r in met if r in y and t.row_rank[r] < t.row_rank[row]]
    below = [y[r] for r in met if r in y and t.row_rank[r] > t.row_rank[row]]
    return (max(above, default=0.0) + min(below, default=max(above, default=0.0) + GAP)) / 2


def _level(line: Array, at: tuple[float, float], on: bool) -> float:
    """How far along a line is at the height of a place of the drawing, where it is nearest to that. on : the place is on it."""
    d = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    off = line[:, 1] - at[1]
    k = np.flatnonzero((off[:-1] * off[1:] <= 0) & (off[:-1] != off[1:]))
    if not on and len(k):
        there = off[k] / (off[k] - off[k + 1])
        aside = np.abs(line[k, 0] + there * (line[k + 1, 0] - line[k, 0]) - at[0])
        n = int(np.argmin(aside))
        return float((d[k] + there * (d[k + 1] - d[k]))[n] / d[-1])
    u = np.linspace(0.0, d[-1], 20 * len(line))
    x, y = np.interp(u, d, line[:, 0]), np.interp(u, d, line[:, 1])
    aside, away = np.abs(x - at[0]), np.abs(y - at[1])
    return float(u[int(np.argmin(10 * aside + away if on else aside + 10 * away))] / d[-1])


def _between(met: list[tuple[float, float]], a: float, b: float) -> list[tuple[float, float]]:
    """Crossings on a piece that goes from a to b, in the order in which they are met."""
    inside = [m for m in met if min(a, b) < m[0] < max(a, b)]
    return sorted(inside, reverse=b < a)
