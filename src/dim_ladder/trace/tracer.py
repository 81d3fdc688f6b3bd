"""Weave to Trace, incrementally: what is unchanged at the front is kept, so a new step costs a step."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from dim_ladder.base import Cancelled, InputError, Problem
from dim_ladder.base.budget import ASK_EVERY
from dim_ladder.notation import Call, Item, Parsed, Weave, working_ends
from dim_ladder.trace.builder import Builder, BuilderMark, StepError
from dim_ladder.trace.expand import Op, Path, Program, Rehang, expand, under_layer
from dim_ladder.trace.solved import solve_knot
from dim_ladder.trace.value import Trace


@dataclass
class _Begun:
    """An operation that is being carried out. going : its steps, one by one."""

    op: Op
    mark: BuilderMark
    going: Iterator[None]


class Tracer:
    """Keeps the drawing of the last weave and redraws only from the first difference. Not for several threads."""

    def __init__(self) -> None:
        self._builder: Builder | None = None
        self._ends: tuple[str, ...] = ()
        self._ops: list[Op] = []
        self._marks: list[BuilderMark] = []
        self._begun: _Begun | None = None  # an operation in the midst of which the last call was told to stop
        self._unrolled: tuple[Weave, tuple[object, ...], Program] | None = None
        self.progress = (0, 0)  # steps drawn, of all those of the last call

    def trace(
        self,
        weave: Weave,
        *,
        section: str | None = None,
        units: int | None = None,
        counts: dict[str, int] | None = None,
        draft: tuple[int, Item] | None = None,
        parsed: Parsed | None = None,
        cancel: Callable[[], bool] | None = None,
    ) -> Trace:
        """Trace a weave, or one section of it from the order of tails that the sections above leave.

        units : how often sections that fit to size are worked (default 1). draft : a step or knot not yet recorded, with
        its section, tried after everything else. parsed : where the parts stand in a script, for places in problems.
        cancel : asked every few steps whether to stop. Raises InputError for an unknown section and Cancelled when
        told to stop, with what is drawn by then kept for the next call; what is wrong with steps is told in
        Trace.problems.
        """
        only = None
        ends = weave.hang.ends
        if section is not None:
            only = next((i for i, s in enumerate(weave.sections) if s.name == section), None)
            if only is None:
                known = ", ".join(s.name for s in weave.sections) or "none"
                raise InputError(f"there is no section “{section}”", f"Sections here: {known}")
            ends = self._ends_of(weave, only, units)
        program = self._expand(weave, only, units, counts)
        ops = list(program.ops)
        if only is not None and ops and isinstance(ops[0].value, Rehang):
            ops = ops[1:]  # it hangs that way from the start
        if draft is not None:
            cords = frozenset(c.name for c in weave.cords)
            knot = solve_knot(weave, draft[1].knot) if isinstance(draft[1], Call) else None
            ops.append(Op(draft[0], 0, -1, draft[1], knot, cords=cords))
        problems = [_placed(weave, problem, path, parsed) for path, problem in program.problems]
        builder = self._rewind(ends, ops)
        kept = len(self._ops)
        done, work = 0, builder.work
        for n in range(kept, len(ops)):
            op = ops[n]
            begun = self._begun or _Begun(op, builder.mark(), builder.steps_of(op))
            self._begun = None
            try:
                for _ in begun.going:
                    done += 1
                    # A call always gets further, however soon it is told to stop; a heavy step is asked after at once.
                    if cancel is not None and (done >= 64 or builder.work > work + ASK_EVERY) and cancel():
                        self._begun, self.progress = begun, (n, len(ops))
                        raise Cancelled
                    if done >= 64:
                        done, work = 0, builder.work
            except StepError as e:
                builder.back_to(begun.mark)
                problem = Problem(e.message, e.hint, step=len(builder.steps))
                problems.append(_placed(weave, problem, op.path, parsed))
                break
            self._ops.append(op)
            self._marks.append(begun.mark)
        self.progress = (len(ops), len(ops))
        return snapshot(weave, builder, tuple(problems))

    def so_far(self, weave: Weave, problem: Problem) -> Trace:
        """What was drawn when the last call was cancelled, with a problem that says so."""
        assert self._builder is not None
        return snapshot(weave, self._builder, (problem,))

    @staticmethod
    def _ends_of(weave: Weave, only: int, units: int | None) -> tuple[str, ...]:
        """The tails a section begins with: those the sections above leave, hung anew where it is a layer."""
        section = weave.sections[only]
        stop = next((i for i, s in enumerate(weave.sections) if s.name == section.on), only)
        if not stop:
            return weave.hang.ends
        ends = _left_by(weave, stop, units)
        return under_layer(ends, section.over) if section.over else ends

    def _expand(
        self, weave: Weave, only: int | None, units: int | None, counts: dict[str, int] | None
    ) -> Program:
        """Unroll, or take what was unrolled when the very same weave is asked for again with another draft."""
        key = (only, units, counts)
        kept = self._unrolled
        if kept is None or kept[0] is not weave or kept[1] != key:
            kept = (weave, key, expand(weave, only=only, units=units, counts=counts))
            self._unrolled = kept
        return kept[2]

    def _rewind(self, ends: tuple[str, ...], ops: list[Op]) -> Builder:
        if self._builder is None or self._ends != ends:
            self._builder, self._ops, self._marks, self._ends = Builder(ends), [], [], ends
            self._begun = None
            return self._builder
        old = self._ops
        same = 0
        for a, b in zip(old, ops, strict=False):
            if a is not b and a != b:
                break
            same += 1
        begun = self._begun
        if begun is not None and (same < len(old) or same == len(ops) or ops[same] != begun.op):
            self._builder.back_to(begun.mark)
            self._begun = None
        if same < len(old):
            self._builder.back_to(self._marks[same])
            del self._ops[same:]
            del self._marks[same:]
        return self._builder


def _left_by(weave: Weave, stop: int, units: int | None) -> tuple[str, ...]:
    """Tails as the sections before `stop` leave them. Section after section asks: each goes on from where the last left
    off."""
    known: Tracer | None = getattr(_here, "tracer", None)
    if known is None:
        known = _here.tracer = Tracer()
    before = replace(weave, sections=weave.sections[:stop])
    ends = known.trace(before, units=units).names_shown()
    if len(known._ops) > KEPT_OPS:
        del _here.tracer  # nothing large is held on to
    return ends


_here = threading.local()
KEPT_OPS = 2000


def trace(
    weave: Weave,
    *,
    section: str | None = None,
    units: int | None = None,
    counts: dict[str, int] | None = None,
    parsed: Parsed | None = None,
) -> Trace:
    """Trace once. See Tracer.trace. The last few are kept: checks, roles and sheets ask for the same ones."""
    if parsed is not None or counts is not None:
        return Tracer().trace(weave, section=section, units=units, counts=counts, parsed=parsed)
    for known, key, found in tuple(_kept):
        if known is weave and key == (section, units):
            return found
    found = Tracer().trace(weave, section=section, units=units)
    _kept.append((weave, (section, units), found))
    return found


_kept: deque[tuple[Weave, tuple[str | None, int | None], Trace]] = deque(maxlen=8)


def _placed(weave: Weave, problem: Problem, path: Path, parsed: Parsed | None) -> Problem:
    line, column = (parsed.where.get(path) or parsed.where.get(path[:2]) or (0, 0)) if parsed else (0, 0)
    _, section, *item = path
    place = weave.sections[int(str(section))].name
    if item and int(str(item[0])) >= 0:
        place += f", step {int(str(item[0])) + 1}"
    return replace(problem, line=line, column=column, place=place)


def snapshot(weave: Weave, b: Builder, problems: tuple[Problem, ...]) -> Trace:
    d = b.d
    known = {e: i for i, e in enumerate(working_ends(weave))}
    return Trace(
        weave=weave,
        ends=tuple(b.names),
        steps=tuple(b.steps),
        crossings=tuple(d.crossings),
        paths=tuple(map(tuple, d.paths)),
        lane_rank=tuple(d.lanes.ranks()),
        row_rank=tuple(d.rows.ranks()),
        order=tuple(d.order),
        problems=problems,
        tops=tuple(d.top[p[0]] for p in d.paths),
        tips=tuple(d.tips),
        folds=tuple(d.folds),
        hung=b.hung,
        bends=tuple(d.bends),
        numbers=tuple(known.get(n, -1) for n in b.names),
    )
