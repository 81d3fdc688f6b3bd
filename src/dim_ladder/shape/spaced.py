"""Knots of a unit that were drawn up by themselves, hung below each other. How much is free between those that stand apart is no matter of the
shape: `opened` lays that in."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from dim_ladder.notation import Weave
from dim_ladder.shape.beaded import Hung, more_room
from dim_ladder.shape.measure import cut_off, reach_of
from dim_ladder.shape.parted import free_between, told_out
from dim_ladder.shape.rope import Array, Curves, along_of, turned
from dim_ladder.shape.value import Job, Standing, TightShape, widest
from dim_ladder.trace.roles import period_of

EVERY = 0.25  # diameters between points of free cord
LEAN = 2.0  # diameters of tail, over which it leans to the tail of the knot below


def in_rows(weave: Weave, section: str, jobs: Sequence[Job], body: bool) -> Job:
    """A unit of knots apart. jobs : of the knots. body : whether the unit goes on in the next one."""
    whole = told_out(weave, section)
    assert whole is not None
    one, first = whole[2], jobs[0]
    at = [[j.ends.index(e) for e in one.ends] for j in jobs]
    curves = Curves(
        tuple(np.vstack([j.curves.strands[a[k]] for j, a in zip(jobs, at, strict=True)]) for k in range(len(one.ends))),
        tuple(one.start[one.order.index(e)] if body else -1 for e in range(len(one.ends))),
        0.0,
        tuple(first.curves.diameter[k] for k in at[0]),
        tuple(first.curves.pull[k] for k in at[0]),
        give=first.curves.give,
        spread=tuple(first.curves.spread[k] for k in at[0]) if first.curves.spread else (),
    )  # fmt: skip
    idle = tuple(all(j.idle[a[k]] for j, a in zip(jobs, at, strict=True)) for k in range(len(one.ends)))
    kind = "cell" if body else "held"
    return Job(
        kind, tuple(one.ends), curves, 0.0, first.unit_mm, period=period_of(weave, section), idle=idle, rows=tuple(jobs),
        free=free_between(weave, section),
    )  # fmt: skip


def below_each_other(job: Job, shapes: Sequence[TightShape]) -> TightShape:
    """The knots of a unit one below the other, with nothing free between them. shapes : of `job.rows`."""
    at = [[s.ends.index(e) for e in job.ends] for s in shapes]
    many, y = len(job.ends), 0.0
    lines: list[list[Array]] = [[] for _ in range(many)]
    beads: list[tuple[int, float, str, int]] = []
    stands: list[Standing] = []
    hung: list[Hung] = []
    for s, own, row in zip(shapes, at, job.rows, strict=True):
        to = {a: k for k, a in enumerate(own)}
        cut, top = _one(s)
        before = [sum(len(x) for x in of) for of in lines]
        # As its tails come down from the knot above.
        aside = (
            np.mean([lines[k][-1][-1] - cut[a][0] for k, a in enumerate(own)], axis=0) if y else np.zeros(3)
        )
        here = [x + np.array([aside[0], y - top, aside[2]]) for x in cut]
        down = more_room(hung[-1], Hung(row, here)) if hung else 0.0
        y += down
        hung.append(Hung(row, [x + np.array([0.0, down, 0.0]) for x in here]))
        for k, a in enumerate(own):
            lines[k].append(hung[-1].lines[a])
        n = len({of for *_, of in beads})
        beads += [(to[a], before[to[a]] + _point(s, cut, a, p), name, n + of) for a, p, name, of in s.beads]
        stands += [
            t._replace(strand=to[t.strand], part=before[to[t.strand]] + _point(s, cut, t.strand, t.part))
            for t in s.standing
        ]
        y += s.pitch
    if job.kind == "cell":
        y += more_room(hung[-1], Hung(job.rows[0], [x + np.array([0.0, y, 0.0]) for x in hung[0].lines]))
    _hang_straight(lines, job.idle)
    apart = len(job.free) == len(shapes) + 1
    if not apart:
        _lean_together(lines, job.curves.follow, y)
    joined = [np.vstack(x) for x in lines]
    seams = (
        tuple(tuple(int(n) for n in np.cumsum([len(x) for x in of])[:-1]) for of in lines) if apart else ()
    )
    room = y - sum(s.pitch for s in shapes)
    taken = _over_all_units({e: room + sum(s.per_end[e] for s in shapes) for e in job.ends}, job)
    pressed: dict[tuple[int, int], float] = defaultdict(float)
    for s in shapes:
        of = [job.ends.index(e) for e in s.ends]
        for a, b, v in s.touching:
            pressed[min(of[a], of[b]), max(of[a], of[b])] += v
    return TightShape(
        job.kind, job.ends, y, 0.0, max(s.width for s in shapes), max(s.thickness for s in shapes), taken,
        max(s.overlap for s in shapes), max(s.deepest for s in shapes), any(s.passed for s in shapes),
        all(s.converged for s in shapes), sum(s.steps for s in shapes), tuple(joined), job.curves.follow, job.curves.diameter,
        tuple((a, b, v) for (a, b), v in pressed.items()), job.unit_mm,
        tuple((k, _part(joined[k], p), name, of) for k, p, name, of in beads), job.period,
        next((s.amiss for s in shapes if s.amiss), ""), (), job.curves.spread,
        tuple(t._replace(part=_part(joined[t.strand], t.part)) for t in stands), (), seams, job.free,
        rests=widest(shapes),
    )  # fmt: skip


def _hang_straight(lines: Sequence[list[Array]], idle: Sequence[bool]) -> None:
    """Let cord that crosses nothing hang straight beside the knots, where it clears the widest of them."""
    worked = [x[:, 0].mean() for of, still in zip(lines, idle, strict=False) if not still for x in of]
    for of in (of for of, still in zip(lines, idle, strict=False) if still and worked):
        places = [float(x[:, 0].mean()) for x in of]
        side = 1.0 if np.mean(places) > np.mean(worked) else -1.0
        x, z = side * max(side * at for at in places), float(np.mean([line[:, 2].mean() for line in of]))
        of[:] = [np.column_stack([np.full(len(n), x), n[:, 1], np.full(len(n), z)]) for n in of]


def _over_all_units(taken: Mapping[str, float], job: Job) -> dict[str, float]:
    """What each end takes in a unit, the mean over the units until it is back in its place."""
    out = {}
    for k, e in enumerate(job.ends):
        orbit = [k]
        while (n := job.curves.follow[orbit[-1]]) not in (-1, k):
            orbit.append(n)
        out[e] = sum(taken[job.ends[n]] for n in orbit) / len(orbit)
    return out


def _lean_together(lines: Sequence[list[Array]], follow: Sequence[int], pitch: float) -> None:
    """Let the tails of knots that come one right below the other lean towards each other until they meet, in this unit and to the next."""
    ends = [(of, n, of, n + 1) for of in lines for n in range(len(of) - 1)]
    ends += [(of, len(of) - 1, lines[f], 0) for of, f in zip(lines, follow, strict=True) if f >= 0]
    for above, n, below, m in ends:
        gap = below[m][0] - above[n][-1]
        gap[1] = 0.0
        for of, k, sign in ((above, n, 1.0), (below, m, -1.0)):
            x = of[k][::-1] if sign > 0 else of[k]
            along = along_of(x)
            near = np.clip(1 - along / min(LEAN, along[-1] / 2), 0, 1)
            way = (3 * near**2 - 2 * near**3)[:, None] * gap * sign / 2
            of[k] = of[k] + (way[::-1] if sign > 0 else way)


def opened(shape: TightShape) -> TightShape:
    """A unit with its free cord: its knots as far apart as they are, and as far from those of the next unit."""
    free = [mm / shape.unit_mm for mm in shape.free]
    seams = shape.seams or ((),) * len(shape.lines)
    if not shape.seams and len(free) > 2:  # drawn up as one piece of work, with all that is free below it
        free = [free[0], sum(free[1:])]
    if sum(free) <= 0 or len(free) != len(seams[0]) + 2 or shape.angle or shape.places:
        return shape
    pitch = shape.pitch + sum(free)
    lines = []
    now: list[list[int]] = []  # by strand, which points of its line the former points are
    before = {
        f: x[-1] - [0.0, shape.pitch, 0.0] for x, f in zip(shape.lines, shape.follow, strict=True) if f >= 0
    }
    for k, (line, of) in enumerate(zip(shape.lines, seams, strict=True)):
        parts, y = np.split(line, of), free[0]
        # It comes from where the unit above let go of it.
        out = [before.get(k, line[0])[None]] if y > 0 else []
        now.append([])
        for part, gap in zip(parts, free[1:], strict=True):
            after = part + np.array([0.0, y, 0.0])
            out += [_down(out[-1][-1], after[0])] if out and y > 0 else []
            begins = sum(map(len, out))
            now[-1] += range(begins, begins + len(after))
            out.append(after)
            y += gap
        lines.append(np.vstack(out))
    if free[-1] > 0:
        down = np.array([0.0, pitch, 0.0])
        ends = [
            lines[f][0] + down if f >= 0 else x[-1] + [0.0, free[-1], 0.0]
            for x, f in zip(lines, shape.follow, strict=True)
        ]
        lines = [np.vstack([x, _down(x[-1], end), end]) for x, end in zip(lines, ends, strict=True)]

    def moved(strand: int, part: float) -> float:
        there, along = along_of(shape.lines[strand]), along_of(lines[strand])
        return float(np.interp(part * there[-1], there, along[now[strand]]) / along[-1])

    return replace(
        shape,
        lines=tuple(lines),
        pitch=pitch,
        seams=(),
        free=(),
        beads=tuple((k, moved(k, p), name, of) for k, p, name, of in shape.beads),
        standing=tuple(t._replace(part=moved(t.strand, t.part)) for t in shape.standing),
    )


def _down(a: Array, b: Array) -> Array:
    """Points between two: evenly down, gently aside."""
    u = np.linspace(0.0, 1.0, max(3, round(float(np.linalg.norm(b - a)) / EVERY) + 1))[1:-1, None]
    aside = 3 * u**2 - 2 * u**3
    return np.asarray(a + np.hstack([aside, u, aside]) * (b - a), np.float64)


def _one(s: TightShape) -> tuple[list[Array], float]:
    """The lines of a knot as far as it is worked, and where it begins. Of one that goes on in itself as it is."""
    if s.kind == "cell":
        return list(s.lines), float(np.mean([x[0, 1] for x in s.lines]))
    reach = reach_of(s.lines) or (0.0, s.pitch)
    top = sum(reach) / 2 - s.pitch / 2
    return cut_off(s.lines, top, top + s.pitch), top


def often(shape: TightShape, times: int) -> TightShape:
    """A unit tied so often as one knot: its ends as they hang, turned so that its middle faces the eye."""
    if times == 1:
        return shape
    many = range(len(shape.lines))
    lines: list[list[Array]] = [[] for _ in many]
    beads: list[tuple[int, float, str, int]] = []
    stands: list[Standing] = []
    holder = list(many)
    for u in range(times):
        for k in many:
            line = turned(
                turned(shape.lines[k], 1, -times * shape.angle / 2, 0.0), u, shape.angle, shape.pitch
            )
            lines[holder[k]].append(line if u == times - 1 else line[:-1])
            beads += [
                (holder[k], (u + p) / times, name, of * times + u) for a, p, name, of in shape.beads if a == k
            ]
            stands += [
                t._replace(strand=holder[k], part=(u + t.part) / times)
                for t in shape.standing
                if t.strand == k
            ]
        holder = shape.handed_on(holder)
    return replace(
        shape, pitch=times * shape.pitch, per_end={e: times * v for e, v in shape.per_end.items()}, angle=0.0,
        lines=tuple(np.vstack(x) for x in lines), beads=tuple(beads), standing=tuple(stands),
    )  # fmt: skip


def _point(s: TightShape, cut: Sequence[Array], strand: int, part: float) -> float:
    """The point of a line that was cut off which lies as far along as a part of it before."""
    along = along_of(s.lines[strand])
    at = s.lines[strand][min(int(np.searchsorted(along, part * along[-1])), len(along) - 1)]
    return float(np.argmin(np.linalg.norm(cut[strand] - at, axis=1)))


def _part(line: Array, point: float) -> float:
    along = along_of(line)
    return float(along[min(int(point), len(along) - 1)] / along[-1])
