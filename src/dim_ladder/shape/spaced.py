"""Knots that stand apart in a unit, with free cord on all tails between them: each is drawn up by itself, as hands do, and they hang below
each other. How much is free between them is no matter of the shape: `opened` lays that in."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from dim_ladder.library import FINISHES
from dim_ladder.notation import (
    Call,
    Count,
    Item,
    Knot,
    Section,
    Span,
    Step,
    Turn,
    Weave,
    flipped,
    mirrored_item,
)
from dim_ladder.shape.measure import cut_off, reach_of
from dim_ladder.shape.rope import Array, Curves, along_of, turned
from dim_ladder.shape.value import Job, Standing, TightShape, widest
from dim_ladder.trace import Trace, trace
from dim_ladder.trace.knotted import knots
from dim_ladder.trace.roles import period_of, section_work

EVERY = 0.25  # diameters between points of free cord
LEAN = 2.0  # diameters of tail, over which it leans to the tail of the knot below
ON_AND_ON = 3  # times, from which on a knot lies between others like it and not between tails


def knots_apart(weave: Weave, section: str) -> tuple[Weave, ...]:
    """For each knot of a unit that stands apart from the others a weave in which the section is that knot alone, tied once, with its tails as
    they hang by then. Empty where they are one piece of work."""
    whole = _unit(weave, section)
    if whole is None:
        return ()
    return _each(*whole, _runs(whole[2], len(whole[1].items))[0])


def strung(weave: Weave, section: str) -> tuple[Weave, ...]:
    """The same for knots that an end ties on itself alone, as a coil, where others are tied on to that end beside them: they hold by
    themselves and stay as they were drawn up, and what comes next can only come up to them."""
    whole = _unit(weave, section)
    found = knots(whole[2]) if whole is not None else ()
    alone = {e for k in found if len(k.ends) == 1 for e in k.ends}
    core = {e for k in found if len(k.ends) > 1 for e in k.ends - k.led}
    return knot_by_knot(weave, section) if alone & core else ()


def knot_by_knot(weave: Weave, section: str) -> tuple[Weave, ...]:
    """The same for the knots of a unit that is one piece of work; those that can be tied beside each other, because none takes up what another
    left, are one."""
    whole = _unit(weave, section)
    if whole is None:
        return ()
    found = knots(whole[2])
    of = [{whole[2].steps[k].op.item for k in knot.steps} for knot in found]
    taken = set[int]().union(*of)
    levels: list[list[int]] = []
    hung: dict[int, int] = {}  # by end, below how many knots it hangs
    for knot, items in zip(found, of, strict=True):
        level = max((hung.get(e, 0) for e in knot.ends), default=0)
        hung.update(dict.fromkeys(knot.ends, level + 1))
        levels += [[] for _ in range(level + 1 - len(levels))]
        between = set(range(min(items), max(items))) - taken
        levels[level] += sorted(items | between)
    return _each(*whole, levels)


def _each(weave: Weave, s: Section, one: Trace, runs: Sequence[Sequence[int]]) -> tuple[Weave, ...]:
    """A weave of every run of items."""
    if len(runs) < 2:
        return ()
    section = s.name
    begins = {step.op.item: step.before for step in reversed(one.steps)}
    out: list[Weave] = []
    every = {k for run in runs for k in run}
    done = set[int]()
    for run in runs:
        # Where not just what is told before it was tied, it hangs as the run above it left it.
        as_told = done == {k for k in every if k < run[0]}
        t, order = (
            (one, begins[run[0]])
            if as_told
            else ((last := trace(out[-1], section=section, units=1)), last.order)
        )
        done.update(run)
        hang = replace(weave.hang, ends=tuple(t.ends[e] for e in order))
        items = tuple(s.items[k] for k in run)
        first = items[0]
        if len(run) == 1 and isinstance(first, Call) and first.repeat >= ON_AND_ON:
            often = Count(number=first.repeat)
            knot = Section(section, "body", often, (replace(first, repeat=1),))
        else:
            knot = Section(section, "finish", items=items)
        out.append(replace(weave, hang=hang, sections=(knot,)))
    return tuple(out)


def free_between(weave: Weave, section: str) -> tuple[float, ...]:
    """mm of free cord in a unit, or in as many as take it to be the same again: above its first knot, below that, and so on, and below its
    last one. Where its knots do not stand apart, all of it above or below them."""
    work = section_work(weave, section)
    if work is None or work.span <= 0:
        return (0.0, 0.0)
    whole = _unit(weave, section)
    if whole is not None:
        runs, free = _runs(whole[2], len(whole[1].items))
        if runs:
            # What is free on some tails beside the knots of others is told of the whole.
            return (*free[:-1], free[-1] + max(work.span * work.period - sum(free), 0.0))
    one = trace(weave, section=section, units=1)
    first = next((k for k in one.steps if not k.quiet and (k.hops or k.placed)), None)
    above = first is not None and isinstance(first.deed, Span)
    span = work.span * work.period
    return (span, 0.0) if above else (0.0, span)


def _unit(weave: Weave, section: str) -> tuple[Weave, Section, Trace] | None:
    """A weave in which a section is told out, as many units of it as take it to be the same again, none of them turned; and its trace. None
    where more is done to it than tying and leaving free."""
    s = weave.section(section)
    if s is None or s.former is not None or s.on or s.over or s.alternate == "end":
        return None
    if not all(isinstance(i, Step | Call | Span | Turn) for i in s.items):
        return None
    if s.alternate or any(isinstance(i, Turn) for i in s.items):
        weave = _told_out(weave, s)
        s = weave.section(section) or s
    one = trace(weave, section=section, units=1)
    return None if one.problems or not one.settled else (weave, s, one)


def _told_out(weave: Weave, s: Section) -> Weave:
    """The weave with a section whose units are seen in turn in a mirror, or are turned over in between, as it is seen from in front."""
    tails = len(trace(weave, section=s.name, units=0).order)
    items: list[Item] = []
    derived: dict[str, Knot] = {}
    over = False
    for unit in range(period_of(weave, s.name)):
        for item in s.items:
            if isinstance(item, Turn):
                over = not over
                continue
            for how in (s.alternate if unit else "", "turn" if over else ""):
                item = _seen(item, how, tails, derived)
            items.append(item)
    told = replace(s, items=tuple(items), alternate="")
    at = weave.sections.index(s)
    sections = (*weave.sections[:at], told, *weave.sections[at + 1 :])
    return replace(weave, sections=sections, knots=(*weave.knots, *derived.values()))


def _seen(item: Item, how: str, tails: int, derived: dict[str, Knot]) -> Item:
    """An item in a mirror, from behind, or turned over. derived : those that it takes, by name, are laid down here."""
    if not how:
        return item
    if how != "flip":
        item = mirrored_item(item, tails)
    if isinstance(item, Step):
        return item if how == "mirror" else flipped(item)
    if isinstance(item, Call) and item.knot not in FINISHES:
        knot = Knot(f"{item.knot}, {how}", derive=how, source=item.knot)
        derived[knot.name] = knot
        item = replace(item, knot=knot.name)
        return item if how == "flip" else item.reversed()
    return item


def _runs(one: Trace, items: int) -> tuple[list[range], tuple[float, ...]]:
    """Runs of items between which all tails that meet anything hang free, each of which crosses something, and mm of what is free above, between
    and below them."""
    tied = {k.op.item for k in one.steps if k.stop > k.start}
    met = {e for c in one.crossings for e in (c.lane_end, c.row_end)}
    spans = {
        k.op.item: k.placed[0] for k in one.steps if isinstance(k.deed, Span) and met <= set(k.placed[0].ends)
    }
    runs: list[range] = []
    free, since = [0.0], 0
    for k in range(items + 1):
        if k < items and k not in spans:
            continue
        if tied & set(range(since, k)):
            runs.append(range(since, k))
            free.append(0.0)
        if (runs and runs[-1].stop == k) or not runs:
            since = k + 1
        if k in spans:
            free[-1] += spans[k].mm
    return runs, tuple(free)


def in_rows(weave: Weave, section: str, jobs: Sequence[Job], body: bool) -> Job:
    """A unit of knots apart. jobs : of the knots. body : whether the unit goes on in the next one."""
    whole = _unit(weave, section)
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
    for s, own in zip(shapes, at, strict=True):
        to = {a: k for k, a in enumerate(own)}
        cut, top = _one(s)
        before = [sum(len(x) for x in of) for of in lines]
        # As its tails come down from the knot above.
        aside = (
            np.mean([lines[k][-1][-1] - cut[a][0] for k, a in enumerate(own)], axis=0) if y else np.zeros(3)
        )
        for k, a in enumerate(own):
            lines[k].append(cut[a] + np.array([aside[0], y - top, aside[2]]))
        n = len({of for *_, of in beads})
        beads += [(to[a], before[to[a]] + _point(s, cut, a, p), name, n + of) for a, p, name, of in s.beads]
        stands += [
            t._replace(strand=to[t.strand], part=before[to[t.strand]] + _point(s, cut, t.strand, t.part))
            for t in s.standing
        ]
        y += s.pitch
    apart = len(job.free) == len(shapes) + 1
    if not apart:
        _lean_together(lines, job.curves.follow, y)
    joined = [np.vstack(x) for x in lines]
    seams = (
        tuple(tuple(int(n) for n in np.cumsum([len(x) for x in of])[:-1]) for of in lines) if apart else ()
    )
    taken = _over_all_units({e: sum(s.per_end[e] for s in shapes) for e in job.ends}, job)
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
    before = {
        f: x[-1] - [0.0, shape.pitch, 0.0] for x, f in zip(shape.lines, shape.follow, strict=True) if f >= 0
    }
    for k, (line, of) in enumerate(zip(shape.lines, seams, strict=True)):
        parts, y = np.split(line, of), free[0]
        # It comes from where the unit above let go of it.
        out = [before.get(k, line[0])[None]] if y > 0 else []
        for part, gap in zip(parts, free[1:], strict=True):
            after = part + np.array([0.0, y, 0.0])
            out += [_down(out[-1][-1], after[0]), after] if out and y > 0 else [after]
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
        along = along_of(shape.lines[strand])
        at = part * along[-1]
        past = free[0] + sum(gap for gap, n in zip(free[1:], seams[strand], strict=False) if along[n] <= at)
        return float(min(1.0, (at + past) / along_of(lines[strand])[-1]))

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
