"""A section pulled tight: the shortest cord that stays the same weave and does not lie in itself.

What is pulled how hard shape/job.py says. What it leaves out: see docs/shape.md.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import replace
from types import ModuleType

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.notation import Weave
from dim_ladder.shape import measure
from dim_ladder.shape.aside import in_one, joined, let_go, pressing
from dim_ladder.shape.beaded import as_they_hang
from dim_ladder.shape.cache import keep, kept, key, known
from dim_ladder.shape.chained import drawn_together, own_part, unlike
from dim_ladder.shape.contact import between
from dim_ladder.shape.engine import engine, ready
from dim_ladder.shape.helper import elsewhere, is_on
from dim_ladder.shape.job import GUESSED, UNDONE, made
from dim_ladder.shape.recut import brought_beside, faced, orbits, recut
from dim_ladder.shape.relax import Stage, State, settle
from dim_ladder.shape.respaced import respaced
from dim_ladder.shape.rope import Array, Rope, let_out, rope
from dim_ladder.shape.several import in_turn, together
from dim_ladder.shape.singly import lying, singly
from dim_ladder.shape.sound import amiss
from dim_ladder.shape.spaced import below_each_other, often
from dim_ladder.shape.stages import cord_in, more_careful, softly, stages_of, tails_of
from dim_ladder.shape.threaded import in_own_unit
from dim_ladder.shape.twice import wider
from dim_ladder.shape.value import Job, TightShape

TAIL = 3.0  # diameters of tail of a knot that is tied once
SOFTER = (
    (1.0,),
    (8.0, 3.0, 1.0),
)  # times as hard as its kind gives way, one after the other: what is tried first, and then
LET_OUT = 1.05  # times its width, a row of hitches that lies: measured, more or less leaves rows further apart, and so does its pitch
CREEPS = 1e-3  # of the pitch, that such a row may change while its energy stands still
LEAST_CORD = 0.5  # of the cord before, less than which cannot be pressed out of it
RUNAWAY = 2.0  # times the cord of the loose work, beyond which pulling leaves off
LEAST_PITCH = 0.3  # diameters: no work that holds is so short, what is left of it is cords beside each other
PICTURE = 300_000  # nodes times steps from one shape that is shown to the next: about a tenth of a second
TURN_OUT = 0.06  # the overlap that is still called tight


def pulled(
    job: Job,
    *,
    stages: tuple[Stage, ...] | None = None,
    by: ModuleType | None = None,
    stop: Callable[[], bool] = lambda: False,
) -> Iterator[TightShape]:
    """Shapes, tighter and tighter; the last one is the answer. Where cords could have passed each other it is done again,
    with more care, and said if that does not help. What comes out wrong is drawn up the other way, where there is one. Once the
    compiled engine is there what was begun without it is begun anew: the same work is the same shape, however soon it was asked for."""
    use = by or engine()
    for shape in _drawn_up(job, stages, use, stop):
        yield shape
        if by is None and engine() is not use:
            break
    else:
        return
    if not stop():
        yield from _drawn_up(job, stages, engine(), stop)


def _drawn_up(
    job: Job, stages: tuple[Stage, ...] | None, by: ModuleType, stop: Callable[[], bool]
) -> Iterator[TightShape]:
    """By one engine, from first to last."""
    if job.single is not None:
        *_, alone = pulled(job.single, stages=stages, by=by, stop=stop)
        job = lying(job) if alone.converged and not alone.angle else replace(job, single=None)
    first = None
    for first in _pulled(job, stages=stages, by=by, stop=stop):
        yield first
    if first is None or stop():
        return
    # Beads may keep work from coming to rest, where its knots would by themselves.
    wrong = first.amiss or (job.curves.beads and not first.converged)
    if wrong and job.otherwise is not None:
        last = first
        for last in _pulled(replace(job.otherwise, free=job.free), stages=stages, by=by, stop=stop):
            yield last
        if not last.converged and not stop():
            yield from _drawn_up(replace(job, otherwise=None), stages, by, stop)
        return
    if job.also is None and not first.converged and _may_yet(job, first):
        job = replace(job, also=replace(job, curves=wider(job.curves, held=job.kind == "held")))
    best, way = first, job.also
    others: list[TightShape] = []
    while way is not None and not stop():
        *_, found = None, *_pulled(replace(way, free=job.free), stages=stages, by=by, stop=stop)
        if found is not None:
            better = _better(job, found, best)
            others.append(best if better else found)
            best = found if better else best
        way = way.also
    if job.also is not None and not stop():
        yield best.or_rests([s for s in others if s.converged]) if best.converged else best


def _may_yet(job: Job, shape: TightShape) -> bool:
    """Whether what did not come to rest may do so from elsewhere: it holds, and is drawn up as one."""
    return job.kind != "closed" and not (job.rows or job.parts) and not why_not(job, shape)


def _better(job: Job, one: TightShape, other: TightShape) -> bool:
    """Whether a shape is an answer and takes less, tension times cord, than another, or that is none."""

    def takes(s: TightShape) -> float:
        cord = sum(p * s.per_end.get(e, 0.0) for e, p in zip(job.ends, job.curves.pull, strict=False))
        return float(cord - job.stretch * s.pitch)

    return one.converged and (not other.converged or takes(one) < takes(other))


def _pulled(
    job: Job, *, stages: tuple[Stage, ...] | None, by: ModuleType | None, stop: Callable[[], bool]
) -> Iterator[TightShape]:
    """As it is said, and no other way."""
    if job.kind == "beads":
        yield as_they_hang(job)
        return
    if job.rows:
        knots = [pulled(row, stages=stages, by=by, stop=stop) for row in job.rows]
        for found in in_turn(knots):
            yield below_each_other(job, [often(s, row.times) for s, row in zip(found, job.rows, strict=True)])
        return
    if job.parts:
        each = [pulled(part.job, stages=stages, by=by, stop=stop) for part in job.parts]
        for found in in_turn(each):
            yield together(job, found)
        return
    soft = any(job.curves.give)
    stays = job.lies or job.kind == "closed"  # what is closed round a former has nothing to turn against
    chosen = stages or stages_of(job.curves, job.kind in ("knot", "held"), soft, stays)
    for careful in (False, True):
        shape, shown = None, -PICTURE
        if careful:
            chosen = tuple(more_careful(s) for s in chosen)
        for state in settle(
            job.curves,
            chosen,
            stretch=job.stretch,
            by=by,
            stop=stop,
            tails=tails_of(job),
            knots_first=job.knots_first,
        ):
            if state.clear <= 0 and not careful:
                break
            grows = float(state.rope.cord_lengths().sum()) > RUNAWAY * cord_in(job.curves)
            work, shape = state.steps * len(state.rope.x), None
            if work - shown >= PICTURE or grows:
                shape, shown = _on_the_way(job, state, soft), work
                yield shape
            if grows:
                # It grows instead of being drawn up. Ends that lie side by side, but not as far along, may draw cord along each other
                # without end; else nothing comes of it.
                if job.curves.bonds and not job.curves.bonds_slide:
                    slides = replace(job, curves=replace(job.curves, bonds_slide=True))
                    yield from _pulled(slides, stages=stages, by=by, stop=stop)
                return
        else:
            if shape is None:
                shape = _on_the_way(job, state, soft)
                yield shape
            if soft and not shape.passed and not stop():
                if shape.amiss and job.otherwise is not None:
                    return  # what rigid cord did wrong soft cord does too: it is drawn up the other way
                yield from _giving(job, state, by, stop)
            return


def _on_the_way(job: Job, state: State, soft: bool) -> TightShape:
    """The shape of rigid cord. soft : of cord that gives way it is not the answer, as loose as it is."""
    shape = shape_of(job, state)
    return replace(shape, converged=False) if soft else shape


def _giving(job: Job, state: State, by: ModuleType | None, stop: Callable[[], bool]) -> Iterator[TightShape]:
    """From rigid cord that is nearly at rest to cord that gives way: at once, or where that would not hold, harder at first."""
    soft = softly(job, state.rope.angle != 0)
    best = softest = None
    # Rows of hitches creep along their runners with hardly any energy, and rest wherever they come from: all are let out a little
    # once they lie, and drawn up anew.
    rows = bool(job.curves.held) and job.curves.repeats
    for softer in SOFTER:
        last = state
        ways = (*softer, softer[-1]) if rows else softer
        for n, times in enumerate(ways):
            stage = replace(soft, soft=times) if len(softer) == 1 else more_careful(replace(soft, soft=times))
            before, begin = float(last.rope.cord_lengths().sum()), respaced(last.rope, stage.step)
            if rows and n == len(softer):
                begin, stage = let_out(begin, LET_OUT, along=0), replace(stage, creeps=CREEPS)
            if state.rope.angle and max(job.curves.pull) <= 1.0:
                # Half knots round nothing that turn: each is drawn out another way, and none of that stays.
                begin.curves = replace(begin.curves, apart=())
            for last in settle(
                job.curves, (stage,), stretch=job.stretch, by=by, begin=begin, stop=stop, tails=tails_of(job)
            ):
                if last.clear <= 0 or float(last.rope.cord_lengths().sum()) < LEAST_CORD * before:
                    break  # it would come through itself
            else:
                if stop():
                    return
                best, final = shape_of(job, last, times), n == len(ways) - 1
                softest = best if final else softest
                # Cord that is still too hard may lie as it never does in the end.
                on = best.converged if final else last.rest and not best.passed
                yield replace(best, converged=best.converged and final)
                if on:
                    continue
            break
        if softest is not None and softest.converged:
            return
    if softest is not None and softest is not best:
        yield softest  # nearer to what comes off the table than cord that hardly gives


def tighten(
    weave: Weave, section: str, *, core_mm: float = 0.0, stop: Callable[[], bool] = lambda: False
) -> Iterator[TightShape]:
    """Shapes of a section, tighter and tighter; at once the last one where it was worked out before.

    Raises InputError where it cannot be made, or comes undone.
    """
    job = job_for(weave, section, core_mm)
    name = key(job)
    refused = f"{name}-refused"
    found = kept(job) or known(refused)
    if found is None:
        for shape in elsewhere(pulled, job, stop=stop):
            found = shape
            yield shape
        # What does not come to rest, or comes undone, would do so the next time.
        if found is not None and (found.converged or not stop()):
            keep(refused if why_not(job, found) else name, found)
    else:
        yield found
    if found is not None and (why := why_not(job, found)):
        raise InputError(why, GUESSED)


def why_not(job: Job, shape: TightShape) -> str:
    """Why a shape is no answer at all; empty where it is one."""
    if shape.kind != "closed" and shape.pitch < LEAST_PITCH:
        return UNDONE
    if not shape.converged and sum(shape.per_end.values()) > cord_in(job.curves):
        return "it does not come to rest as it is drawn up"
    return ""


def job_for(weave: Weave, section: str, core_mm: float = 0.0) -> Job:
    """What to pull tight. core_mm : diameter of a round former. Raises InputError where it cannot be made."""
    job = made(weave, section, core_mm, tight)
    if job.kind == "cell" and not (job.lies or job.parts) and (one := singly(weave, section)) is not None:
        with suppress(InputError):
            return replace(job, single=made(one, section, core_mm, tight))
    return job


def tight(weave: Weave, section: str, core_mm: float = 0.0) -> TightShape:
    """The tight shape of a section; waits for the compiler where it was never needed before."""
    if not is_on():
        ready(wait=True)
    *_, last = tighten(weave, section, core_mm=core_mm)
    return last


def shape_of(job: Job, state: State, soft: float = 0.0) -> TightShape:
    """A state of the rope, measured. soft : as of its stage."""
    r = faced(state.rope) if job.kind in ("knot", "cell") else state.rope
    if job.kind == "cell" and not (job.standing or len(r.held)):
        r = brought_beside(r)
    p = between(r, engine(), times=soft)
    if job.kind in ("knot", "cell") and not r.angle:
        r = measure.gathered(r, p)
    lies = r  # as it was pulled, whatever is called the begin of a unit
    if job.kind == "cell" and not job.standing and (cut := recut(r)) is not None:
        r, p = cut, between(cut, engine(), times=soft)
    lengths, lines, stands = r.strand_lengths(), r.strands(), job.standing
    deep = measure.overlap(r, p)
    wide, thick = measure.size(r, p)
    pitch = r.pitch
    if job.kind == "held":
        top, foot = measure.worked(r, p)
        pitch = foot - top
        reach = r.x[r.first[1:] - 1, 1] - r.x[r.first[:-1], 1]
        lengths = lengths - reach + pitch
        if job.among is not None:
            top = drawn_together(lines, lengths, measure.worked_at(r, p), top)
            pitch = foot - top
            wide, thick = job.among.width, job.among.thickness
        let_go(r, p, lines, lengths, top, foot)
        stands += joined(lines, lengths, job.loops, job.tips)
        # However far apart its tails are held, it is shown as far as it is worked.
        whole, lines = lines, measure.cut_off(lines, top - TAIL, foot + TAIL)
        stands = tuple(
            s._replace(part=measure.part_left(whole[s.strand], lines[s.strand], s.part)) for s in stands
        )
        for k, ((came, dropped), at) in enumerate(zip(job.loose, measure.met(r, p), strict=False)):
            # Its tail behind the work is not of the work; one that presses on nothing takes nothing of it.
            if not (came or dropped):
                continue
            if np.isnan(at).any() or job.idle[k]:
                lengths[k] = 0.0
            else:
                lengths[k] -= (came and at[0] > top) * (at[0] - top) + (dropped and at[1] < foot) * (
                    foot - at[1]
                )
    elif job.kind == "closed":
        pitch = float(np.ptp(r.x[:, 1]) + 1.0)
    elif (
        job.kind == "knot"
    ):  # of each what it takes more than straight down: all are tied once, none goes on in another
        strands = r.strands()
        lengths = lengths + pitch - np.array([x[-1, 1] - x[0, 1] for x in strands])
    else:
        for orbit in orbits(job.curves.follow):
            lengths[orbit] = lengths[orbit].mean()
    per_end: dict[str, float] = {}
    many = len(job.ends)  # what is held in a loop is two strands of one cord
    for e, length in zip(job.ends, lengths[:many], strict=True):
        both = e.split("+")
        for part in both:
            per_end[part] = per_end.get(part, 0.0) + float(length) / len(both)
    lean = ""
    if job.among is not None:
        pitch, own = own_part(job.among, pitch, tuple(per_end.values()))
        lean = unlike(lines, job.among, own)
        pitch = max(pitch, LEAST_PITCH)
        per_end = {e: max(0.0, v) for e, v in zip(per_end, own, strict=True)}
    passed = state.clear <= 0
    once = job.kind == "knot"
    beads, long = list(job.beads), r.strand_lengths()
    for b, (mine, at) in zip(r.threaded(), in_own_unit(r), strict=True):
        strand, along = (mine, _tailed_part(at, long[mine])) if once else (b.strand, b.part)
        strand, along = in_one((strand, along), job.loops, long)
        if job.kind == "held":
            along = measure.part_left(whole[strand], lines[strand], along)
        beads[b.number] = strand, along, *job.beads[b.number][2:]
    wrong = lean or amiss(job, lies, per_end, float(pitch))
    return TightShape(
        "held" if once else job.kind, job.ends, float(pitch), r.angle, wide, thick, per_end, deep, state.deepest, passed,
        state.rest and deep < TURN_OUT and not passed and not wrong, state.steps, tuple(tailed(r)) if once else tuple(lines[:many]),
        tuple(-1 for _ in job.ends) if once else job.curves.follow[:many],
        job.curves.diameter[:many], pressing(measure.touches(r, p), job.loops), job.unit_mm, tuple(beads), job.period, wrong,
        () if job.loops else r.straight(), job.curves.spread[:many],
        tuple(s._replace(part=_tailed_part(s.part, long[s.strand])) if once else s for s in stands), free=job.free,
        cells=job.among.cells if job.among is not None else 0,
    )  # fmt: skip


def tailed(r: Rope) -> list[Array]:
    """The strands of one unit by themselves, each going on in a straight tail above and below."""
    out = []
    for line in r.strands()[: len(r.curves.strands)]:
        down = np.array([0.0, TAIL, 0.0])
        out.append(np.vstack([line[:1] - down, line, line[-1:] + down]))
    return out


def _tailed_part(part: float, long: float) -> float:
    """How far along it a place is, once a strand has its tails. long : without them."""
    return float((TAIL + part * long) / (long + 2 * TAIL))


def rope_of(job: Job, shape: TightShape) -> Rope:
    """The rope of a shape that is known, to go on from."""
    step = float(np.mean([np.linalg.norm(np.diff(s, axis=0), axis=1).mean() for s in shape.lines]))
    beads = tuple(
        b._replace(strand=shape.beads[b.number][0], part=shape.beads[b.number][1], grown=b.radius)
        for b in job.curves.beads
    )
    curves = replace(job.curves, strands=shape.lines, held=shape.held, beads=beads)
    return rope(curves, step, shape.pitch, shape.angle)
