"""What is tied once: as tight as the same work in a body, both ends alike where the knot treats them so, nothing undone."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.base import InputError
from dim_ladder.notation import Count, parse_strict
from dim_ladder.shape import tight
from dim_ladder.shape.stages import cord_in
from dim_ladder.shape.tighten import job_for, pulled, why_not
from helpers.weaves import TERN, weave_of

BAR = "  half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)\n"


def _knot(count: int, *lines: str):
    weave = weave_of(count, *lines)
    return replace(weave, sections=(replace(weave.sections[0], kind="start", count=Count()),))


@pytest.mark.parametrize(
    ("lines", "times"),
    [
        ("  half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)\n", 1.0),
        ("  square-lock (1 | 2 3 | 4)\n", 1.5),
        ("  half-right (1 | 2 3 | 4)\n", 0.5),
        ("  half-left (1 | 2 3 | 4)\n  half-right (1 | 2 3 | 4)\n  half-left (1 | 2 3 | 4)\n  half-right (1 | 2 3 | 4)\n", 2.0),
    ],
)  # fmt: skip
def test_half_knots_in_a_start_are_as_tight_as_in_a_body(lines, times):
    text = TERN.replace("section bar", f"section head: start\n{lines}\nsection bar", 1)
    weave = parse_strict(text)
    head, bar = tight(weave, "head"), tight(weave, "bar")
    assert (head.kind, head.converged) == ("held", True)
    assert head.pitch == pytest.approx(times * bar.pitch, rel=0.1)
    for end in ("buoy.a", "buoy.b", "tide.a"):
        assert head.per_end[end] == pytest.approx(times * bar.per_end[end], rel=0.12)


@pytest.mark.parametrize(
    ("count", "lines", "pair"),
    [
        (2, ("diamond-2 (1 | 2)",), ("k1.a", "k2.a")),
        (2, ("button-two (1 | 2)",), ("k1.a", "k2.a")),
        (2, ("carrick-mat (1 | 2)",), ("k1.a", "k2.a")),
        (2, ("k2.a: over k1.a", "k1.a: down k2.a", "k2.a: over k1.a", "k1.a: up k2.a"), ("k1.a", "k2.a")),
        (3, ("half-right (1 | 2 | 3)", "half-left (1 | 2 | 3)"), ("k1.a", "k3.a")),
        (5, ("half-right (1 | 2 3 4 | 5)", "half-left (1 | 2 3 4 | 5)"), ("k1.a", "k5.a")),
    ],
)
def test_ends_that_a_knot_treats_alike_take_equally_much(count, lines, pair):
    for weave in (_knot(count, *lines), weave_of(count, *lines)):
        shape = tight(weave, "s")
        assert shape.converged
        a, b = (shape.per_end[e] for e in pair)
        assert a == pytest.approx(b, rel=0.15)
        assert a > 1.5 * shape.pitch


@pytest.mark.parametrize(
    ("count", "knot"), [(1, "button (1)"), (2, "diamond-2 (1 | 2)"), (2, "button-two (1 | 2)")]
)
def test_a_button_is_a_ball_and_a_diamond_a_knob(count, knot):
    shape = tight(_knot(count, knot), "s")
    size = sorted((shape.pitch, shape.width, shape.thickness))
    assert size[-1] < 1.8 * size[0]
    assert size[-1] < 7


def test_ends_that_hang_by_lie_close_beside_a_knot():
    shape = tight(_knot(5, "overhand (3)"), "s")
    lying = [shape.lines[shape.ends.index(f"k{i}.a")] for i in (1, 2, 4, 5)]
    assert all(np.ptp(line[:, 0]) < 0.01 for line in lying)
    assert np.allclose(np.diff(sorted(line[0, 0] for line in lying))[[0, 2]], 1.0, atol=0.05)
    assert shape.width < 9


def test_what_comes_undone_when_it_is_drawn_up_says_so():
    for lines in (
        ("k1.a: over own left, under own at 1",),
        ("k1.a: over k2.a", "k1.a: over k2.a"),
        ("k1.a: over k2.a k3.a", "k1.a: over k3.a k2.a"),
    ):
        with pytest.raises(InputError, match="comes undone"):
            tight(_knot(3, *lines), "s")


@pytest.mark.parametrize(
    ("count", "line", "cord", "reach"),
    [
        (4, "diamond-4 (1 | 2 | 3 | 4)", (8, 14), 4.0),
        (4, "crown-wall-4 (1 | 2 | 3 | 4)", (8, 14), 6.0),
        (4, "crown-4 (1 | 2 | 3 | 4)", (3, 7), 3.5),
        (3, "wall-3 (1 | 2 | 3)", (3, 7), 3.5),
        (4, "snake (2 | 3)", (6, 10), 4.0),
        (4, "snake-left (1 | 2)", (6, 10), 4.0),
    ],
)
def test_a_knot_tied_once_is_as_even_as_it_is_made(count, line, cord, reach):
    """Pulled tight between others like it these come out lopsided, as their ends change places."""
    shape = tight(_knot(count, line), "s")
    assert shape.converged
    worked = sorted(v for v in shape.per_end.values() if v > 1.2 * shape.pitch)
    assert worked[-1] < 1.03 * worked[0]
    assert cord[0] < worked[0] < cord[1]
    assert shape.pitch < reach


def test_what_comes_out_sound_is_drawn_up_one_way_only():
    job = job_for(_knot(2, "button-two (1 | 2)"), "s")
    assert job.kind == "knot"
    assert job.otherwise.kind == "held"
    *_, last = pulled(job)
    *_, alone = pulled(replace(job, otherwise=None))
    assert last.per_end == alone.per_end


def test_nothing_slips_over_an_end_that_is_held():
    """Work that an end is laid aside from has its ends held: all of it stays between the bar and the hand."""
    shape = tight(weave_of(2, "button-two (1 | 2)", "drop 2"), "s")
    assert shape.kind == "held"
    ends = [line[k, 1] for line in shape.lines for k in (0, -1)]
    assert min(line[:, 1].min() for line in shape.lines) > min(ends) - 0.3
    assert max(line[:, 1].max() for line in shape.lines) < max(ends) + 0.3
    assert min(shape.per_end.values()) > 8  # it is tied still


def test_what_does_not_come_to_rest_gives_no_number():
    """What takes more cord than it had when it was loose was never drawn up."""
    weave = weave_of(2, "half-hitch (1 | 2)")
    job, shape = job_for(weave, "s"), tight(weave, "s")
    assert why_not(job, shape) == ""
    grown = replace(shape, converged=False, per_end={e: 2 * cord_in(job.curves) for e in shape.per_end})
    assert "does not come to rest" in why_not(job, grown)
    # Nor is it an answer where it only did not stand still yet: nothing counts with it.
    assert why_not(job, replace(shape, converged=False)) == ""


def test_knots_in_a_row_do_not_turn_where_their_ends_do_not_link():
    """Diamonds on a string: turning each against the next would save cord, and hands keep them as they are."""
    row, one = tight(weave_of(2, "diamond-2 (1 | 2)"), "s"), tight(_knot(2, "diamond-2 (1 | 2)"), "s")
    assert row.angle == 0
    assert row.pitch == pytest.approx(one.pitch, rel=0.1)
    assert sum(row.per_end.values()) == pytest.approx(sum(one.per_end.values()), rel=0.25)
    assert tight(weave_of(2, "half-hitch (1 | 2)"), "s").angle != 0  # its turns add up
    assert tight(weave_of(1, "overhand (1)"), "s").angle == 0


def test_works_beside_each_other_with_a_bead_on_both_are_one():
    """A ladder of hitches and pearls: alike on both sides, and it does not wind up."""
    text = """weave "Lace Ladder"
cords
  a  polyester-1mm  #744a9e
  b  polyester-1mm  #c9a13b
beads
  seed  3 mm  #f4f2ec
hang on loop
  a.a b.a b.b a.b
knot hitch-left = mirror half-hitch
section rung: body, fit
  half-hitch (1 | 2)
  hitch-left (3 | 4)
  2+3: bead seed
"""
    weave = parse_strict(text)
    joined, apart = tight(weave, "rung"), tight(parse_strict(text.replace("  2+3: bead seed\n", "")), "rung")
    assert joined.converged
    assert joined.angle == 0
    assert not joined.places
    assert apart.places
    for a, b in (("a.a", "a.b"), ("b.a", "b.b")):
        assert joined.per_end[a] == pytest.approx(joined.per_end[b], rel=0.15)
