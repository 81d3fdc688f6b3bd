"""A first guess at pitch and consumption from the traced path alone, with an honest spread."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from dim_ladder.library import cord_kind
from dim_ladder.notation import Weave, is_leg, working_ends
from dim_ladder.trace.ends import letter
from dim_ladder.trace.roles import Roles, SectionWork, roles

if TYPE_CHECKING:
    from dim_ladder.shape.value import TightShape

PER_VISIT = (
    1.48  # cord diameters of a moving end by the crossings it passes through, as trace/rows.py counts them
)
SLANT = 1.35  # an end that wanders from side to side without passing a loop: cord per length of band, as in a plait
FILLER_SLACK = 1.03  # fillers run nearly straight
SPREAD = 0.35  # one standard deviation of the logarithm


@dataclass(frozen=True, slots=True)
class RoughSection:
    """Per unit, in cord diameters. per_role : role -> cord of one end, the mean of what they take by per_end. pitch : length of band.

    slack_mm : end -> cord left standing or free, in mm whatever the cord. span_mm : free length of band. period : units
    after which the work is the same again.
    """

    name: str
    pitch: float
    per_role: dict[str, float]
    slack_mm: dict[str, float]
    span_mm: float
    period: int = 1
    per_end: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class RoughShape:
    """width, thickness in cord diameters; spread : standard deviation of the logarithms."""

    roles: Roles
    sections: tuple[RoughSection, ...]
    width: float
    thickness: float
    spread: float = SPREAD

    def section(self, name: str) -> RoughSection | None:
        return next((s for s in self.sections if s.name == name), None)


def rough_shape(weave: Weave) -> RoughShape:
    """Guess a weave's size from its trace."""
    found = roles(weave)
    out = []
    for work in found.sections:
        pitch = work.layers
        per_role: dict[str, float] = {}
        per_end: dict[str, float] = {}
        lies_on = (of := weave.section(work.name)) is not None and bool(of.on)
        for role in found.names:
            ends = found.ends(role)
            # What is stitched on is tied already, and takes no more cord.
            tied = lies_on and not any(work.moves.get(e) for e in ends)
            each = {e: 0.0 if tied or e not in work.visits else _takes(work, e) for e in ends}
            per_role[role] = sum(each.values()) / len(each)
            per_end |= each
        out.append(
            RoughSection(work.name, pitch, per_role, dict(work.slack), work.span, work.period, per_end)
        )
    fillers = sum(r.startswith("filler") for r in found.role_of.values())
    return RoughShape(found, tuple(out), float(max(2, len(working_ends(weave)))), 2.6 if fillers else 2.0)


FITS = 24  # units of what fits to size
UNEVEN = 1.6  # one end of a fold eating this much more than the other comes out too short to tie with


Known = Callable[[Weave, str], "TightShape | None"]  # the tight shape of a section, where it is known


def _cord(work: SectionWork, end: str, across: float, shape: TightShape | None) -> float:
    """mm of cord that an end takes in a unit, with what is left free: of the tight shape, where that is an answer, else roughly. An end that does not hang
    there, as the work is turned, takes none. across : mm of the cord."""
    if end not in work.visits:
        return 0.0
    return _tied(work, end, across, shape) + work.slack.get(end, 0.0)


def _tied(work: SectionWork, end: str, across: float, shape: TightShape | None) -> float:
    """The same without what is left free."""
    if shape is not None and shape.converged:
        took = {part: d for e, d in shape.per_end.items() for part in e.split("+")}
        if end in took:
            return took[end] * shape.unit_mm / max(shape.period, 1)
    return _takes(work, end) * across


def _takes(work: SectionWork, end: str) -> float:
    """Diameters of an end in a unit, roughly."""
    if not work.moves.get(end):
        return work.layers * FILLER_SLACK
    return max(PER_VISIT * work.cord.get(end, 0.0), work.layers * SLANT)


def uneven_folds(weave: Weave, section: str, known: Known = lambda weave, section: None) -> list[str]:
    """Warnings for cords folded in the middle of which one end will be too short to reach long before the other: in the whole
    piece, as what one end works on the way down the other may work on the way back. known : asked only where the trace alone says so."""
    found = roles(weave)
    found_work = next((w for w in found.sections if w.name == section), None)
    if found_work is None:
        return []
    # What fits to size is the most of a piece; a rough rule takes it for some tens of units.
    times: dict[str, int] = {}
    for s in weave.sections:
        often = times.get(s.count.other, FITS) if s.count.kind == "same" else FITS
        times[s.name] = s.count.number if s.count.kind == "repeat" else often
    ends = working_ends(weave)
    out = []
    for cord in weave.cords:
        pair = [e for e in ends if e.partition(".")[0] == cord.name and e in found.role_of]
        if len(pair) != 2 or any(is_leg(e) for e in pair):
            continue  # a leg is not folded off: it is as long as the work
        across = cord_kind(cord.kind).across
        for shapes in (lambda weave, section: None, known):
            here, need = [0.0, 0.0], [0.0, 0.0]
            for w in found.sections:
                shape = shapes(weave, w.name)
                cords = [_cord(w, e, across, shape) for e in pair]
                need = [n + c * times[w.name] for n, c in zip(need, cords, strict=True)]
                here = cords if w is found_work else here
            uneven = max(here) > UNEVEN * min(here) > 0 and max(need) > UNEVEN * min(need) > 0
            if not uneven:
                break
        if uneven:
            long, short = (pair[0], pair[1]) if need[0] > need[1] else (pair[1], pair[0])
            out.append(
                f"{letter(ends.index(long))} eats about {max(need) / min(need):.1f} times what {letter(ends.index(short))} does, of {cord.name}: folded in the middle, it comes "
                "out too short to reach. The cut list says how far off the middle to fold."
            )
    return out
