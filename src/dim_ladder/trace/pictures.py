"""The diagram as a picture: of one step, or of all the steps up to one."""

from __future__ import annotations

from dim_ladder.trace.display import PAPER, Ink, Picture
from dim_ladder.trace.look import Style
from dim_ladder.trace.painter import Painter
from dim_ladder.trace.value import Trace
from dim_ladder.trace.windows import window_of


def step_picture(
    trace: Trace, step: int, ink: Ink = PAPER, style: Style | None = None, last: int | None = None
) -> Picture:
    """One step: what was there before quiet, the moving end strong with an arrow, its passages ringed.

    last : lay out as far as this step, so that the pictures of one knot have the same layout.
    """
    first = window_of(trace, step)
    if last is None:
        last = step
        while last + 1 < len(trace.steps) and window_of(trace, last + 1) == first:
            last += 1
    return diagram(trace, first, step, ink, style, layout_to=last, focus=True)


def diagram(
    trace: Trace,
    first: int,
    step: int,
    ink: Ink = PAPER,
    style: Style | None = None,
    *,
    layout_to: int | None = None,
    focus: bool = False,
) -> Picture:
    """The drawing of steps first..step as it is when `step` is done.

    focus : everything but the moving end is quiet. Otherwise all is in full colour.
    """
    style = style or Style()
    return Painter(trace, first, step, ink, style, step if layout_to is None else layout_to, focus).picture()
