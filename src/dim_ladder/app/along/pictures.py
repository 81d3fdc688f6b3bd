"""The picture of one beat, large enough for the far end of a table."""

from __future__ import annotations

from dim_ladder.commands.tying import Beat
from dim_ladder.notation import Weave
from dim_ladder.picture.diagrams import diagram, step_picture
from dim_ladder.picture.display import Ink, Picture
from dim_ladder.picture.former import flat_picture
from dim_ladder.trace import Trace
from dim_ladder.trace.former import former_work

SHOWN_STEPS = 8


def beat_picture(weave: Weave, trace: Trace, beat: Beat, ink: Ink) -> Picture:
    """What the step in hand looks like when it is done."""
    if beat.at >= 0:
        return step_picture(trace, beat.at, ink)
    section = weave.section(beat.section)
    assert section is not None
    work = former_work(section)
    colours = [c.colour for c in weave.cords] or ["#888888"]
    return flat_picture(work, colours, beat.laid, ink, 30.0, focus=True)


def work_picture(weave: Weave, trace: Trace, beat: Beat, ink: Ink) -> Picture:
    """What the last few steps of the work look like once a beat is done: nothing quiet, as it lies in the hand."""
    if beat.at < 0:
        return beat_picture(weave, trace, beat, ink)
    return diagram(trace, max(0, beat.at - SHOWN_STEPS + 1), beat.at, ink)
