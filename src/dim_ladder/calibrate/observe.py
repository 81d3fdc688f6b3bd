"""Ties as rows of observations: each kind of record for what it says, and nothing made up for what is missing."""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.prior import Array, Prior
from dim_ladder.calibrate.sittings import Sitting, others, person, sitting
from dim_ladder.calibrate.ties import Reading, Tie, said
from dim_ladder.library import cord_kind

READING_MM = 4.0  # one cut less one leftover, read off a tape, an end
LENGTH_MM = 2.0  # tied length, read off a tape
SCALE_G = 0.05  # a pocket scale
GRAMS_SPREAD = 0.03  # mass of a metre against what its kind should have, the same for a lot
CORD, MASS, LENGTH = 0, 1, 2
OTHER = "tied on another version of"


@dataclass(frozen=True, slots=True)
class Row:
    """One observation. kind : CORD used in mm, MASS as mm of cord that was left by its mass, or LENGTH tied, mm. cut :
    what the rest was cut off, of a MASS. ends : 1 for each end in it. name : what it is, for people."""

    tie: int
    kind: int
    value: float
    sd: float
    ends: tuple[float, ...]
    cut: float
    reading: int
    name: str


@dataclass(frozen=True, slots=True)
class Data:
    """Rows in order of ties; ends in the order of the prior's role_of. value, sd, cut : (n,). kind, tie : (n,). ends : (n, ends)
    1 where an end is in a row. role : (ends,). own : (ties, ends, sections), see Prior.own_in. counts : (ties, sections) units that are
    known; missing : (ties, sections), 1 where the units of a section are not; vague : (ties, sections), by how many units it
    is not known whether they were tied. kinds : names of kinds of cord. share : (ties, ends, kinds). ratio : (ties, ends) and
    (ties,), cord diameters against those of the weave now. grams : (n, kinds) whose mass was taken. adds : (sections,), see
    Prior. now : (ends, kinds) of which kinds the weave's ends are. sitting : (sittings, ties), 1 where a tie is of a sitting;
    person : (ties, people), 1 where a tie is of somebody for whom pieces are not planned; names : theirs.
    sittings : what each is. outdated : ids of ties that were tied
    on another version."""

    rows: tuple[Row, ...]
    value: Array
    sd: Array
    cut: Array
    kind: NDArray[np.int64]
    tie: NDArray[np.int64]
    ends: Array
    role: NDArray[np.int64]
    own: Array
    counts: Array
    missing: Array
    vague: Array
    kinds: tuple[str, ...]
    share: Array
    ratio: Array
    ratio_length: Array
    grams: Array
    adds: Array
    now: Array
    sitting: Array
    person: Array
    names: tuple[str, ...]
    sittings: tuple[Sitting, ...]
    ids: tuple[str, ...]
    left_out: tuple[str, ...]
    outdated: tuple[str, ...]

    @property
    def ties(self) -> int:
        return len(self.ids)

    @property
    def people(self) -> int:
        return len(self.names)


@dataclass(frozen=True, slots=True)
class Known:
    """What several collections have in common: kinds of cord and people, in their order."""

    kinds: tuple[str, ...] = ()
    people: tuple[str, ...] | None = None


NOTHING = Known()


def collect(prior: Prior, ties: Sequence[Tie], known: Known = NOTHING) -> Data:
    """Every observation that the prior's weave can use; what cannot be used is said."""
    left_out: list[str] = []
    kinds = list(known.kinds or dict.fromkeys(prior.kind_of.values())) or ["nylon-4mm"]
    for tie in ties:
        kinds += [k for k in tie.kinds.values() if k not in kinds]
    people = others(ties) if known.people is None else known.people
    e, s = len(prior.role_of), len(prior.sections)
    rows: list[Row] = []
    ids: list[str] = []
    outdated: list[str] = []
    used: list[Tie] = []
    counts, missing, vague, share, ratio, ratio_length, by_place = [], [], [], [], [], [], []
    of_cord = _of_cord(prior)
    seen: dict[object, str] = {}
    for tie in ties:
        key = said(tie)
        if key in seen:
            left_out.append(f"{tie.id}: says to the millimetre what {seen[key]} says, and is counted once")
            continue
        found = _counts(prior, tie)
        if isinstance(found, str):
            left_out.append(f"{tie.id}: {found}")
            if found.startswith(OTHER):
                outdated.append(tie.id)
            continue
        own = {c: tie.kinds.get(c, k) for c, k in prior.kind_of.items()}
        k = len(ids)
        read = _readings(prior, tie, k, own, left_out, found)
        if tie.length_mm is not None and not prior.only_rings:
            free = float(found.counts @ (prior.span * prior.adds))
            read.append(Row(k, LENGTH, tie.length_mm - free, LENGTH_MM, (0.0,) * e, 0.0, -1, "tied length"))
        if not read:
            left_out.append(f"{tie.id}: nothing in it was measured")
            continue
        rows += read
        ids.append(tie.id)
        used.append(tie)
        if key is not None:
            seen[key] = tie.id
        counts.append(found.counts)
        missing.append(found.missing)
        vague.append(found.vague)
        by_place.append(prior.own_in(found.units(prior)))
        share.append(_share(prior, own, kinds))
        scale = np.array([_diameter(own[c]) / _diameter(prior.kind_of[c]) for c in prior.cords])
        ratio.append(of_cord @ scale if len(scale) else np.ones(e))
        ratio_length.append(float(scale.mean()) if len(scale) else 1.0)
    n, t = len(rows), len(ids)
    grams = np.zeros((n, len(kinds)))
    for i, row in enumerate(rows):
        if row.kind == MASS:
            grams[i] = np.array(row.ends) @ share[row.tie] / max(sum(row.ends), 1.0)
    sittings = [sitting(tie) for tie in used]
    names = list(dict.fromkeys(sittings))
    return Data(
        tuple(rows),
        np.array([x.value for x in rows], np.float64),
        np.array([x.sd for x in rows], np.float64),
        np.array([x.cut for x in rows], np.float64),
        np.array([x.kind for x in rows], np.int64),
        np.array([x.tie for x in rows], np.int64),
        np.array([x.ends for x in rows], np.float64).reshape(n, e),
        np.array([prior.roles.index(r) for r in prior.role_of.values()], np.int64),
        np.array(by_place, np.float64).reshape(t, e, s),
        np.array(counts, np.float64).reshape(t, s),
        np.array(missing, np.float64).reshape(t, s),
        np.array(vague, np.float64).reshape(t, s),
        tuple(kinds),
        np.array(share, np.float64).reshape(t, e, len(kinds)),
        np.array(ratio, np.float64).reshape(t, e),
        np.array(ratio_length, np.float64),
        grams,
        prior.adds,
        _share(prior, prior.kind_of, kinds),
        np.array([[float(x == name) for x in sittings] for name in names]).reshape(len(names), t),
        np.array([[float(person(x) == p) for p in people] for x in used]).reshape(t, len(people)),
        tuple(people),
        tuple(names),
        tuple(ids),
        tuple(left_out),
        tuple(outdated),
    )


@dataclass(frozen=True, slots=True)
class Counts:
    """Of one tie, each (sections,): see Data."""

    counts: Array
    missing: Array
    vague: Array

    def units(self, prior: Prior) -> dict[str, float]:
        """Units by section, of those whose number is known."""
        return {
            s: float(self.counts[k])
            for k, s in enumerate(prior.sections)
            if not self.missing[k] and not self.vague[k]
        }


def _counts(prior: Prior, tie: Tie) -> Counts | str:
    """Units of every section, and which are not known; or why the tie cannot be used."""
    other = [
        s for s, v in tie.versions.items()
        if prior.versions.get(s, v) != v and (tie.counts.get(s) or not any(tie.counts.values()))
    ]  # fmt: skip
    if other:
        return f"{OTHER} {', '.join(other)}"
    for s, n in tie.counts.items():
        if n and s not in prior.sections and s not in prior.uncounted:
            near = meant_by(prior, s)
            meant = f" “{near}” may be meant." if near else ""
            return f"there is no section “{s}” in this weave.{meant} Name one of {', '.join(prior.sections)}"
    known = np.array([float(tie.counts.get(s, 0)) for s in prior.sections])
    if prior.only_rings:
        if tie.length_mm is None:
            return "it is not said how far round its former is: give that as the tied length"
        once = known if known.any() else np.array([float(prior.fixed[s]) for s in prior.sections])
        none = np.zeros(len(known))
        return Counts(prior.on_former(once, tie.length_mm), none, none)
    none = np.zeros(len(known))
    if known.any():
        # Of a start or finish that nothing is said of, nobody knows whether it was tied.
        left = [prior.fixed.get(s, 0) / 2 if s not in tie.counts else 0.0 for s in prior.sections]
        return Counts(known + left, none, np.array(left, np.float64))
    if tie.length_mm is None:
        return "no unit count and no tied length, so its cord cannot be shared out"
    if len(prior.fits) != 1:
        return "no unit count, and more than one section that it could be of"
    fixed = np.array([float(prior.fixed.get(s, 0)) for s in prior.sections])
    return Counts(fixed, np.array([float(s == prior.fits[0]) for s in prior.sections]), none)


def meant_by(prior: Prior, section: str) -> str:
    """The section that a name which there is not is most like; "" where it is like none."""
    return next(iter(difflib.get_close_matches(section, prior.sections, 1, 0.6)), "")


def _readings(
    prior: Prior, tie: Tie, k: int, own: dict[str, str], left_out: list[str], found: Counts
) -> list[Row]:
    """What was read of cords, less what of it was left free."""
    out: list[Row] = []
    slack = dict(
        zip(prior.role_of, (prior.slack_in(found.units(prior)) @ found.counts).tolist(), strict=True)
    )
    for i, r in enumerate(tie.readings):
        unknown = [e for e in r.ends if e not in prior.role_of]
        if unknown:
            left_out.append(f"{tie.id}: {', '.join(unknown)} is not in this weave")
            continue
        ends = tuple(dict.fromkeys(r.ends))
        each = tuple(float(e in ends) for e in prior.role_of)
        name = " and ".join(ends)
        many = float(np.sqrt(len(ends)))
        free = float(sum(slack[e] for e in ends))
        if r.cut_mm is None:
            left_out.append(f"{tie.id}: {name} has no cut length")
        elif r.left_mm is not None:
            used = r.cut_mm - r.left_mm - free
            if used > 0:
                out.append(Row(k, CORD, used, READING_MM * many, each, 0.0, i, name))
            else:
                left_out.append(f"{tie.id}: more of {name} is left over than was cut")
        elif r.left_g is not None:
            per_mm = _grams(r, own) / 1000
            sd = float(np.hypot(SCALE_G / per_mm, READING_MM))
            if r.left_g / per_mm >= r.cut_mm * (1 + 3 * GRAMS_SPREAD):
                left_out.append(f"{tie.id}: what was left of {name} weighs more than what was cut")
                continue
            out.append(Row(k, MASS, r.left_g / per_mm, sd, each, r.cut_mm - free, i, name))
        else:
            left_out.append(f"{tie.id}: nothing says what was left of {name}")
    return out


def _grams(r: Reading, own: dict[str, str]) -> float:
    """Grams a metre of what was weighed together."""
    each = [cord_kind(own.get(e.split(".")[0], "")).grams_per_metre for e in r.ends]
    return sum(each) / len(each)


def _diameter(kind: str) -> float:
    return cord_kind(kind).diameter


def _of_cord(prior: Prior) -> Array:
    """(ends, cords), 1 where an end is of a cord."""
    return np.array([[float(e.split(".")[0] == c) for c in prior.cords] for e in prior.role_of]).reshape(
        len(prior.role_of), len(prior.cords)
    )


def _share(prior: Prior, own: dict[str, str], kinds: Sequence[str]) -> Array:
    """(ends, kinds): of which kind every end is."""
    if not len(prior.cords):
        return np.full((len(prior.role_of), len(kinds)), 1.0 / len(kinds))
    to = np.array([[float(own[c] == k) for k in kinds] for c in prior.cords])
    return np.asarray(_of_cord(prior) @ to.reshape(len(prior.cords), len(kinds)), np.float64)
