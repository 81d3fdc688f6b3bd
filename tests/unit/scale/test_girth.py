"""Free cord and slack that are a share of the girth: drawn for a nominal one, counted for the size that is asked for."""

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.notation import NOMINAL_GIRTH, parse, parse_item, parse_strict, write, write_item
from dim_ladder.publish import build_sheet
from dim_ladder.publish.choices import SheetChoices, SizeRow
from dim_ladder.scale import Plan, solve
from dim_ladder.scale.girth import at_girth, follows_girth, for_size
from dim_ladder.trace import trace
from dim_ladder.words.sentences import words_for

HALF = """weave "Half Way"
cords
  tide  nylon-4mm  #1f6f8b
  buoy  nylon-4mm  #e07a1f
hang on ring
  buoy.a tide.a tide.b buoy.b
section loop: start
  span {free}
section bar: body, fit
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
section knob: finish
  buoy.a: over tide.a, leave 1 of 10 of girth
"""


def half(free="1 of 2 of girth less 20 mm"):
    return parse_strict(HALF.format(free=free))


def piece(weave, mm):
    c = calibrate(weave, (), prior_for(weave, shapes={}))
    return c, solve(weave, c, Plan(target="girth", size_mm=mm, fastening="none"))


@pytest.mark.parametrize(
    "line",
    [
        "span 1 of 2 of girth less 20 mm",
        "span girth",
        "span 2 of 3 of girth (1 2)",
        "a.a: over 2, leave 1 of 8 of girth",
    ],
)
def test_lines_are_read_and_written(line):
    assert write_item(parse_item(line)) == line


def test_the_free_length_follows_the_size_and_the_band_takes_the_rest():
    weave = half()
    assert follows_girth(weave)
    assert parse_strict(write(weave)) == weave
    for mm in (160, 200, 260):
        c, found = piece(weave, mm)
        sized = for_size(weave, c, found.plan)
        loop = sized.prior.sections.index("loop")
        assert sized.prior.span[loop] == pytest.approx(mm / 2 - 20)
        assert sized.prior.slack["buoy.a"][sized.prior.sections.index("knob")] == pytest.approx(mm / 10)
        fixed = parse_strict(
            HALF.format(free=f"{mm / 2 - 20} mm").replace("1 of 10 of girth", f"{mm / 10} mm")
        )
        other = piece(fixed, mm)[1]
        assert not follows_girth(fixed)
        assert found.counts == other.counts
        assert found.option.length_mm == pytest.approx(other.option.length_mm)
        assert [x.cut_mm for x in found.cuts] == [x.cut_mm for x in other.cuts]


def test_it_is_drawn_for_a_nominal_girth_and_said_as_a_share():
    t = trace(half())
    (span,) = (p for s in t.steps for p in s.placed if p.kind == "span")
    assert span.mm == pytest.approx(NOMINAL_GIRTH / 2 - 20)
    said = " ".join(s.sentence for s in words_for(t))
    assert "Leave half the girth less 20 mm of free cord on all" in said
    assert "leaving 1/10 of the girth standing in the turn where it set out" in said


def test_every_size_on_the_sheet_has_its_own():
    weave = half()
    c, found = piece(weave, 170)
    sheet = build_sheet(
        weave,
        c,
        found.plan,
        SheetChoices(sizes=(SizeRow(name="s", size_mm=160), SizeRow(name="l", size_mm=260))),
    )
    small, large = sheet.sizes
    assert not small.problem
    assert dict(small.counts)["bar"] < dict(large.counts)["bar"]
    assert small.cuts[0].cut_mm < large.cuts[0].cut_mm


def test_where_nothing_is_left_it_is_said():
    with pytest.raises(InputError, match="leaves nothing"):
        piece(half("1 of 2 of girth less 100 mm"), 160)
    (problem, *_) = parse(HALF.format(free="1 of girth")).problems
    assert problem.line == 8
    with pytest.raises(InputError):
        at_girth(half("1 of 2 of girth less 100 mm"), 150)
