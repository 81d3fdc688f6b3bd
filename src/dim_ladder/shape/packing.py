"""How much cord a looser or tighter packing takes: cord per unit against pitch."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from dim_ladder.base import DimLadderError
from dim_ladder.base.disk import make_folder, read_text, write_whole
from dim_ladder.shape.cache import MOST_BYTES, folder, key
from dim_ladder.shape.helper import elsewhere
from dim_ladder.shape.relax import Stage, settle
from dim_ladder.shape.several import alone
from dim_ladder.shape.tighten import rope_of, shape_of
from dim_ladder.shape.value import Job, TightShape

# Of the natural pitch, in the order in which they are settled: from it upwards, then from it down.
STEPS = ((1.0, 1.08, 1.18, 1.32, 1.5, 1.75), (1.0, 0.96, 0.92, 0.88))
HELD = Stage(0.25, 60.0, 3e-5, most=4000)


@dataclass(frozen=True, slots=True)
class Packed:
    """In diameters: pitch of a unit, width, cord that each end takes in it; overlap : how deep cords then lie in each
    other, which says how hard it is to pack so tightly."""

    pitch: float
    width: float
    per_end: dict[str, float]
    overlap: float

    @property
    def cord(self) -> float:
        """All ends together."""
        return sum(self.per_end.values())


def packing(
    job: Job, shape: TightShape, stop: Callable[[], bool] = lambda: False
) -> Iterator[tuple[Packed, ...]]:
    """What is known so far, by pitch, after each further one; of a cell that repeats. Kept on disk like shapes."""
    if job.kind != "cell":
        return
    name = key(job)
    kept = _known(name)
    if kept:
        yield kept
        return
    out: tuple[Packed, ...] = ()
    for out in elsewhere(packed, job, shape, stop=stop):
        yield out
    if len(out) == sum(map(len, STEPS)) - 1:
        _keep(name, out)


def packed(job: Job, shape: TightShape, *, stop: Callable[[], bool]) -> Iterator[tuple[Packed, ...]]:
    """As `packing`, worked out."""
    if job.rows:
        return  # its knots stand apart: there is nothing to pack
    if job.parts:
        each = [packed(own, its, stop=stop) for own, its in alone(job, shape)]
        for curves in zip(*each, strict=False):
            yield tuple(_together(points, shape, job) for points in zip(*curves, strict=False))
        return
    out: list[Packed] = []
    soft = float(any(job.curves.give))
    stage = replace(HELD, soft=soft)
    for way in STEPS:
        r = rope_of(job, shape)
        for part in way:
            states = list(settle(job.curves, (stage,), hold=shape.pitch * part, begin=r, stop=stop))
            if not states or stop():
                return
            state = states[-1]
            r = state.rope
            found = shape_of(job, state, soft)
            if part != 1.0 or way is STEPS[0]:
                out.append(Packed(found.pitch, found.width, found.per_end, found.overlap))
                out.sort(key=lambda p: p.pitch)
                yield tuple(out)


def _together(points: Sequence[Packed], shape: TightShape, job: Job) -> Packed:
    """Works that hang beside each other, all packed alike."""
    pitch = max(p.pitch for p in points)
    per_end = dict.fromkeys(shape.per_end, pitch)  # what hangs straight beside them
    for p in points:
        per_end |= p.per_end
    idle = sum(d for k, d in enumerate(job.curves.diameter) if job.idle[k])
    return Packed(pitch, sum(p.width for p in points) + idle, per_end, max(p.overlap for p in points))


def _known(name: str) -> tuple[Packed, ...]:
    try:
        data = json.loads(read_text(folder() / f"{name}.json", MOST_BYTES))
        return tuple(Packed(**p) for p in data)
    except (DimLadderError, ValueError, TypeError):
        return ()


def _keep(name: str, curve: tuple[Packed, ...]) -> None:
    text = json.dumps(
        [{"pitch": p.pitch, "width": p.width, "per_end": p.per_end, "overlap": p.overlap} for p in curve]
    )
    with contextlib.suppress(DimLadderError):  # worked out again the next time
        make_folder(folder())
        write_whole(folder() / f"{name}.json", text)
