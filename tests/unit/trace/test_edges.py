"""Loops at the edge of finished work by side and number, motifs over several units, turned end for end."""

import pytest

from dim_ladder.calibrate import calibrate, prior_for
from dim_ladder.notation import end_for_end, mirrored, parse_item, parse_strict, write, write_item
from dim_ladder.scale import Plan, solve
from dim_ladder.trace import check_structure, trace
from dim_ladder.words.sentences import words_for

LACED = """weave "Laced Bar"
cords
  tide  nylon-4mm  #1f6f8b
  buoy  nylon-4mm  #e07a1f
  sand  polyester-1mm  #d8c39a
hang
  buoy.a tide.a tide.b buoy.b
section bar: body, fit multiple of 3
  half-right (1 | 2 3 | 4)
  half-left (1 | 2 3 | 4)
section line: body, stitched on bar every 3, fit{how}
  add sand.a at 1
{steps}"""
THREE = ("up left loop 1, to left", "up right loop 2, to left", "up left loop 3, to left")


def laced(*steps, how=""):
    return parse_strict(LACED.format(how=how, steps="".join(f"  sand.a: {s}\n" for s in steps)))


def passed(t):
    """Owner and row of the edge every pass of the thread went out over, from above."""
    rank = t.row_rank
    return [
        (h.ends[0], rank[t.crossings[h.edge].row])
        for s in t.steps
        if s.op.section == 1 and not s.quiet
        for h in s.hops
        if h.edge >= 0
    ]


def test_it_is_read_and_written():
    weave = laced(*THREE, how=", end for end every other")
    assert parse_strict(write(weave)) == weave
    assert write_item(parse_item("1: down right loop 12, to left")) == "1: down right loop 12, to left"


def test_loops_are_counted_from_above_along_each_edge():
    t = trace(laced(*(f"up left loop {n}, to left" for n in range(1, 6))), units=1)
    assert t.problems == ()
    assert check_structure(t) == []
    rows = [row for _, row in passed(t)]
    assert rows == sorted(rows)
    assert len(set(rows)) == 5
    right = passed(trace(laced("up right loop 1, to left", "up right loop 2, to left"), units=1))
    assert right[0][1] < right[1][1]


def test_a_unit_of_stitching_counts_the_loops_it_lies_on():
    once, thrice = (trace(laced(*THREE), units=n) for n in (1, 3))
    assert thrice.problems == ()
    per_unit = [
        [s for s in thrice.steps if s.op.section == 1 and not s.quiet and s.op.unit == u and s.hops]
        for u in range(3)
    ]
    assert [len(p) for p in per_unit] == [3, 3, 3]
    rows = [row for _, row in passed(thrice)]
    assert max(rows[:3]) < min(rows[3:6]) < max(rows[3:6]) < min(rows[6:])
    assert [end for end, _ in passed(thrice)][:3] == [end for end, _ in passed(once)]


def test_end_for_end_counts_from_below_on_the_other_side():
    step = parse_item("sand.a: up left loop 2, to left")
    turned = end_for_end(step)
    assert (turned.hops[0].loop.bend, turned.hops[0].loop.left) == (-2, False)
    assert end_for_end(turned) == step
    assert mirrored(step).hops[0].loop.left is False
    weave = laced("up left loop 1, to left", how=", end for end every other")
    said = [s.sentence for s in words_for(trace(weave, units=2)) if "loop at the" in s.sentence]
    assert "the 1st loop at the left edge:" in said[0]
    assert "the 1st loop at the right edge, counted from below:" in said[1]


def test_the_size_takes_one_unit_of_it_for_every_three():
    weave = laced(*THREE)
    c = calibrate(weave, (), prior_for(weave, shapes={}))
    for mm in (200, 310, 500):
        counts = solve(weave, c, Plan(target="length", size_mm=mm, fastening="none")).counts
        assert counts["line"] * 3 == counts["bar"]


@pytest.mark.parametrize(
    ("weave", "message"),
    [
        (laced("up left loop 40"), "at the left edge here"),
        (laced("up right loop 1", how="").__class__("n"), ""),
        (parse_strict(LACED.format(how="", steps="  half-hitch (1 | 2)\n").replace("fit\n", "fit, end for end every other\n")), "only stitching can be turned"),
        (parse_strict(write(laced("over 2")).replace("section line: body, stitched on bar every 3, fit", "section line: body, fit, end for end every other")), "only stitching"),
    ],
)  # fmt: skip
def test_what_is_not_there_is_said(weave, message):
    problems = trace(weave).problems
    assert bool(problems) == bool(message)
    assert not message or message in problems[0].message


def test_a_loop_at_the_edge_of_other_work_is_passed_too():
    weave = parse_strict(
        LACED.format(how="", steps="").partition("section line")[0]
        + "section lace: finish\n  add sand.a at 1\n  sand.a: up left loop 3, to left\n"
    )
    t = trace(weave, counts={"bar": 4})
    assert t.problems == ()
    assert check_structure(t) == []
