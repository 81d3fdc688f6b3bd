"""Tight shapes on disk, by all that they are made from: an unchanged weave opens with its picture."""

from __future__ import annotations

import contextlib
import hashlib
import io
import json
import os
import zipfile
from dataclasses import fields, replace
from pathlib import Path

import numpy as np
import platformdirs

from dim_ladder.base import DimLadderError
from dim_ladder.base.disk import make_folder, read_whole, write_whole
from dim_ladder.shape.rope import Held
from dim_ladder.shape.value import Job, Place, Standing, TightShape

ENGINE = 94
MOST = 400  # files; the oldest go
MOST_BYTES = 200_000_000  # of one


def folder() -> Path:
    """Where shapes are kept: in DIM_LADDER_CACHE, else in the user's folder for what can be made again."""
    own = os.environ.get("DIM_LADDER_CACHE")
    return (Path(own) if own else platformdirs.user_cache_path("dim-ladder")) / "shapes"


def compiled() -> Path:
    """Where compiled loops are kept: by what they were compiled from, as constants of other files are compiled into them."""
    h = hashlib.sha256()
    for name in ("fast.py", "fastforces.py", "pull.py", "contact.py", "apart.py"):
        h.update(Path(__file__).with_name(name).read_bytes())
    own = os.environ.get("NUMBA_CACHE_DIR")
    into = Path(own) if own else platformdirs.user_cache_path("dim-ladder") / "compiled"
    version = h.hexdigest()[:16]
    return into if into.name == version else into / version


def key(job: Job) -> str:
    """A name for all that a shape is made from: not how much cord is free between its knots, which is drawn beside it."""
    c = job.curves
    h = hashlib.sha256()
    about = [
        ENGINE,
        job.kind,
        job.ends,
        job.stretch,
        job.unit_mm,
        job.beads,
        job.loose,
        job.period,
        job.idle,
        job.standing,
        job.loops,
        job.tips,
        job.otherwise is not None,
        job.also is not None,
        job.lies,
        job.among,
        job.hitched,
        job.twins,
        key(job.single) if job.single is not None else None,
        c.follow,
        c.pitch,
        c.diameter,
        c.pull,
        c.bonds,
        c.bonds_slide,
        c.heap,
        c.core,
        c.press,
        c.flat,
        c.laid,
        c.alike,
        c.give,
        c.soft,
        c.apart,
        c.held,
        c.tauter,
        c.beads,
        c.beside,
        c.spread,
        c.stacked,
        c.aside,
        c.in_line,
        c.near,
        [(key(j), j.times) for j in job.rows],
        [(p.strands, key(p.job)) for p in job.parts],
    ]
    h.update(json.dumps(about).encode())
    for s in c.strands:
        h.update(np.ascontiguousarray(np.round(s, 9)).tobytes())
    return h.hexdigest()


def kept(job: Job) -> TightShape | None:
    """The shape of a job, where it was pulled tight before; with the free cord that there is now, which is no matter of it."""
    found = known(key(job))
    return None if found is None else replace(found, free=job.free)


def known(name: str) -> TightShape | None:
    """The shape of that name; None where it was not kept or cannot be read."""
    path = folder() / f"{name}.npz"
    try:
        with np.load(io.BytesIO(read_whole(path, MOST_BYTES)), allow_pickle=False) as held:
            about = json.loads(str(held["about"]))
            lines = tuple(np.asarray(held[f"line{k}"], np.float64) for k in range(about.pop("many")))
        for name_ in ("ends", "follow", "diameter", "spread", "free", "rests"):
            about[name_] = tuple(about[name_])
        about["touching"] = tuple((int(a), int(b), float(x)) for a, b, x in about["touching"])
        about["held"] = tuple(Held(*h) for h in about["held"])
        about["places"] = tuple(Place(*p) for p in about["places"])
        about["seams"] = tuple(tuple(int(n) for n in of) for of in about["seams"])
        about["standing"] = tuple(Standing(*s) for s in about["standing"])
        about["beads"] = tuple((int(k), float(at), str(n), int(b)) for k, at, n, b in about["beads"])
        return TightShape(lines=lines, **about)
    except (DimLadderError, OSError, ValueError, KeyError, TypeError, zipfile.BadZipFile, EOFError):
        return None


def keep(name: str, shape: TightShape) -> None:
    """Keep a shape; where that cannot be done it is worked out again the next time, and nothing else is amiss."""
    about = {f.name: getattr(shape, f.name) for f in fields(shape) if f.name != "lines"}
    about["many"] = len(shape.lines)
    into = folder()
    out = io.BytesIO()
    arrays = {f"line{k}": s for k, s in enumerate(shape.lines)}
    np.savez_compressed(out, allow_pickle=False, about=np.array(json.dumps(about)), **arrays)
    with contextlib.suppress(OSError, DimLadderError):
        make_folder(into)
        write_whole(into / f"{name}.npz", out.getvalue())
        kept = sorted(into.glob("*.npz"), key=lambda p: p.stat().st_mtime)
        for old in kept[:-MOST]:
            old.unlink(missing_ok=True)
