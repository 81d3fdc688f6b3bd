"""Which pictures a weave has, by the word the command line knows them by."""

from __future__ import annotations

from dim_ladder.base import InputError
from dim_ladder.notation import Weave
from dim_ladder.publish.motion import animated_svg, stills
from dim_ladder.publish.svg import to_svg
from dim_ladder.shape.faces import SIDES, beads_of, cords_of, face
from dim_ladder.shape.tighten import tight
from dim_ladder.trace import Trace
from dim_ladder.trace.display import Picture
from dim_ladder.trace.former import former_sections, former_work
from dim_ladder.trace.former_pictures import flat_picture, round_picture
from dim_ladder.trace.ladder import ladder_picture
from dim_ladder.trace.pictures import diagram, step_picture

UNITS = 6  # of a face
KINDS = "steps, ladder, diagram, motion, front, back or edge"


def drawn(weave: Weave, t: Trace, what: str, frames: int = 0) -> dict[str, str]:
    """SVG texts by file name. frames : of a motion, so many still pictures a step instead of one that moves."""
    if what in SIDES:
        return _faces(weave, what)
    if what == "motion":
        return _motion(t, frames)
    made: dict[str, Picture]
    if what == "steps":
        made = {
            f"step-{i + 1:02}.svg": step_picture(t, i)
            for i, r in enumerate(t.steps)
            if r.hops and not r.quiet
        }
    elif what == "ladder":
        made = {"ladder.svg": ladder_picture(t)}
    elif what == "diagram":
        made = {"diagram.svg": diagram(t, 0, len(t.steps) - 1)}
    else:
        raise InputError(f"there is no picture “{what}”", KINDS)
    if what in ("steps", "diagram"):
        made |= _former_pictures(weave, steps=what == "steps")
    return {name: to_svg(picture) for name, picture in made.items()}


def _faces(weave: Weave, side: str) -> dict[str, str]:
    """Every body that repeats, pulled tight."""
    made: dict[str, str] = {}
    why = "no body section"
    for s in weave.sections:
        if s.kind != "body":
            continue
        try:
            shape = tight(weave, s.name)
            picture = face(
                shape, cords_of(weave, s.name), side, beads=beads_of(shape, weave, UNITS), units=UNITS
            )
        except InputError as e:
            why = f"{s.name}: {e}"
            continue
        made[f"{s.name}-{side}.svg"] = to_svg(picture)
    if not made:
        raise InputError(f"there is nothing to pull tight ({why})", KINDS)
    return made


def _motion(t: Trace, frames: int) -> dict[str, str]:
    if not t.steps:
        raise InputError("there is no step to show yet", "Record one first")
    last = len(t.steps) - 1
    if not frames:
        return {"motion.svg": animated_svg(t, 0, last)}
    return {f"motion-{i + 1:05}.svg": text for i, text in enumerate(stills(t, 0, last, frames))}


def _former_pictures(weave: Weave, *, steps: bool) -> dict[str, Picture]:
    """Work on formers, unrolled and round, with a picture for every half cycle where `steps`."""
    colours = [c.colour for c in weave.cords] or ["#888888"]
    made: dict[str, Picture] = {}
    for s in former_sections(weave):
        work = former_work(s)
        made[f"{s.name}-flat.svg"] = flat_picture(work, colours)
        made[f"{s.name}-round.svg"] = round_picture(work, colours)
        if steps:
            for r in work.half_cycles():
                picture = flat_picture(work, colours, r.number + 1, focus=True)
                made[f"{s.name}-{r.number + 1:02}.svg"] = picture
    return made
