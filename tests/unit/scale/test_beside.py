"""Works that hang beside each other are as long as one: the longest."""

import pytest

from dim_ladder.base import InputError
from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.notation import parse_strict
from dim_ladder.scale import Plan, solve
from dim_ladder.shape import tight

ARMS = """weave "Two Arms"
cords
  a  cotton-3mm  #1f6f8b
  b  cotton-3mm  #e07a1f
  c  cotton-3mm  #3f7a4a
  d  cotton-3mm  #c9a13b
hang on ring
  a.a a.b b.a c.a d.a d.b
section left: body, {left}
  plait-3 (1 | 2 | 3)
section right: body, {right}
  plait-3 (4 | 5 | 6)
"""
PLAN = Plan(target="length", size_mm=300, fastening="none")


def piece(left, right):
    weave = parse_strict(ARMS.format(left=left, right=right))
    c = calibrate(weave, (), prior_for(weave, shapes={}))
    return c, solve(weave, c, PLAN)


@pytest.mark.parametrize(("left", "right"), [(10, 10), (10, 24), (24, 10)])
def test_of_two_that_are_given_the_longer_counts(left, right):
    c, found = piece(f"repeat {left}", f"repeat {right}")
    pitch = c.pitch("left").median
    assert found.option.length_mm == pytest.approx(c.fixed_mm + max(left, right) * pitch)
    assert c.length({"left": left, "right": right}).median == pytest.approx(found.option.length_mm, rel=0.02)


def test_one_that_fits_takes_the_size_and_the_other_grows_with_it():
    _, found = piece("fit", "fit")
    assert found.counts["left"] == found.counts["right"]
    assert abs(found.option.error_mm) < 20
    assert "longer" not in found.why


def test_one_that_is_given_and_longer_than_the_one_that_fits_is_said():
    _, found = piece("fit", "repeat 90")
    assert "right hangs" in found.why
    assert "longer than left beside it" in found.why
    assert "longer" not in piece("fit", "repeat 5")[1].why


def test_what_is_stitched_on_takes_no_more_and_the_thread_runs_along_it():
    text = """weave "Laced"
cords
  tide  nylon-4mm  #1f6f8b
  buoy  nylon-4mm  #e07a1f
  sand  polyester-1mm  #d8c39a
hang
  buoy.a tide.a tide.b buoy.b
section bar: body, fit multiple of 3
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
"""
    line = "section line: body, stitched on bar every 3, fit\n  add sand.a at 1\n  sand.a: up left loop 1, to left\n"
    plain, laced = (parse_strict(t) for t in (text, text + line))
    a, b = (calibrate(w, (), prior_for(w, shapes={})) for w in (plain, laced))
    p, q = solve(plain, a, PLAN), solve(laced, b, PLAN)
    assert q.option.length_mm == pytest.approx(p.option.length_mm)
    for end in ("tide.a", "buoy.a", "buoy.b"):
        assert b.need(end, q.counts).median == pytest.approx(a.need(end, p.counts).median, rel=0.02)
    assert b.need("sand.a", q.counts).median > q.option.length_mm


def test_more_units_than_can_be_followed_are_a_matter_of_size():
    text = """weave "Long Coils"
cords
  a  nylon-4mm  #1f6f8b
  b  nylon-2mm  #e07a1f
hang
  a.a
section part: body, fit
  coil-5 (1)
section line: body, stitched on part, same as part
  add b.a at 1
  b.a: over 2, to left
"""
    weave = parse_strict(text)
    c = calibrate(weave, (), prior_for(weave, shapes={}))
    assert solve(weave, c, Plan(target="length", size_mm=300, fastening="none")).counts["part"] > 2
    with pytest.raises(InputError, match="more than can be followed"):
        solve(weave, c, Plan(target="length", size_mm=9000, fastening="none"))


@pytest.mark.parametrize(
    "turn_in",
    ["section turnabout: start\n  rotate\nsection far: body, {far}", "section far: body, {far}\n  rotate"],
)
@pytest.mark.parametrize(("near", "far"), [("fit", "same as near"), ("repeat 5", "repeat 9"), ("fit", "fit")])
def test_both_sides_of_a_centre_count(turn_in, near, far):
    """What is worked at the other end of the same cords is as much of the piece as what was worked before the work was turned."""
    text = f"""weave "Both Sides"
cords
  a  cotton-3mm  #1f6f8b
  b  cotton-3mm  #e07a1f
hang on cold-start
  a.a b.a
section centre: start
  snake (1 | 2)
section near: body, {near}
  snake (1 | 2)
{turn_in.format(far=far)}
  snake (1 | 2)
"""
    weave = parse_strict(text)
    c = calibrate(weave, (), prior_for(weave, shapes={}))
    found = solve(weave, c, PLAN)
    mm = {s: c.pitch(s).median * found.counts[s] for s in ("near", "far")}
    assert not c.lying
    assert "beside" not in found.why
    assert found.option.length_mm == pytest.approx(c.fixed_mm + c.pitch("centre").median + sum(mm.values()))
    if "fit" in near:
        assert abs(found.option.error_mm) < 10


COATED = """weave "Coated"
cords
  a  nylon-4mm  #1f6f8b
  b  nylon-4mm  #e07a1f
hang
  a.a b.a
section core: body, fit
  snake (1 | 2)
section coat: body, layer over core, {count}
  half-right (1 | core | 3)
  half-left (1 | core | 3)
"""


@pytest.mark.parametrize(("count", "too_many"), [("same as core", True), ("fit", False), ("repeat 3", False)])
def test_a_coat_of_more_units_than_go_on_is_said(count, too_many):
    weave = parse_strict(COATED.format(count=count))
    c = calibrate(weave, (), prior_for(weave, shapes={x: tight(weave, x) for x in ("core", "coat")}))
    found = solve(weave, c, PLAN)
    there, of_coat = (found.counts[s] * c.pitch(s).median for s in ("core", "coat"))
    assert ("do not go on" in found.fit) == too_many == (of_coat > 1.1 * there)
    if too_many:
        assert f"about {int(there / c.pitch('coat').median)} do" in found.fit
