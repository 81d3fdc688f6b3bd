"""Cords that come into the work at the head of a section: laid in once, and drawn as the one cord that they are."""

import numpy as np
import pytest

from dim_ladder.notation import parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.joined import whole
from dim_ladder.shape.parted import free_between
from dim_ladder.trace import trace
from dim_ladder.trace.unmade import unmade

HEAD = """weave "Sill Pull"
cords
  work  nylon-4mm  #e07a1f
  core  nylon-4mm  #1b2e5a
  rail  nylon-3mm  #3f7a4a
beads
  bone  12 mm  #f4f2ec
hang on ring
  core.a core.b
"""
NECK = "section neck: body, repeat 3\n  snake (1 | 2)\n"
BAR = "section bar: body, fit\n  {}\n  half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)\n"
APART = "section bar: body, fit\n  half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)\n"


def piece(text, names):
    weave = parse_strict(text)
    shapes = {n: tight(weave, n) for n in names}
    free = {s.name: free_between(weave, s.name) for s in weave.sections}
    return whole(weave, shapes, {s.name: s.count.number or 4 for s in weave.sections}, free=free), shapes


def of_cord(found, colour):
    return [s.line for s in found.strands if s.look.colour == colour]


@pytest.mark.parametrize(("how", "side"), [("under 1 2", -1), ("over 1 2", 1)])
@pytest.mark.parametrize("alone", [False, True])
def test_a_cord_that_is_laid_across_goes_from_one_side_to_the_other(how, side, alone):
    add = f"add work.a work.b {how}"
    text = f"section lay: start\n  {add}\n{APART}" if alone else BAR.format(add)
    found, _ = piece(HEAD + NECK + text, ("neck", "bar", *(("lay",) if alone else ())))
    one, other = of_cord(found, "#e07a1f")
    assert np.allclose(one[0], other[0], atol=0.1)
    # Where it crosses the middle of what hangs there it lies wholly on the side that was said.
    core = of_cord(found, "#1b2e5a")
    joined = np.vstack([one[::-1], other])
    top = joined[joined[:, 1] < joined[:, 1].min() + 1.0]
    middle = top[np.argmin(np.abs(top[:, 0] - np.mean([c[:, 0].mean() for c in core])))]
    near = [c[np.argmin(np.abs(c[:, 1] - middle[1]))] for c in core]
    assert all(side * (middle[2] - n[2]) > 0.4 for n in near)


def test_what_is_laid_in_at_the_head_of_a_body_is_laid_in_once():
    weave = parse_strict(HEAD + BAR.format("add work.a work.b under 1 2"))
    assert unmade(weave) == ()
    t = trace(weave, counts={"bar": 5})
    assert t.problems == ()
    assert sum(s.deed is not None for s in t.steps) == 1
    shape = tight(weave, "bar")
    said = parse_strict(HEAD + "section lay: start\n  add work.a work.b under 1 2\n" + APART)
    assert shape.kind == "cell"
    assert shape.per_end == tight(said, "bar").per_end


def test_a_coat_lays_its_own_cord_in():
    weave = parse_strict(
        HEAD + NECK + "section coat: body, layer over neck, as long as 1 of 2 of neck\n"
        "  add work.a work.b under neck\n  half-right (work.a | neck | work.b)\n  half-left (work.b | neck | work.a)\n"
    )
    assert unmade(weave) == ()
    shape = tight(weave, "coat")
    assert shape.converged
    assert shape.per_end["work.a"] == pytest.approx(shape.per_end["work.b"], rel=0.05)


def test_what_stays_at_the_foot_of_finished_work_is_not_led_up_beside_its_coat():
    found, shapes = piece(
        HEAD + NECK + "section coat: body, layer over neck, repeat 2\n"
        "  add work.a work.b under neck\n  half-right (work.a | neck | work.b)\n  half-left (work.b | neck | work.a)\n",
        ("neck", "coat"),
    )
    foot = 3 * shapes["neck"].pitch
    for line in of_cord(found, "#1b2e5a"):
        assert line[-1, 1] > foot
        assert (np.diff(line[line[:, 1] > foot - 0.5, 1]) > -0.01).all()
    assert all(line[-1, 1] < foot - 2 for line in of_cord(found, "#e07a1f"))


def test_ends_are_laid_aside_by_name_once_and_at_a_place_every_time():
    text = "section bar: body, repeat 2\n  drop {}\n  half-hitch (1 | 2)\n"
    head = HEAD.replace("core.a core.b", "rail.a core.a core.b work.a")
    named, placed = (trace(parse_strict(head + text.format(which))) for which in ("rail.a", "1"))
    assert (named.problems, placed.problems) == ((), ())
    assert [len(t.order) for t in (named, placed)] == [3, 2]


def test_what_comes_in_and_goes_in_every_unit_is_done_in_every_unit():
    unit = "drop core.a\n  add work.a at 1\n  snake (1 | 2)\n  drop work.a\n  add core.a at 1"
    weave = parse_strict(f"{HEAD}section bar: body, repeat 2\n  {unit}\n")
    assert (t := trace(weave)).problems == ()
    assert sum(s.deed is not None for s in t.steps) == 2 * 4


def test_what_is_laid_in_below_a_knot_cannot_be_laid_in_again():
    weave = parse_strict(f"{HEAD}section bar: body, repeat 2\n  snake (1 | 2)\n  add work.a at 1\n")
    (problem,) = trace(weave).problems
    assert "work.a hangs already" in problem.message


@pytest.mark.parametrize("aside", ["drop 4", "drop 4\n  drop 1", "drop rail.a"])
def test_what_is_laid_aside_below_the_last_knot_changes_nothing_above(aside):
    row = "section row: start\n  add rail.a at 1\n  bar-right (1 | 2 3 4)\n"
    head = HEAD.replace("core.a core.b", "core.a core.b work.a")
    plain, ended = (tight(parse_strict(head + text), "row") for text in (row, f"{row}  {aside}\n"))
    assert ended.pitch == plain.pitch < 3.5
    assert ended.per_end == plain.per_end


def test_beads_between_knots_are_drawn_with_what_is_left_free_beside_them():
    text = (
        f"{HEAD}{NECK}section pearls: start\n  span 20 mm\n  1+2: bead bone\n  1+2: bead bone\n"
        "section more: body, repeat 3\n  snake (1 | 2)\n"
    )
    found, shapes = piece(text, ("neck", "more"))
    high, low = sorted(float(b.at[1]) * found.unit_mm for b in found.beads)
    begin = 3 * shapes["neck"].pitch * found.unit_mm
    assert begin + 24 < high < begin + 32
    assert low - high == pytest.approx(12, abs=0.1)
    assert found.length_mm == pytest.approx(2 * begin + 20 + 24, abs=8)


def test_beads_of_a_section_are_as_many_as_it_is_worked():
    text = f"{HEAD}{NECK}section pearls: start, repeat 3\n  1+2: bead bone\nsection more: body, repeat 3\n  snake (1 | 2)\n"
    assert len(piece(text, ("neck", "more"))[0].beads) == 3
