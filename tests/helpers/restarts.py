"""The same work begun from another loose shape: what comes out must not depend on where it began."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.library import library_knots
from dim_ladder.notation import Weave
from dim_ladder.shape.tighten import job_for
from dim_ladder.shape.value import Job
from helpers.weaves import weave_of

# Rows of double hitches, where hands hold a runner and nothing but that says at what angle: on eight ends.
_OUT = ("double-hitch-left (each 3..1 | 4)", "double-hitch-right (5 | each 6..8)")
_IN = ("double-hitch-right (1 | each 2..4)", "double-hitch-left (each 7..5 | 8)")
_CROSS = ("double-hitch-right (4 | 5)",)
ROWS = {
    "row": ("double-hitch-right (1 | each 2..8)",),
    "chevron": (*_IN, *_CROSS),
    "diamond": (*_OUT, *_IN, *_CROSS),
    "diamond about a square": (*_OUT, "square (3 | 4 5 | 6)", *_IN, *_CROSS),
}


def begun_elsewhere(job: Job, seed: int = 5) -> Job:
    """Wider, flatter, deeper, at another pitch, and shaken; of work that is drawn up in parts each of them."""
    if job.rows or job.parts:
        rows = tuple(begun_elsewhere(r, seed + k) for k, r in enumerate(job.rows))
        parts = tuple(p._replace(job=begun_elsewhere(p.job, seed + k)) for k, p in enumerate(job.parts))
        return replace(job, rows=rows, parts=parts)
    if job.kind == "beads":  # hung, and not drawn up
        return job
    c = job.curves
    rng = np.random.default_rng(seed)
    moved = [s * np.array([1.15, 0.9 if c.repeats else 1.0, 1.2]) for s in c.strands]
    for s, as_held, follow in zip(moved, c.strands, c.follow, strict=True):
        s[1:-1] += rng.normal(0, 0.02, s[1:-1].shape)
        if follow == -1:  # where its ends are held is part of the work
            s[[0, -1]] = as_held[[0, -1]]
    pitch = c.pitch * 0.9
    # What goes on in the next unit begins there where the last one ended.
    strands = tuple(
        np.vstack([s[:-1], moved[f][:1] + np.array([0, pitch, 0])])
        if f >= 0
        else np.vstack([s[:-1], s[:1]])
        if f == -2
        else s
        for s, f in zip(moved, c.follow, strict=True)
    )
    # What is drawn up from two beginnings begins twice elsewhere.
    also = begun_elsewhere(job.also, seed + 1) if job.also is not None else None
    return replace(job, curves=replace(c, strands=strands, pitch=pitch), also=also)


def row_works(kind: str) -> dict[str, Weave]:
    """Rows, chevrons and lattices in one kind of cord."""
    works = {name: weave_of(8, *steps) for name, steps in ROWS.items()}
    return {
        name: replace(w, cords=tuple(replace(c, kind=kind) for c in w.cords)) for name, w in works.items()
    }


def library_works() -> dict[str, Weave]:
    """Every knot that ships, as a body of its own where it can be one."""
    out = {}
    for knot in library_knots():
        places = " | ".join(str(k + 1) for k in range(len(knot.params)))
        weave = weave_of(len(knot.params), f"{knot.name} ({places})")
        try:
            job_for(weave, "s")
        except InputError:
            continue
        out[knot.name] = weave
    return out
