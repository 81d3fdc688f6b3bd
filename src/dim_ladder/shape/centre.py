"""What a tight shape says of a section that its trace does not: which cords a maker sees in its centre, and whether it turns."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dim_ladder.base import InputError
from dim_ladder.notation import Weave
from dim_ladder.shape import cache
from dim_ladder.shape.rope import Array
from dim_ladder.shape.tighten import job_for, tight
from dim_ladder.shape.value import TightShape
from dim_ladder.trace.faces import Faces
from dim_ladder.trace.tracer import trace
from dim_ladder.trace.turning import Turning, within_knots
from dim_ladder.trace.value import Trace

STEP = 0.05  # along a cord, in diameters
LOOKS = 60  # along a unit
ACROSS = (-0.3, 0.0, 0.3)
CLEAR = 0.3  # of what is seen: less is not what shows


def known_shape(weave: Weave, section: str) -> TightShape | None:
    """The shape of a section where it was pulled tight before, without waiting for anything: where a layer hangs as one tail, its
    own shape would have to be known."""
    names = [s.name for s in weave.sections]
    if section not in names or any(s.over for s in weave.sections[: names.index(section) + 1]):
        return None
    try:
        return cache.kept(job_for(weave, section))
    except InputError:
        return None


def found_shape(weave: Weave, section: str, *, wait: bool) -> TightShape | None:
    """The shape of a section where it is known. wait : have it pulled tight where it never was."""
    try:
        return tight(weave, section) if wait else known_shape(weave, section)
    except InputError:
        return None


def as_it_turns(weave: Weave, section: str, turn: Turning | None, *, wait: bool = False) -> Turning | None:
    """What the tight shape says of a section of which its linking only says that it may turn; as it was where the shape is not known.
    wait : have it pulled tight where it never was."""
    if turn is None or turn.kind != "spiral":
        return turn
    if _stands_apart(weave, section):
        return replace(turn, kind="straight", again="")  # on free cord nothing is turned on by the next one
    if not within_knots(weave, section):
        return turn
    shape = found_shape(weave, section, wait=wait)
    if shape is not None and shape.seams:
        return turn  # each of its knots turns by itself
    lies = shape is not None and shape.converged and shape.kind == "cell" and not shape.angle
    if lies and shape is not None and shape.places:  # each of the works beside each other as it turns
        names = {trace(weave, section=section, units=1).ends[e] for e in turn.ends}
        own = [p for e, p in zip(shape.ends, shape.places, strict=True) if names & set(e.split("+"))]
        lies = not any(p.angle for p in own)
    return replace(turn, kind="straight", again="") if lies else turn


def _stands_apart(weave: Weave, section: str) -> bool:
    """Whether the knots of a unit stand apart, and none of them is tied on and on."""
    try:
        rows = job_for(weave, section).rows
    except InputError:
        return False
    return len(rows) > 0 and all(row.kind != "cell" for row in rows)


def centre(shape: TightShape, one: Trace) -> Faces | None:
    """The ends that lie outermost in the middle, by how much of it they cover; None where none stands out, and for
    shapes that do not go on in themselves, or turn. one : the trace of the unit, whose ends are numbered so."""
    if shape.kind != "cell" or abs(shape.angle) > 0.05 or shape.places or not shape.converged:
        return None
    points, strand, size = _points(shape)
    middle = (points[:, 0].min() + points[:, 0].max()) / 2
    top = float(np.median(points[:, 1]))
    numbers = [one.ends.index(e.split("+")[0]) for e in shape.ends]
    front, back = (_seen(points, strand, size, middle, top, shape.pitch, side) for side in (1.0, -1.0))
    if not front and not back:
        return None
    return Faces(*(tuple(sorted(numbers[k] for k in ks)) for ks in (front, back)))


def _points(shape: TightShape) -> tuple[Array, Array, Array]:
    """Points along every cord over five units, whose they are, and half of how thick."""
    found, own, half = [], [], []
    for k, line in enumerate(shape.lines):
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
        at = np.arange(0.0, along[-1], STEP)
        fine = np.stack([np.interp(at, along, line[:, j]) for j in range(3)], axis=1)
        for unit in range(-2, 3):
            found.append(fine + np.array([0.0, unit * shape.pitch, 0.0]))
            own.append(np.full(len(fine), k))
            half.append(np.full(len(fine), shape.diameter[k] / 2))
    return np.concatenate(found), np.concatenate(own), np.concatenate(half)


def _seen(
    points: Array, strand: Array, size: Array, middle: float, top: float, pitch: float, side: float
) -> tuple[int, ...]:
    """Strands that cover most of the middle, seen from one side: the most, and any other that covers nearly as much."""
    share = np.zeros(int(strand.max()) + 1)
    for y in np.linspace(top, top + pitch, LOOKS, endpoint=False):
        for x in ACROSS:
            far = np.hypot(points[:, 0] - middle - x, points[:, 1] - y)
            here = far < size
            if here.any():
                height = side * points[here, 2] + np.sqrt(size[here] ** 2 - far[here] ** 2)
                share[strand[here][np.argmax(height)]] += 1
    share /= max(share.sum(), 1.0)
    most = share.max()
    return tuple(k for k, s in enumerate(share) if s >= CLEAR and s > 0.75 * most)
