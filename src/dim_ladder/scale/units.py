"""Whole units: the counts whose band comes nearest to a wanted length."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

from dim_ladder.base import InputError, format_length
from dim_ladder.notation import Weave

MAX_COMBINATIONS = 300_000


@dataclass(frozen=True, slots=True)
class Option:
    """counts : units by section. length_mm : expected tied length. error_mm : that less the wanted length."""

    counts: dict[str, int]
    length_mm: float
    error_mm: float


def whole_units(
    weave: Weave, pitch_mm: dict[str, float], fixed_mm: float, wanted_mm: float, *, keep: int = 3
) -> tuple[Option, ...]:
    """The nearest answers, best first.

    pitch_mm : band per unit for every section that has length. Sections that repeat keep their number; those that
    fit are free in their multiples, those that are the same as another follow it.
    Raises InputError when nothing can fit.
    """
    settled: dict[str, int] = {}
    free: list[tuple[str, int]] = []
    follow: dict[str, str] = {}
    for s in weave.sections:
        if s.name not in pitch_mm:
            continue
        if s.count.kind == "repeat":
            settled[s.name] = s.count.number
        elif s.count.kind == "same":
            follow[s.name] = s.count.other
        else:
            free.append((s.name, s.count.number))
    fixed = fixed_mm + sum(pitch_mm[s] * n for s, n in settled.items())
    if not free:
        counts = _complete(settled, follow)
        length = fixed_mm + sum(pitch_mm[s] * n for s, n in counts.items() if s in pitch_mm)
        return (Option(counts, length, length - wanted_mm),)
    room = wanted_mm - fixed
    smallest = sum(_per_step(pitch_mm, name, step, follow) for name, step in free)
    if room < smallest * 0.5:
        raise InputError(
            f"{format_length(wanted_mm)} is too short: start, finish and one unit take {format_length(fixed + smallest)}",
            "Give a larger size, or shorten the parts that repeat",
        )
    ranges = []
    combinations = 1
    for name, step in free[:-1]:
        top = int(room / _per_step(pitch_mm, name, step, follow)) + 1
        ranges.append(range(1, max(top, 1) + 1))
        combinations *= len(ranges[-1])
    if combinations > MAX_COMBINATIONS:
        raise InputError(
            "too many sections fit to size at once", "Give some of them an exact number with repeat"
        )
    last, last_step = free[-1]
    per_last = _per_step(pitch_mm, last, last_step, follow)
    found: dict[tuple[int, ...], Option] = {}
    for ks in product(*ranges):
        rest = room - sum(k * _per_step(pitch_mm, n, s, follow) for k, (n, s) in zip(ks, free, strict=False))
        centre = rest / per_last
        for k in {
            max(1, int(centre) - 1),
            max(1, int(centre)),
            max(1, int(centre) + 1),
            max(1, int(centre) + 2),
        }:
            counts = dict(settled)
            for times, (name, step) in zip((*ks, k), free, strict=True):
                counts[name] = times * step
            counts = _complete(counts, follow)
            length = fixed_mm + sum(pitch_mm[s] * n for s, n in counts.items())
            found[(*ks, k)] = Option(counts, length, length - wanted_mm)
    # Equal errors: the longer piece first, since it can still be worn.
    ranked = sorted(found.values(), key=lambda o: (round(abs(o.error_mm), 6), -o.length_mm))
    return tuple(ranked[:keep])


def _per_step(pitch: dict[str, float], name: str, step: int, follow: dict[str, str]) -> float:
    """Band added by one more step of a free section, with those that follow it."""
    return step * (pitch[name] + sum(pitch[f] for f, other in follow.items() if other == name))


def _complete(counts: dict[str, int], follow: dict[str, str]) -> dict[str, int]:
    out = dict(counts)
    for name, other in follow.items():
        out[name] = out.get(other, 1)
    return out
