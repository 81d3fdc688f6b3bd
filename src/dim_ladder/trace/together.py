"""A knot tied with ends that move side by side as one: it is tied with single ends too, beside the drawing, and every step does
what that one does.

Where the loop of several ends is passed, one of theirs lies within the others, and which depends on how they turned; falling at
once, an end may come down between two of them. Each way is tried, and the first is kept that leaves the ends in the same order and
turns each about each, and about itself, as the single ends do. Where none does, it is refused in words.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any, Protocol, TypeVar

from dim_ladder.notation import Step, Through, To
from dim_ladder.trace.drawing import Drawing, StepError
from dim_ladder.trace.expand import AsOne, Op
from dim_ladder.trace.value import StepRecord

Ends = dict[str, tuple[int, ...]]


class Tying(Protocol):
    """What ties: the builder."""

    names: list[str]
    number: dict[str, int]
    d: Drawing
    steps: list[StepRecord]
    turned: bool
    beside: int

    def __init__(self, ends: tuple[str, ...]) -> None: ...
    def move(self, op: Op, step: Step, ends: Ends | None, knot_step: int) -> None: ...
    def mark(self) -> Any: ...
    def back_to(self, mark: Any) -> None: ...


B = TypeVar("B", bound=Tying)


def single(b: B, binding: Mapping[str, tuple[str, ...]]) -> B | None:
    """A drawing for the same knot tied with single ends; None where no two of its ends move as one."""
    if not any(isinstance(v, AsOne) for v in binding.values()):
        return None
    led = {e for v in binding.values() for e in (v[:1] if isinstance(v, AsOne) else v)}
    model = type(b)(tuple(b.names[e] for e in b.d.order if b.names[e] in led))
    model.turned = b.turned
    return model


def as_one(b: Tying, model: Tying, op: Op, step: Step, ends: Ends, knot_step: int) -> None:
    """Make one step of a knot. model : as `single` gave it, with the steps before this one. Raises StepError."""
    led = {e: model.number[b.names[v[0] if isinstance(v, AsOne) else e]] for v in ends.values() for e in v}
    model.move(op, step, {k: tuple(dict.fromkeys(led[e] for e in v)) for k, v in ends.items()}, knot_step)
    mark = b.mark()
    many = max((len(v) for v in ends.values() if isinstance(v, AsOne)), default=1)
    for k, tried in ((k, s) for s in (step, _resting(b, model, step, ends, led)) for k in range(many)):
        b.beside = k
        b.move(op, tried, ends, knot_step)
        if _same(b, model, led):
            return
        b.back_to(mark)
    raise StepError("these ends cannot be passed together", "Pass them one after the other")


def _resting(b: Tying, model: Tying, step: Step, ends: Ends, led: dict[int, int]) -> Step:
    """The step with its place of rest said: where the single end rests, among the knot's own ends."""
    if not step.hops or not isinstance(step.hops[-1], Through) or step.hops[-1].bight:
        return step
    movers = ends[str(step.end)]
    after = model.d.order
    left = set(after[: after.index(led[movers[0]])])
    rest = [e for e in b.d.order if e in led and e != movers[0]]
    place = 1 + max((i + 1 for i, e in enumerate(rest) if e not in movers and led[e] in left), default=0)
    return replace(step, hops=(*step.hops, To(len(rest) + 2 - place if b.turned else place)))


def _same(b: Tying, model: Tying, led: dict[int, int]) -> bool:
    """Whether the last step leaves ends in the order of the single ones, and turns each about each as there."""
    order = [led[e] for e in b.d.order if e in led]
    if [n for i, n in enumerate(order) if not i or order[i - 1] != n] != model.d.order:
        return False
    here, there = _turns(b.d, b.steps[-1]), _turns(model.d, model.steps[-1])
    return all(
        here.get((min(a, e), max(a, e)), 0) == there.get((min(led[a], led[e]), max(led[a], led[e])), 0)
        for a in b.steps[-1].ends
        for e in led
        if led[a] != led[e] or a == e
    )


def _turns(d: Drawing, step: StepRecord) -> dict[tuple[int, int], int]:
    """How often a step turns every two ends about each other, and each about itself, signed, in half turns."""
    out: dict[tuple[int, int], int] = {}
    for c in d.crossings[step.start : step.stop]:
        pair = min(c.lane_end, c.row_end), max(c.lane_end, c.row_end)
        sign = _heads(d, c.row_end, c.row, True) * _heads(d, c.lane_end, c.lane, False)
        out[pair] = out.get(pair, 0) + (sign if c.lane_over else -sign)
    return out


def _heads(d: Drawing, end: int, piece: int, row: bool) -> int:
    """Which way a piece of an end's path goes: 1 to the right or down."""
    path = d.paths[end]
    i = next(k for k in range(int(row), len(path), 2) if path[k] == piece)
    if not i or i + 1 == len(path):
        return 1  # it comes from the bar, or hangs
    key = d.lanes.key if row else d.rows.key
    return 1 if key[path[i + 1]] > key[path[i - 1]] else -1
