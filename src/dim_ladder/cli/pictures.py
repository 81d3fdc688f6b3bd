"""Which pictures a weave has, by the word the command line knows them by."""

from __future__ import annotations

from dim_ladder.base import InputError
from dim_ladder.base.budget import MOST_PICTURES
from dim_ladder.commands.calibrating import calibration_of
from dim_ladder.commands.piece import pieces
from dim_ladder.notation import Section, Weave
from dim_ladder.picture.diagrams import diagram, step_picture
from dim_ladder.picture.display import Picture
from dim_ladder.picture.former import flat_picture, round_picture
from dim_ladder.picture.ladder import ladder_picture
from dim_ladder.publish.motion import animated_svg, stills
from dim_ladder.publish.raster import to_png
from dim_ladder.publish.solid import to_glb
from dim_ladder.publish.svg import to_svg
from dim_ladder.scale import Plan
from dim_ladder.scale.girth import former_mm
from dim_ladder.shape import TightShape, ready, tight
from dim_ladder.shape.faces import SIDES, beads_of, cords_of, face, strands_of
from dim_ladder.shape.solid import bodies
from dim_ladder.shape.whole import Whole, whole_picture
from dim_ladder.shape.worn import TIP, worn
from dim_ladder.shelf import Document
from dim_ladder.trace import StepRecord, Trace, trace
from dim_ladder.trace.former import former_sections, former_work

UNITS = 6  # of a face
KINDS = "steps, ladder, diagram, motion, front, back, edge, whole, closed or solid"


def drawn(
    doc: Document, t: Trace, what: str, frames: int = 0, *, png: bool = False, section: str | None = None
) -> tuple[dict[str, str | bytes], list[str]]:
    """Files by name, SVG or PNG; and what could not be drawn, with the reason. frames : of a motion, so many still pictures
    a step instead of one that moves. section : of this one alone."""
    if section is not None and doc.weave.section(section) is None:
        names = ", ".join(s.name for s in doc.weave.sections)
        raise InputError(f"there is no section “{section}”", f"Sections are {names}")
    if what == "motion":
        if png:
            raise InputError("a motion is drawn as SVG only", "Leave out --png")
        return {**_motion(t, frames, *_stretch(t, section))}, []
    if what == "solid":
        if png:
            raise InputError("a solid is written as glTF only", "Leave out --png")
        solids, left_out = _tight(doc.weave, doc.plan, section)
        return {
            f"{name}.glb": _solid(doc.weave, name, shape, units) for name, (shape, units) in solids.items()
        }, left_out
    made, left_out = _pictures(doc, t, what, section)
    if png:
        return {f"{name}.png": to_png(picture) for name, picture in made.items()}, left_out
    return {f"{name}.svg": to_svg(picture) for name, picture in made.items()}, left_out


def _stretch(t: Trace, section: str | None) -> tuple[int, int]:
    """First and last step of a section; of all there is where none is named."""
    of = [i for i, r in enumerate(t.steps) if _is_of(t, r, section)]
    if not of:
        raise InputError("there is no step to show", "Record one first, or name another section")
    return of[0], of[-1]


def _is_of(t: Trace, r: StepRecord, section: str | None) -> bool:
    return section is None or (
        r.op.section < len(t.weave.sections) and t.weave.sections[r.op.section].name == section
    )


def _pictures(
    doc: Document, t: Trace, what: str, section: str | None
) -> tuple[dict[str, Picture], list[str]]:
    weave = doc.weave
    if what in SIDES:
        return _faces(weave, doc.plan, what, section)
    if what in ("whole", "closed"):
        if section is not None:
            raise InputError("the whole piece is all of its sections", "Leave out --section")
        return (_whole(doc) if what == "whole" else _closed(doc)), []
    made: dict[str, Picture]
    if what == "steps":
        drawn = [i for i, r in enumerate(t.steps) if r.hops and not r.quiet and _is_of(t, r, section)]
        if len(drawn) > MOST_PICTURES:
            raise InputError(
                f"these are {len(drawn):,} pictures",
                f"At most {MOST_PICTURES:,}: name a section, or repeat less",
            )
        made = {f"step-{i + 1:02}": step_picture(t, i) for i in drawn}
    elif what == "ladder":
        made = {"ladder": ladder_picture(t if section is None else trace(weave, section=section))}
    elif what == "diagram":
        first, last = _stretch(t, section) if section is not None else (0, len(t.steps) - 1)
        made = {"diagram": diagram(t, first, last)}
    else:
        raise InputError(f"there is no picture “{what}”", KINDS)
    if what in ("steps", "diagram"):
        made |= _former_pictures(weave, section, steps=what == "steps")
    if not made:
        raise InputError(f"section {section} has no step to draw", "Name another section")
    return made, []


def _whole(doc: Document) -> dict[str, Picture]:
    """The piece in its planned size from all sides, lying beside a ruler."""
    piece = _piece(doc)
    return {f"whole-{side}": whole_picture(piece, side, lying=True) for side in SIDES}


def _closed(doc: Document) -> dict[str, Picture]:
    """The piece in its planned size closed round, as it is worn."""
    found = worn(_piece(doc))
    if found is None:
        raise InputError("the piece is too short to be closed round", "Draw it as whole")
    return {"closed": found.seen(0.0, TIP, title="The whole piece, closed round")}


def _piece(doc: Document) -> Whole:
    ready(wait=True)
    *_, piece = pieces(doc.weave, calibration_of(doc), doc.plan)
    if not piece.strands:
        if any(s.former is not None for s in doc.weave.sections):
            raise InputError(
                "work on a former is no length of a piece", "Draw it as front, back, edge or solid"
            )
        raise InputError("no section of it can be pulled tight", KINDS)
    return piece


def _faces(weave: Weave, plan: Plan, side: str, section: str | None) -> tuple[dict[str, Picture], list[str]]:
    """Every section, or the one that is named, pulled tight: bodies repeated, starts and finishes once; and which could not
    be, with the reason."""
    found, left_out = _tight(weave, plan, section)
    made = {
        f"{name}-{side}": face(
            shape, cords_of(weave, name), side, beads=beads_of(shape, weave, units), units=units
        )
        for name, (shape, units) in found.items()
    }
    return made, left_out


def _solid(weave: Weave, name: str, shape: TightShape, units: int) -> bytes:
    cords = cords_of(weave, name)
    strands = strands_of(shape, cords, units)
    return to_glb(bodies(strands, beads_of(shape, weave, units)), shape.unit_mm, cords.names)


def _tight(
    weave: Weave, plan: Plan, section: str | None
) -> tuple[dict[str, tuple[TightShape, int]], list[str]]:
    """Shapes by section, with how many units of each are shown; and what cannot be pulled tight, with the reason."""
    found: dict[str, tuple[TightShape, int]] = {}
    left_out: list[str] = []
    for s in weave.sections:
        if section is not None and s.name != section:
            continue
        if section is None and s.kind != "body" and not _tied(weave, s):
            continue  # only melted or cut there: nothing that could be seen
        try:
            found[s.name] = tight(weave, s.name, former_mm(plan, s)), UNITS if s.kind == "body" else 1
        except InputError as e:
            left_out.append(f"{s.name}: {e}")
    if not found:
        why = "; ".join(left_out) or "no section with a step"
        raise InputError(f"there is nothing to pull tight ({why})", KINDS)
    return found, left_out


def _tied(weave: Weave, section: Section) -> bool:
    """Whether anything crosses anything in it."""
    return bool(trace(weave, section=section.name, units=1).crossings) or section.former is not None


def _motion(t: Trace, frames: int, first: int, last: int) -> dict[str, str]:
    if not frames:
        return {"motion.svg": animated_svg(t, first, last)}
    return {f"motion-{i + 1:05}.svg": text for i, text in enumerate(stills(t, first, last, frames))}


def _former_pictures(weave: Weave, section: str | None, *, steps: bool) -> dict[str, Picture]:
    """Work on formers, unrolled and round, with a picture for every half cycle where `steps`."""
    colours = [c.colour for c in weave.cords] or ["#888888"]
    made: dict[str, Picture] = {}
    for s in former_sections(weave):
        if section is not None and s.name != section:
            continue
        work = former_work(s)
        made[f"{s.name}-flat"] = flat_picture(work, colours)
        made[f"{s.name}-round"] = round_picture(work, colours)
        if steps:
            for r in work.half_cycles():
                picture = flat_picture(work, colours, r.number + 1, focus=True)
                made[f"{s.name}-{r.number + 1:02}"] = picture
    return made
