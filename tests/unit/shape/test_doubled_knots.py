"""Knots of ends that go side by side, sections that begin by laying ends aside, and starts that are tied again and again."""

from dataclasses import replace

import numpy as np
import pytest

from dim_ladder.base import InputError
from dim_ladder.notation import Count, parse_strict
from dim_ladder.shape import fast, pull, tight
from dim_ladder.shape.engine import plain
from dim_ladder.shape.parted import on_and_on
from dim_ladder.shape.rope import rope
from dim_ladder.shape.tighten import job_for
from dim_ladder.trace.turning import turning
from helpers.weaves import weave_of

CORDS = """weave "Head"
cords
  a  nylon-4mm  #744a9e
  b  nylon-4mm  #e0a030
  c  nylon-4mm  #1f6f8b
  d  nylon-4mm  #3f7a4a
hang on ring
  a.a a.b b.a b.b c.a c.b d.a d.b
"""
PAIRS = """weave "Knob"
cords
  a  nylon-4mm  #744a9e
  b  nylon-4mm  #e0a030
hang on ring
  a.a a.b b.a b.b
"""


@pytest.mark.parametrize(
    ("lines", "halves"),
    [
        ("wall-3 (1+2 | 3+4 | 5+6)", 3),
        ("crown-4 (1+2 | 3+4 | 5+6 | 7+8)", 4),
        ("crown-3 (1+2 | 3+4 | 5+6)", 3),
        ("wall-3 (1+2 | 3+4 | 5+6)\n  crown-3 (1+2 | 3+4 | 5+6)", 3),
    ],
)
def test_doubled_crowns_and_walls_that_are_tied_once_are_even(lines, halves):
    weave = parse_strict(f"{CORDS}section head: start\n  {lines}\n")
    shape = tight(weave, "head")
    assert shape.converged, shape.amiss
    took = [shape.per_end[e] for e in shape.ends[: 2 * halves]]
    # Each half as the halves of the others; its fellow next to it hardly more.
    for half in (took[::2], took[1::2]):
        assert max(half) < 1.1 * min(half)
    assert max(took) < 1.2 * min(took)
    knots = lines.count("(")
    assert 7.0 < sum(took) / len(took) / knots < 10.5
    # As long as it is worked, though the two go side by side all the way.
    assert 2.0 < shape.pitch / knots < 5.0
    assert max(float(x[:, 1].max() - x[:, 1].min()) for x in shape.lines[: 2 * halves]) < shape.pitch + 8.0


def test_no_cord_of_a_heap_is_slack_and_both_engines_draw_it_alike():
    """Three that are alike, of which one took too little and two too much, are still all drawn."""
    weave = parse_strict(
        f"{CORDS}section head: start\n  wall-3 (1+2 | 3+4 | 5+6)\n  crown-3 (1+2 | 3+4 | 5+6)\n"
    )
    curves = job_for(weave, "head").curves
    assert curves.heap
    assert curves.bonds == ()
    a, b = rope(curves, 0.4), rope(curves, 0.4)
    limit = pull.most_more(a)
    uneven, group = np.array([10.0, 50.0, 50.0]), np.zeros(3, np.int64)
    _, more = pull.drawn(np.ones(3), group, uneven, limit)
    assert 0 < (1 + more).min() < 0.2
    assert (1 + pull.drawn(np.ones(3), group, uneven)[1]).min() < 0  # as more than a pair would be
    pa, pb = plain().near(a, 0.8), fast.near(b, 0.8)
    ra = pull.run(a, pa, 40.0, 0.05, 25, (False, False), 9.0, 0.1, 0.0)
    rb = fast.run(b, pb, 40.0, 0.05, 25, (False, False), 9.0, 0.1, 0.0)
    assert ra == pytest.approx(rb, rel=1e-6)
    assert np.allclose(a.x, b.x, atol=1e-6)


@pytest.mark.parametrize(
    "lines", ["button-two (1+2 | 3+4)", "diamond-2 (1+2 | 3+4)", "carrick-mat (1+2 | 3+4)"]
)
def test_a_doubled_knob_is_round_and_its_pairs_hang_level(lines):
    """As thick as it is wide, not longer than that, every end about as much as the others, and more than its single one."""
    head = f"{PAIRS}section head: start\n  "
    shape = tight(parse_strict(f"{head}{lines}\n"), "head")
    assert shape.converged, shape.amiss
    assert 0.75 < shape.width / shape.thickness < 1.34
    assert shape.pitch < 1.15 * shape.width
    took = list(shape.per_end.values())
    assert max(took) < 1.15 * min(took)
    single = tight(parse_strict(f"{head}{lines.replace('1+2', '1').replace('3+4', '2')}\n"), "head")
    assert 1.2 < sum(took) / 4 / single.per_end["a.a"] < 2.0
    tops = [float(x[0, 1]) for x in shape.lines]
    assert max(tops) - min(tops) < 1.0


@pytest.mark.parametrize("knot", ["diamond-2", "snake", "button-two"])
def test_a_knot_after_ends_were_laid_aside_is_the_knot(knot):
    by_itself = parse_strict(
        f"{CORDS}section head: start\n  drop c.a c.b d.a d.b a.b b.b\nsection ball: finish\n  {knot} (1 | 2)\n"
    )
    beside = parse_strict(f"{CORDS}section ball: finish\n  drop c.a c.b d.a d.b a.b b.b\n  {knot} (1 | 2)\n")  # fmt: skip
    one, other = tight(by_itself, "ball"), tight(beside, "ball")
    assert other.ends == one.ends == ("a.a", "b.a")
    assert other.converged
    assert other.per_end == pytest.approx(one.per_end, rel=0.01)
    assert other.width < 7.0


def test_where_all_that_hangs_is_laid_aside_the_new_cord_is_drawn_up():
    weave = parse_strict(
        """weave "New Foot"
cords
  post  nylon-4mm  #1f6f8b
  foot  nylon-4mm  #e07a1f
hang on loop
  post.a post.b
section head: start
  snake (1 | 2)
section lock: start
  drop 1 2
  add foot.a foot.b at 1
  1: over 2, under 2, up own
"""
    )
    shape = tight(weave, "lock")
    assert shape.converged
    assert shape.per_end["foot.a"] > 1.0


@pytest.mark.parametrize("kind", ["start", "finish"])
def test_a_start_that_is_tied_often_is_drawn_up_as_a_body(kind):
    knot = "  crown-4 (1 | 2 | 3 | 4)\n"
    often = parse_strict(f"{CORDS}section s: {kind}, repeat 3\n{knot}")
    body = parse_strict(f"{CORDS}section s: body, repeat 3\n{knot}")
    assert tight(often, "s").per_end == tight(body, "s").per_end
    assert tight(often, "s").kind == "cell"
    twice = parse_strict(f"{CORDS}section s: {kind}, repeat 2\n{knot}")
    assert tight(twice, "s").kind != "cell"


def test_what_passes_a_loop_of_the_work_above_is_not_told_to_be_mended():
    text = f"{CORDS}section begin: start\n  a.a: over own left @link, bight up @link @link\nsection lock: finish\n  a.a: up @link\n"
    with pytest.raises(InputError, match="passes a loop of the work above"):
        tight(parse_strict(text), "lock")
    broken = weave_of(2, "1: over 2, up @nowhere")
    with pytest.raises(InputError, match="@nowhere"):
        tight(broken, "s")


@pytest.mark.parametrize(
    ("knot", "least"), [("diamond-2 (1+2 | 3+4)", 6.0), ("double-connection (1+2 | 3+4)", 2.8)]
)
def test_a_doubled_knot_in_a_row_lies_as_the_knot_does(knot, least):
    """What two cords that lie side by side turn about each other inside a knot does not turn the row."""
    weave = weave_of(4, knot)
    shape = tight(weave, "s")
    assert turning(weave, "s").kind == "flat"
    assert shape.converged
    assert shape.angle == 0
    assert least < shape.pitch < 1.3 * least
    assert max(shape.per_end.values()) < 1.06 * min(shape.per_end.values())


def bundled(call, ends, kind):
    weave = weave_of(ends, call)
    return replace(weave, sections=(replace(weave.sections[0], kind=kind, count=Count()),))


@pytest.mark.parametrize("knot", ["overhand", "stopper", "figure-eight"])
@pytest.mark.parametrize("ends", [2, 3])
@pytest.mark.parametrize("kind", ["body", "finish"])
def test_a_knot_of_a_bundle_takes_of_each_end_what_it_takes_of_one(knot, ends, kind):
    one, all_of_it = (
        tight(bundled(f"{knot} ({'+'.join(str(k + 1) for k in range(n))})", n, kind), "s") for n in (1, ends)
    )
    assert all_of_it.converged, all_of_it.amiss
    took = all_of_it.per_end.values()
    assert max(took) < 1.15 * min(took)
    # Round more of them the way is longer, but not by as much as there is more of them.
    alone = next(iter(one.per_end.values()))
    assert 1.1 * alone < min(took) < 2.2 * alone


@pytest.mark.parametrize("knot", ["slip", "butterfly"])
def test_a_loop_of_two_ends_as_one_is_refused(knot):
    with pytest.raises(InputError, match="two ends make as one"):
        tight(weave_of(2, f"{knot} (1+2)"), "s")


@pytest.mark.parametrize(
    ("knot", "ends", "times", "below"),
    [
        ("snake (1 | 2)", 2, 5, ""),
        ("snake (1 | 2)", 2, 5, "reef (1 | 2)"),
        ("half-right (1 | 2 3 | 4)", 4, 6, ""),
        ("double-connection (1 | 2)", 2, 4, ""),
        ("double-connection (1 | 2)", 2, 4, "diamond-2 (1 | 2)"),
    ],
)
def test_a_knot_that_a_start_ties_several_times_comes_together(knot, ends, times, below):
    """As long, and with as much cord, as in a body, whatever is tied below it; each stayed where it was laid."""
    body = tight(weave_of(ends, knot), "s")
    last = [below] if below else []
    weave = weave_of(ends, f"{knot} repeat {times}", *last)
    weave = replace(weave, sections=(replace(weave.sections[0], kind="start", count=Count()),))
    shape = tight(weave, "s")
    assert shape.converged, shape.amiss
    worker = body.ends[0]
    long, cord = times * body.pitch, times * body.per_end[worker]
    for line in last:
        own = tight(weave_of(ends, line), "s")
        long, cord = long + own.pitch, cord + own.per_end[worker]
    assert shape.pitch == pytest.approx(long, rel=0.15)
    assert shape.per_end[worker] == pytest.approx(cord, rel=0.15)


@pytest.mark.parametrize(
    ("lines", "runs"),
    [
        (("snake (1 | 2) repeat 5",), 1),
        (("reef (1 | 2)", "snake (1 | 2) repeat 5", "diamond-2 (1 | 2)", "cut-and-melt (1 2)"), 3),
        (("snake (1 | 2) repeat 5", "reef (1 | 2) repeat 3"), 2),
        (("snake (1 | 2)", "snake (1 | 2)", "snake (1 | 2)"), 1),
        (("reef (1 | 2)", "snake (1 | 2)", "snake (1 | 2) repeat 2", "reef (1 | 2)", "diamond-2 (1 | 2)"), 3),
        (("snake (1 | 2)", "reef (1 | 2)", "snake (1 | 2)", "reef (1 | 2)"), 0),
        (("snake (1 | 2) repeat 2",), 0),  # between its tails it is drawn up well
        (("snake (1 | 2) repeat 5", "snake (3 | 4) repeat 5"), 0),  # beside each other
        (("half-right (1 | 2 3 | 4) repeat 5", "reef (1 | 4)"), 0),  # not all of them go on
        (("double-hitch-right (1 | each 2..4)",), 0),
    ],
)
def test_what_is_tied_on_and_on_is_told_by_its_item(lines, runs):
    assert len(on_and_on(weave_of(4, *lines), "s")) == runs
