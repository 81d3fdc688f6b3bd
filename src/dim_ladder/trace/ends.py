"""How ends are told apart wherever they are shown: letters, colours, patterns, widths."""

from __future__ import annotations

from dim_ladder.library import cord_kind
from dim_ladder.trace.value import Trace


def letter(end: int) -> str:
    """A, B, ..., Z, AA, AB, ... by place at the start."""
    return chr(65 + end) if end < 26 else letter(end // 26 - 1) + letter(end % 26)


def letter_of(trace: Trace, end: int) -> str:
    """The letter of an end: by its place when it first hung; none for a finished layer that hangs as one."""
    number = trace.numbers[end]
    return letter(number) if number >= 0 else ""


def end_colours(trace: Trace) -> list[str]:
    return [c.colour if (c := trace.weave.cord_of(e)) else "#888888" for e in trace.ends]


def end_patterns(trace: Trace) -> list[int]:
    names = [c.name for c in trace.weave.cords]
    return [names.index(n) if (n := e.split(".")[0]) in names else 0 for e in trace.ends]


LAYER_WIDTH = 1.7  # a finished section that hangs as one tail, in cords
THINNEST = 0.45


def end_widths(trace: Trace) -> list[float]:
    """How wide each end is drawn: its cord's diameter as a part of the thickest's; a finished layer wider than all."""
    diameters = [cord_kind(c.kind).diameter if (c := trace.weave.cord_of(e)) else 0.0 for e in trace.ends]
    most = max(diameters, default=0.0)
    return [max(THINNEST, d / most) if d else LAYER_WIDTH for d in diameters]
