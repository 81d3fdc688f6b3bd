"""Counts that fit with a remainder, a least and a most: read, written, solved as trying everything does, and said where they cannot."""

from __future__ import annotations

import random
from dataclasses import replace
from itertools import product

import pytest

from dim_ladder.calibrate import calibrate
from dim_ladder.notation import Count, parse, parse_strict, write
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.publish.sheet import build_sheet
from dim_ladder.scale import Plan, solve, whole_units
from dim_ladder.scale.cycles import cycle_of, in_cycles, out_of_cycles
from dim_ladder.scale.units import MAX_COMBINATIONS
from dim_ladder.trace import trace
from helpers.weaves import TERN

COUNTS = [
    ("fit multiple of 4 plus 1", Count("fit", 4, plus=1)),
    ("fit at least 6", Count("fit", 1, least=6)),
    ("fit multiple of 2 plus 1", Count("fit", 2, plus=1)),
    ("fit pairs at most 20", Count("fit", 2, most=20)),
    ("fit multiple of 3 plus 2 at least 5 at most 17", Count("fit", 3, plus=2, least=5, most=17)),
]


def sections(*counts: str):
    body = "\n".join(
        f"section s{k}: body, {c}\n  half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)"
        for k, c in enumerate(counts)
    )
    return parse_strict(
        'weave "W"\ncords\n  tide nylon-4mm #1f6f8b\n  buoy nylon-4mm #e07a1f\n'
        f"hang on buckle\n  buoy.a tide.a tide.b buoy.b\n{body}\n"
    )


@pytest.mark.parametrize(("text", "count"), COUNTS)
def test_they_are_read_and_written_as_they_were(text, count):
    weave = sections(text)
    assert weave.sections[0].count == count
    assert text in write(weave)
    assert parse_strict(write(weave)) == weave


@pytest.mark.parametrize(
    "text", ["fit at least 9 at most 4", "fit multiple of 6 at least 7 at most 11", "fit pairs plus 2", "fit at 4", "fit multiple of 3 plus 3"]
)  # fmt: skip
def test_a_count_that_nothing_is_like_is_refused_with_its_place(text):
    found = parse(write(sections("fit")).replace("body, fit", f"body, {text}"))
    problems = found.problems
    assert problems
    assert problems[0].line > 1
    assert problems[0].hint


def test_several_of_them_against_trying_everything():
    rng = random.Random(3)
    for _ in range(150):
        many = rng.randint(1, 3)
        counts = []
        for _ in range(many):
            step = rng.randint(1, 5)
            plus = rng.randint(0, step - 1)
            least = rng.choice([0, rng.randint(1, 8)])
            most = rng.choice([0, least + step + rng.randint(0, 9)])
            counts.append(Count("fit", step, plus=plus, least=least, most=most))
        weave = sections(*["fit"] * many)
        weave = replace(
            weave, sections=tuple(replace(s, count=c) for s, c in zip(weave.sections, counts, strict=True))
        )
        pitch = {f"s{k}": rng.uniform(4, 30) for k in range(many)}

        def allowed(c: Count) -> list[int]:
            return [
                n for n in range(1, 90)
                if n % c.number == c.plus % c.number and n >= c.least and (not c.most or n <= c.most)
            ]  # fmt: skip

        ranges = [allowed(c) for c in counts]
        lowest = sum(r[0] * p for r, p in zip(ranges, pitch.values(), strict=True))
        wanted = lowest + rng.uniform(0, 200)
        best = min(
            abs(sum(n * p for n, p in zip(ns, pitch.values(), strict=True)) - wanted)
            for ns in product(*ranges)
        )
        options = whole_units(weave, pitch, 0.0, wanted)
        for o in options:
            assert all(n in r for n, r in zip(o.counts.values(), ranges, strict=True)), (counts, o)
        assert abs(options[0].error_mm) <= best + 0.51


def test_more_than_can_be_tried_are_solved_within_their_bounds():
    counts = ["fit at most 9", "fit multiple of 3 plus 1", "fit pairs at least 8", "fit", "fit at most 12"]
    weave = sections(*counts)
    pitch = {f"s{k}": p for k, p in enumerate((7.3, 9.1, 5.7, 11.9, 6.1))}
    assert MAX_COMBINATIONS < 100**4
    for wanted in (400.0, 900.0, 1500.0):
        for o in whole_units(weave, pitch, 0.0, wanted):
            n = list(o.counts.values())
            assert n[0] <= 9
            assert n[1] % 3 == 1
            assert n[2] >= 8
            assert n[2] % 2 == 0
            assert n[4] <= 12
        assert abs(whole_units(weave, pitch, 0.0, wanted)[0].error_mm) < 1


def test_what_cannot_be_met_is_said_where_it_is_asked_and_on_the_sheet():
    weave = sections("fit at most 6")
    c = calibrate(weave, ())
    piece = solve(weave, c, Plan())
    assert piece.counts == {"s0": 6}
    assert "shorter than was asked: 6 × s0 is as many as there may be" in piece.fit
    sheet = build_sheet(weave, c, Plan(), SheetChoices())
    assert "tighter" in sheet.sizes[0].off
    assert "at most 6 times" in sheet.sections[0].repeat
    fixed = sections("repeat 3")
    assert "no section of it fits" in solve(fixed, calibrate(fixed, ()), Plan()).fit
    tern = parse_strict(TERN)
    assert solve(tern, calibrate(tern, ()), Plan(fastening="side-buckle")).fit == ""
    assert solve(weave, c, Plan(chosen={"s0": 4})).fit == ""  # the maker wants it so


CHANGING = """weave "Changing"
cords
  a nylon-4mm #1f6f8b
  b nylon-4mm #e07a1f
  c nylon-4mm #c9a13b
hang on cold-start
  a.a b.a c.a
section plait: body, fit
  3: over 2
  1: over 2
"""


def test_whole_colour_cycles_end_as_they_began():
    weave = parse_strict(CHANGING)
    cycle = cycle_of(weave, "plait")
    assert cycle == 3
    assert cycle_of(parse_strict(TERN), "bar") == 1
    count = in_cycles(weave.sections[0].count, cycle)
    assert count == Count("fit", 3)
    assert in_cycles(Count("fit", 2, least=7), 3) == Count("fit", 6, least=7)
    assert out_of_cycles(count, cycle) == Count("fit", 1)
    whole = replace(weave, sections=(replace(weave.sections[0], count=count),))
    piece = solve(whole, calibrate(whole, ()), Plan(target="length", size_mm=163, fastening="none"))
    n = piece.counts["plait"]
    assert n % 3 == 0
    order = trace(whole, counts={"plait": n})
    assert [order.ends[e] for e in order.order] == ["a.a", "b.a", "c.a"]
