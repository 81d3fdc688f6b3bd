"""Which pictures a weave has, by the word the command line knows them by."""

from __future__ import annotations

from dim_ladder.base import InputError
from dim_ladder.commands.calibrating import calibration_of
from dim_ladder.commands.piece import pieces
from dim_ladder.notation import Weave
from dim_ladder.picture.diagrams import diagram, step_picture
from dim_ladder.picture.display import Picture
from dim_ladder.picture.former import flat_picture, round_picture
from dim_ladder.picture.ladder import ladder_picture
from dim_ladder.publish.motion import animated_svg, stills
from dim_ladder.publish.raster import to_png
from dim_ladder.publish.svg import to_svg
from dim_ladder.shape import ready, tight
from dim_ladder.shape.faces import SIDES, beads_of, cords_of, face
from dim_ladder.shape.whole import whole_picture
from dim_ladder.shelf import Document
from dim_ladder.trace import Trace
from dim_ladder.trace.former import former_sections, former_work

UNITS = 6  # of a face
KINDS = "steps, ladder, diagram, motion, front, back, edge or whole"


def drawn(
    doc: Document, t: Trace, what: str, frames: int = 0, *, png: bool = False
) -> dict[str, str | bytes]:
    """Files by name: SVG, or PNG. frames : of a motion, so many still pictures a step instead of one that moves."""
    if what == "motion":
        if png:
            raise InputError("a motion is drawn as SVG only", "Leave out --png")
        return {**_motion(t, frames)}
    made = _pictures(doc, t, what)
    if png:
        return {f"{name}.png": to_png(picture) for name, picture in made.items()}
    return {f"{name}.svg": to_svg(picture) for name, picture in made.items()}


def _pictures(doc: Document, t: Trace, what: str) -> dict[str, Picture]:
    weave = doc.weave
    if what in SIDES:
        return _faces(weave, what)
    if what == "whole":
        return _whole(doc)
    made: dict[str, Picture]
    if what == "steps":
        made = {
            f"step-{i + 1:02}": step_picture(t, i) for i, r in enumerate(t.steps) if r.hops and not r.quiet
        }
    elif what == "ladder":
        made = {"ladder": ladder_picture(t)}
    elif what == "diagram":
        made = {"diagram": diagram(t, 0, len(t.steps) - 1)}
    else:
        raise InputError(f"there is no picture “{what}”", KINDS)
    if what in ("steps", "diagram"):
        made |= _former_pictures(weave, steps=what == "steps")
    return made


def _whole(doc: Document) -> dict[str, Picture]:
    """The piece in its planned size from all sides, lying beside a ruler."""
    ready(wait=True)
    *_, piece = pieces(doc.weave, calibration_of(doc), doc.plan)
    if not piece.strands:
        raise InputError("no section of it can be pulled tight", KINDS)
    return {f"whole-{side}": whole_picture(piece, side, lying=True) for side in SIDES}


def _faces(weave: Weave, side: str) -> dict[str, Picture]:
    """Every body that repeats, pulled tight."""
    made: dict[str, Picture] = {}
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
        made[f"{s.name}-{side}"] = picture
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
        made[f"{s.name}-flat"] = flat_picture(work, colours)
        made[f"{s.name}-round"] = round_picture(work, colours)
        if steps:
            for r in work.half_cycles():
                picture = flat_picture(work, colours, r.number + 1, focus=True)
                made[f"{s.name}-{r.number + 1:02}"] = picture
    return made
