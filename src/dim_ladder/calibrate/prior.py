"""What is assumed before any tie: cord and length per unit from the tight shape, softness by kind of cord.

A cord of a kind eats exp(softness) times what its shape says, in every weave alike, and comes out so much longer: it gives
way more or less than its kind is known to. How far off that may be is a figure of the kind (library/kinds.py). What is left, a
few in a hundred, is what the shape itself is wrong by; cord for a length of band is not touched by softness at all.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dim_ladder.base import InputError
from dim_ladder.base.budget import SHAPES_WORK, metered
from dim_ladder.calibrate.rings import RING_SPREAD, ring_cords, ring_moves, ring_rise, rings_for
from dim_ladder.library import HANGINGS, cord_kind
from dim_ladder.notation import Weave, is_leg, working_ends
from dim_ladder.shape import RoughShape, TightShape, rough_shape, tight
from dim_ladder.shape.stitched import thread_in_unit
from dim_ladder.shape.worn import off_the_body
from dim_ladder.trace import trace
from dim_ladder.trace.exchanged import exchanged
from dim_ladder.trace.former import former_sections, former_work
from dim_ladder.trace.roles import on_or_beside

Array = NDArray[np.float64]
SHAPE_SPREAD = 0.05  # of a shape that is at rest, known softness taken out
THICK_SPREAD = 0.15  # of the thickness of a body from its shape
HELD_SPREAD = 0.15  # of a start or finish: how far it is drawn up is the maker's own
HAND_SPREAD = 0.12  # of softness, whatever the kind: how hard a maker draws up
GIVING = 0.6  # of how uncertain the figures of a kind are, what reaches the size of a unit
OVERHEAD, OVERHEAD_SPREAD = 1.25, 0.6  # against the tables: makers take half of them to three times as much
LEG_MM = 10.0  # of a leg, which ends in a fold or a join, beyond what lies in the work
HANDS_MM = 20.0  # of an end, beyond its share of what it hangs on
LEAST_MM = 0.01  # what a section does not touch takes next to nothing: logarithms need a little of it


@dataclass(frozen=True, slots=True)
class Softness:
    """What is known of kinds of cord from other weaves: logarithm and its standard deviation."""

    of: Mapping[str, tuple[float, float]]

    def kind(self, name: str) -> tuple[float, float]:
        return self.of.get(name, (0.0, soft_spread(name)))


def soft_spread(kind: str) -> float:
    """Standard deviation of the softness (logarithm) of a kind that was never tied."""
    return math.hypot(GIVING * cord_kind(kind).spread, HAND_SPREAD)


UNKNOWN = Softness({})


@dataclass(frozen=True, slots=True)
class Prior:
    """What is assumed before any tie. Lengths in mm.

    roles, sections : names in order. unit : (roles, sections) cord of one end per unit, the mean of a role's ends. own :
    (ends, sections), what each end takes of that by its own shape; ends in the order of role_of. pitch : (sections,) band per
    unit. overhead : (roles,). spread : (sections,) sd of the logarithms of unit and pitch; half of the variance is shared.
    kind_of : cord -> kind, as the weave says. cords : names.
    span : (sections,) and slack : end -> (sections,), what is free in a unit, to the millimetre whatever the cord; not in
    pitch and unit. adds : (sections,) 1 where units add to the length of the piece, 0 where they lie on or beside other work.
    weave : of which it is. uncounted : other sections of it, of which nothing can be said.
    rings : sections on a round former, rise_mm : by how much their strands go round further than it.
    moves : (sections,) steps in a unit. shaped : sections whose size comes from a tight shape, or that of what they are stitched on. fits : sections that grow
    with the size; fixed : units of those that do not. versions : of each section, see fingerprint.
    """

    roles: tuple[str, ...]
    role_of: dict[str, str]
    sections: tuple[str, ...]
    unit: Array
    own: Array
    pitch: Array
    overhead: Array
    spread: Array
    thickness_mm: float
    width_mm: float
    cords: tuple[str, ...]
    kind_of: dict[str, str]
    softness: Softness
    moves: Array
    shaped: tuple[str, ...]
    fits: tuple[str, ...]
    fixed: dict[str, int]
    versions: dict[str, str]
    span: Array
    slack: dict[str, Array]
    adds: Array
    weave: Weave
    uncounted: tuple[str, ...] = ()
    rings: tuple[str, ...] = ()
    rise_mm: float = 0.0

    @property
    def only_rings(self) -> bool:
        """Whether all of it is tied on formers: then the tied length is the girth of the former."""
        return bool(self.rings) and len(self.rings) == len(self.sections)

    def own_in(self, counts: Mapping[str, float]) -> Array:
        """(ends, sections) as own, in a piece of so many units: of what its role takes, an end takes what the one would in whose place it hangs then."""
        role = [self.roles.index(r) for r in self.role_of.values()]
        one = self.unit[role]
        return self._by_place(one * self.own, counts) / one

    def slack_in(self, counts: Mapping[str, float]) -> Array:
        """(ends, sections), see slack, in a piece of so many units."""
        return self._by_place(np.array([self.slack[e] for e in self.role_of]), counts)

    def _by_place(self, values: Array, counts: Mapping[str, float]) -> Array:
        """(ends, sections) with what is another end's work by then."""
        row, out = {e: i for i, e in enumerate(self.role_of)}, values
        for section, ends in exchanged(self.weave, counts).items():
            if section in self.sections:
                k = self.sections.index(section)
                both = [(row[a], row[b]) for a, b in ends.items() if a in row and b in row]
                out = out.copy() if out is values else out
                for a, b in both:
                    out[b, k] = values[a, k]
        return out

    def on_former(self, counts: Array, girth_mm: float | None) -> Array:
        """Units of every section, rings as many as they count for on a former of that girth."""
        if girth_mm is None:
            return counts
        ring = np.array([s in self.rings for s in self.sections])
        return np.where(ring, counts * rings_for(girth_mm, self.rise_mm), counts)


def shapes_of(weave: Weave) -> dict[str, TightShape]:
    """The tight shape of every section that has one; waits for it, as long as that can be borne."""
    out: dict[str, TightShape] = {}
    with metered(SHAPES_WORK):
        for s in weave.sections:
            if s.former is None and s.items:
                try:
                    out[s.name] = tight(weave, s.name)
                except InputError:
                    continue
    return out


def fingerprint(weave: Weave, section: str) -> str:
    """The version of a section that ties belong to: the same as long as its trace is, whatever its words and colours."""
    t = trace(weave, section=section, units=1)
    crossings = [
        (t.lane_rank[c.lane], t.row_rank[c.row], c.lane_over, c.lane_end, c.row_end) for c in t.crossings
    ]
    about = (t.hung, t.order, tuple(crossings), tuple((p.kind, p.mm) for s in t.steps for p in s.placed))
    return hashlib.sha256(repr(about).encode()).hexdigest()[:12]


def prior_for(
    weave: Weave,
    shape: RoughShape | None = None,
    *,
    shapes: Mapping[str, TightShape] | None = None,
    softness: Softness = UNKNOWN,
) -> Prior:
    """The prior of a weave from its shapes and its cords' diameters. shapes : those that are known; all, by default,
    waited for. Where a section has none a rough rule stands in, with the spread of that.

    Raises InputError when nothing in the weave can be counted yet.
    """
    rough = shape or rough_shape(weave)
    rings = former_sections(weave)
    if not rough.sections and not rings:
        raise InputError("there is no section with a traced step yet", "Record a unit first")
    if not rough.sections:
        rough = _strands(rough)
    known = shapes if shapes is not None else shapes_of(weave)
    names = rough.roles.names
    ends = {r: rough.roles.ends(r) for r in names}
    every = [cord_kind(c.kind).diameter for e in working_ends(weave) if (c := weave.cord_of(e))]
    mean = sum(every) / len(every) if every else 4.0
    unit = np.zeros((len(names), len(rough.sections)))
    own = np.ones((len(rough.roles.role_of), len(rough.sections)))
    row = {e: i for i, e in enumerate(rough.roles.role_of)}
    pitch, spread = np.zeros(len(rough.sections)), np.zeros(len(rough.sections))
    shaped = []
    for k, s in enumerate(rough.sections):
        tight_one = known.get(s.name)
        if tight_one is not None and tight_one.kind != "closed" and not tight_one.amiss:
            shaped.append(s.name)
            mm = tight_one.unit_mm
            for r, role in enumerate(names):
                each = {e: _slack(tight_one, e, _stretch(weave, e)) for e in ends[role]}
                slack = _mean(each.values())
                unit[r, k] = slack * mm / tight_one.period
                if unit[r, k] > LEAST_MM:
                    for e, mine in each.items():
                        own[row[e], k] = mine / slack
            pitch[k] = tight_one.pitch * mm / tight_one.period
            tidy = tight_one.converged and tight_one.kind == "cell"
            # What can rest otherwise may have come to rest so on the table.
            spread[k] = max(SHAPE_SPREAD if tidy else HELD_SPREAD, *map(abs, tight_one.rests))
        else:
            thread = _thread(weave, s.name, known, rough)
            for r, role in enumerate(names):
                each = {e: s.per_end.get(e, s.per_role[role]) * _across(weave, e, mean) for e in ends[role]}
                each = {e: thread.get(e, 0.0) for e in ends[role]} if thread else each
                unit[r, k] = _mean(each.values())
                if unit[r, k] > LEAST_MM:
                    for e, mine in each.items():
                        own[row[e], k] = mine / unit[r, k]
            pitch[k] = s.pitch * (_mean(_worked(weave, rough, k)) or mean)
            spread[k] = HELD_SPREAD if thread else rough.spread
            if thread:
                shaped.append(s.name)
    _along_the_ground(weave, rough, names, unit, pitch, shaped)
    long = {r.name: pitch[k] + r.span_mm for k, r in enumerate(rough.sections)}
    settled = {
        s.name: s.count.number * long[s.name]
        for s in weave.sections
        if s.count.kind == "repeat" and s.name in long
    }
    beside = on_or_beside(weave, rough.roles.sections, settled)
    body = next(
        (
            known[s.name]
            for s in weave.sections
            if s.kind == "body" and s.name in known and not known[s.name].amiss
        ),
        None,
    )
    hanging = HANGINGS.get(weave.hang.on, HANGINGS["bar"]).per_cord_mm / 2
    cords = tuple(c.name for c in weave.cords)
    found = Prior(
        names,
        rough.roles.role_of,
        tuple(s.name for s in rough.sections),
        np.maximum(unit, LEAST_MM),
        own,
        np.maximum(pitch, LEAST_MM),
        np.array(
            [LEG_MM if all(is_leg(e) for e in ends[r]) else OVERHEAD * (hanging + HANDS_MM) for r in names]
        ),
        spread,
        off_the_body(body) * body.unit_mm if body else rough.thickness * mean,
        body.width * body.unit_mm if body else rough.width * mean,
        cords,
        {c.name: c.kind for c in weave.cords},
        softness,
        np.array([sum(w.moves.values()) for w in rough.roles.sections], np.float64),
        tuple(shaped),
        tuple(s.name for s in weave.sections if s.count.kind != "repeat" and s.name in _names(rough)),
        {
            s.name: s.count.number
            for s in weave.sections
            if s.count.kind == "repeat" and s.name in _names(rough)
        },
        {s.name: fingerprint(weave, s.name) for s in rough.sections},
        np.array([s.span_mm for s in rough.sections], np.float64),
        {
            e: np.array([s.slack_mm.get(e, 0.0) for s in rough.sections], np.float64)
            for e in rough.roles.role_of
        },
        np.array([s.name not in beside for s in rough.sections], np.float64),
        weave,
        tuple(s.name for s in weave.sections if s.name not in _names(rough)),
    )
    return _with_rings(weave, found) if rings else found


def _strands(rough: RoughShape) -> RoughShape:
    """Where all work is on a former, its ends are strands, whatever else they might be."""
    roles = replace(rough.roles, role_of=dict.fromkeys(rough.roles.role_of, "strand"))
    return replace(rough, roles=roles)


def _with_rings(weave: Weave, prior: Prior) -> Prior:
    """With a section for every ring. It is tied once, and adds to no length: it is as long round as its former."""
    names = tuple(s.name for s in former_sections(weave))
    ends, roles = list(prior.role_of), list(prior.role_of.values())
    unit, own = np.zeros((len(prior.roles), len(names))), np.ones((len(ends), len(names)))
    for k, name in enumerate(names):
        cord = ring_cords(weave, name)
        for r, role in enumerate(prior.roles):
            unit[r, k] = _mean(cord[e] for e in ends if prior.role_of[e] == role)
        for i, e in enumerate(ends):
            mean = unit[prior.roles.index(roles[i]), k]
            own[i, k] = cord[e] / mean if mean > LEAST_MM else 1.0
    none = np.zeros(len(names))
    return replace(
        prior,
        sections=(*prior.sections, *names),
        unit=np.hstack([prior.unit, np.maximum(unit, LEAST_MM)]),
        own=np.hstack([prior.own, own]),
        pitch=np.append(prior.pitch, none + LEAST_MM),
        spread=np.append(prior.spread, none + RING_SPREAD),
        moves=np.append(prior.moves, [ring_moves(weave, n) for n in names]),
        fixed={**prior.fixed, **{s.name: s.count.number for s in former_sections(weave)}},
        versions={**prior.versions, **{n: _ring_version(weave, n) for n in names}},
        span=np.append(prior.span, none),
        slack={e: np.append(mm, none) for e, mm in prior.slack.items()},
        adds=np.append(prior.adds, none),
        uncounted=tuple(n for n in prior.uncounted if n not in names),
        rings=names,
        rise_mm=ring_rise(weave),
    )


def _ring_version(weave: Weave, section: str) -> str:
    work = former_work(next(s for s in former_sections(weave) if s.name == section))
    about = (work.leads, work.bights, work.passes, work.crossings)
    return hashlib.sha256(repr(about).encode()).hexdigest()[:12]


def _slack(shape: TightShape, end: str, stretch: float) -> float:
    """Diameters of an end in a unit as it is measured out. What is wrapped was drawn up under a hand's pull and is kept so by friction;
    what runs straight comes back with the work, whose length is measured when the hand has let go."""
    cord = shape.per_end.get(end, 0.0)
    straight = min(cord, shape.pitch)
    return straight + (cord - straight) / (1 + stretch)


def _across(weave: Weave, end: str, otherwise: float) -> float:
    cord = weave.cord_of(end)
    return cord_kind(cord.kind).diameter if cord else otherwise


def _stretch(weave: Weave, end: str) -> float:
    cord = weave.cord_of(end)
    return cord_kind(cord.kind).stretch if cord else 0.0


def _worked(weave: Weave, rough: RoughShape, section: int) -> list[float]:
    """Diameters of the cords that a section crosses, in mm."""
    visits = rough.roles.sections[section].visits
    return [cord_kind(c.kind).diameter for e, n in visits.items() if n and (c := weave.cord_of(e))]


def _thread(
    weave: Weave, section: str, known: Mapping[str, TightShape], rough: RoughShape
) -> dict[str, float]:
    """mm of thread that a unit of stitching takes, by end, as it is laid on the tight shape of what it is stitched on; empty where that is not
    known, or it is no stitching."""
    s = weave.section(section)
    ground, of = (known.get(s.on), rough.section(s.on)) if s is not None and s.on else (None, None)
    if ground is None or of is None or ground.amiss:
        return {}
    takes = thread_in_unit(weave, section, ground, of.span_mm / ground.unit_mm)
    return {e: d * ground.unit_mm for e, d in takes.items()}


def _along_the_ground(
    weave: Weave,
    rough: RoughShape,
    names: Sequence[str],
    unit: Array,
    pitch: Array,
    shaped: Sequence[str],
) -> None:
    """What is stitched on other work runs along it besides crossing it: so much cord more for the ends that are led, by the rough rule. shaped :
    sections of which more is known."""
    at = {s.name: k for k, s in enumerate(rough.sections)}
    for s in weave.sections:
        if s.on and s.name in at and s.on in at and s.name not in shaped:
            moves = rough.roles.sections[at[s.name]].moves
            for r, role in enumerate(names):
                if any(moves.get(e) for e in rough.roles.ends(role)):
                    unit[r, at[s.name]] += pitch[at[s.on]] * s.every


def _names(rough: RoughShape) -> set[str]:
    return {s.name for s in rough.sections}


def _mean(values: Iterable[float]) -> float:
    every = list(values)
    return sum(every) / len(every) if every else 0.0
