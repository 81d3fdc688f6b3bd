"""The picture of a line of instructions: a step, or some hops of one that is led strand by strand."""

from __future__ import annotations

from dim_ladder.picture.diagrams import step_parts
from dim_ladder.picture.display import PAPER, Ink, Picture
from dim_ladder.picture.look import Style
from dim_ladder.picture.numbers import half_way
from dim_ladder.picture.parts import assemble
from dim_ladder.trace.value import Trace


def line_picture(
    trace: Trace, step: int, hops: range | None = None, ink: Ink = PAPER, style: Style | None = None
) -> Picture:
    """What was there before quiet, the moving end strong with an arrow; where many passages are made, each with its number.

    hops : of a step that is told over several pictures, those that this one shows.
    """
    style = style or Style()
    parts = step_parts(trace, step, ink, style, hops=hops, alone=True)
    progress = 1.0
    if hops is not None and not parts.part:
        progress = half_way(trace.steps[step], hops, parts, style)
    return assemble(parts, progress)
