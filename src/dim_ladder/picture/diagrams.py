"""The diagram as a picture: of one step, or of all the steps up to one."""

from __future__ import annotations

from dim_ladder.picture.display import PAPER, Ink, Picture
from dim_ladder.picture.look import Style
from dim_ladder.picture.numbers import numbered
from dim_ladder.picture.painter import Painter
from dim_ladder.picture.parts import Parts, assemble
from dim_ladder.picture.windows import part_start, window_end, window_of
from dim_ladder.picture.woven import is_woven, woven_parts
from dim_ladder.trace.value import Trace


def step_picture(
    trace: Trace, step: int, ink: Ink = PAPER, style: Style | None = None, last: int | None = None
) -> Picture:
    """One step: what was there before quiet, the moving end strong with an arrow, its passages ringed.

    last : lay out as far as this step, so that the pictures of one knot have the same layout.
    """
    last = window_end(trace, step) if last is None else last
    return diagram(trace, window_of(trace, step), step, ink, style, layout_to=last, focus=True)


def step_parts(
    trace: Trace, step: int, ink: Ink = PAPER, style: Style | None = None, *, ease: bool = True, hops: range | None = None,
    alone: bool = False,
) -> Parts:  # fmt: skip
    """The picture of one step in parts, so that its end can be shown on its way. See step_picture. hops : only these of its hops,
    where it is drawn lying flat; alone : without what hangs idle beside it, there."""
    first, last = window_of(trace, step), window_end(trace, step)
    return _parts(
        trace, first, step, ink, style or Style(), last, focus=True, ease=ease, hops=hops, alone=alone
    )


def diagram(
    trace: Trace,
    first: int,
    step: int,
    ink: Ink = PAPER,
    style: Style | None = None,
    *,
    layout_to: int | None = None,
    focus: bool = False,
    ease: bool = True,
) -> Picture:
    """The drawing of steps first..step as it is when `step` is done.

    focus : everything but the moving end is quiet. Otherwise all is in full colour. ease : flat weaves are drawn as
    they lie, which takes a second or so where they are large; else every end hangs.
    """
    last = max(step, step if layout_to is None else layout_to)
    return assemble(_parts(trace, first, step, ink, style or Style(), last, focus=focus, ease=ease))


def _parts(
    trace: Trace, first: int, step: int, ink: Ink, style: Style, last: int, *, focus: bool, ease: bool,
    hops: range | None = None, alone: bool = False,
) -> Parts:  # fmt: skip
    first = max(first, part_start(trace, step))
    while last > step and trace.steps[last].deed is not None:
        last -= 1
    lying = None
    if ease and is_woven(trace, first, last, alone):
        lying = woven_parts(trace, first, step, ink, style, last, focus, hops, alone)
    parts = lying or Painter(trace, first, step, ink, style, last, focus).parts()
    return numbered(parts, trace.steps[step], hops, style) if focus and step >= 0 else parts
