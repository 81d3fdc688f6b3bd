"""Whole units: the counts whose band comes nearest to a wanted length."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from types import MappingProxyType

from dim_ladder.base import InputError, format_length
from dim_ladder.notation import Count, Weave
from dim_ladder.scale.integers import nearest_counts

MAX_COMBINATIONS = 3_000  # beyond which they are solved for, not tried
LEAST_MM = 0.1  # of band a unit; less is no length, only the way in which nothing is written


@dataclass(frozen=True, slots=True)
class Option:
    """counts : units by section. length_mm : expected tied length. error_mm : that less the wanted length. stretch : of their room, how
    much of it spans that stretch take."""

    counts: dict[str, int]
    length_mm: float
    error_mm: float
    stretch: float = 0.0


@dataclass(frozen=True, slots=True)
class _Free:
    """A section that fits: `plus` and so many steps, from low to high of them; high below 0 for no end."""

    name: str
    step: int
    plus: int
    low: int
    high: int


def whole_units(
    weave: Weave,
    pitch_mm: Mapping[str, float],
    fixed_mm: float,
    wanted_mm: float,
    *,
    lying: Collection[str] = (),
    keep: int = 3,
    kept: Mapping[str, int] = MappingProxyType({}),
) -> tuple[Option, ...]:
    """The nearest answers, best first.

    pitch_mm : band per unit for every section that has length. Sections that repeat keep their number; those that
    fit are free in their multiples, those that are the same as another follow it. lying : sections that lie on others or
    beside them and add nothing to the length; where they fit, they become as long as what they lie on. kept : counts that stay as
    they are, whatever else becomes of the piece.
    Raises InputError when nothing can fit, or a section that should has no length.
    """
    settled: dict[str, int] = {}
    free: list[_Free] = []
    follow: dict[str, str] = {}
    covers: dict[str, tuple[str, int]] = {}
    stitched: dict[str, int] = {}  # unit by unit on what it lies on: so many of its units for one
    shares: dict[str, Count] = {}
    last_body = ""
    for s in weave.sections:
        if s.name not in pitch_mm:
            continue
        if s.name in kept:
            settled[s.name] = kept[s.name]
        elif s.count.kind == "repeat":
            settled[s.name] = s.count.number
        elif s.count.kind == "same":
            follow[s.name] = s.count.other
        elif s.count.kind == "long" and not s.count.other:
            settled[s.name] = _units_in(s.count.mm, pitch_mm[s.name], s.name)
        elif s.count.kind == "long":
            shares[s.name] = s.count
        elif s.name in lying:
            covers[s.name] = (s.over or s.on or last_body, s.count.number)
            if s.on:
                stitched[s.name] = s.every
        else:
            low, high = s.count.steps
            free.append(_Free(s.name, s.count.number, s.count.plus, low, high))
        if s.kind == "body" and s.name not in lying:
            last_body = s.name
    for name, other in list(follow.items()):
        if other in settled:
            settled[name] = settled[other]
            del follow[name]
    for name in (*(f.name for f in free), *(name for name, _ in covers.values())):
        if name in pitch_mm and pitch_mm[name] < LEAST_MM:
            raise InputError(
                f"section {name} fits to size, but a unit of it has no length of its own",
                "Tie something in it that takes length, or give it a number with repeat",
            )
    adds = {s: 0.0 if s in lying else mm for s, mm in pitch_mm.items()}

    def option(counts: dict[str, int]) -> Option:
        whole = _complete(counts, follow)
        for name, count in shares.items():
            of = whole.get(count.other, 1) * pitch_mm.get(count.other, 0.0)
            whole[name] = _units_in(of * count.share[0] / count.share[1] - count.mm, pitch_mm[name], name)
        whole = _complete(whole, follow)
        for name, (under, step) in covers.items():
            units = whole.get(under, 1) * pitch_mm.get(under, 0.0) / pitch_mm[name]
            if name in stitched:
                units = whole.get(under, 1) / stitched[name]
            whole[name] = max(1, round(units / step)) * step
        whole = {s.name: whole[s.name] for s in weave.sections if s.name in whole}  # in the order of the work
        length = fixed_mm + sum(adds[s] * n for s, n in whole.items() if s in adds)
        return Option(whole, length, length - wanted_mm)

    fixed = fixed_mm + sum(adds[s] * n for s, n in settled.items())
    # What is as long as a share of another grows with it, if it adds to the length at all.
    along: dict[str, float] = {}
    for name, count in shares.items():
        if adds[name]:
            along[count.other] = along.get(count.other, 0.0) + count.share[0] / count.share[1]
            fixed -= count.mm
            if count.other in settled:
                fixed += along.pop(count.other) * pitch_mm[count.other] * settled[count.other]
    grows = {name: mm * (1 + along.get(name, 0.0)) for name, mm in adds.items()}
    if not free:
        return (option(settled),)
    per = [_per_step(grows, f.name, f.step, follow) for f in free]  # mm
    # What is more than a multiple is there in any case.
    fixed += sum(f.plus * mm / f.step for f, mm in zip(free, per, strict=True))
    room = wanted_mm - fixed
    smallest = sum(f.low * mm for f, mm in zip(free, per, strict=True))
    if room < smallest - 0.5 * max(mm for mm in per):
        fewest = "one unit" if all(f.low * f.step + f.plus == 1 for f in free) else "the fewest units"
        raise InputError(
            f"{format_length(wanted_mm)} is too short: start, finish and {fewest} take {format_length(fixed + smallest)}",
            "Give a larger size, or shorten the parts that repeat",
        )

    def taken(ks: Sequence[int]) -> dict[str, int]:
        return settled | {f.name: f.plus + k * f.step for f, k in zip(free, ks, strict=True)}

    ranges = []
    combinations = 1
    for f, mm in zip(free[:-1], per, strict=False):
        top = max(int(room / mm) + 1, f.low)
        ranges.append(range(f.low, (top if f.high < 0 else min(top, f.high)) + 1))
        combinations *= len(ranges[-1])
    if combinations > MAX_COMBINATIONS:
        many = nearest_counts(room, per, keep, [(f.low, f.high) for f in free])
        if not many:
            raise InputError(
                "too many sections fit to size at once", "Give some of them an exact number with repeat"
            )
        return tuple(option(taken(ks)) for ks in many)
    last = free[-1]
    found: dict[tuple[int, ...], Option] = {}
    for ks in product(*ranges):
        rest = room - sum(k * mm for k, mm in zip(ks, per, strict=False))
        centre = int(rest / per[-1])
        for near in range(centre - 1, centre + 3):
            k = max(near, last.low)
            if last.high >= 0:
                k = min(k, last.high)
            found[(*ks, k)] = option(taken((*ks, k)))
    # Equal errors: the longer piece first, since it can still be worn.
    ranked = sorted(found.values(), key=lambda o: (round(abs(o.error_mm), 6), -o.length_mm))
    return tuple(ranked[:keep])


def _units_in(length_mm: float, pitch_mm: float, name: str) -> int:
    """Whole units, one at least, that come nearest to a length."""
    if pitch_mm < LEAST_MM:
        raise InputError(
            f"section {name} is to have a length, but a unit of it has none of its own",
            "Tie something in it that takes length, or give it a number with repeat",
        )
    return max(1, round(length_mm / pitch_mm))


def _per_step(pitch: Mapping[str, float], name: str, step: int, follow: dict[str, str]) -> float:
    """Band added by one more step of a free section, with those that follow it."""
    return step * (pitch[name] + sum(pitch[f] for f, other in follow.items() if other == name))


def _complete(counts: dict[str, int], follow: dict[str, str]) -> dict[str, int]:
    out = dict(counts)
    for name, other in follow.items():
        out[name] = out.get(other, 1)
    return out
