"""Shapes for the command line: one section, or every body of a library of weaves."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from dim_ladder.base import DimLadderError, InputError
from dim_ladder.cli.opening import opened
from dim_ladder.notation import Weave
from dim_ladder.scale import Plan
from dim_ladder.scale.girth import former_mm
from dim_ladder.shape import rough_shape, tight
from dim_ladder.trace import trace

Answer = dict[str, Any]
SUFFIXES = (".weave", ".dimladder")


def shape_answer(weave: Weave, section: str | None, plan: Plan, former: float | None = None) -> Answer:
    """Size in cord diameters of one unit of a section. former : diameter in mm of what it lies on; by default that of the planned
    size. Raises InputError where the weave has problems or no such section."""
    start = time.perf_counter()
    problems = trace(weave).problems
    if problems:
        raise InputError(str(problems[0]), "Run check on it")
    name = section or next((s.name for s in weave.sections if s.kind == "body"), "")
    rough = rough_shape(weave)
    found = rough.section(name)
    own = weave.section(name)
    across = former if former is not None else former_mm(plan, own) if own is not None else 0.0
    try:
        s = tight(weave, name, across)
    except InputError as e:
        why = str(e)
    else:
        of = s.period  # where every other unit is worked otherwise, two of them were pulled tight
        return {
            "pitch": s.pitch / of, "width": s.width, "thickness": s.thickness, "twist_deg": s.twist_deg / of,
            "per_end": {e: v / of for e, v in s.per_end.items()}, "overlap": s.overlap, "converged": s.converged, "kind": s.kind,
            "steps": s.steps, "deepest": s.deepest, "why": "" if s.converged else s.amiss or "it is not at rest yet",
            "rests": {"pitch": s.rests[0], "cord": s.rests[1]}, "spread": rough.spread, "seconds": time.perf_counter() - start,
        }  # fmt: skip
    if found is None:
        raise InputError(
            f"there is no section “{name}” with crossings", ", ".join(s.name for s in rough.sections)
        )
    return {
        "pitch": found.pitch, "width": rough.width, "thickness": rough.thickness, "twist_deg": None,
        "per_end": dict(found.per_end),
        "overlap": None, "converged": False, "kind": "rough", "why": why,
        "spread": rough.spread, "seconds": time.perf_counter() - start,
    }  # fmt: skip


def shape_batch(paths: Sequence[Path], jobs: int, say: Callable[[str], None]) -> tuple[list[Answer], bool]:
    """Every body of every weave in these files and folders; and whether any file could not be read. say : progress.

    One after the other, or several at a time by joblib, whose own settings name another backend than this machine.
    """
    files: list[Path] = []
    for p in paths:
        files += sorted(f for f in p.iterdir() if f.suffix in SUFFIXES) if p.is_dir() else [p]
    if not files:
        raise InputError("there is no weave here", "Name files or folders with .weave or .dimladder files")
    from joblib import Parallel, delayed

    answers: list[Answer] = []
    failed = False
    work = Parallel(n_jobs=jobs, return_as="generator")(delayed(_bodies)(str(f)) for f in files)
    for done, found in enumerate(work, 1):
        say(f"{done} of {len(files)}  {found[0]['file']}" if found else f"{done} of {len(files)}")
        answers += found
        failed = failed or any(a["failed"] for a in found)
    return answers, failed


def _bodies(path: str) -> list[Answer]:
    """The answers for one file; what is wrong with it stands in them."""
    nothing: Answer = {
        "file": path,
        "section": "",
        "failed": True,
        "pitch": None,
        "width": None,
        "twist_deg": None,
    }
    try:
        document = opened(Path(path))
        weave = document.weave
        bodies = [s.name for s in weave.sections if s.kind == "body"]
        return [
            {"file": path, "section": b, "failed": False, **_one(weave, b, document.plan)} for b in bodies
        ]
    except DimLadderError as e:
        return [{**nothing, "why": str(e)}]


def _one(weave: Weave, section: str, plan: Plan) -> Answer:
    try:
        return shape_answer(weave, section, plan)
    except InputError as e:
        return {"pitch": None, "width": None, "twist_deg": None, "converged": False, "why": str(e)}
