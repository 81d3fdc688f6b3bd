"""What hands hold aside while work is drawn up: the two ends of a cord that is laid in by its fold, which hangs on nothing, and loops that
are left standing, which keep the knot that they come out of from slipping undone.

Held level with the work they draw nothing along it. A loop that is held is two strands that end side by side; once the work is drawn up
its cord is put together again, and what was laid in hangs down.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dim_ladder.notation import Leave, Through
from dim_ladder.shape import measure
from dim_ladder.shape.contact import Pairs
from dim_ladder.shape.lift import IN_FRONT, Lifted
from dim_ladder.shape.rope import Array, Aside, Held, Rope
from dim_ladder.shape.value import Standing, Tip
from dim_ladder.trace import Trace
from dim_ladder.trace.diagram import Tangle

NEAR = 1.0  # above or below the middle of the work, diameters, where ends are held
SIDEWAYS = 10.0  # beyond the middle, where loops are held, and at least so far beyond where they are
ROOM = 3.0
APART = 1.4  # the one strand of a loop in front of the other, where it is held
BEND = 0.6  # diameters in which cord that was held out to a side goes down
HANGS = 3.0  # diameters of it below all work
LOOP = 1.2  # how far the two strands of a loop are joined beyond the knot
FREE = 12.0  # diameters of cord in a bight that stands, where nobody says how long it is
OWN = 3  # crossings of an end with itself, from which on it is a knot that can hold


def slips(t: Trace, real: Tangle | None) -> frozenset[int]:
    """Ends whose own knot holds only by a loop of it that is left standing or passed doubled: taken for nothing once that is drawn in."""
    loops = {
        e
        for s in t.steps
        for h in s.hops
        if isinstance(h.hop, Leave) or (isinstance(h.hop, Through) and h.hop.bight)
        for e in s.ends
    }
    out = set()
    for e in loops:
        own = sum(c.lane_end == c.row_end == e for c in t.crossings)
        kept = real is not None and len(real.walks[e]) > len(
            {n for n, _ in real.walks[e]}
        )  # with itself, that is
        if own >= OWN and not kept:
            out.add(e)
    return frozenset(out)


def held_out(
    lifted: Lifted, ends: frozenset[int], unit_mm: float
) -> tuple[Lifted, tuple[tuple[int, int], ...], tuple[Aside, ...], tuple[Tip, ...]]:
    """Lifted work with the loops of these ends held aside: with a strand more for each, pairs of the strands that are one cord, which of
    their ends are held so, and where. One loop of every strand."""
    if not ends:
        return lifted, (), (), ()
    every = [Tip(s.strand, s.part, s.mm) for s in lifted.standing] + [
        Tip(k, part, 0.0 if led_through else FREE * unit_mm) for k, part, led_through in lifted.bights
    ]
    lines, held, owners = list(lifted.strands), list(lifted.held_straight), list(lifted.ends)
    pairs: list[tuple[int, int]] = []
    aside: list[Aside] = []
    tips: list[Tip] = []
    middle = np.mean(np.vstack(lifted.strands), axis=0)
    for tip in every:
        k = tip.strand
        if len(lifted.ends[k]) > 1 or lifted.ends[k][0] not in ends or any(p == k for p, _ in pairs):
            continue
        n = len(lines)
        lines[k], more = _parted(lines[k], tip.part, middle)
        lines.append(more)
        owners.append(lifted.ends[k])
        held = [_moved(h, k, n, tip.part) for h in held]
        pairs.append((k, n))
        aside += [Aside(k, False, True), Aside(n, True, False)]
        tips.append(tip)
    done = {t.strand for t in tips}
    out = replace(
        lifted, strands=tuple(lines), follow=(-1,) * len(lines), ends=tuple(owners), held_straight=tuple(held),
        standing=tuple(s for s in lifted.standing if s.strand not in done),
        beads=tuple((*_side(k, part, dict(pairs), {t.strand: t.part for t in tips}), name, of) for k, part, name, of in lifted.beads),
        beside=(*lifted.beside, *(lifted.beside[k] for k, _ in pairs)),
    )  # fmt: skip
    return out, tuple(pairs), tuple(aside), tuple(tips)


def _parted(line: Array, part: float, middle: Array) -> tuple[Array, Array]:
    """A line in two where a loop of it is held: each led out in front of all that hangs, and to the side on which the loop is."""
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    at = part * along[-1]
    tip = np.array([np.interp(at, along, line[:, a]) for a in range(3)])
    side = 1.0 if tip[0] >= middle[0] else -1.0
    far = tip[0] + side * max(SIDEWAYS - abs(tip[0] - middle[0]), ROOM)
    before, after = line[along < at - 1e-6], line[along > at + 1e-6]
    a, b = ((tip + x[k]) / 2 for x, k in ((before, -1), (after, 0)))
    level = float(np.clip(tip[1], middle[1] - NEAR, middle[1] + NEAR))
    out = []
    # The one that comes from further away passes in front of the other.
    further = IN_FRONT + APART
    fronts = (further, IN_FRONT) if abs(a[0] - far) > abs(b[0] - far) else (IN_FRONT, further)
    for p, front in zip((a, b), fronts, strict=True):
        out.append(np.array([p, p + np.array([0.0, 0.0, front]), [far, level, middle[2] + front]]))
    return np.vstack([before, out[0]]), np.vstack([out[1][::-1], after])


def _side(strand: int, part: float, other: dict[int, int], tips: dict[int, float]) -> tuple[int, float]:
    """On which of the two strands a place is, and how far along that."""
    at = tips.get(strand)
    if at is None:
        return strand, part
    return (strand, part / at) if part <= at else (other[strand], (part - at) / (1 - at))


def _moved(h: Held, strand: int, more: int, part: float) -> Held:
    a, u = _side(h.strand, h.part, {strand: more}, {strand: part})
    b, v = _side(h.other, h.other_part, {strand: more}, {strand: part})
    return h._replace(strand=a, part=u, other=b, other_part=v)


def level(line: Array) -> Array:
    """With its two ends near the middle of the work, which is at 0: what is knotted comes together there."""
    out = line.copy()
    out[[0, -1], 1] = np.clip(line[:, 1].mean(), -NEAR, NEAR)
    return out


def let_go(r: Rope, p: Pairs, lines: list[Array], lengths: Array, top: float, foot: float) -> None:
    """Lines as they lie once nothing is held aside any more, and the cord of each from `top` down to `foot`; changes both."""
    for k, begins, ends, from_above in r.curves.aside:
        a, b = measure.caught(r, p, k)
        own = lines[k]
        i, j = a if begins else 0, b if ends else len(own) - 1
        long = float(np.linalg.norm(np.diff(own[i : j + 1], axis=0), axis=1).sum())
        if begins and ends:
            before = float(own[i, 1]) - top if from_above else foot - float(own[i, 1])
            lengths[k] = long + max(0.0, before) + max(0.0, foot - float(own[j, 1]))
            lines[k] = let_down(own, i, j, foot, top if from_above else None)
        else:
            lengths[k] = long - (top - float(own[0, 1]) if ends else float(own[-1, 1]) - foot)
            lines[k] = own[i : j + 1]


def joined(
    lines: list[Array], lengths: Array, pairs: Sequence[tuple[int, int]], tips: Sequence[Tip]
) -> tuple[Standing, ...]:
    """Put the two strands of every loop together again; changes lines and lengths. What stands there, to be drawn to its length."""
    out = []
    middle = float(np.mean([line[:, 0].mean() for line in lines])) if tips else 0.0
    for (k, n), tip in zip(pairs, tips, strict=True):
        before, after = lines[k], lines[n]
        away = before[-1] - before[-3] + after[0] - after[2]
        away = away / max(float(np.linalg.norm(away)), 1e-9)
        a, b = before[-1], after[0]
        u = np.linspace(0.0, 1.0, 31)[1:-1, None]
        bend = (1 - u) ** 2 * a + 2 * u * (1 - u) * ((a + b) / 2 + LOOP * away) + u**2 * b
        lines[k] = np.vstack([before, bend, after])
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(lines[k], axis=0), axis=1))])
        tip_at = len(before) + len(bend) // 2
        lengths[k] += lengths[n]
        if tip.mm > 0:
            side = 1 if float(lines[k][tip_at, 0]) > middle else -1
            out.append(Standing(k, float(along[tip_at] / along[-1]), tip.mm, side, True))
        else:
            lengths[k] += float(along[len(before) + len(bend)] - along[len(before) - 1])
    return tuple(out)


def in_one(at: tuple[int, float], pairs: Sequence[tuple[int, int]], long: Array) -> tuple[int, float]:
    """A place on one of two strands of a loop, on the strand that both are. long : of every strand."""
    for k, n in pairs:
        if at[0] in (k, n):
            before = at[1] * long[k] if at[0] == k else long[k] + at[1] * long[n]
            return k, float(before / (long[k] + long[n]))
    return at


def pressing(
    touching: tuple[tuple[int, int, float], ...], pairs: Sequence[tuple[int, int]]
) -> tuple[tuple[int, int, float], ...]:
    """What presses on what, with both strands of a loop as one."""
    one = {n: k for k, n in pairs}
    out: dict[tuple[int, int], float] = {}
    for a, b, long in touching:
        a, b = sorted((one.get(a, a), one.get(b, b)))
        out[a, b] = out.get((a, b), 0.0) + long
    return tuple((a, b, long) for (a, b), long in out.items())


def let_down(line: Array, first: int, last: int, level: float, top: float | None = None) -> Array:
    """A line that was held out to both sides, hanging down from where it is caught to below `level`. top : above which it begins, where it
    comes from above."""
    if top is not None:
        over = np.array([1.0, -1.0, 1.0])
        begin = _hanging(line[first::-1] * over, -top)[::-1] * over
        return np.vstack([begin, line[first + 1 : last], _hanging(line[last:], level)])
    return np.vstack(
        [_hanging(line[first::-1], level)[::-1], line[first + 1 : last], _hanging(line[last:], level)]
    )


def _hanging(line: Array, level: float) -> Array:
    """From its first point on down: a bend as tight as cord bends, and straight."""
    begin = line[0]
    way = line[min(4, len(line) - 1)] - begin
    way = way / max(float(np.linalg.norm(way)), 1e-9)
    foot = begin + BEND * way + np.array([0.0, BEND, 0.0])
    u = np.linspace(0.0, 1.0, 9)[:, None]
    bend = (1 - u) ** 2 * begin + 2 * u * (1 - u) * (begin + BEND * way) + u**2 * foot
    return np.vstack([bend, [[foot[0], max(foot[1], level) + HANGS, foot[2]]]])
