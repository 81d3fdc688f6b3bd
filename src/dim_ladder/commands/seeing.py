"""What a sheet shows of the finished work: bodies pulled tight, checkpoints, the likeliest slips as they would look."""

from __future__ import annotations

from functools import lru_cache
from hashlib import sha256

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.calibrate import Calibration
from dim_ladder.calibrate.timing import timing
from dim_ladder.commands.calibrating import MOST_PULLED
from dim_ladder.commands.piece import piece_of
from dim_ladder.commands.slips import Slip, slips
from dim_ladder.notation import NOMINAL_GIRTH, Weave
from dim_ladder.picture.display import WHITE, Picture
from dim_ladder.publish.photo import photo_bytes
from dim_ladder.publish.seen import Seen, SlipTold, check_units
from dim_ladder.scale import Plan
from dim_ladder.scale.girth import former_mm
from dim_ladder.shape import TightShape, tight
from dim_ladder.shape.cache import kept
from dim_ladder.shape.faces import beads_of, cords_of, face
from dim_ladder.shape.tighten import job_for
from dim_ladder.shape.whole import Whole, whole_picture
from dim_ladder.shelf import Document
from dim_ladder.trace.former import former_diameter

MOST_UNITS = 8  # of a body, that are shown at the head of a sheet
HIGH = 230.0  # pixels, about, of a face at the head of a sheet
WIDE = 680.0  # pixels of the whole piece
# Pixels to a diameter: the most of a short piece; where its cords are seen well; and where it would be a line.
NEAR, SEEN_WELL, LEAST = 16.0, 7.0, 2.5
SLIPS = 2  # of a body: the likeliest
SMALL = 14.0  # pixels to a diameter of a slip
# Corners of the strands of what is pulled tight for a picture: of a body, which takes about a second, and of a slip.
MOST_POINTS, MOST_CORNERS, MOST_ON_FORMER = 200, 120, 400
PATIENT_ON_FORMER = 2000  # of what is waited for
RING = 12.0  # pixels to a diameter of what is worked on a former


def seen_of(doc: Document, calibration: Calibration | None, patient: bool = False) -> Seen:
    """Everything that is seen, with its shapes waited for: those that take about a second, or (patient) all that do not take minutes, but
    for those of slips. What cannot be pulled tight is left out."""
    weave = doc.weave
    most, most_round = (MOST_PULLED, PATIENT_ON_FORMER) if patient else (MOST_POINTS, MOST_ON_FORMER)
    faces: tuple[Picture, ...] = ()
    checks, wrong = {}, {}
    for s in weave.sections:
        if s.kind != "body" or s.former is not None:
            continue
        shape = _tight(weave, s.name, most)
        if shape is not None and not faces:
            one = face(shape, cords_of(weave, s.name), "front", units=1, ink=WHITE)
            faces = _faces(weave, s.name, max(1, min(MOST_UNITS, round(HIGH / max(one.height, 1.0)))))
        if shape is not None and shape.kind == "cell" and s.name not in checks:
            units = check_units(calibration, s.name)
            checks[s.name] = (units, _faces(weave, s.name, units) if units <= MOST_UNITS else ())
        wrong[s.name] = _likeliest(weave, s.name)
    piece, near, missing = _piece(weave, calibration, doc.plan, most)
    if ring := _ring(weave, doc.plan, most_round):
        faces, missing = ring, ()
    times = (
        timing(calibration.prior, doc.ties) if calibration is not None and not calibration.refusal else None
    )
    faces = () if piece and near else faces
    sides = ("side", "above") if faces and faces is ring else ("front", "back")
    return Seen(faces, checks, wrong, times, photo_bytes(doc.photo), piece, sides, missing)


def _piece(
    weave: Weave, calibration: Calibration | None, plan: Plan, most: int
) -> tuple[tuple[Picture, ...], bool, tuple[str, ...]]:
    """The whole piece, front and back, whether its cords are seen well in it, and which sections are not in it; none where a body is
    not known, or where it is so long that it would be a line."""
    shapes = {
        s.name: shape for s in weave.sections if s.former is None and (shape := _tight(weave, s.name, most))
    }
    bodies = {s.name for s in weave.sections if s.kind == "body"}
    made = piece_of(weave, calibration, plan, shapes)
    if bodies & set(made.left_out) or not made.strands:
        return (), False, tuple(s for s in made.left_out if s in bodies)
    ends = [float(f(s.line[:, 1])) for s in made.strands for f in (np.min, np.max)]
    scale = min(NEAR, WIDE / (max(ends) - min(ends) + 2.0))
    if scale < LEAST:
        return (), False, ()
    return _pictured(made, scale), scale >= SEEN_WELL, made.left_out


# The latest pieces, however often the words of their sheets change.
_drawn: dict[bytes, tuple[Picture, ...]] = {}
KEPT = 8


def _pictured(made: Whole, scale: float) -> tuple[Picture, ...]:
    about = repr((scale, made.length_mm, made.beads, [(s.look, s.diameter) for s in made.strands]))
    which = sha256(b"".join([about.encode(), *(s.line.tobytes() for s in made.strands)])).digest()
    found = _drawn.get(which)
    if found is None:
        while len(_drawn) >= KEPT:
            del _drawn[next(iter(_drawn))]
        found = _drawn[which] = _both(made, scale)
    return found


def _both(made: Whole, scale: float) -> tuple[Picture, ...]:
    return tuple(
        whole_picture(made, side, scale=scale, ink=WHITE, ruler=side == "front", lying=True)
        for side in ("front", "back")
    )


def _ring(weave: Weave, plan: Plan, most: int) -> tuple[Picture, ...]:
    """What is all worked on a former, from its side and from above, as it lies on it; none where there is other work."""
    bodies = [s for s in weave.sections if s.kind == "body"]
    if not bodies or any(s.former is None for s in bodies):
        return ()
    core = former_mm(plan, bodies[0]) or former_diameter(NOMINAL_GIRTH)
    shape = _tight(weave, bodies[0].name, most, core)
    if shape is None:
        return ()
    cords = cords_of(weave, bodies[0].name)
    return tuple(face(shape, cords, side, scale=RING, ink=WHITE) for side in ("front", "edge"))


def _tight(weave: Weave, section: str, most: int = MOST_POINTS, core_mm: float = 0.0) -> TightShape | None:
    """A section pulled tight: from what is known, or now where that does not take long. None where it cannot be, or takes many
    seconds: then it is left to who looks at it."""
    try:
        job = job_for(weave, section, core_mm)
        found = kept(job)
        if found is None and sum(len(x) for x in job.curves.strands) <= most:
            found = tight(weave, section, core_mm)
        return found
    except InputError:
        return None


@lru_cache(maxsize=24)
def _faces(weave: Weave, section: str, units: int) -> tuple[Picture, ...]:
    """Drawn once, however often the words of the sheet change."""
    shape = _tight(weave, section)
    if shape is None:
        return ()
    cords = cords_of(weave, section)
    return tuple(
        face(shape, cords, side, units=units, beads=beads_of(shape, weave, units), ink=WHITE)
        for side in ("front", "back")
    )


@lru_cache(maxsize=24)
def _likeliest(weave: Weave, section: str) -> tuple[SlipTold, ...]:
    """The first slips that can be told without counting crossings, each another one, and told by something else where there is one."""
    every = [s for s in slips(weave, section) if s.seen]
    found = every[:1]
    for unlike in (True, False):
        for slip in every:
            if len(found) < SLIPS and all(
                s.name != slip.name and (s.seen != slip.seen or not unlike) for s in found
            ):
                found.append(slip)
    return tuple(_told(slip, section) for slip in found)


def _told(slip: Slip, section: str) -> SlipTold:
    picture = None
    shape = _tight(slip.weave, section, MOST_CORNERS)
    if shape is not None:  # what falls apart has no picture
        units = 1 if shape.kind != "cell" else 3 if not shape.angle else 5
        picture = face(shape, cords_of(slip.weave, section), "front", units=units, scale=SMALL, ink=WHITE)
    return SlipTold(slip.name, slip.seen, slip.undo, picture)
