"""Free spans that stretch: the size is met exactly where they can, as near as anything where they cannot, all in one measure."""

from __future__ import annotations

import random

import pytest

from dim_ladder.calibrate import calibrate
from dim_ladder.commands.piece import _free
from dim_ladder.notation import parse, parse_strict, write
from dim_ladder.publish.choices import SheetChoices
from dim_ladder.publish.page import build_page
from dim_ladder.publish.sheet import build_sheet
from dim_ladder.scale import Plan, solve
from dim_ladder.scale.girth import for_size
from dim_ladder.scale.laid import laid
from dim_ladder.scale.stretch import at_fraction, free_spans, span_words, stretches
from dim_ladder.trace import trace
from dim_ladder.words.sentences import words_for


def weave(least=20, most=40, how="fit"):
    return parse_strict(
        f"""weave "Knots apart"
cords
  tide nylon-4mm #1f6f8b
  buoy nylon-4mm #e07a1f
hang on buckle
  buoy.a tide.a tide.b buoy.b
section knot: body, {how}
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
  span {least} mm to {most} mm
section end: finish
  tuck-and-melt (1 | 4)
"""
    )


APART = weave()
C = calibrate(APART, ())


def test_it_is_read_and_written_as_it_was():
    assert stretches(APART)
    assert "span 20 mm to 40 mm" in write(APART)
    assert parse_strict(write(APART)) == APART
    for wrong in ("span 20 mm to 20 mm", "span 20 mm to 10 mm", "span girth to 40 mm", "span 20 mm to"):
        problems = parse(write(APART).replace("span 20 mm to 40 mm", wrong)).problems
        assert problems[0].line == 13, wrong


def test_the_size_is_met_as_near_as_trying_everything():
    rng = random.Random(4)
    for _ in range(60):
        least = rng.randint(2, 30)
        most = least + rng.randint(1, 40)
        how = rng.choice(["fit", "fit pairs", "fit multiple of 3 plus 1"])
        of = weave(least, most, how)
        c = calibrate(of, ())
        plan = Plan(size_mm=rng.uniform(140, 420))
        piece = solve(of, c, plan)
        bare = c.pitch("knot").median - least
        allowed = {
            "fit": range(1, 200), "fit pairs": range(2, 200, 2), "fit multiple of 3 plus 1": range(1, 200, 3)
        }[how]  # fmt: skip
        room = piece.wanted_mm - c.fixed_mm

        def misses(n: int, bare=bare, least=least, most=most, room=room) -> float:
            return max(0.0, n * (bare + least) - room, room - n * (bare + most))

        best = min(map(misses, allowed))
        assert abs(piece.option.error_mm) <= best + 0.05, (least, most, how, plan.size_mm)
        assert 0 <= piece.stretch <= 1
        [mm] = free_spans(of, piece.stretch)
        assert least - 1e-9 <= mm <= most + 1e-9
        assert piece.counts["knot"] * (bare + mm) == pytest.approx(
            piece.option.length_mm - c.fixed_mm, abs=0.05
        )


def test_other_answers_stretch_as_well_and_are_drawn_as_long_as_they_are_said_to_be():
    piece = solve(APART, C, Plan(size_mm=260))
    assert [abs(o.error_mm) < 0.01 for o in piece.alternatives] == [True, True]
    assert len({o.stretch for o in (piece.option, *piece.alternatives)}) == 3
    for o in (piece.option, *piece.alternatives):
        of = laid(APART, piece, o)
        assert of.mm == pytest.approx(o.length_mm + piece.closing.adds_mm, abs=1.0)
        chosen = solve(APART, C, Plan(size_mm=260, chosen=o.counts))
        assert chosen.stretch == pytest.approx(o.stretch, abs=1e-3)
        assert chosen.option.length_mm == pytest.approx(o.length_mm, abs=0.05)


def test_every_end_is_cut_for_the_cord_that_is_left_free():
    plan = Plan(step_mm=0.01)
    piece = solve(APART, C, plan)
    [mm] = free_spans(APART, piece.stretch)
    plain = parse_strict(write(APART).replace("span 20 mm to 40 mm", f"span {mm:.4f} mm"))
    same = solve(plain, calibrate(plain, ()), plan)
    assert same.counts == piece.counts
    for a, b in zip(piece.cuts, same.cuts, strict=True):
        assert a.cut_mm == pytest.approx(b.cut_mm, abs=0.1)
    once = for_size(APART, C, plan)
    assert solve(APART, once, plan).cuts == piece.cuts  # stretched once, however often it is sized
    assert _free(APART, C, plan)["knot"] == (0.0, pytest.approx(mm, abs=0.01))


def test_the_sheet_and_the_page_say_how_much_is_left_free():
    choices = SheetChoices()
    sheet = build_sheet(APART, C, Plan(), choices)
    for column, row in zip(sheet.sizes, choices.sizes, strict=True):
        piece = solve(APART, C, Plan(size_mm=row.size_mm))
        assert span_words(APART, piece.stretch, "metric") in column.length
        assert column.off == "exact"
    page = build_page(APART, C, Plan(), choices, made=sheet)
    table = page.data["tables"][0]
    seen = set()
    for k, at in enumerate(table["index"]):
        if at < 0:
            continue
        size = table["low"] + k * table["step"]
        made = table["pieces"][at]
        piece = solve(APART, C, Plan(size_mm=float(size)))
        assert made["counts"] == piece.counts
        assert span_words(APART, piece.stretch, "metric") in made["length"][0]
        seen.add(made["length"][0])
    assert len(seen) > 5


def test_a_stranger_reads_that_the_size_says_how_much():
    told = [t.sentence for t in words_for(trace(APART))]
    [said] = [t for t in told if "of free cord" in t]
    assert "20 mm to 40 mm (your size says how much, the same every time)" in said
    assert at_fraction(APART, 1.0).sections[0].items[2].mm == 40
