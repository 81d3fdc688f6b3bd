"""Works that hang beside each other and do not touch: each is drawn up by itself, as long as it is and turning as it likes.

An end that crosses nothing is such a work too: it hangs straight beside the others.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dim_ladder.notation import Weave
from dim_ladder.shape.apart import side_by_side
from dim_ladder.shape.rope import Array, OnCord
from dim_ladder.shape.value import Job, Part, Place, TightShape, widest
from dim_ladder.trace.roles import beside, ends_worked, roles


@dataclass(frozen=True, slots=True)
class Beside:
    """A body that hangs beside others. first : of these. own : ends that it works. others : ends that the others do."""

    first: str
    own: frozenset[str]
    others: frozenset[str]


def hang_beside(weave: Weave) -> dict[str, Beside]:
    """By name, the bodies that hang beside others."""
    works = roles(weave).sections
    own = {w.name: frozenset(ends_worked(w)) for w in works}
    out = {}
    for group in beside(weave, works):
        all_of = frozenset[str]().union(*(own[s] for s in group))
        out.update({s: Beside(group[0], own[s], all_of - own[s]) for s in group})
    return out


def part_of(job: Job, strands: Sequence[int], stretch: float, flat: float, lies: bool) -> Part:
    """Some strands of a cell as a cell of their own. stretch : pull on its pitch; flat : how it is held to the board; lies : whether it does
    not turn."""
    at = {k: n for n, k in enumerate(strands)}
    c = job.curves
    lines = [c.strands[k] for k in strands]
    middle = np.mean(np.vstack(lines), axis=0)

    def pairs(of: tuple[tuple[int, int], ...]) -> tuple[tuple[int, int], ...]:
        return tuple((at[a], at[b]) for a, b in of if a in at and b in at)

    def each(of: tuple[float, ...]) -> tuple[float, ...]:
        return tuple(of[k] for k in strands) if of else ()

    apart, pull = each(c.apart), each(c.pull)
    curves = replace(
        c,
        strands=tuple(x - middle for x in lines),
        follow=tuple(at[c.follow[k]] for k in strands),
        diameter=each(c.diameter),
        pull=pull,
        bonds=pairs(c.bonds),
        flat=flat,
        laid=side_by_side(pull, apart),
        alike=tuple(g for group in c.alike if len(g := tuple(at[k] for k in group if k in at)) > 1),
        give=each(c.give),
        apart=apart if sum(p > 0 for p in apart) > 1 else (),
        held=tuple(h._replace(strand=at[h.strand], other=at[h.other]) for h in c.held if h.strand in at),
        beads=_numbered(tuple(b._replace(strand=at[b.strand]) for b in c.beads if b.strand in at), job, at),
        beside=(),
        spread=each(c.spread),
        stacked=pairs(c.stacked),
    )
    own = Job(
        "cell",
        tuple(job.ends[k] for k in strands),
        curves,
        stretch,
        job.unit_mm,
        tuple((at[k], part, name, of) for k, part, name, of in job.beads if k in at),
        (),
        job.period,
        tuple(job.idle[k] for k in strands),
        tuple(s._replace(strand=at[s.strand]) for s in job.standing if s.strand in at),
        lies=lies,
    )
    return Part(tuple(strands), own)


def _numbered(beads: tuple[OnCord, ...], job: Job, at: Mapping[int, int]) -> tuple[OnCord, ...]:
    """Beads by their number among those of the part."""
    kept = [n for n, (k, *_) in enumerate(job.beads) if k in at]
    return tuple(b._replace(number=kept.index(b.number)) for b in beads)


def in_turn(
    parts: Sequence[Iterator[TightShape]],
) -> Iterator[tuple[TightShape, ...]]:
    """What all have come to, from when each has come to anything, after every further step of one."""
    latest: list[TightShape | None] = [None] * len(parts)
    left = set(range(len(parts)))
    while left:
        for k in sorted(left):
            shape = next(parts[k], None)
            if shape is None:
                left.discard(k)
                continue
            latest[k] = shape
            found = tuple(s for s in latest if s is not None)
            if len(found) == len(parts):
                yield found


def together(job: Job, shapes: Sequence[TightShape]) -> TightShape:
    """The parts side by side as they hang, level above. shapes : of `job.parts`, one each."""
    many = len(job.ends)
    pitch = max(s.pitch for s in shapes)
    lines: list[Array] = [np.zeros((0, 3))] * many
    places = [Place(0.0, pitch, 0.0)] * many
    per_end: dict[str, float] = {}
    of = {k: n for n, part in enumerate(job.parts) for k in part.strands}
    # From left to right as they hang.
    order = sorted(
        range(many),
        key=lambda k: (float(np.mean([job.curves.strands[j][:, 0].mean() for j in _with(job, of, k)])), k),
    )
    x, done = 0.0, set[int]()
    for k in order:
        if k not in of:
            d = job.curves.diameter[k]
            y = np.linspace(-pitch / 2, pitch / 2, max(4, round(pitch / 0.2)))
            lines[k] = np.column_stack([np.full(len(y), x + d / 2), y, np.zeros(len(y))])
            per_end[job.ends[k]] = pitch
            x += d
            continue
        n = of[k]
        if n in done:
            continue
        done.add(n)
        shape, strands = shapes[n], job.parts[n].strands
        every = np.vstack(shape.lines)
        middle = float(every[:, 0].min() + every[:, 0].max()) / 2
        axis = x + shape.width / 2 - (0.0 if shape.angle else middle)
        # It may have slid along itself on its way to rest.
        top = float(np.mean([line[0, 1] for line in shape.lines]))
        down = np.array([axis, -pitch / 2 - top, 0.0])
        for own, strand in enumerate(strands):
            lines[strand] = shape.lines[own] + down
            places[strand] = Place(shape.angle, shape.pitch, axis)
        for e, v in shape.per_end.items():
            per_end[e] = per_end.get(e, 0.0) + v
        x += shape.width
    most = max(shapes, key=lambda s: abs(s.angle))
    wrong = next((s.amiss for s in shapes if s.amiss), "")
    shift = np.array([x / 2, 0.0, 0.0])
    return TightShape(
        "cell", job.ends, pitch, most.angle, x, max(s.thickness for s in shapes),
        {e: per_end[e] for name in job.ends for e in name.split("+")}, max(s.overlap for s in shapes), max(s.deepest for s in shapes),
        any(s.passed for s in shapes), all(s.converged for s in shapes), sum(s.steps for s in shapes), tuple(y - shift for y in lines),
        job.curves.follow, job.curves.diameter,
        tuple((job.parts[n].strands[a], job.parts[n].strands[b], v) for n, s in enumerate(shapes) for a, b, v in s.touching),
        job.unit_mm,
        tuple((job.parts[n].strands[a], part, name, b) for n, s in enumerate(shapes) for a, part, name, b in s.beads),
        job.period, wrong,
        tuple(
            h._replace(strand=job.parts[n].strands[h.strand], other=job.parts[n].strands[h.other]) for n, s in enumerate(shapes) for h in s.held
        ),
        job.curves.spread, job.standing,
        tuple(p._replace(axis=p.axis - x / 2) for p in places), free=job.free, rests=widest(shapes),
    )  # fmt: skip


def _with(job: Job, of: dict[int, int], strand: int) -> tuple[int, ...]:
    return job.parts[of[strand]].strands if strand in of else (strand,)


def alone(job: Job, shape: TightShape) -> list[tuple[Job, TightShape]]:
    """The parts again, each with its own shape, as it was drawn up by itself."""
    out = []
    for part in job.parts:
        first = shape.places[part.strands[0]]
        back = np.array([first.axis, (first.pitch - shape.pitch) / 2, 0.0])
        at = {k: n for n, k in enumerate(part.strands)}
        own = replace(
            shape,
            ends=part.job.ends,
            pitch=first.pitch,
            angle=first.angle,
            lines=tuple(shape.lines[k] - back for k in part.strands),
            follow=part.job.curves.follow,
            diameter=part.job.curves.diameter,
            beads=tuple((at[a], p, name, b) for a, p, name, b in shape.beads if a in at),
            per_end={e: shape.per_end[e] for name in part.job.ends for e in name.split("+")},
            held=tuple(
                h._replace(strand=at[h.strand], other=at[h.other]) for h in shape.held if h.strand in at
            ),
            places=(),
        )
        out.append((part.job, own))
    return out
