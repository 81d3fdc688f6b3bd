"""Ties as rows of observations: each kind of record for what it says, and nothing made up for what is missing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dim_ladder.calibrate.prior import Array, Prior
from dim_ladder.calibrate.ties import Reading, Tie
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
    what the rest was cut off, of a MASS. ends : how many of each role. name : what it is, for people."""

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
    """Rows in order of ties. value, sd, cut : (n,). kind, tie : (n,). ends : (n, roles). counts : (ties, sections) units
    that are known; missing : (ties, sections), 1 where the units of a section are not. kinds : names of kinds of cord.
    share : (ties, roles, kinds). ratio : (ties, roles) and (ties,), cord diameters against those of the weave now. grams :
    (n, kinds) whose mass was taken. adds : (sections,), see Prior. foreign : whether a tie is of other kinds than the weave. outdated : ids of ties that were tied on another version."""

    rows: tuple[Row, ...]
    value: Array
    sd: Array
    cut: Array
    kind: NDArray[np.int64]
    tie: NDArray[np.int64]
    ends: Array
    counts: Array
    missing: Array
    kinds: tuple[str, ...]
    share: Array
    ratio: Array
    ratio_length: Array
    grams: Array
    adds: Array
    now: Array
    ids: tuple[str, ...]
    left_out: tuple[str, ...]
    outdated: tuple[str, ...]

    @property
    def ties(self) -> int:
        return len(self.ids)


def collect(prior: Prior, ties: Sequence[Tie], known: Sequence[str] = ()) -> Data:
    """Every observation that the prior's weave can use; what cannot be used is said. known : kinds of cord to count with, in
    their order."""
    left_out: list[str] = []
    kinds = list(known or dict.fromkeys(prior.kind_of.values())) or ["nylon-4mm"]
    for tie in ties:
        kinds += [k for k in tie.kinds.values() if k not in kinds]
    r, s = len(prior.roles), len(prior.sections)
    rows: list[Row] = []
    weights = _weights(prior)
    ids: list[str] = []
    outdated: list[str] = []
    counts, missing, share, ratio, ratio_length = [], [], [], [], []
    for tie in ties:
        found = _counts(prior, tie)
        if isinstance(found, str):
            left_out.append(f"{tie.id}: {found}")
            if found.startswith(OTHER):
                outdated.append(tie.id)
            continue
        own = {c: tie.kinds.get(c, k) for c, k in prior.kind_of.items()}
        k = len(ids)
        read = _readings(prior, tie, k, own, left_out, np.array(found[0]))
        if tie.length_mm is not None:
            free = float(np.array(found[0]) @ (prior.span * prior.adds))
            read.append(Row(k, LENGTH, tie.length_mm - free, LENGTH_MM, (0.0,) * r, 0.0, -1, "tied length"))
        if not read:
            left_out.append(f"{tie.id}: nothing in it was measured")
            continue
        rows += read
        ids.append(tie.id)
        counts.append(found[0])
        missing.append(found[1])
        share.append(_share(prior, own, kinds, weights))
        scale = np.array([_diameter(own[c]) / _diameter(prior.kind_of[c]) for c in prior.cords])
        ratio.append(weights @ scale if len(scale) else np.ones(r))
        ratio_length.append(float(scale.mean()) if len(scale) else 1.0)
    n, t = len(rows), len(ids)
    grams = np.zeros((n, len(kinds)))
    for i, row in enumerate(rows):
        if row.kind == MASS:
            grams[i] = np.array(row.ends) @ share[row.tie] / max(sum(row.ends), 1.0)
    return Data(
        tuple(rows),
        np.array([x.value for x in rows], np.float64),
        np.array([x.sd for x in rows], np.float64),
        np.array([x.cut for x in rows], np.float64),
        np.array([x.kind for x in rows], np.int64),
        np.array([x.tie for x in rows], np.int64),
        np.array([x.ends for x in rows], np.float64).reshape(n, r),
        np.array(counts, np.float64).reshape(t, s),
        np.array(missing, np.float64).reshape(t, s),
        tuple(kinds),
        np.array(share, np.float64).reshape(t, r, len(kinds)),
        np.array(ratio, np.float64).reshape(t, r),
        np.array(ratio_length, np.float64),
        grams,
        prior.adds,
        _share(prior, prior.kind_of, kinds, weights),
        tuple(ids),
        tuple(left_out),
        tuple(outdated),
    )


def _counts(prior: Prior, tie: Tie) -> tuple[list[float], list[float]] | str:
    """Units of every section, and which are not known; or why the tie cannot be used."""
    other = [
        s for s, v in tie.versions.items()
        if prior.versions.get(s, v) != v and (tie.counts.get(s) or not any(tie.counts.values()))
    ]  # fmt: skip
    if other:
        return f"{OTHER} {', '.join(other)}"
    counts = [float(tie.counts.get(s, 0)) for s in prior.sections]
    none = [0.0] * len(counts)
    if any(counts):
        return counts, none
    if tie.length_mm is None:
        return "no unit count and no tied length, so its cord cannot be shared out"
    if len(prior.fits) != 1:
        return "no unit count, and more than one section that it could be of"
    counts = [float(prior.fixed.get(s, 0)) for s in prior.sections]
    return counts, [float(s == prior.fits[0]) for s in prior.sections]


def _readings(
    prior: Prior, tie: Tie, k: int, own: dict[str, str], left_out: list[str], counts: Array
) -> list[Row]:
    """What was read of cords, less what of it was left free."""
    out: list[Row] = []
    for i, r in enumerate(tie.readings):
        unknown = [e for e in r.ends if e not in prior.role_of]
        if unknown:
            left_out.append(f"{tie.id}: {', '.join(unknown)} is not in this weave")
            continue
        ends = tuple(dict.fromkeys(r.ends))
        per_role = tuple(float(sum(prior.role_of[e] == role for e in ends)) for role in prior.roles)
        name = " and ".join(ends)
        many = float(np.sqrt(len(ends)))
        free = float(sum(float(prior.slack[e] @ counts) for e in ends))
        if r.cut_mm is None:
            left_out.append(f"{tie.id}: {name} has no cut length")
        elif r.left_mm is not None:
            used = r.cut_mm - r.left_mm - free
            if used > 0:
                out.append(Row(k, CORD, used, READING_MM * many, per_role, 0.0, i, name))
            else:
                left_out.append(f"{tie.id}: more of {name} is left over than was cut")
        elif r.left_g is not None:
            per_mm = _grams(r, own) / 1000
            sd = float(np.hypot(SCALE_G / per_mm, READING_MM))
            if r.left_g / per_mm >= r.cut_mm * (1 + 3 * GRAMS_SPREAD):
                left_out.append(f"{tie.id}: what was left of {name} weighs more than what was cut")
                continue
            out.append(Row(k, MASS, r.left_g / per_mm, sd, per_role, r.cut_mm - free, i, name))
        else:
            left_out.append(f"{tie.id}: nothing says what was left of {name}")
    return out


def _grams(r: Reading, own: dict[str, str]) -> float:
    """Grams a metre of what was weighed together."""
    each = [cord_kind(own.get(e.split(".")[0], "")).grams_per_metre for e in r.ends]
    return sum(each) / len(each)


def _diameter(kind: str) -> float:
    return cord_kind(kind).diameter


def _weights(prior: Prior) -> Array:
    """(roles, cords), each row summing to 1 where it can."""
    total = prior.shares.sum(axis=1, keepdims=True)
    return np.where(total > 0, prior.shares / np.maximum(total, 1e-9), 1.0 / max(len(prior.cords), 1))


def _share(prior: Prior, own: dict[str, str], kinds: Sequence[str], weights: Array) -> Array:
    """(roles, kinds): of which kinds the ends of a role are."""
    to = np.array([[float(own[c] == k) for k in kinds] for c in prior.cords]).reshape(
        len(prior.cords), len(kinds)
    )
    if not len(prior.cords):
        return np.full((len(prior.roles), len(kinds)), 1.0 / len(kinds))
    return np.asarray(weights @ to, np.float64)
