"""The calibration of a document, from the shapes that are known by now; what other weaves say of the cord."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dim_ladder.base import DimLadderError, InputError
from dim_ladder.base.disk import make_folder, read_text, write_whole
from dim_ladder.calibrate import Calibration, Softness, Tie, calibrate, prior_for
from dim_ladder.calibrate.prior import UNKNOWN
from dim_ladder.calibrate.softness import learned, together
from dim_ladder.notation import Weave
from dim_ladder.shape import TightShape, rough_shape, tighten
from dim_ladder.shape.cache import key, known
from dim_ladder.shape.tighten import job_for
from dim_ladder.shape.value import Job
from dim_ladder.shelf import Document
from dim_ladder.trace.former import former_sections

MOST_WEAVES = 500
MOST_CORDS = 5_000_000  # bytes of the file of what is known of cords
MOST_SHAPES = 200
MOST_STEPS = 16_000  # of pulling a section that has not come to rest, before it is left
MOST_STEPS_LARGE = 60_000  # the same of a large one
MOST_PULLED = 700  # corners of the strands of a unit: a diamond of hitches on ten ends has as many, beyond that it is minutes
MOST_CORNERS = 200  # of the strands of a unit that is not large: those take about a second


def calibration_of(doc: Document, softness: Softness = UNKNOWN) -> Calibration | None:
    """The calibration of a document, with its shapes waited for; None while nothing in it can be counted."""
    if not rough_shape(doc.weave).sections and not former_sections(doc.weave):
        return None
    return calibrate(doc.weave, doc.ties, softness=softness)


class Shapes:
    """Tight shapes by what they are made from, for as long as a window is open; None where it takes too long to wait for."""

    def __init__(self) -> None:
        self._found: dict[str, TightShape | None] = {}

    def get(self, name: str) -> TightShape | None:
        """From here, or from the disk."""
        return self._found.get(name) or known(name)

    def tried(self, name: str) -> bool:
        return name in self._found

    def keep(self, name: str, shape: TightShape | None) -> None:
        if len(self._found) >= MOST_SHAPES:
            self._found.clear()
        self._found[name] = shape


def calibrations(
    weave: Weave, ties: Sequence[Tie], softness: Softness, shapes: Shapes, stop: Callable[[], bool] = lambda: False,
    large: bool = True,
) -> Iterator[Calibration]:  # fmt: skip
    """The calibration with the shapes that are known at once, and again with each that comes tight: what takes about a second first,
    then (large) what takes longer. What takes minutes is left to who looks at it. Until it comes, and where it does not come to rest, a
    rough rule stands in, and the prior says which."""
    rough = rough_shape(weave)
    if not rough.sections and not former_sections(weave):
        return
    found: dict[str, TightShape] = {}
    wanted: dict[str, Job] = {}
    for s in weave.sections:
        if s.former is not None or not s.items:
            continue
        try:
            job = job_for(weave, s.name)
        except InputError:
            continue
        shape = shapes.get(key(job))
        if shape is not None:
            found[s.name] = shape
        elif _corners(job) <= (MOST_PULLED if large else MOST_CORNERS) and not shapes.tried(key(job)):
            wanted[s.name] = job
    yield calibrate(weave, ties, prior_for(weave, rough, shapes=found, softness=softness))
    for name, job in sorted(wanted.items(), key=lambda x: _corners(x[1])):
        shape = _pulled(weave, name, job, stop)
        if stop():
            return
        shapes.keep(key(job), shape)
        if shape is not None:
            found[name] = shape
            yield calibrate(weave, ties, prior_for(weave, rough, shapes=found, softness=softness))


def _pulled(weave: Weave, name: str, job: Job, stop: Callable[[], bool]) -> TightShape | None:
    """A section pulled tight; None where it does not come to rest in time, or it was to be left off."""
    most = MOST_STEPS if _corners(job) <= MOST_CORNERS else MOST_STEPS_LARGE
    shape, file = None, key(job)
    for shape in tighten(weave, name, stop=stop):
        if stop() or shape.steps > most:
            return None
        if (found := known(file)) is not None:  # another screen has waited for it meanwhile
            return found
    return shape


def _corners(job: Job) -> int:
    return sum(len(x) for x in job.curves.strands)


class _Kind(BaseModel):
    model_config = ConfigDict(frozen=True, extra="ignore")

    mean: Annotated[float, Field(ge=-2, le=2, allow_inf_nan=False)]
    sd: Annotated[float, Field(ge=1e-3, le=2, allow_inf_nan=False)]


class _Told(BaseModel):
    """What one weave's ties said. ties : which they were, so that a copy of the weave does not say it again."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    kinds: dict[str, _Kind] = {}
    ties: tuple[str, ...] = ()


class Cords(BaseModel):
    """What each weave's ties said of the softness of its cord, by the place of its file."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    weaves: dict[str, _Told] = {}

    def others(self, weave: str, ties: Sequence[Tie]) -> Softness:
        """What all weaves but this one say together; every tie once, wherever it was copied to."""
        heard = {digest(t) for t in ties}
        said = []
        for name, told in self.weaves.items():
            if name != weave and not heard & set(told.ties):
                heard |= set(told.ties)
                said.append({k: (v.mean, v.sd) for k, v in told.kinds.items()})
        return together(said)

    def told(self, weave: str, calibration: Calibration, ties: Sequence[Tie]) -> Cords:
        """With what a weave's own ties say by now."""
        found = {k: _Kind(mean=m, sd=sd) for k, (m, sd) in learned(calibration).items()}
        rest = {name: told for name, told in self.weaves.items() if name != weave}
        kept = dict(list(rest.items())[-MOST_WEAVES:])
        own = _Told(kinds=found, ties=tuple(digest(t) for t in ties))
        return Cords(weaves={**kept, weave: own} if found else kept)


def digest(tie: Tie) -> str:
    """A name for what was read of a tie, whatever it is called."""
    text = tie.model_dump_json(exclude={"id", "note", "photos", "versions", "kinds"})
    return hashlib.sha256(text.encode()).hexdigest()[:12]


def load_cords(path: Path) -> Cords:
    """What is known of cords; nothing, where there is no file or none that can be read."""
    try:
        return Cords.model_validate_json(read_text(path, MOST_CORDS, "what is known of cords"))
    except (DimLadderError, ValidationError):
        return Cords()


def keep_cords(cords: Cords, path: Path) -> None:
    """Raises WorldError where they cannot be written."""
    make_folder(path.parent)
    write_whole(path, cords.model_dump_json(indent=1) + "\n", follow=True)
